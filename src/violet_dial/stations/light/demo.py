"""Invented meters with known faults, read with honest noise, and how they are read in the demo jobs."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.calibration.models import high_compression, low_falloff, low_lift
from violet_dial.core.eye.needle import NeedleReading, grey, read_needle
from violet_dial.core.records.light import Direction, TrustedMeter
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.instruments.simulated.meter import SimulatedCamera, meter_truth
from violet_dial.instruments.simulated.meter import SimulatedMeter as MovingMeter
from violet_dial.job.act import Act
from violet_dial.job.light import LightSetup
from violet_dial.services.doing import Doing
from violet_dial.services.light_judgement import judge
from violet_dial.services.simulated import METER_OF
from violet_dial.stations.light import eye_acts
from violet_dial.stations.light.acts import (
    NeedleAtLight,
    TypedReading,
    change_setup,
    record_adjustment,
    take_reading,
    take_typed,
)
from violet_dial.stations.light.eyes import empty_of, eye_from, packed

BY_HAND_PX = (0.3, -0.4, 0.2, 0.5, -0.3, 0.1)  # as a hand puts marks
HIDDEN: dict[str, str] = {
    f"{METER_OF} Garganey hand meter": "offset 0.6; stick 0.1; damping 0.5"
}  # by the device's name


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
        if self.dark_falloff_ev100 is not None:
            error += float(low_falloff(x, self.dark_falloff_ev100)[0])
        if self.dark_lift_ev100 is not None:
            error += float(low_lift(x, self.dark_lift_ev100)[0])
        if self.bright_ev100 is not None:
            error += float(high_compression(x, self.bright_ev100)[0])
        return error

    def read(self, ev100: float, direction: Direction, rng: np.random.Generator) -> float:
        """What the pointer shows at a light, in EV100."""
        stick = {"rising": -0.5, "falling": 0.5, "": 0.0}[direction] * self.stick_stops
        return ev100 + self.true_error(ev100) + stick + float(rng.normal(0.0, self.scatter_stops))


def set_up(on: Doing, setup: LightSetup) -> None:
    """How the meter is checked."""
    on.do(lambda job, at: change_setup(job, setup, at))


def read_both_ways(
    on: Doing, meter: DemoMeter, rng: np.random.Generator, rising: tuple[float, ...], falling: tuple[float, ...]
) -> None:
    """Readings at lights in EV100, with rising and then with falling light."""
    source = on.job.light.setup.chain.source
    ways: tuple[tuple[Direction, tuple[float, ...]], ...] = (("rising", rising), ("falling", falling))
    for direction, lights in ways:
        for ev100 in lights:
            shown = meter.read(ev100, direction, rng)
            trusted = isinstance(source, TrustedMeter)
            reference = f"{ev100 + source.known_error_stops:.2f}" if trusted else f"{2.5 * 2**ev100:.0f}"  # type: ignore[union-attr]
            on.do(reading(TypedReading(reference, f"{shown:.1f}", direction)))


def reading(typed: TypedReading) -> Act:
    """The act of taking a typed reading."""
    return lambda job, at: take_typed(job, typed, at)


def read_by_camera(on: Doing, lights: tuple[float, ...]) -> None:
    """A dial set up before the camera and some readings taken by it; the simulated bench goes on with the same meter."""
    now, truth = [0.0], meter_truth(HIDDEN[f"{METER_OF} {on.job.device.name}"])
    lit = [2.5 * 2 ** lights[0]]
    camera = SimulatedCamera(MovingMeter(truth, lambda: lit[0], lambda: now[0]))
    look = camera.dial.look
    on.do(eye_acts.put_empty(packed(camera.empty()), look.wide, look.tall))
    for mark, off in zip(camera.dial.marks[::2], BY_HAND_PX, strict=True):
        cross = eye_acts.Cross(round(mark.x + off, 1), round(mark.y - off, 1), look.wide, look.tall)
        on.do(eye_acts.put_mark(cross, f"{mark.value:g}"))
    for ev100 in lights:
        lit[0], now[0] = 2.5 * 2**ev100, now[0] + 8.0
        frame = camera.picture()
        assert frame is not None
        eye = eye_from(on.job.light.dial, empty_of(on.job.light.dial))
        assert eye is not None
        read = read_needle(eye, grey(frame))
        assert isinstance(read, NeedleReading), read
        needle = Measured.of(Capture("camera", "needle", read.value, read.u))
        on.do(_seen(NeedleAtLight(Measured(lit[0], unit="lx"), needle, "rising", picture=packed(frame, is_small=True))))


def _seen(read: NeedleAtLight) -> Act:
    return lambda job, at: take_reading(job, read, at)


def adjusted(on: Doing, how: str) -> float:
    """The scale moved as advised; by how many stops."""
    shift = judge(on.job).assessment.shift.stops
    on.do(lambda job, at: record_adjustment(job, shift, how, at))
    return shift
