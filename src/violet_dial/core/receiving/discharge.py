"""A charged capacitor let out through a resistor.

Source
------
E = C V^2 / 2 and V = V0 exp(-t/RC): any textbook of circuits. That a flash unit keeps its charge for days and that
it is measured after discharging: common practice, no source.
"""

import math
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput


@dataclass(frozen=True)
class Discharge:
    """A capacitor ``capacitance_f`` at ``charged_v`` let out through ``resistor_ohm`` to below ``below_v``."""

    capacitance_f: float
    charged_v: float
    resistor_ohm: float
    below_v: float

    def __post_init__(self) -> None:
        for field, value, unit in (
            ("Capacitance", self.capacitance_f, "farad"),
            ("Voltage", self.charged_v, "volt"),
            ("Resistor", self.resistor_ohm, "ohm"),
            ("Voltage to reach", self.below_v, "volt"),
        ):
            if not (math.isfinite(value) and value > 0):
                raise InvalidInput(field, value, f"a finite number of {unit} above 0")

    @property
    def energy_j(self) -> float:
        """Energy held, joule."""
        return self.capacitance_f * self.charged_v**2 / 2

    @property
    def time_s(self) -> float:
        """Time until the voltage is ``below_v``, seconds; 0 when it is already."""
        return max(0.0, self.resistor_ohm * self.capacitance_f * math.log(self.charged_v / self.below_v))

    @property
    def peak_power_w(self) -> float:
        """Power in the resistor at the first moment, watt."""
        return self.charged_v**2 / self.resistor_ohm

    def arithmetic(self) -> tuple[str, ...]:
        """The sums, a line each."""
        c_uf = self.capacitance_f * 1e6
        return (
            f"E = C V²/2 = {c_uf:.4g} µF × ({self.charged_v:.4g} V)² / 2 = {self.energy_j:.2g} J",
            f"t = R C ln(V/V₁) = {self.resistor_ohm:.4g} Ω × {c_uf:.4g} µF × ln({self.charged_v:.4g}/{self.below_v:.4g})"
            f" = {self.time_s:.2g} s",
            f"P at first = V²/R = {self.peak_power_w:.2g} W: a resistor that stands this for {self.time_s:.2g} s",
        )
