"""What a needle does while it is watched: how it settles, overshoots and is damped; sticking, as the stairs it climbs while
the light creeps."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import optimize

Array = npt.NDArray[np.float64]
LEAST = 8
SETTLED = 0.02  # of the step, within which it has settled
LEAST_TREAD = 3  # readings in a row without moving, that make a tread of a stair


@dataclass(frozen=True)
class Settling:
    """A step of the needle: where it ended, its settling time (s, within 2 % of the step; nan where it did not), overshoot as a
    share of the step, damping ratio and natural frequency (Hz) of the pair of poles that fits."""

    end: float
    settling_s: float
    overshoot: float
    damping: float
    natural_hz: float


@dataclass(frozen=True)
class Sticking:
    """Stairs of a needle while the light creeps: the largest step it sticks for, in the needle's unit, their number, and whether
    they stand out of the noise."""

    largest: float
    steps: int
    sticks: bool


def settling(times_s: Array, values: Array) -> Settling:
    """How a needle settles after the light was changed at the first time.

    Raises NotEnoughData: fewer than 8; InvalidInput: times that do not rise, or values that are not finite.

    Parameters
    ----------
    times_s : float array, shape (n,); s, rising
    values : float array, shape (n,); the first from before the change

    Source: Least squares of a second-order step response (any textbook of control).
    """
    t, v = _checked(times_s, values)
    end = float(np.median(v[-max(len(v) // 5, 3) :]))
    step = end - float(v[0])
    if abs(step) < 1e-12:
        return Settling(end, 0.0, 0.0, math.nan, math.nan)
    share = (v - v[0]) / step
    outside = np.flatnonzero(np.abs(share - 1) > SETTLED)
    settled = float(t[outside[-1] + 1] - t[0]) if len(outside) and outside[-1] + 1 < len(t) else math.nan if len(outside) else 0.0
    fitted = _fitted(t - t[0], share)
    return Settling(end, settled, max(float(share.max()) - 1.0, 0.0), *fitted)


def _fitted(t: Array, share: Array) -> tuple[float, float]:
    """Damping ratio and natural frequency of the step response that fits best."""
    reach = np.flatnonzero(share > 0.5)
    half = float(t[reach[0]]) if len(reach) and reach[0] else float(t[-1]) / 10
    best, found = math.inf, (math.nan, math.nan)
    for damping in (0.2, 0.5, 0.9):
        start = [math.log(damping), math.log(1.2 / max(half, 1e-3))]
        solved = optimize.least_squares(lambda p: response(t, math.exp(p[0]), math.exp(p[1])) - share, start, max_nfev=100)
        if solved.cost < best:
            best, found = float(solved.cost), (math.exp(solved.x[0]), math.exp(solved.x[1]) / (2 * math.pi))
    return found


def response(times_s: Array, damping: float, omega: float) -> Array:
    """A second-order step response.

    Parameters
    ----------
    times_s : float array; s
    omega : float; natural angular frequency, 1/s

    Example
    -------
    >>> round(float(response(np.array([0.5]), 1.0, 4.0)[0]), 4)
    0.594
    """
    t = np.asarray(times_s, float)
    if damping < 1 - 1e-6:
        d = omega * math.sqrt(1 - damping**2)
        return np.asarray(1 - np.exp(-damping * omega * t) * (np.cos(d * t) + damping * omega / d * np.sin(d * t)))
    if damping < 1 + 1e-6:
        return np.asarray(1 - np.exp(-omega * t) * (1 + omega * t))
    root = math.sqrt(damping**2 - 1)
    a, b = omega * (damping - root), omega * (damping + root)
    return np.asarray(1 - (b * np.exp(-a * t) - a * np.exp(-b * t)) / (b - a))


def sticking(values: Array, noise: float) -> Sticking:
    """Stairs of a needle while the light creeps evenly one way.

    Raises NotEnoughData: fewer than 8.

    Parameters
    ----------
    values : float array, shape (n,); the needle, picture by picture
    noise : float; of one reading, standard deviation, same unit
    """
    _t, v = _checked(np.arange(len(values), dtype=float), values)
    if noise <= 0:
        raise InvalidInput("Noise", noise, "more than nothing")
    way = 1.0 if v[-1] >= v[0] else -1.0
    moved = way * np.diff(v)
    even = abs(float(v[-1] - v[0])) / (len(v) - 1)
    jumps = np.flatnonzero(moved > max(even + 4.5 * noise * math.sqrt(2.0), 2.5 * even))
    treads = [len(part) for part in np.split(moved, jumps)]
    told = len(jumps) >= 2 and float(np.median(treads)) >= LEAST_TREAD
    return Sticking(float(moved[jumps].max()) if len(jumps) else 0.0, len(jumps), bool(told))


def _checked(times_s: Array, values: Array) -> tuple[Array, Array]:
    t, v = np.asarray(times_s, float), np.asarray(values, float)
    if t.shape != v.shape or t.ndim != 1:
        raise InvalidInput("Readings", f"{len(v)} for {len(t)} times", "as many as times")
    if len(t) < LEAST:
        raise NotEnoughData("A needle's motion", len(t), LEAST)
    if not (np.isfinite(t).all() and np.isfinite(v).all() and (np.diff(t) > 0).all()):
        raise InvalidInput("Times", "not rising or not finite", "rising times with a value each")
    return t, v
