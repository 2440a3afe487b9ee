"""What failures follow, rather than chance: rest, a low battery, cold, a position, the lens, the supply."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.proof.log import Firing, epochs
from violet_dial.core.scipy_rooms import special, stats

Factor = Literal["rest", "low battery", "cold", "position", "lens", "supply"]
RESTS_H = (0.1, 1.0, 6.0, 20.0)  # where one kind of rest ends and the next begins: in a row, minutes, hours, a night, days
LEVELS = 6  # volts are judged in so many steps of as many firings each
MOST_EXACT = 60  # failures (or clean firings) of one epoch up to which the sum over all orders is exact
SURE = 0.05
Scores = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Followed:
    """One thing that failures may follow: ``p`` the chance of so close a link by luck, corrected for the number of things tried;
    ``detail`` which position, or which way; ``rate_in`` and ``rate_out`` failures and firings where it held and where not."""

    factor: Factor
    p: float
    detail: str
    rate_in: tuple[int, int]
    rate_out: tuple[int, int]


def follow(log: tuple[Firing, ...], sure: float = SURE) -> tuple[Followed, ...]:
    """What failures follow beyond luck, the surest first; nothing where luck explains them.

    Parameters
    ----------
    log : firings, all epochs; luck is judged within each, so that a repair is not taken for a cause
    sure : float, the chance of naming anything where failures follow nothing

    Source: Exact test for trend: of all ways to spread an epoch's failures over its firings, the share with as high a sum of
    scores or higher (Cochran 1954, Armitage 1955, in their exact form); times the number of things tried (Bonferroni). Beyond
    60 failures in an epoch by the normal curve.
    """
    tried = every(log)
    return tuple(one for one in tried if one.p < sure)


def every(log: tuple[Firing, ...]) -> tuple[Followed, ...]:
    """All things that could be tried on a log, the surest first, each with its corrected chance."""
    found = [one for factor in ("rest", "low battery", "cold", "lens", "supply") if (one := _ordered(log, factor))]
    place = _position(log)
    found += [place] if place is not None else []
    tries = len(found)
    corrected = [Followed(one.factor, min(one.p * tries, 1.0), one.detail, one.rate_in, one.rate_out) for one in found]
    return tuple(sorted(corrected, key=lambda one: one.p))


def scored(log: tuple[Firing, ...], factor: Factor) -> tuple[tuple[Firing, ...], Scores]:
    """The firings of which a thing is known, and how much of it each had: 0 upwards."""
    if factor == "rest":
        known = tuple(one for one in log if one.rest_h is not None)
        return known, np.searchsorted(RESTS_H, [one.rest_h or 0.0 for one in known], side="right").astype(np.int64)
    if factor == "low battery":
        known = tuple(one for one in log if one.battery_v is not None)
        volts = np.array([one.battery_v or 0.0 for one in known])
        edges = np.quantile(volts, np.linspace(0, 1, LEVELS + 1)[1:-1]) if len(volts) else np.array([])
        return known, (LEVELS - 1 - np.searchsorted(edges, volts, side="right")).astype(np.int64)
    if factor == "lens":
        known = tuple(one for one in log if one.lens is not None)
        return known, np.array([int(bool(one.lens)) for one in known], dtype=np.int64)
    if factor == "supply":
        known = tuple(one for one in log if one.supply)
        return known, np.array([int(one.supply == "battery") for one in known], dtype=np.int64)
    return log, np.array([int(one.cold) for one in log], dtype=np.int64)


def _ordered(log: tuple[Firing, ...], factor: Factor) -> Followed | None:
    known, scores = scored(log, factor)
    if len(set(scores.tolist())) < 2 or not any(one.failed for one in known):
        return None
    p_up = _chance(known, scores)
    p, up = p_up, True
    if factor in ("lens", "supply"):  # either way round would be worth knowing
        p_down = _chance(known, scores.max() - scores)
        p, up = min(2 * min(p_up, p_down), 1.0), p_up <= p_down
    split = _split(known, scores if up else scores.max() - scores)
    return Followed(factor, p, _DETAIL[factor, up], *split)


_DETAIL: dict[tuple[str, bool], str] = {
    ("rest", True): "after a rest", ("low battery", True): "on low volts", ("cold", True): "in the cold",
    ("lens", True): "with the lens on", ("lens", False): "without the lens", ("supply", True): "on batteries",
    ("supply", False): "on the bench supply",
}  # fmt: skip


def _split(known: tuple[Firing, ...], scores: Scores) -> tuple[tuple[int, int], tuple[int, int]]:
    """Failures and firings above and below the edge that parts them best."""
    failed = np.array([bool(one.failed) for one in known])
    best, found = -1.0, ((0, 0), (0, 0))
    for edge in np.unique(scores)[1:]:
        high = scores >= edge
        inside, outside = (int(failed[high].sum()), int(high.sum())), (int(failed[~high].sum()), int((~high).sum()))
        apart = inside[0] / inside[1] - outside[0] / outside[1]
        if apart > best:
            best, found = apart, (inside, outside)
    return found


def _position(log: tuple[Firing, ...]) -> Followed | None:
    known = tuple(one for one in log if one.position)
    places = sorted({one.position for one in known})
    if len(places) < 2 or not any(one.failed for one in known):
        return None
    found = []
    for place in places:
        scores = np.array([int(one.position == place) for one in known], dtype=np.int64)
        found.append((min(_chance(known, scores) * len(places), 1.0), place, _split(known, scores)))
    p, place, split = min(found)
    return Followed("position", p, place, *split)


def _chance(known: tuple[Firing, ...], scores: Scores) -> float:
    """The chance of so high a sum of the failures' scores or higher, failures shuffled within each epoch."""
    at = {id(one): score for one, score in zip(known, scores, strict=True)}
    spread, seen, mean, variance, exact = np.array([1.0]), 0, 0.0, 0.0, True
    for _name, several in epochs(known):
        own = np.array([at[id(one)] for one in several])
        failed = np.array([bool(one.failed) for one in several])
        count, n = int(failed.sum()), len(own)
        if not count:
            continue
        seen += int(own[failed].sum())
        mean += count * float(own.mean())
        variance += count * (n - count) / max(n - 1, 1) * float(own.var())
        exact = exact and min(count, n - count) <= MOST_EXACT
        if exact:
            spread = np.convolve(spread, _sums(own, count))
    if exact:
        return min(float(spread[seen:].sum()), 1.0)
    return float(stats.norm.sf((seen - 0.5 - mean) / max(variance, 1e-12) ** 0.5))


def _sums(scores: Scores, count: int) -> npt.NDArray[np.float64]:
    """Chances of each sum of scores when ``count`` of these firings, any of them, fail."""
    n, total = len(scores), int(scores.sum())
    if count > n - count:  # the clean ones are fewer: what they do not sum up to, the failures do
        return _sums(scores, n - count)[::-1]
    top = int(np.sort(scores)[::-1][:count].sum())
    ways = np.zeros((count + 1, top + 1))
    ways[0, 0] = 1.0
    levels, counts = np.unique(scores, return_counts=True)
    for level, many in zip(levels.tolist(), counts.tolist(), strict=True):
        new = np.zeros_like(ways)
        for take in range(min(many, count) + 1):
            shift = take * level
            if shift > top:
                break
            weight = np.exp(_log_comb(many, take))
            new[take:, shift:] += weight * ways[: count + 1 - take, : top + 1 - shift]
        ways = new / new.max()
    found = np.zeros(total + 1)
    found[: top + 1] = ways[count]
    spread: npt.NDArray[np.float64] = found / found.sum()
    return spread


def _log_comb(n: int, k: int) -> float:
    return float(special.gammaln(n + 1) - special.gammaln(k + 1) - special.gammaln(n - k + 1))
