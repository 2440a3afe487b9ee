"""How a reading follows from what is predicted, by what is read: a figure, a size, a needle on its scale, a look, a beep.

Source: Student, Biometrika 6 (1908) 1 (the law of a figure) [memory]. Moments of a normal density cut at one side or both:
Johnson, Kotz and Balakrishnan, Continuous Univariate Distributions (1994), chapter 13 [memory].
"""

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of, supply_volts
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence
from violet_dial.core.scipy_rooms import special

Array = npt.NDArray[Any]
ReadAs = Literal["figure", "size", "needle", "look", "beep", "overload"]
NEEDLE_STOP = 0.02  # a needle this near either end may be against its stop
DIM, LIT = 0.25, 0.70  # of the usual current: below the first nothing is seen, above the second it is simply on
UNSURE_LOG = 0.18  # of log10 ohm: where a meter begins to beep differs from meter to meter
# Degrees of freedom of the law of a figure: tolerances, sketch and bends are not normal far out, and a tail that is too thin
# makes what is rare impossible. Student's t of this standard deviation.
TAIL = 8.0
T_CONSTANT = math.lgamma((TAIL + 1) / 2) - math.lgamma(TAIL / 2) - 0.5 * math.log(math.pi * (TAIL - 2.0))


@dataclass(frozen=True)
class Fit:
    """How a reading fits: ``log_density`` (h,); ``away`` (h,) in standard deviations; by how much the mean of what was
    predicted ``step``s (h,), and the share of its variance that is ``keep``t (h,)."""

    log_density: Array
    away: Array
    step: Array
    keep: Array


def law_of(circuit: Circuit, evidence: Evidence) -> ReadAs:
    """How this piece is read."""
    if evidence.test == "seen":
        is_movement = kind_of(circuit, circuit.part(evidence.part)) == "movement"
        return "needle" if is_movement else "look"
    if evidence.test == "continuity":
        return "beep"
    if evidence.test == "ohm" and evidence.value >= 0.98 * OVERLOAD_OHM:
        return "overload"
    return "size" if evidence.test == "amp" else "figure"


def fit_of(law: ReadAs, value: float, mean: Array, variance: Array) -> Fit:
    """The fit of one value.

    Parameters
    ----------
    value : on the scale it is judged on; for a look 0 off, 0.5 dim, 1 on; for a beep 1, for none 0
    mean, variance : of what is predicted, shape (h,)
    """
    sigma = np.sqrt(variance)
    if law == "figure":
        return _plain(value, mean, sigma)
    if law == "beep":
        return _beep(value > 0, mean, variance)
    if law == "size":  # whichever way it flows
        plain = _plain(value, np.abs(mean), sigma)
        return Fit(plain.log_density, plain.away, plain.step * np.where(mean < 0, -1.0, 1.0), plain.keep)
    low, high = _bounds(law, value)
    if low is None and high is None:
        return _plain(value, mean, sigma)
    return _cut(low, high, mean, sigma)


def _bounds(law: ReadAs, value: float) -> tuple[float | None, float | None]:
    """Between which figures the reading says it lies; None where there is no bound, both where it is a figure."""
    if law == "needle":
        return (None, NEEDLE_STOP) if abs(value) <= NEEDLE_STOP else (1 - NEEDLE_STOP, None) if value >= 1.0 else (None, None)
    if law == "overload":
        return math.log10(OVERLOAD_OHM / 2.5), None
    if value < 0.25:
        return None, DIM
    return (DIM, LIT) if value < 0.75 else (LIT, None)


def _beep(beeps: bool, mean: Array, variance: Array) -> Fit:
    """The fit of a beep, or of none, to log10 ohm."""
    limit = math.log10(CONTINUITY_OHM)
    sigma = np.sqrt(variance + UNSURE_LOG**2)
    return _cut(None, limit, mean, sigma) if beeps else _cut(limit, None, mean, sigma)


def _plain(value: float, mean: Array, sigma: Array) -> Fit:
    away = (value - mean) / sigma
    density = T_CONSTANT - (TAIL + 1.0) / 2.0 * np.log1p(np.square(away) / (TAIL - 2.0)) - np.log(sigma)
    return Fit(density, away, value - mean, np.zeros_like(mean))


def _cut(low: float | None, high: float | None, mean: Array, sigma: Array) -> Fit:
    """A normal density cut where the reading says it is not: its share, and what is left of it."""

    a = np.full_like(mean, -np.inf) if low is None else (low - mean) / sigma
    b = np.full_like(mean, np.inf) if high is None else (high - mean) / sigma
    flip = a > 0  # the share is worked out on the side where it keeps its digits
    left, right = np.where(flip, -b, a), np.where(flip, -a, b)
    with np.errstate(all="ignore"):
        share = special.log_ndtr(right) + np.log1p(-np.exp(np.minimum(special.log_ndtr(left) - special.log_ndtr(right), -1e-12)))
        scale = np.exp(share)
        at_a, at_b = (np.where(np.isfinite(z), np.exp(-0.5 * np.square(z)) / math.sqrt(2 * math.pi), 0.0) for z in (a, b))
        shift = np.where(scale > 1e-12, (at_a - at_b) / scale, np.where(np.isfinite(a) & (a > 0), a, b))
        weighted = np.where(np.isfinite(a), a, 0.0) * at_a - np.where(np.isfinite(b), b, 0.0) * at_b
        keep = np.where(scale > 1e-12, 1.0 + weighted / scale - np.square(shift), 0.05)
    nearest = np.where(a > 0, a, np.where(b < 0, b, 0.0))
    return Fit(np.maximum(share, -700.0), np.nan_to_num(nearest), np.nan_to_num(shift) * sigma, np.clip(keep, 0.02, 1.0))


def broad_density(law: ReadAs, evidence: Evidence, circuit: Circuit) -> float:
    """Density, or chance, of a reading that may be anything. ``circuit``: what its supplies give says how far volts go."""
    if law == "beep":
        return 0.5
    if law == "overload":
        return 0.25
    if law == "look":
        return {0.0: 0.45, 1.0: 0.3}.get(evidence.value, 0.25)
    if law == "needle":
        return 0.4 if abs(evidence.value) <= NEEDLE_STOP else 0.2 if evidence.value >= 1.0 else 0.4
    if law == "size":  # evenly over the decades from nanoamperes to amperes
        return 0.11 * 0.4343 / max(abs(evidence.value), 1e-8)
    if evidence.test in ("ohm", "capacitance", "time"):
        return 0.11
    most = supply_volts(circuit)
    inside = -0.1 * most <= evidence.value <= 1.1 * most
    return 0.85 / (1.2 * most) if inside else 0.15 / 40.0
