"""The demo's jobs as they are told in ``assets/demo/jobs.toml``, and how each kind of act there is done through the services.

An act stands there as its kind and what it takes. The kinds in `TYPED` take lines, each an act of its own, as a technician types
them at that page; the others are methods of `Telling`.
"""

import re
import tomllib
from collections.abc import Callable
from dataclasses import dataclass, field, fields, replace
from datetime import date, timedelta
from typing import Any, Literal

import numpy as np

from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.mapping.board import Ground, Pin
from violet_dial.core.records.light import Chain, Direction, LuxMeter, TrustedMeter
from violet_dial.core.task import SilentTask
from violet_dial.demo import seen
from violet_dial.demo.doing import Doing
from violet_dial.demo.hidden import TOLD, hidden
from violet_dial.demo.pictures import board_picture, crust_picture
from violet_dial.demo.seen import DemoMeter
from violet_dial.job.act import ActResult
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.light import LightSetup
from violet_dial.job.opening import ShorterWay
from violet_dial.job.receiving import TakenTrial
from violet_dial.job.records import validator
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.gate import record_trial
from violet_dial.services.light_judgement import judge
from violet_dial.services.next import put_aside
from violet_dial.services.photos import check_photo
from violet_dial.services.simulated import METER_OF, SHUTTER_OF
from violet_dial.services.way_in import note_shorter_way
from violet_dial.services.workshop import Workshop
from violet_dial.stations.expose import acts as speeds
from violet_dial.stations.expose import lamps_acts, shots_acts, traces_acts
from violet_dial.stations.hand_back.acts import close_sheet
from violet_dial.stations.light.acts import TypedReading, change_setup, record_adjustment, take_typed
from violet_dial.stations.open.acts import Ending, back_of, end_step, take_step
from violet_dial.stations.power.acts import say_line, say_use, type_cell
from violet_dial.stations.prove import acts as prove
from violet_dial.stations.prove import rounds_acts, seals_acts
from violet_dial.stations.receive.acts import FindingSeen, answer_gate, describe_device, note_screw, place_finding
from violet_dial.stations.trace import map_acts
from violet_dial.stations.trace.acts import choose_circuit, record_fix
from violet_dial.stations.trace.work import work_out

OWNER, CAME_ON = "Skerrow Ness bird observatory, loan pool", "3 November 2026"
CHAINS = {
    "trusted meter": Chain(TrustedMeter(known_error_stops=-0.1, u_stops=0.05)),
    "lux meter": Chain(LuxMeter(u_relative=0.03)),
}


@dataclass(frozen=True)
class DrawnBoard:
    """A photo of a board that is drawn for the demo: its spots, as shares of width and height, and the tracks in the picture."""

    file: str
    name: str
    spots: dict[str, tuple[float, float]]
    tracks: tuple[tuple[str, str], ...]
    is_flex: bool = False
    aspect: float = 1.5


@dataclass(frozen=True)
class Story:
    """One demo job: who brought what, how its meter is checked and how it truly reads, what was done, the words on its sheet."""

    device: Device
    intake: Intake
    reference: Literal["trusted meter", "lux meter"]
    acts: tuple[list[Any], ...]
    setup: LightSetup = field(default_factory=LightSetup)
    meter: DemoMeter = field(default_factory=DemoMeter)
    sheet: Closing = field(default_factory=Closing)
    boards: tuple[DrawnBoard, ...] = ()


def stories() -> tuple[Story, ...]:
    """The demo's jobs in the order in which they came in."""
    told = tomllib.loads((TOLD / "jobs.toml").read_text(encoding="utf-8"))
    found: tuple[Story, ...] = validator(tuple[Story, ...]).validate_python(told["jobs"])
    return found


TYPED: dict[str, Callable[[Job, str, str], ActResult]] = {
    "cell": type_cell,
    "contacts": lambda job, line, at: rounds_acts.understand_contact(job, line).act(job, at),
    "evidence": type_evidence,
    "exercise": lambda job, line, at: rounds_acts.understand_exercise(job, _dated(line), date.today()).act(job, at),
    "lamps": lamps_acts.say_line,
    "map": map_acts.say_line,
    "power": say_line,
    "prove": lambda job, line, at: prove.understand(job, line).act(job, at),
    "put aside": put_aside,
    "seals": lambda job, line, at: seals_acts.understand(job, line).act(job, at),
    "shots": shots_acts.say_line,
    "soak": lambda job, line, at: rounds_acts.understand_soak(job, line).act(job, at),
    "speeds": speeds.say_line,
    "step": take_step,
    "traces": lambda job, line, at: traces_acts.understand(job, line).act(job, at),
    "use": say_use,
}


def _dated(line: str) -> str:
    return re.sub(r"\{(\d+) days? ago\}", lambda ago: (date.today() - timedelta(days=int(ago[1]))).isoformat(), line)


class Telling:
    """One story told in a new job of the workshop, act by act."""

    def __init__(self, workshop: Workshop, story: Story, rng: np.random.Generator) -> None:
        self._story, self._rng, self._meter = story, rng, story.meter
        self.on = Doing(workshop, workshop.new_job().job.job_id)

    def tell(self) -> None:
        """The job from what came in to the last of its acts."""
        intake = replace(self._story.intake, owner=OWNER, received_on=CAME_ON)
        setup = replace(self._story.setup, chain=CHAINS[self._story.reference])
        self.on.do(lambda job, at: describe_device(job, self._story.device, intake, at))
        self.on.do(lambda job, at: change_setup(job, setup, at))
        for kind, *taken in self._story.acts:
            if kind in TYPED:
                self.on.each(lambda line, typed=TYPED[kind]: lambda job, at: typed(job, line, at), taken)  # type: ignore[misc]
            else:
                getattr(self, kind.replace(" ", "_"))(*taken)

    def read(self, rising: list[float], falling: list[float]) -> None:
        """The meter read at these lights in EV100, with rising and then with falling light."""
        source = self.on.job.light.setup.chain.source
        ways: tuple[tuple[Direction, list[float]], ...] = (("rising", rising), ("falling", falling))
        for direction, ev100 in ((direction, float(ev100)) for direction, lights in ways for ev100 in lights):
            shown = self._meter.read(ev100, direction, self._rng)
            is_meter = isinstance(source, TrustedMeter)
            reference = f"{ev100 + source.known_error_stops:.2f}" if is_meter else f"{2.5 * 2**ev100:.0f}"  # type: ignore[union-attr]
            self._take(TypedReading(reference, f"{shown:.1f}", direction))

    def reading(self, *typed: list[str]) -> None:
        """Readings as they were typed."""
        for reference, shown in typed:
            self._take(TypedReading(reference, shown))

    def _take(self, typed: TypedReading) -> None:
        self.on.do(lambda job, at: take_typed(job, typed, at))

    def adjusted(self, how: str) -> None:
        """The scale moved as advised; the meter reads so from there on."""
        stops = judge(self.on.job).assessment.shift.stops
        self.on.do(lambda job, at: record_adjustment(job, stops, how, at))
        self._meter = replace(self._meter, offset_stops=self._meter.offset_stops + stops)

    def camera(self, *lights_ev100: float) -> None:
        """Readings taken by the camera; the rest of the check runs by itself."""
        seen.needle_read(self.on, hidden()[f"{METER_OF} {self._story.device.name}"], *lights_ev100)

    def crust_photo(self, file: str, caption: str) -> None:
        """A photo of a crust, drawn."""
        self._attach(crust_picture(), file, caption)

    def _attach(self, picture: bytes, file: str, caption: str) -> None:
        self.on.workshop.attach_photo(self.on.job_id, check_photo(picture, file, caption))

    def finding(self, *findings: list[Any]) -> None:
        """Findings put on the drawing; the last thing said of one may be the place of its photo."""
        names = [item.name for item in fields(FindingSeen)]
        for said in findings:
            found = dict(zip(names, said, strict=False))
            if "photo" in found:
                found["photo"] = self.on.job.photos[found["photo"]].sha256
            self.on.do(lambda job, at, found=found: place_finding(job, FindingSeen(**found), at))  # type: ignore[misc]

    def gate(self, said: dict[str, Any]) -> None:
        """The gate answered."""
        self.on.do(lambda job, at: answer_gate(job, replace(job.receiving.gate, **said), at))

    def trial(self, *trials: list[Any]) -> None:
        """Functions tried."""
        self.on.each(lambda said: lambda job, at: record_trial(job, TakenTrial(*said), at), trials)

    def hunted(self, *places: str) -> None:
        """Where the missing screw was looked for so far."""
        screw = replace(self.on.job.receiving.missing[0], looked=places)
        self.on.do(lambda job, at: note_screw(job, screw, at))

    def back(self, *endings: list[Any]) -> None:
        """Things refitted, replaced or left out, by the name of their step."""
        ids = {step.name: step.step_id for step in self.on.job.opening.steps}
        ended = [Ending(ids[name], *said) for name, *said in endings]
        self.on.each(lambda ending: lambda job, at: end_step(job, ending, at), ended)

    def all_back(self) -> None:
        """Everything refitted."""
        steps = self.on.job.opening.steps
        self.back(*[[steps[item.place].name] for item in back_of(self.on.job) if item.kind == "refit"])

    def shorter_way(self, said: dict[str, Any]) -> None:
        """A shorter way to a part, noted."""
        way = ShorterWay(**{**said, "through": tuple(said["through"])})
        self.on.do(lambda job, at: note_shorter_way(job, way, at))

    def circuit(self, stem: str, title: str = "", old: str = "", new: str = "") -> None:
        """A circuit that ships, under its own title or another, with one value changed."""
        template = next(template for template in templates() if template.stem == stem)
        text = template.text.replace(old, new) if old else template.text
        self.on.do(lambda job, at: choose_circuit(job, title or template.title, text, at))

    def likeliest_put_right(self, words: str) -> None:
        """The likeliest suspect put right, as the station names it."""
        fault = work_out(self.on.job, Diagnostician(), SilentTask()).diagnosis.suspects[0].faults[0]
        self.on.do(lambda job, at: record_fix(job, fault, words, at, 1))

    def board_photos(self) -> None:
        """Photos of the boards attached, drawn."""
        for board in self._story.boards:
            picture = board_picture(board.spots, board.tracks, board.is_flex)
            self._attach(picture, board.file, board.file.removesuffix(".png"))

    def laid_down(self) -> None:
        """The photos of the boards laid under the map, and the spots put on them."""
        laid = list(zip(self.on.job.photos, self._story.boards, strict=True))
        for photo, board in laid:
            ground = Ground(photo.sha256, board.name, aspect=board.aspect)
            self.on.do(lambda job, at, ground=ground: map_acts.lay_photo(job, ground, at))  # type: ignore[misc]
        for name, pin in [(name, Pin(photo.sha256, *at)) for photo, board in laid for name, at in board.spots.items()]:
            self.on.do(lambda job, at, name=name, pin=pin: map_acts.pin_on_photo(job, name, pin, at))  # type: ignore[misc]

    def fire(self, said: dict[str, Any]) -> None:
        """The shutter fired."""
        faults = hidden()[f"{SHUTTER_OF} {self._story.device.name}"]
        seen.fire(self.on, validator(seen.Firings).validate_python(said), faults)

    def swinging_rail(self) -> None:
        """The supply recorded, and a sister's."""
        seen.swinging_rail(self.on)

    def sheet(self) -> None:
        """The words on the sheet, and its signature where there is one."""
        self.on.do(lambda job, at: close_sheet(job, self._story.sheet, at))
