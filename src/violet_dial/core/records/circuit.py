"""How a device stood when something was measured, what was measured, and how a part can fail: plain records, nothing computed."""

import math
from dataclasses import dataclass, field, replace
from typing import Literal

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering

SupplyState = Literal["battery", "bench", "off"]
LitBy = Literal["lux meter", "lamp", "room"]
OPEN_OHM = 1e9  # an open contact or a broken wire: insulation, not nothing
CLOSED_OHM = 0.05
USUAL_LX = 1000.0  # what a light stands at of which nothing was said: it is not known
LEADS = ("wire", "track", "joint", "connector", "contact", "clip", "flex")


@dataclass(frozen=True)
class Setting:
    """How the device stood when something was measured.

    ``switches`` position by switch name; ``supply``; ``light_lx`` on the cell; ``disconnected`` parts lifted off;
    ``state`` further words that hold: bent, cold, pressed; ``lit_by`` what said the light: a lux meter at the cell, a lamp's
    chart, or the eye that knows rooms.
    """

    switches: tuple[tuple[str, str], ...] = ()
    supply: SupplyState = "battery"
    light_lx: float = USUAL_LX
    disconnected: tuple[str, ...] = ()
    state: tuple[str, ...] = ()
    lit_by: LitBy = "lux meter"

    @property
    def is_light_said(self) -> bool:
        """Whether anything was said of the light."""
        return self.light_lx != USUAL_LX

    def lit(self, light_lx: float, by: LitBy | None = None) -> "Setting":
        """The same in a light that is said, lx; one like that of which nothing is said is told from it by its last digit.
        ``by``: what says it; the same as before when None."""
        said = math.nextafter(USUAL_LX, math.inf) if light_lx == USUAL_LX else light_lx
        return replace(self, light_lx=said, lit_by=by or self.lit_by)

    def with_switch(self, name: str, position: str) -> "Setting":
        """The same with one switch turned."""
        rest = tuple(pair for pair in self.switches if pair[0] != name)
        return replace(self, switches=tuple(sorted((*rest, (name, position)))))

    @property
    def words(self) -> str:
        """The setting said: ``S1 on, 1000 lx``."""
        parts = [f"{name.upper()} {position}" for name, position in self.switches]
        if self.supply != "battery":
            parts.append({"bench": "on the bench supply", "off": "supply out"}[self.supply])
        if self.is_light_said:
            parts.append(f"{self.light_lx:g} lx{'' if self.lit_by == 'lux meter' else f' by the {self.lit_by}'}")
        parts += [f"{name} lifted" for name in self.disconnected]
        return ", ".join([*parts, *self.state])


BOARD_GROUND = "board-gnd"  # the circuit's ground, where the chassis is said to be another point
_OHM_MODES = ("high resistance", "leaks to chassis", "leaky", "high internal resistance", "collector to emitter leaky")
_FACTOR_MODES = ("too high", "too low", "insensitive", "reads bright", "tired", "weak", "shorted turns", "low gain", "low output",
                 "overvoltage")  # fmt: skip


def round_rung(value: float) -> float:
    """A rung as said: two figures are all it stands for. ``value``: resistance, Ω."""
    return float(f"{value:.2g}")


@dataclass(frozen=True)
class Fault:
    """One way one part can fail.

    ``figure`` is ohm or a factor, by ``mode``; ``share`` is its part of the kind's weight; ``only`` names what must
    hold for it to show (``supply battery``, ``not bent``); ``to_node`` is the other end of a bridge.
    """

    part: str
    mode: str
    figure: float = 0.0
    share: float = 1.0
    only: str = ""
    to_node: str = ""

    @property
    def name(self) -> str:
        """Part and mode, by which variants with other figures are gathered."""
        return f"{self.part} {self.mode}"

    @property
    def words(self) -> str:
        """The fault said with its figure."""
        if self.mode in _OHM_MODES:
            return f"{self.name}, about {format_engineering(round_rung(self.figure), 3)}Ω"
        if self.mode in _FACTOR_MODES and self.figure > 0:
            return f"{self.name}, about × {round_rung(self.figure):g}"
        return self.name


TestKind = Literal["volt", "ohm", "amp", "continuity", "capacitance", "seen", "ripple", "time", "clock", "dip", "wakes"]
Prefer = Literal["least minutes", "fewest tests"]  # what the choice of the next test is to save
OVERLOAD_OHM = 5e7  # "OL": beyond the meter's range
LEADS_OHM = 0.1  # of the meter\'s own leads, in every figure it shows
LEAST_LOOK = -0.5  # a needle may stand below nothing, by so much of its scale


@dataclass(frozen=True)
class Evidence:
    """One reading or observation.

    ``value`` in volt (for ripple peak to peak), ohm, ampere or farad; for continuity 1 or 0; for seen 0 (off) to 1 (on, or full
    scale). ``plus`` and ``minus`` are nodes, ``part`` the part for amp, capacitance and seen. ``sister`` marks the value of a
    working sister unit at the same points: it corrects what a healthy one should show. ``u`` is the standard uncertainty
    of the meter at this reading, in the unit of the value; 0 stands for a usual meter.
    """

    test: TestKind
    value: float
    plus: str = ""
    minus: str = ""
    part: str = ""
    setting: Setting = field(default_factory=Setting)
    sister: bool = False
    note: str = ""
    u: float = 0.0

    def __post_init__(self) -> None:
        least = {"volt": -math.inf, "amp": -math.inf, "seen": LEAST_LOOK}.get(self.test, 0.0)
        if not math.isfinite(self.value) or self.value < least:
            raise InvalidInput("Reading", self.value, f"a finite figure, {least:g} or more")
        if not (math.isfinite(self.u) and self.u >= 0):
            raise InvalidInput("Uncertainty", self.u, "a finite figure, 0 or more, in the unit of the reading")

    @property
    def where(self) -> str:
        """The points or the part, said."""
        if self.test == "time":
            return "time"  # of the whole device; its part is the capacitor that sets it
        if not self.plus and not self.part:
            return "the device"
        return self.part or f"{self.plus} to {self.minus if self.minus != '0' else 'gnd'}"
