"""What is wrong with a shutter, from how its speeds are off: one ratio, a constant time, the slow ones, one alone, grease, taper.

Each kind says what every firing should show; how well it does is averaged over all its figures may be (marginal likelihood), so
that a kind with more to choose from must earn it. None of these is among the kinds: then every speed is off by its own amount.

Source: Marginal likelihood by sums over a grid: any textbook of Bayesian statistics. Error of a constant delay: log2((t + d) /
t). Kinds, priors, and how far a sound shutter's speeds differ by themselves: common practice, no source.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import NotEnoughData
from violet_dial.core.exposure.ladder import Timed

Array = npt.NDArray[np.float64]
Kind = Literal["true", "ratio", "constant", "slow", "position", "grease", "taper", "fastest", "none"]
Works = Literal["leaf", "focal plane", "electronic"]
PRIORS: dict[Kind, float] = {
    "true": 0.2, "ratio": 0.16, "constant": 0.14, "slow": 0.14, "position": 0.1, "grease": 0.08, "taper": 0.08,
    "fastest": 0.06, "none": 0.04,
}  # fmt: skip
OWN_STOPS = 0.07  # by which each speed of a sound shutter is off by itself, one standard deviation
ANY_STOPS = 0.9  # and where none of the kinds holds
SIGMAS = np.geomspace(0.015, 0.4, 8)  # scatter of one firing, stops
LOOSENS = 2.5  # firings after which old grease has come loose to a third
TAPER_OWN = 0.08  # taper of a sound shutter, one standard deviation
TAPER_ANY, UNEVEN = 0.6, 0.3  # and where none of the kinds holds: how far it may taper, and how often it does
LEAST_RUNGS, LEAST_FOR_TWO = 3, 5
PAIRED: tuple[Kind, ...] = ("ratio", "constant", "taper", "slow")  # with which one speed may be off beside
TWO, COARSE = 0.12, 11  # prior of a second fault; figures tried of each of the two
AMOUNTS = np.concatenate([-np.geomspace(2.5, 0.15, 32), np.geomspace(0.15, 2.5, 32)])  # stops
AMOUNT_U = 0.8  # one standard deviation of what a speed is off by
DELAYS = np.concatenate([-np.geomspace(2e-2, 2e-5, 48), np.geomspace(2e-5, 4e-2, 54)])  # s
LEAST_SHARE = 0.03  # of a time that is left when a delay takes nearly all of it


@dataclass(frozen=True)
class Pattern:
    """One kind with its weight (all together 1); ``figure`` in stops or s as the kind has it; ``marked_s`` the speed it is about
    or begins at, 0 where it is about all; ``beside_s`` a speed that is off by itself beside it, by ``beside_stops``."""

    kind: Kind
    weight: float
    figure: float = 0.0
    marked_s: float = 0.0
    beside_s: float = 0.0
    beside_stops: float = 0.0


@dataclass(frozen=True)
class _Firings:
    """Arrays over firings: errors and their u (stops), marks (s), rung of each, firings since rest, taper; NaN where not
    known."""

    errors: Array
    u: Array
    marks: Array
    rungs: Array  # true times, slowest first
    place: npt.NDArray[np.intp]
    since: Array
    taper: Array

    @cached_property
    def count(self) -> Array:
        """Firings of each speed."""
        return np.bincount(self.place, minlength=len(self.rungs)).astype(float)

    @cached_property
    def gather(self) -> Array:
        """What makes means of speeds out of firings, shape (r, n)."""
        found: Array = (self.place[None, :] == np.arange(len(self.rungs))[:, None]) / self.count[:, None]
        return found

    @cached_property
    def within(self) -> float:
        """Sum of squares about the mean of each speed."""
        return float(((self.errors - (self.gather @ self.errors)[self.place]) ** 2).sum())


# errors by speed (g, r), of grease by firing (g, n); log prior (g,), figure (g,), mark it is about (g,)
Predicted = tuple[Array, Array, Array, Array]


def patterns(firings: Sequence[Timed]) -> tuple[Pattern, ...]:
    """Every kind with its weight, the likeliest first.

    ``firings``: of at least three speeds. Raises NotEnoughData: fewer speeds.
    """
    marks = np.array([firing.marked_s for firing in firings])
    rungs = np.array(sorted(set(marks.tolist()), reverse=True))
    if len(rungs) < LEAST_RUNGS:
        raise NotEnoughData("Speeds to tell a pattern", len(rungs), LEAST_RUNGS)
    place = np.searchsorted(-rungs, -marks)
    given = _Firings(
        np.array([firing.stops for firing in firings]), np.array([firing.u_stops for firing in firings]), marks, rungs, place,
        np.array([np.nan if firing.since_rest is None else float(firing.since_rest) for firing in firings]),
        np.array([np.nan if firing.taper_stops is None else firing.taper_stops for firing in firings]),
    )  # fmt: skip
    found: list[tuple[float, Pattern]] = []
    for kind, make in KINDS.items():
        predicted = make(given)
        if predicted is None:
            continue
        found.append(_weighed(given, kind, predicted, None))
        if kind in PAIRED and len(rungs) >= LEAST_FOR_TWO:
            found.append(_weighed(given, kind, *_crossed(given, predicted)))
    logs = np.array([one for one, _ in found])
    weights = np.exp(logs - _log_sum(logs))
    made = [replace(one, weight=float(weight)) for (_, one), weight in zip(found, weights, strict=True)]
    return tuple(sorted(made, key=lambda one: -one.weight))


def _weighed(given: _Firings, kind: Kind, predicted: Predicted, beside: tuple[Array, Array] | None) -> tuple[float, Pattern]:
    """Log weight of a kind, with its figure averaged about the likeliest speed it may be about."""
    each = _each(given, predicted, kind)
    total = float(_log_sum(each))
    share = np.exp(each - total)
    best = int(np.argmax(share))
    same = predicted[3] == predicted[3][best]
    log = math.log(PRIORS[kind]) + total
    if beside is None:
        return log, Pattern(kind, 0.0, _mean(predicted[2], share * same), float(predicted[3][best]))
    same &= beside[0] == beside[0][best]
    figure, at = _mean(predicted[2], share * same), int(np.searchsorted(-given.rungs, -beside[0][best]))
    rest = float(predicted[0][best, at] - beside[1][best])  # what the kind alone says there: the grids are coarse
    alone = float((given.gather @ given.errors)[at]) - rest
    return log + math.log(TWO), Pattern(kind, 0.0, figure, float(predicted[3][best]), float(beside[0][best]), alone)


def _mean(values: Array, share: Array) -> float:
    return float((share * values).sum() / max(share.sum(), 1e-300))


def _crossed(given: _Firings, predicted: Predicted) -> tuple[Predicted, tuple[Array, Array]]:
    """A kind with one speed off by itself beside it: on coarser grids; the speeds and stops of what is beside."""
    errors, prior, figures, about = (one[:: max(len(predicted[1]) // COARSE, 1)] for one in predicted)
    prior = prior - _log_sum(prior)
    alone, own, stops, marks = _position(given, AMOUNTS[:: len(AMOUNTS) // COARSE])
    count = len(alone)
    both = (errors[:, None, :] + alone[None, :, :]).reshape(-1, errors.shape[1])
    crossed = both, (prior[:, None] + own[None, :]).ravel(), np.repeat(figures, count), np.repeat(about, count)
    return crossed, (np.tile(marks, len(prior)), np.tile(stops, len(prior)))


def _each(given: _Firings, predicted: Predicted, kind: Kind) -> Array:
    """Log of likelihood times prior for every figure, averaged over the scatter; shape (g,)."""
    errors, prior, figures, _ = predicted
    count = given.count
    if kind == "grease":  # alone says something else of each firing
        left = given.errors - errors
        mean = left @ given.gather.T
        within = ((left - mean[:, given.place]) ** 2).sum(axis=1)
    else:
        mean, within = given.gather @ given.errors - errors, given.within
    measured = (given.gather**2) @ given.u**2
    own = ANY_STOPS if kind == "none" else OWN_STOPS
    free = len(given.errors) - len(given.rungs)
    spread = own**2 + SIGMAS[:, None] ** 2 / count + measured  # (s, r)
    both = SIGMAS**2 + float(np.mean(given.u**2))  # (s,)
    between = mean**2 @ (1.0 / spread).T + np.log(spread).sum(axis=1)  # (g, s)
    levels = -0.5 * (between + np.asarray(within)[..., None] / both + free * np.log(both))
    return _log_sum(levels.T) - math.log(len(SIGMAS)) + prior + _tapered(given, figures, kind)


def _log_sum(logs: Array) -> Array:
    """Log of the sum of what these are the logs of, over the first axis; SciPy's own takes longer to be called than to count."""
    most = logs.max(axis=0)
    found: Array = np.log(np.exp(logs - most).sum(axis=0)) + most
    return found


def _tapered(given: _Firings, figures: Array, kind: Kind) -> Array:
    """What the tapers measured say, where there are any."""
    seen = ~np.isnan(given.taper)
    if not seen.any():
        return np.zeros(len(figures))
    expected = np.zeros((len(figures), int(seen.sum())))
    if kind == "taper":
        expected = _delayed(given.marks[seen], figures[:, None])
    even = _taper_density(given.taper[seen] - expected, TAPER_OWN)
    if kind != "none":
        return even
    found: Array = np.logaddexp(
        even + math.log(1 - UNEVEN), _taper_density(given.taper[seen] - expected, TAPER_ANY) + math.log(UNEVEN)
    )
    return found


def _taper_density(off: Array, u: float) -> Array:
    """Log density of tapers that are off so much, shape (g, n), summed."""
    found: Array = (-0.5 * (off / u) ** 2 - math.log(u)).sum(axis=1)
    return found


def _normal(amounts: Array) -> Array:
    """Log prior of amounts of stops."""
    weight = np.exp(-0.5 * (amounts / AMOUNT_U) ** 2) * np.abs(np.gradient(amounts))
    found: Array = np.log(weight / weight.sum())
    return found


def _even(count: int) -> Array:
    return np.full(count, -math.log(count))


def _delayed(marks: Array, delays: Array) -> Array:
    """Error where a constant time comes in, stops."""
    return np.log2(np.maximum((marks + delays) / marks, LEAST_SHARE))


def _true(given: _Firings) -> Predicted:
    return np.zeros((1, len(given.rungs))), np.zeros(1), np.zeros(1), np.zeros(1)


def _ratio(given: _Firings) -> Predicted:
    return np.repeat(AMOUNTS[:, None], len(given.rungs), axis=1), _normal(AMOUNTS), AMOUNTS, np.zeros(len(AMOUNTS))


def _constant(given: _Firings) -> Predicted | None:
    fastest = given.rungs[-1]
    seen = np.abs(_delayed(fastest, DELAYS)) > 0.12  # one too short to be seen at all is none
    delays = DELAYS[seen & (-0.97 * fastest < DELAYS)]
    return _delayed(given.rungs, delays[:, None]), _even(len(delays)), delays, np.zeros(len(delays))


def _slow(given: _Firings) -> Predicted:
    """From one speed on to the slowest, evenly or growing; two of them at least, and a faster one that is not."""
    made = []
    for last in range(1, len(given.rungs) - 1):
        at = np.arange(len(given.rungs))
        inside = at <= last
        grown = np.where(inside, (last + 1 - at) / (last + 1), 0.0)
        made += [(AMOUNTS[:, None] * shape, given.rungs[last]) for shape in (inside.astype(float), grown)]
    prior = np.concatenate([_normal(AMOUNTS) - math.log(len(made)) for _ in made])
    about = np.concatenate([np.full(len(AMOUNTS), mark) for _, mark in made])
    return np.concatenate([one for one, _ in made]), prior, np.tile(AMOUNTS, len(made)), about


def _position(given: _Firings, amounts: Array = AMOUNTS) -> Predicted:
    count = len(given.rungs)
    made = np.concatenate([amounts[:, None] * (np.arange(count) == one) for one in range(count)])
    prior = np.tile(_normal(amounts), count) - math.log(count)
    return made, prior, np.tile(amounts, count), np.repeat(given.rungs, len(amounts))


def _grease(given: _Firings) -> Predicted | None:
    """Slow after rest, looser with each firing."""
    if np.isnan(given.since).any() or given.since.max() < 2:
        return None
    amounts = AMOUNTS[AMOUNTS >= 0.2]
    return amounts[:, None] * np.exp(-given.since / LOOSENS), _normal(amounts), amounts, np.zeros(len(amounts))


def _taper(given: _Firings) -> Predicted | None:
    """One curtain slower than the other: the middle is off by half the difference."""
    if np.isnan(given.taper).all():
        return None
    fastest = given.rungs[-1]
    delays = DELAYS[(np.abs(_delayed(fastest, DELAYS)) > 0.2) & (-0.97 * fastest < DELAYS)]
    return _delayed(given.rungs, delays[:, None] / 2), _even(len(delays)), delays, np.zeros(len(delays))


def _fastest(given: _Firings) -> Predicted:
    """No time shorter than one that is longer than the fastest mark."""
    amounts = AMOUNTS[AMOUNTS >= 0.2]
    shortest = given.rungs[-1] * 2.0**amounts
    made = np.maximum(np.log2(shortest[:, None] / given.rungs), 0.0)
    return made, _normal(amounts), amounts, np.full(len(amounts), given.rungs[-1])


KINDS: dict[Kind, Callable[[_Firings], Predicted | None]] = {
    "true": _true, "ratio": _ratio, "constant": _constant, "slow": _slow, "position": _position, "grease": _grease,
    "taper": _taper, "fastest": _fastest, "none": _true,
}  # fmt: skip
