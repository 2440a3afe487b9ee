"""Builds the demo workshop through the services, act by act, as a technician would have."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from violet_dial.core.records.light import Adjuster
from violet_dial.demo import exposures, proofs
from violet_dial.demo.pictures import board_picture, crust_picture
from violet_dial.demo.story import LUX, TRUSTED, Story, begin
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake
from violet_dial.job.light import LightSetup
from violet_dial.services.next import put_aside
from violet_dial.services.photos import check_photo
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.stations.hand_back import demo as hand_back
from violet_dial.stations.light import demo as light
from violet_dial.stations.light.acts import TypedReading
from violet_dial.stations.light.demo import DemoMeter
from violet_dial.stations.open import demo as strip
from violet_dial.stations.power import demo as power
from violet_dial.stations.receive import demo as receive
from violet_dial.stations.trace import demo as trace
from violet_dial.stations.trace import demo_board
from violet_dial.stations.trace.acts import choose_circuit
from violet_dial.store.workshop_file import WorkshopFile

SEED = 7


@dataclass
class BenchClock:
    """A clock that moves a minute and a half at each act."""

    now: datetime = field(default_factory=lambda: datetime(2026, 11, 3, 9, 12, tzinfo=timezone(timedelta(0))))

    def __call__(self) -> str:
        self.now += timedelta(seconds=95)
        return self.now.isoformat(timespec="seconds")

    def next_day(self) -> None:
        self.now = self.now.replace(hour=9, minute=20) + timedelta(days=1)


def nobody_told(share: float) -> None:
    """Nobody wants to know how far it is."""


def build_demo(path: Path, tell: Callable[[float], None] = nobody_told) -> None:
    """The demo workshop in a new file at ``path``; nothing is left behind when it fails. ``tell`` is given the share done,
    0 to 1."""
    beside = path.with_name(f"{path.name}.building")
    for leftover in path.parent.glob(f"{beside.name}*"):
        leftover.unlink()
    clock = BenchClock()
    workshop = Workshop(WorkshopFile(beside), lambda: STATIONS, clock)
    rng = np.random.default_rng(SEED)
    stories = (
        _healthy,
        _spare,
        _slipped_cord,
        _fall_off,
        _sticky,
        _adjusted,
        _waiting_for_cell,
        _just_in,
        _motor_compact,
        _bridge,
        _sleepy,
        _corroded,
        _series_meter,
        _sagging_shutter,
        exposures.slow_leaf,
        exposures.tapered,
        exposures.half_trimmed,
        exposures.oscillating,
        proofs.now_and_then,
        proofs.on_day_three,
        proofs.seal_roll,
        _by_itself,
    )
    for place, build in enumerate(stories):
        build(workshop, rng)
        clock.next_day()
        tell((place + 1) / len(stories))
    workshop.describe_pending()
    workshop.close()
    beside.replace(path)
    for leftover in path.parent.glob(f"{beside.name}*"):
        leftover.unlink()


def _lights(first: int, last: int) -> tuple[float, ...]:
    return tuple(float(ev100) for ev100 in range(first, last + 1))


def _healthy(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Guillemot pocket meter", "Auk & Daughters", "G 20 114", "hand meter", "silicon"),
        Intake("Checked before the season; no complaint", came_with="Strap, one LR44 fitted"),
        LightSetup(chain=TRUSTED),
        DemoMeter(offset_stops=0.05, scatter_stops=0.04),
        _lights(5, 15),
        (14.0, 10.0, 6.0),
    )
    on = begin(workshop, story, rng)
    closing = Closing(
        done="Contacts wiped. Checked against the trusted meter from Ev 5 to 15, both ways.",
        battery="One LR44; 1.58 V measured under load",
        lesson="The battery door lifts with a thumbnail, no tool.",
        signed_by="M. Tystie",
        signed_on="4 November 2026",
    )
    hand_back.close(on, closing)


def _by_itself(workshop: Workshop, rng: np.random.Generator) -> None:
    """A meter before a camera: the rest of its check runs by itself."""
    story = Story(
        Device("Garganey hand meter", "Holm Optical", "GH 1 207", "hand meter", "selenium"),
        Intake("To be checked before the season", noticed="Needle free, cell clean."),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    on = begin(workshop, story, rng)
    light.read_by_camera(on, (7.0, 11.0))


def _spare(workshop: Workshop, rng: np.random.Generator) -> None:
    """An earlier job on the same model: what it taught is offered to the next."""
    story = Story(
        Device("Kittiwake hand meter", "Stack & Geo", "K 2950", "hand meter", "selenium"),
        Intake("Cord off its drum", noticed="Cell good; cord frayed at the hard stop."),
        LightSetup(chain=TRUSTED),
        DemoMeter(offset_stops=0.04),
        _lights(5, 15),
        (13.0, 9.0),
    )
    on = begin(workshop, story, rng)
    strip.spare_kittiwake(on)
    closing = Closing(
        done="Cord renewed, 0.4 mm waxed line.",
        battery="none: selenium",
        lesson="The back plate is enough for the cord; the dial can stay on.",
        signed_by="M. Tystie",
        signed_on="4 November 2026",
    )
    hand_back.close(on, closing)


def _slipped_cord(workshop: Workshop, rng: np.random.Generator) -> None:
    adjuster = Adjuster(
        notch_stops=1 / 3, degrees_per_stop=18.0, drum_diameter_mm=14.0, step_stops=1 / 3, cord_left_mm=9.0
    )
    story = Story(
        Device("Kittiwake hand meter", "Stack & Geo", "K 3307", "hand meter", "selenium"),
        Intake(
            "Reads high, pictures come out dark",
            came_with="Leather case, incident dome",
            noticed="Green crust under the base plate. Drum cord sits one groove over; dial was forced past its stop.",
            tried_already="Cell cleaned by the last borrower.",
            hazards=("alkaline residue",),
        ),
        LightSetup(chain=TRUSTED, adjuster=adjuster),
        DemoMeter(offset_stops=0.68),
        _lights(5, 15),
        (13.0, 9.0),
    )
    on = begin(workshop, story, rng)
    photo = check_photo(crust_picture(), "base-plate.png", "green crust under the base plate")
    workshop.attach_photo(on.job_id, photo)
    receive.kittiwake(on)


def _fall_off(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Fulmar exposure meter", "Stack & Geo", "F 1182", "hand meter", "selenium"),
        Intake(
            "Right in sun, dead indoors",
            noticed="Cell edge brown along one side. Case damp; felt smells of salt.",
            tried_already="Left in the sun for a week.",
        ),
        LightSetup(chain=LUX),
        DemoMeter(offset_stops=0.12, dark_falloff_ev100=5.4),
        _lights(6, 15),
        (12.0, 8.0),
    )
    begin(workshop, story, rng)


def _sticky(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Razorbill meter", "Auk & Daughters", "R 0455", "hand meter", "selenium"),
        Intake("Never shows the same twice", noticed="Pointer hangs, then jumps when the case is tapped."),
        LightSetup(chain=TRUSTED),
        DemoMeter(offset_stops=0.1, stick_stops=0.7),
        _lights(6, 14),
        tuple(reversed(_lights(6, 13))),
    )
    begin(workshop, story, rng)


def _adjusted(workshop: Workshop, rng: np.random.Generator) -> None:
    adjuster = Adjuster(degrees_per_stop=22.0)
    story = Story(
        Device("Shearwater compact", "Holm Optical", "S 77 903", "rangefinder compact", "CdS"),
        Intake(
            "One stop slow everywhere",
            came_with="Case, lens cap",
            noticed="Someone fitted a 1.5 V cell for a 1.35 V one.",
        ),
        LightSetup(chain=TRUSTED, adjuster=adjuster),
        DemoMeter(offset_stops=-0.93),
        _lights(5, 15),
        (12.0, 8.0),
    )
    on = begin(workshop, story, rng)
    shift = light.adjusted(on, "trimmer turned forward")
    receive.compact(on)
    strip.compact(on)
    receive.screw_hunted(on)
    strip.compact_half_back(on)
    light.read_both_ways(on, replace(story.meter, offset_stops=-0.93 + shift), rng, story.rising, (13.0, 7.0))
    closing = Closing(
        done="Trimmer turned until the reference read true; contacts brightened.",
        left="Top cover dent left: nothing under it touches.",
        battery="1.35 V zinc-air, or 1.55 V silver with the diode now fitted",
    )
    hand_back.close(on, closing)


def _waiting_for_cell(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Dovekie clip meter", "Holm Optical", "D 90", "hand meter", "selenium"),
        Intake("Needle does not move", noticed="Cell corroded through at the contact ring."),
        LightSetup(chain=TRUSTED),
        DemoMeter(),
    )
    on = begin(workshop, story, rng)
    for ev100 in (6.0, 10.0, 14.0):
        shown = 4.0 + 0.02 * ev100
        on.do(light.reading(TypedReading(f"{ev100 - 0.1:.1f}", f"{shown:.1f}")))
    trace.dead_clip_meter(on)
    on.do(lambda job, at: put_aside(job, "a cell from the mainland", at))


def _just_in(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Arctic Skua reflex", "Holm Optical", "AS 5521", "reflex", "CdS"),
        Intake("Meter wanders in the cold", came_with="50 mm lens, instruction sheet", hazards=("mercury cell",)),
        LightSetup(chain=LUX, film_speed=400.0),
        DemoMeter(offset_stops=0.3, bright_ev100=15.5),
        (9.0, 13.0),
    )
    receive.just_in(begin(workshop, story, rng))


def _corroded(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Gannet reflex", "Holm Optical", "GN 2204", "reflex", "CdS"),
        Intake(
            "Meter needle dead, shutter fine", came_with="Body cap", noticed="Cell left in over winter.",
            tried_already="New cell, contacts wiped.", hazards=("alkaline residue",),
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    receive.corroded(on)
    strip.reflex(on)
    trace.corroded_reflex(on)


def _sleepy(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Petrel instant", "Auk & Daughters", "P 61 009", "instant camera", "silicon"),
        Intake(
            "Dead: no lamps, no motor", came_with="Empty pack", noticed="Runs for a moment when the cells are pressed."
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )
    trace.sleepy_instant(begin(workshop, story, rng))


def _series_meter(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Tystie clip-on meter", "Holm Optical", "TC 0912", "hand meter", "CdS"),
        Intake(
            "Made for 1.35 V, reads high on a 1.55 V cell", came_with="One SR44 in a paper ring", noticed="Old cell: mercury.",
            hazards=("mercury cell",),
        ),
        LightSetup(chain=LUX, range_from_ev100=3.0, range_to_ev100=12.0),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    text = power.circuit_text("cds-series").replace(*power.SMALL_CELL)
    on.do(lambda job, at: choose_circuit(job, "CdS series meter with a small cell", text, at))
    power.series_meter(on)


def _sagging_shutter(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Noddy shutter camera", "Auk & Daughters", "NS 4 118", "rangefinder compact", "silicon"),
        Intake(
            "Shutter drops out now and then, though its cells read well", came_with="Four cells in their cage",
            noticed="Worst in the cold and late in the roll.", hazards=("flash capacitor",),
        ),
        LightSetup(chain=LUX, range_from_ev100=5.0, range_to_ev100=14.0),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    text = power.circuit_text("silicon-shutter")
    on.do(lambda job, at: choose_circuit(job, "Magnet shutter timed by a silicon cell", text, at))
    power.sagging_shutter(on)


def _motor_compact(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Puffin motor compact", "Holm Optical", "PM 310 88", "rangefinder compact", "silicon"),
        Intake(
            "Dead: no motor, no lamp, on fresh cells", noticed="Cells leaked along the front of the board.",
            hazards=("alkaline residue", "flash capacitor"),
        ),
        LightSetup(chain=LUX),
        DemoMeter(),
    )  # fmt: skip
    on = begin(workshop, story, rng)
    kept = []
    for name, picture in (
        ("board-front.png", board_picture(demo_board.FRONT, demo_board.TRACKS)),
        ("flex.png", board_picture(demo_board.FLEX, (("rail", "slow"), ("wake", "sw common")), is_flex=True)),
    ):
        photo = check_photo(picture, name, name.removesuffix(".png"))
        workshop.attach_photo(on.job_id, photo)
        kept.append(photo.record.sha256)
    demo_board.half_traced(on, demo_board.Sheets(*kept))


def _bridge(workshop: Workshop, rng: np.random.Generator) -> None:
    story = Story(
        Device("Storm Petrel reflex", "Holm Optical", "SP 771", "reflex", "CdS"),
        Intake("Needle hangs at one end", came_with="55 mm lens", noticed="Works when the prism housing is pressed."),
        LightSetup(chain=LUX),
        DemoMeter(offset_stops=0.05),
        _lights(6, 14),
        (12.0, 8.0),
    )
    on = begin(workshop, replace(story, rising=(), falling=()), rng)
    trace.bridge_repaired(on)
    light.read_both_ways(on, story.meter, rng, story.rising, story.falling)
