"""Whether a cell is still good: its internal resistance and the charge that is left, from volts at rest and under a load.

Source: Ohm's law; Bayes' rule over the charge left, every share as likely beforehand.
"""

import math
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cells import AT_C, COLDEST_C, WARMEST_C, Size

Array = npt.NDArray[np.float64]
LEFT = np.linspace(0.0, 1.0, 801)  # shares of the charge that are weighed
BAND = 0.95
METER_SHARE, METER_V = 0.005, 0.002  # of the meter in the hand, one standard deviation; common practice, no source
ONE_DEAD, SAID = 0.05, 0.1  # that one of a stack is dead, beforehand (common practice, no source); from which that is said
STRANGE = 4.0  # standard deviations from all that such a cell can show, from which it is said to be none
CUT_OFF = 0.72  # of the nominal voltage, below which devices give up; common practice, no source
# What devices draw, A; common practice, no source.
DEVICES = (("a meter with a movement", 0.0005), ("lamps or diodes of a finder", 0.015), ("a shutter magnet", 0.06),
           ("a winder's motor", 0.6))  # fmt: skip


@dataclass(frozen=True)
class Serves:
    """A kind of device: what it draws, the volts of this cell under that, and whether it still works on them."""

    device: str
    amp: float
    volts: float
    works: bool


@dataclass(frozen=True)
class CellState:
    """What is known of a cell: ``internal_ohm`` with one standard deviation (None without a load), ``left`` the charge with its
    band of 95 %; ``is_strange`` where no such cell reads so; ``one_dead`` the chance that one of a stack gives nothing any more,
    ``left`` being that of the others where this is likelier."""

    size: Size
    rest_v: float
    internal_ohm: float | None
    internal_u_ohm: float
    left: float
    left_low: float
    left_high: float
    is_strange: bool
    serves: tuple[Serves, ...]
    one_dead: float = 0.0

    @property
    def words(self) -> str:
        """The verdict in one sentence."""
        kind = f"{self.size.name} ({self.size.chemistry.name})"
        if self.is_strange:
            return f"No {kind} reads so: another kind of cell, a damaged one, or one that charged or rested just before."
        of = f"{100 * self.left_low:.0f} to {100 * self.left_high:.0f} % of the charge are left"
        if self.one_dead > 0.5:
            others = f"the others hold {100 * self.left_low:.0f} to {100 * self.left_high:.0f} %"
            return f"{kind}: one of its {self.size.cells} cells is likely dead ({self.one_dead:.0%}), {others}: replace it."
        if self.one_dead > SAID:
            of += f", or one of its {self.size.cells} cells is dead ({self.one_dead:.0%}; each by itself, or a load, tells)"
        works = [one.device for one in self.serves if one.works]
        if not works:
            return f"{kind}: {of}; too weak for anything: replace it."
        return f"{kind}: {of}; it still serves {', '.join(works)}."


def judge_cell(
    size: Size, rest_v: float, load_v: float | None = None, load_ohm: float | None = None, at_c: float = AT_C
) -> CellState:
    """What volts at rest, and under a load where it was tried, say of a cell.

    Raises InvalidInput: a figure that no cell can show, or a load without its volts.

    Parameters
    ----------
    rest_v : volts of the whole stack at rest, after some minutes
    load_v : volts under the load, after some seconds; None when none was tried
    at_c : temperature, C
    """
    _check(rest_v, load_v, load_ohm, at_c)
    read = None if load_v is None or load_ohm is None else (load_ohm, rest_v, load_v)
    whole, chance = _branch(size, rest_v, at_c, read), 0.0
    if size.cells > 1:
        dead = _branch(replace(size, cells=size.cells - 1), rest_v, at_c, read, True)
        log_odds = dead.evidence - whole.evidence + math.log(ONE_DEAD / (1.0 - ONE_DEAD))
        chance = 1.0 / (1.0 + math.exp(-min(max(log_odds, -500.0), 500.0)))
        whole = dead if chance > 0.5 else whole
    cumulated = np.cumsum(whole.weight) / whole.weight.sum()
    low, middle, high = (float(LEFT[np.searchsorted(cumulated, share)]) for share in ((1 - BAND) / 2, 0.5, (1 + BAND) / 2))
    internal, u_ohm = (None, 0.0) if read is None else _internal(rest_v, read[2], read[0])
    usual = float(np.average(size.chemistry.rise_at(LEFT, at_c), weights=whole.weight)) * size.ohm * size.cells
    ohm = max(internal if internal is not None else usual, 0.0)
    return CellState(
        size,
        rest_v,
        internal,
        u_ohm,
        middle,
        low,
        high,
        whole.nearest > STRANGE,
        _serves(size, rest_v, ohm) if chance <= 0.5 else (),
        chance,
    )


class _Branch(NamedTuple):
    """One way a stack may be: how likely each share of its charge is, the logarithm of their sum, and how near the nearest comes
    to what was read, standard deviations."""

    weight: Array
    evidence: float
    nearest: float


def _branch(size: Size, rest_v: float, at_c: float, read: tuple[float, float, float] | None, one_dead: bool = False) -> _Branch:
    """The shares of charge of a stack, or of what lives of it; ``read`` the load in ohm, V at rest, V under it. A dead cell in
    it may have any resistance."""
    cell = size.chemistry
    away = (rest_v - cell.rest_v(LEFT, at_c) * size.cells) / math.hypot(
        cell.rest_spread_v * math.sqrt(size.cells), math.hypot(METER_SHARE * rest_v, METER_V)
    )
    log_weight, strange = -0.5 * np.square(away), np.abs(away)
    if read is not None and one_dead:
        log_weight = log_weight + math.log(METER_V * math.sqrt(2.0 * math.pi) / max(rest_v, METER_V))
    elif read is not None:
        strange = np.hypot(strange, _off_ohm(size, LEFT, at_c, _internal(rest_v, read[2], read[0])))
        log_weight = log_weight + _of_ohm(size, LEFT, at_c, read)
    top = float(log_weight.max())
    weight = np.exp(log_weight - top)
    return _Branch(weight, top + math.log(weight.sum()), float(strange.min()))


def _check(rest_v: float, load_v: float | None, load_ohm: float | None, at_c: float) -> None:
    if not (math.isfinite(rest_v) and 0.0 <= rest_v <= 30.0):
        raise InvalidInput("Volts at rest", rest_v, "0 to 30 V")
    if not COLDEST_C <= at_c <= WARMEST_C:
        raise InvalidInput("Temperature", at_c, f"{COLDEST_C:g} to {WARMEST_C:g} °C")
    if (load_v is None) != (load_ohm is None):
        raise InvalidInput("Load", "one of two figures", "the volts under the load and its ohms")
    if load_v is None or load_ohm is None:
        return
    if not (math.isfinite(load_ohm) and 0.0 < load_ohm <= 1e6):
        raise InvalidInput("Load", load_ohm, "more than 0 Ω, at most 1 MΩ")
    if not (math.isfinite(load_v) and load_v >= 0.0):
        raise InvalidInput("Volts under the load", load_v, "0 V or more")
    if load_v > rest_v + 3 * math.hypot(METER_SHARE * rest_v, METER_V):
        raise InvalidInput("Volts under the load", load_v, f"at most those at rest, {rest_v:g} V: no cell charges itself")


def _internal(rest_v: float, load_v: float, load_ohm: float) -> tuple[float, float]:
    """Internal resistance and its standard deviation by the meter alone, ohm."""
    load = max(load_v, 1e-6)
    u_rest, u_load = (math.hypot(0.1 * METER_SHARE * volts, METER_V / 2) for volts in (rest_v, load_v))
    ohm = load_ohm * (rest_v / load - 1.0)
    return max(ohm, 0.0), load_ohm / load * math.hypot(u_rest, rest_v / load * u_load)


def _off_ohm(size: Size, left: Array, at_c: float, read: tuple[float, float]) -> Array:
    """How far a resistance is from what such a cell has at each share of its charge, standard deviations."""
    usual = size.ohm * size.cells * size.chemistry.rise_at(left, at_c)
    found: Array = np.abs(read[0] - usual) / np.hypot(size.chemistry.ohm_spread * np.maximum(usual, read[0] / 2), read[1])
    return found


def _of_ohm(size: Size, left: Array, at_c: float, read: tuple[float, float, float]) -> Array:
    """Log density of the volts under the load at each share of the charge, given those at rest; cells differ in their ohms by a
    share, over which it is averaged."""
    load_ohm, rest_v, load_v = read
    usual = size.ohm * size.cells * size.chemistry.rise_at(left, at_c)
    spread = size.chemistry.ohm_spread
    nodes = np.linspace(-3.0, 3.0, 41)
    shares = np.exp(-0.5 * np.square(nodes))
    # both readings come from one meter: what it is off by as a share falls out of the drop
    u_v = math.hypot(0.1 * METER_SHARE * load_v, METER_V)
    expected = rest_v * load_ohm / (load_ohm + usual[:, None] * np.exp(spread * nodes)[None, :])
    density = np.exp(-0.5 * np.square(np.clip((load_v - expected) / u_v, -38, 38))) @ (shares / shares.sum())
    found: Array = np.log(density + 1e-300)
    return found


def _serves(size: Size, rest_v: float, ohm: float) -> tuple[Serves, ...]:
    enough = CUT_OFF * size.chemistry.nominal_v * size.cells
    under = [(device, amp, max(rest_v - amp * ohm, 0.0)) for device, amp in DEVICES]
    return tuple(Serves(device, amp, volts, volts >= enough) for device, amp, volts in under)
