"""Invented meters with known faults, read with honest noise."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.calibration.models import high_compression, low_falloff, low_lift
from violet_dial.core.records.light import Direction


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
