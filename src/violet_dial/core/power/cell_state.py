"""Whether a cell is still good: its internal resistance and the charge that is left, from volts at rest and under a load.

Source: Ohm's law; Bayes' rule over the charge left, every share as likely beforehand.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cells import AT_C, COLDEST_C, WARMEST_C, Size

Array = npt.NDArray[np.float64]
STEPS = 801
BAND = 0.95
METER_SHARE, METER_V = 0.005, 0.002  # of the meter in the hand, one standard deviation; common practice, no source
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
    band of 95 %; ``is_strange`` where no such cell reads so."""

    size: Size
    rest_v: float
    internal_ohm: float | None
    internal_u_ohm: float
    left: float
    left_low: float
    left_high: float
    is_strange: bool
    serves: tuple[Serves, ...]

    @property
    def words(self) -> str:
        """The verdict in one sentence."""
        kind = f"{self.size.name} ({self.size.chemistry.name})"
        if self.is_strange:
            return f"No {kind} reads so: another kind of cell, a damaged one, or one that charged or rested just before."
        of = f"{100 * self.left_low:.0f} to {100 * self.left_high:.0f} % of the charge are left"
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
    left = np.linspace(0.0, 1.0, STEPS)
    cell, count = size.chemistry, size.cells
    mean = cell.rest_v(left, at_c) * count
    own = cell.rest_spread_v * math.sqrt(count)
    meter = math.hypot(METER_SHARE * rest_v, METER_V)
    away = (rest_v - mean) / math.hypot(own, meter)
    log_weight = -0.5 * np.square(away)
    strange = np.abs(away)
    internal, u_ohm = None, 0.0
    if load_v is not None and load_ohm is not None:
        internal, u_ohm = _internal(rest_v, load_v, load_ohm)
        strange = np.hypot(strange, _off_ohm(size, left, at_c, (internal, u_ohm)))
        log_weight = log_weight + _of_ohm(size, left, at_c, (load_ohm, rest_v, load_v))
    weight = np.exp(log_weight - log_weight.max())
    cumulated = np.cumsum(weight) / weight.sum()
    low, middle, high = (float(left[np.searchsorted(cumulated, share)]) for share in ((1 - BAND) / 2, 0.5, (1 + BAND) / 2))
    ohm = internal if internal is not None else float(np.average(cell.rise_at(left, at_c), weights=weight)) * size.ohm * count
    return CellState(
        size, rest_v, internal, u_ohm, middle, low, high, bool(strange.min() > STRANGE), _serves(size, rest_v, max(ohm, 0.0))
    )


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
