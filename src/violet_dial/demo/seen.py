"""What simulated instruments took in the demo jobs: invented meters read with honest noise, firings heard, a supply recorded, a
needle read.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from violet_dial.core.calibration.models import high_compression, low_falloff, low_lift
from violet_dial.core.eye.needle import NeedleReading, grey, read_needle
from violet_dial.core.records.light import Direction
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.demo.doing import Doing
from violet_dial.instruments.simulated.meter import SimulatedCamera, SimulatedMeter, meter_truth
from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter, hidden_faults
from violet_dial.instruments.sound_card import RATE_HZ
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired
from violet_dial.services.recordings import Recording
from violet_dial.services.shutter import channels_said, picture_of, shutter_of
from violet_dial.stations.expose import acts, traces_acts
from violet_dial.stations.light import eye_acts
from violet_dial.stations.light.acts import NeedleAtLight, take_reading
from violet_dial.stations.light.eyes import empty_of, eye_from, packed


@dataclass(frozen=True)
class DemoMeter:
    """A meter with known truth, in stops: even offset, shapes (None: absent), stick and scatter.

    A sticky pointer reads low by half of ``stick_stops`` with rising light and high by half with falling.
    """

    offset_stops: float = 0.0
    slope_stops_per_ev: float = 0.0
    dark_falloff_ev100: float | None = None
    dark_lift_ev100: float | None = None
    bright_ev100: float | None = None
    stick_stops: float = 0.0
    scatter_stops: float = 0.05

    def true_error(self, ev100: float) -> float:
        """Error in stops at a light, without scatter."""
        x = np.array([ev100])
        error = self.offset_stops + self.slope_stops_per_ev * (ev100 - 10.0)
        for shape, knee_ev100 in (
            (low_falloff, self.dark_falloff_ev100), (low_lift, self.dark_lift_ev100), (high_compression, self.bright_ev100),
        ):  # fmt: skip
            error += 0.0 if knee_ev100 is None else float(shape(x, knee_ev100)[0])
        return error

    def read(self, ev100: float, direction: Direction, rng: np.random.Generator) -> float:
        """What the pointer shows at a light, in EV100."""
        stick = {"rising": -0.5, "falling": 0.5, "": 0.0}[direction] * self.stick_stops
        return ev100 + self.true_error(ev100) + stick + float(rng.normal(0.0, self.scatter_stops))


SEED = 41
TRACE_HZ = 20_000.0
BY_HAND_PX = (0.3, -0.4, 0.2, 0.5, -0.3, 0.1)  # as a hand puts marks


@dataclass(frozen=True)
class Firings:
    """Marks fired once each, in seconds and in this order: the last ``recorded`` of them heard by the sound card, those before
    read off a test bench."""

    kind: Literal["leaf", "focal plane"]
    marks_s: tuple[float, ...]
    fastest_s: float
    recorded: int
    sensors: int = 1


def fire(on: Doing, firings: Firings, faults: str) -> None:
    """A shutter with these faults fired at its marks."""
    shutter = SimulatedShutter(firings.kind, hidden_faults(faults), firings.sensors, SEED)
    first = len(firings.marks_s) - firings.recorded
    for mark_s in firings.marks_s[:first]:
        time_s = shutter.time_of(mark_s, firings.fastest_s)
        on.do(acts.taking((Fired(mark_s, round(time_s, 7), 0.002 * time_s, "test bench"),)))
    on.each(acts.taking, [(_heard(shutter, mark_s, firings.fastest_s),) for mark_s in firings.marks_s[first:]])


def _heard(shutter: SimulatedShutter, marked_s: float, fastest_s: float) -> Fired:
    card = SimulatedCard(shutter, SEED)
    quiet = card.block(RATE_HZ // 5)
    card.fire(marked_s, fastest_s)
    samples = np.concatenate([quiet, card.block(int((marked_s * 2.5 + 0.45) * RATE_HZ))])
    names = tuple(f"channel {n + 1}" for n in range(shutter.sensors))
    recording = Recording(names, samples, float(RATE_HZ))
    seen = shutter_of(recording, channels_said("travel" if shutter.sensors > 1 else "light", shutter.sensors)).seen[0]
    return acts.fired_of(seen, marked_s, "sound card", picture_of(recording, shutter.sensors // 2, seen.firing))


def swinging_rail(on: Doing) -> None:
    """A regulator that swings: its rail beside that of a working sister."""
    rng, t = np.random.default_rng(SEED), np.arange(4000) / TRACE_HZ
    swing = 2.6 + 1.1 * ((t * 172.0) % 1.0 - 0.5)
    for name, line in (("rail-sister.csv", np.full(len(t), 2.6)), ("rail.csv", swing)):
        noisy = np.stack([line + rng.normal(0.0, 0.012, len(t))], axis=1)
        taken = traces_acts.taken_of(Recording(("vreg to gnd",), noisy, TRACE_HZ), 0, name)
        on.do(traces_acts.taking((replace(taken, sister=name != "rail.csv"),)))


def needle_read(on: Doing, faults: str, *lights_ev100: float) -> None:
    """A dial set up before the camera and read at some lights; the simulated bench goes on with the same meter."""
    now, lit = [0.0], [2.5 * 2 ** lights_ev100[0]]
    camera = SimulatedCamera(SimulatedMeter(meter_truth(faults), lambda: lit[0], lambda: now[0]))
    look = camera.dial.look
    on.do(eye_acts.put_empty(packed(camera.empty()), look.wide, look.tall))
    for mark, off in zip(camera.dial.marks[::2], BY_HAND_PX, strict=True):
        cross = eye_acts.Cross(round(mark.x + off, 1), round(mark.y - off, 1), look.wide, look.tall)
        on.do(eye_acts.put_mark(cross, f"{mark.value:g}"))
    for ev100 in lights_ev100:
        lit[0], now[0] = 2.5 * 2**ev100, now[0] + 8.0
        on.do(_taking(_seen(on.job, camera, lit[0])))


def _seen(job: Job, camera: SimulatedCamera, light_lx: float) -> NeedleAtLight:
    frame, eye = camera.picture(), eye_from(job.light.dial, empty_of(job.light.dial))
    assert frame is not None and eye is not None
    read = read_needle(eye, grey(frame))
    assert isinstance(read, NeedleReading), read
    needle = Measured.of(Capture("camera", "needle", read.value, read.u))
    return NeedleAtLight(Measured(light_lx, unit="lx"), needle, "rising", picture=packed(frame, is_small=True))


def _taking(read: NeedleAtLight) -> Act:
    return lambda job, at: take_reading(job, read, at)
