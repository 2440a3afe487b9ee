"""Readings over hours or days: drift with its interval, a step that makes it another device, when it is due again."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import stats

LEAST, MOST = 4, 2_000
MOST_PLACES = 200  # at which a step is looked for
LEAST_SIDE = 3  # readings on either side of a step
SURE = 0.01  # chance of seeing a step where there is none
FARTHEST = 3650.0  # days: a date beyond it is none
Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Soak:
    """Readings over time. ``drift`` per unit of time since the step (if one was seen) with its 95 % interval; ``step_at`` the
    place of the first reading that is not the same device's any more, ``step`` by how much; ``due`` when the drift may have
    used up what is allowed, in units of time from the first reading, None where it is not foreseen."""

    mean: float
    scatter: float
    drift: float
    drift_low: float
    drift_high: float
    step_at: int | None
    step: float
    due: float | None

    @property
    def drifts(self) -> bool:
        """Whether the drift is beyond doubt."""
        return self.drift_low > 0 or self.drift_high < 0


def soak(times: Array, values: Array, allowed: float | None = None) -> Soak:
    """What readings over time say.

    Raises InvalidInput: not as many times as values, not finite, or times that do not rise; NotEnoughData: fewer than 4.

    Parameters
    ----------
    times : float array, shape (n,); hours or days, rising
    values : float array, shape (n,); in any unit
    allowed : float or None; how far the value may go from what it was at first, same unit

    Source: Least squares; a step by the largest two-sample t over all places, its chance times the number of places
    (Bonferroni).
    """
    times, values = np.asarray(times, float), np.asarray(values, float)
    if times.shape != values.shape or times.ndim != 1 or len(times) > MOST:
        raise InvalidInput("Readings", f"{len(values)} for {len(times)} times", f"as many as times, at most {MOST}")
    if len(times) < LEAST:
        raise NotEnoughData("A drift", len(times), LEAST)
    if not (np.isfinite(times).all() and np.isfinite(values).all() and (np.diff(times) > 0).all()):
        raise InvalidInput("Times", "not rising or not finite", "rising times with a figure each")
    at, size = _step(times, values)
    since = slice(at or 0, None)
    own_t, own_v = times[since], values[since]
    if len(own_t) >= LEAST_SIDE:
        line = stats.linregress(own_t, own_v)
        spread = float(stats.t.ppf(0.975, len(own_t) - 2)) * float(line.stderr)
        drift, level = float(line.slope), float(line.intercept + line.slope * own_t[0])
        scatter = float(np.std(own_v - line.intercept - line.slope * own_t, ddof=2)) if len(own_t) > 2 else 0.0
    else:
        drift, spread, level, scatter = 0.0, math.inf, float(own_v.mean()), 0.0
    due = None
    if allowed is not None and allowed > 0 and math.isfinite(spread):
        due = _due(times[0], own_t[0], level - float(values[0]), max(abs(drift - spread), abs(drift + spread)), allowed)
    return Soak(float(own_v.mean()), scatter, drift, drift - spread, drift + spread, at, size, due)


def _step(times: Array, values: Array) -> tuple[int | None, float]:
    """Where the readings jump beyond what drift and scatter explain."""
    n = len(values)
    places = range(LEAST_SIDE, n - LEAST_SIDE + 1, max(n // MOST_PLACES, 1))
    if not places:
        return None, 0.0
    best, found, size = math.inf, None, 0.0
    bare = _left(times, values)
    for at in places:
        high = (np.arange(n) >= at).astype(float)
        matrix = np.stack([np.ones(n), times - times[0], high], axis=1)
        solved, _left_over, rank, _sv = np.linalg.lstsq(matrix, values, rcond=None)
        residual = values - matrix @ solved
        free = n - 3
        if rank < 3 or free < 1:
            continue
        left_over = max(float(residual @ residual), 1e-30 * max(float(values @ values), 1e-30))
        f = max((bare - left_over) / (left_over / free), 0.0)
        p = 2 * float(stats.t.sf(math.sqrt(f), free)) * len(places)
        if p < best:
            best, found, size = p, at, float(solved[2])
    return (found, size) if best < SURE else (None, 0.0)


def _left(times: Array, values: Array) -> float:
    line = stats.linregress(times, values)
    residual = values - line.intercept - line.slope * times
    return float(residual @ residual)


def _due(first: float, since: float, moved: float, per_unit: float, allowed: float) -> float | None:
    """When the fastest drift that the readings allow has used up what is left."""
    left = allowed - abs(moved)
    if left <= 0:
        return 0.0
    if per_unit <= 0:
        return None
    found = since - first + left / per_unit
    return found if found <= FARTHEST else None
