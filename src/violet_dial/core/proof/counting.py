"""Failures counted: exact intervals, before against after, one setting against the others, failures in bunches."""

import itertools
import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.log import Firing, by_setting, failures
from violet_dial.core.scipy_rooms import special, stats

SMALL = 20  # firings below which a share of failures is called a small number; common practice, no source
SURE = 0.05
Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Rate:
    """Failures of so many, and the exact interval of their chance."""

    name: str
    n: int
    failed: int
    low: float
    high: float

    @property
    def is_small(self) -> bool:
        """Whether so few firings say little."""
        return self.n < SMALL


@dataclass(frozen=True)
class Better:
    """Before against after: ``by_luck`` is the chance of so few failures after (or fewer) if nothing had changed; ``chance`` that
    it fails less often now, every share of failures being as likely beforehand."""

    before: Rate
    after: Rate
    by_luck: float
    chance: float


@dataclass(frozen=True)
class Worse:
    """One setting that fails more often than the others; ``p`` is corrected for the number of settings."""

    setting: str
    p: float
    rate: Rate
    others: Rate


def checked_share(share: float, field: str) -> float:
    """A share strictly between 0 and 1. Raises InvalidInput: it is not."""
    if not (math.isfinite(share) and 0.0 < share < 1.0):
        raise InvalidInput(field, share, "a share between 0 and 1, such as 0.05 or 0.95")
    return share


def interval(failed: int, n: int, confidence: float = 0.95) -> tuple[float, float]:
    """The exact two-sided interval of a chance of failure.

    Raises InvalidInput: more failures than firings, or a confidence that is none.

    Parameters
    ----------
    failed : int, 0 to n
    confidence : float, 0 to 1

    Returns
    -------
    (low, high), dimensionless

    Source: Clopper and Pearson, Biometrika 26 (1934) 404; by the beta distribution (from memory).

    Example
    -------
    >>> tuple(round(one, 4) for one in interval(3, 10))
    (0.0667, 0.6525)
    """
    if not 0 <= failed <= n:
        raise InvalidInput("Failed", failed, f"0 to {n} of {n} firings")
    tail = (1 - checked_share(confidence, "Confidence")) / 2
    low = float(stats.beta.ppf(tail, failed, n - failed + 1)) if failed else 0.0
    high = float(stats.beta.ppf(1 - tail, failed + 1, n - failed)) if failed < n else 1.0
    return low, high


def upper(failed: int, n: int, confidence: float = 0.95) -> float:
    """The exact one-sided upper limit of a chance of failure: with it a claim "fewer than" is made.

    Parameters
    ----------
    failed : int, 0 to n
    confidence : float, 0 to 1

    Example
    -------
    >>> round(upper(0, 59), 4)
    0.0495
    """
    return float(stats.beta.ppf(checked_share(confidence, "Confidence"), failed + 1, n - failed)) if failed < n else 1.0


def clean_run(claim: float, confidence: float = 0.95) -> int:
    """How many clean firings in a row allow the claim that fewer than a share fail.

    Parameters
    ----------
    claim : float, 0 to 1
    confidence : float, 0 to 1

    Source: n = ceil(ln(1 - c)/ln(1 - p)).

    Example
    -------
    >>> clean_run(0.05), clean_run(0.01)
    (59, 299)
    """
    claim, confidence = checked_share(claim, "Claim"), checked_share(confidence, "Confidence")
    return max(math.ceil(math.log(1 - confidence) / math.log(1 - claim) - 1e-9), 1)


def rate(name: str, log: tuple[Firing, ...], confidence: float = 0.95) -> Rate:
    """Failures of some firings with their interval. ``confidence``: float, 0 to 1."""
    failed = failures(log)
    return Rate(name, len(log), failed, *interval(failed, len(log), confidence))


def better(before: Rate, after: Rate) -> Better:
    """Whether it fails less often after a repair than before.

    Source: Fisher's exact test, one-sided: given all failures of both, how many of them fall after by luck. The chance is the
    exact sum over two beta distributions.
    """
    both = before.failed + after.failed
    by_luck = float(stats.hypergeom.cdf(after.failed, before.n + after.n, both, after.n)) if before.n and after.n else 1.0
    return Better(before, after, min(by_luck, 1.0), chance_less(after, before))


def chance_less(one: Rate, other: Rate) -> float:
    """The chance that one fails less often than the other, every share being as likely beforehand.

    Example
    -------
    >>> nothing = Rate("", 0, 0, 0.0, 1.0)
    >>> round(chance_less(nothing, nothing), 6)
    0.5
    """
    a, b = one.failed + 1.0, one.n - one.failed + 1.0
    c, d = other.failed + 1.0, other.n - other.failed + 1.0
    places = np.arange(c)
    terms = special.betaln(a + places, b + d) - np.log(d + places) - special.betaln(1 + places, d) - special.betaln(a, b)
    return min(float(np.exp(terms).sum()), 1.0)


def worse(log: tuple[Firing, ...], confidence: float = 0.95) -> Worse | None:
    """The setting that fails more often than the others, if one does beyond doubt.

    ``confidence``: float, 0 to 1; of the intervals, and 1 - it the chance of naming one where none is worse.

    Source: Fisher's exact test of each setting against all others, times the number of settings (Bonferroni).
    """
    parted = by_setting(log)
    if len(parted) < 2:
        return None
    total, failed = len(log), failures(log)
    found = []
    for name, several in parted.items():
        p = float(stats.hypergeom.sf(failures(several) - 1, total, failed, len(several)))
        found.append((min(p * len(parted), 1.0), name))
    p, name = min(found)
    if p >= 1 - confidence:
        return None
    others = tuple(one for one in log if one.setting != name)
    return Worse(name, p, rate(name, parted[name], confidence), rate("the others", others, confidence))


def bunched(log: tuple[Firing, ...]) -> float:
    """The chance that failures stand so close together (in so few runs, or fewer) by luck, settings taken each by itself.

    Source: Wald and Wolfowitz, Annals of Mathematical Statistics 11 (1940) 147: exact distribution of the number of runs (from
    memory); over settings by convolution.

    Example
    -------
    >>> clean, failed = Firing("1/60"), Firing("1/60", "jammed")
    >>> round(bunched((clean,) * 5 + (failed,) * 5), 5)  # 2 of 252 orders
    0.00794
    """
    spread, seen = np.array([1.0]), 0
    for several in by_setting(log).values():
        flags = [bool(one.failed) for one in several]
        bad, good = sum(flags), len(flags) - sum(flags)
        if not bad or not good:
            continue
        seen += 1 + sum(a != b for a, b in itertools.pairwise(flags))
        spread = np.convolve(spread, _runs(bad, good))
    return min(float(spread[: seen + 1].sum()), 1.0) if seen else 1.0


def _runs(bad: int, good: int) -> Array:
    """Chances of 0, 1, 2 .. runs of so many failures among so many clean firings."""
    most = 2 * min(bad, good) + 1
    ways = np.zeros(most + 1)
    half = np.arange(1, most // 2 + 2)
    a, b = special.comb(bad - 1, half - 1), special.comb(good - 1, half - 1)
    a_more, b_more = special.comb(bad - 1, half), special.comb(good - 1, half)
    for at, place in enumerate(half):
        if 2 * place <= most:
            ways[2 * place] = 2 * a[at] * b[at]
        if 2 * place + 1 <= most:
            ways[2 * place + 1] = a_more[at] * b[at] + a[at] * b_more[at]
    ways /= ways.sum()
    return ways
