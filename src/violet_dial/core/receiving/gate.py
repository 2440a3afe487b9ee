"""The safety gate: what to make sure of before anything is opened. It advises; it never declares anything safe.

Source: Common practice, no source.
"""

import math
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.errors import InvalidInput
from violet_dial.core.receiving.places import DeviceKind


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


FilmState = Literal["not looked", "nothing inside", "film inside", "pack inside"]
BatteryState = Literal["not looked", "out", "still in", "has none"]
HOLDS_FILM: tuple[DeviceKind, ...] = ("rangefinder compact", "reflex", "instant camera", "medium-format body")
MAY_HAVE_FLASH: tuple[DeviceKind, ...] = ("rangefinder compact", "instant camera", "board", "other")
LOW_ENOUGH_V = 30.0  # below what is felt on dry skin; common practice, no source: local rules come first


@dataclass(frozen=True)
class Gate:
    """What was looked at before opening; voltages in volt, ``measured_v`` None until measured after discharging."""

    film: FilmState = "not looked"
    battery: BatteryState = "not looked"
    has_flash: bool = False
    capacitance_f: float = 160e-6
    charged_v: float = 330.0
    resistor_ohm: float = 2_000.0
    below_v: float = LOW_ENOUGH_V
    measured_v: float | None = None

    @property
    def discharge(self) -> Discharge:
        return Discharge(self.capacitance_f, self.charged_v, self.resistor_ohm, self.below_v)


@dataclass(frozen=True)
class GatePoint:
    """One point of the gate: ``open`` True while something is still to be done."""

    name: str
    open: bool
    advice: str


def gate_points(gate: Gate, kind: DeviceKind) -> tuple[GatePoint, ...]:
    """The points that apply to this kind of device, in order.

    ``gate``: what was made sure of before opening: F, V and Ω where there is a flash.
    """
    points = []
    if kind in HOLDS_FILM:
        points.append(_film_point(gate))
    points.append(_battery_point(gate))
    if gate.has_flash or kind in MAY_HAVE_FLASH:
        points.append(_flash_point(gate))
    return tuple(points)


def _film_point(gate: Gate) -> GatePoint:
    advice = {
        "not looked": "Is film or an instant pack inside? Feel for rewind tension; look at the counter.",
        "film inside": "Rewind it, or take it out in the dark room, before anything is opened.",
        "pack inside": "Put the dark slide back in and take the pack out in the dark room.",
        "nothing inside": "Looked at: nothing inside.",
    }[gate.film]
    return GatePoint("Film or pack", gate.film != "nothing inside", advice)


def _battery_point(gate: Gate) -> GatePoint:
    advice = {
        "not looked": "Take the cells out; look whether they leaked.",
        "still in": "Take the cells out before a screwdriver goes near anything live.",
        "out": "Cells are out.",
        "has none": "This one has no cell.",
    }[gate.battery]
    return GatePoint("Battery", gate.battery not in ("out", "has none"), advice)


def _flash_point(gate: Gate) -> GatePoint:
    name = "Flash capacitor"
    if not gate.has_flash:
        return GatePoint(name, False, "Said to have no flash. If a tube or a large capacitor turns up, stop and come back.")
    wait = gate.discharge
    how = f"Through {wait.resistor_ohm:.4g} Ω for at least {wait.time_s:.2g} s, then measure across it."
    if gate.measured_v is None:
        return GatePoint(name, True, f"Holds up to {wait.energy_j:.2g} J, for days. {how}")
    if abs(gate.measured_v) > gate.below_v:
        return GatePoint(name, True, f"{gate.measured_v:.4g} V measured: still charged. {how}")
    advice = f"{gate.measured_v:.4g} V measured. It can creep back up: measure again before touching."
    return GatePoint(name, False, advice)
