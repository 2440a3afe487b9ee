"""How many firings prove a claim: a fixed number, or one after the other with both errors kept."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.counting import checked_share
from violet_dial.core.scipy_rooms import stats

GOOD_SHARE = 0.1  # a device that fails a tenth as often as the claim allows is called good; common practice, no source
POWER = 0.95  # a good device is to be proved with this chance
LEAST_CLAIM, MOST_CLAIM, MOST_CONFIDENCE = 0.005, 0.5, 0.999
MOST_FIXED = 5_000
STEPS = 30  # of halving, to the boundary that keeps the error


@dataclass(frozen=True)
class Fixed:
    """A plan of ``n`` firings with at most ``allowed`` failures among them."""

    n: int
    allowed: int
    power: float


@dataclass(frozen=True)
class Sequence:
    """A plan that may end after any firing: with f failures so far the claim is made at ``prove_at[f]`` firings, and the trial is
    given up at ``stop_at[n]`` failures after n firings. ``false_claim`` at a device that is just as bad as the claim, ``power``
    at a good one, ``expected`` firings at a good one: all three by the sum over every course."""

    claim: float
    confidence: float
    good: float
    prove_at: tuple[int, ...]
    stop_at: tuple[int, ...]
    most: int
    false_claim: float
    power: float
    expected: float


def checked_claim(claim: float, confidence: float) -> None:
    """Whether a claim can be planned for.

    ``claim``: float, the share that must not be reached. Raises InvalidInput: out of bounds.
    """
    if not LEAST_CLAIM <= checked_share(claim, "Claim") <= MOST_CLAIM:
        raise InvalidInput("Claim", claim, f"{LEAST_CLAIM} to {MOST_CLAIM}: 0.05 is fewer than 1 in 20")
    if not 0.5 <= checked_share(confidence, "Confidence") <= MOST_CONFIDENCE:
        raise InvalidInput("Confidence", confidence, f"0.5 to {MOST_CONFIDENCE}, such as 0.95")


@lru_cache(maxsize=64)
def fixed_plan(claim: float, confidence: float, power: float = POWER) -> Fixed:
    """The least fixed number of firings that keeps both errors.

    ``power``: float, the chance that a good device (a tenth of the claim) is proved. Raises InvalidInput: claim or confidence
    out of bounds.

    Example
    -------
    >>> fixed_plan(0.05, 0.95)
    Fixed(n=124, allowed=2, power=0.9752206088295438)
    """
    checked_claim(claim, confidence)
    for allowed in range(30):
        n = np.arange(allowed + 1, MOST_FIXED)
        enough = n[stats.binom.cdf(allowed, n, claim) <= 1 - confidence + 1e-12]
        if len(enough) and (reached := float(stats.binom.cdf(allowed, enough[0], claim * GOOD_SHARE))) >= power:
            return Fixed(int(enough[0]), allowed, reached)
    raise InvalidInput("Claim", claim, "a claim that some thousand firings can prove")


@lru_cache(maxsize=64)
def sequence(claim: float, confidence: float, power: float = POWER) -> Sequence:
    """The sequential plan: Wald's boundaries, ended at twice the fixed number, the upper one moved until the error is kept.

    ``power``: float, the chance that a good device is proved. Raises InvalidInput: claim or confidence out of bounds.

    Source: Wald, Sequential Analysis (1947), the test of a binomial proportion (from memory); error rates here by the exact sum
    over all courses, not by Wald's inequalities.
    """
    checked_claim(claim, confidence)
    good, wrong = claim * GOOD_SHARE, 1 - confidence
    clean, bad = math.log((1 - good) / (1 - claim)), math.log(claim / good)
    most = 2 * fixed_plan(claim, confidence, power).n
    give_up = math.log((1 - wrong) / (1 - power))
    for _step in range(4):  # the lower boundary gives way until the power is kept
        low, high = 0.0, 2 * math.log(power / wrong)
        for _halving in range(STEPS):
            middle = (low + high) / 2
            error = _courses(claim, _boundaries(middle, give_up, clean, bad, most), most)[0]
            low, high = (middle, high) if error > wrong else (low, middle)
        edges = _boundaries(high, give_up, clean, bad, most)
        reached, expected = _courses(good, edges, most)
        if reached >= power:
            break
        give_up += bad
    error = _courses(claim, edges, most)[0]
    return Sequence(claim, confidence, good, edges[0], edges[1], most, error, reached, expected)


Edges = tuple[tuple[int, ...], tuple[int, ...]]


def _boundaries(prove: float, give_up: float, clean: float, bad: float, most: int) -> Edges:
    """Firings at which each number of failures proves; failures at which each number of firings gives up."""
    failures = range(int((most * clean) / bad) + 3)
    prove_at = tuple(one for f in failures if (one := f + math.ceil((prove + f * bad) / clean - 1e-9)) <= most)
    stop_at = tuple(max(math.ceil((n * clean + give_up) / (bad + clean) - 1e-9), 1) for n in range(most + 1))
    return prove_at, stop_at


def _courses(chance: float, edges: Edges, most: int) -> tuple[float, float]:
    """The chance that a device which fails so often is proved, and how many firings it takes to either end."""
    prove_at, stop_at = edges
    width = len(prove_at) + 2
    going, proved, expected = np.zeros(width), 0.0, 0.0
    going[0] = 1.0
    for n in range(1, most + 1):
        expected += float(going.sum())
        moved = going * (1 - chance)
        moved[1:] += going[:-1] * chance
        for f, at in enumerate(prove_at):
            if at <= n:
                proved += float(moved[f])
                moved[f] = 0.0
        moved[min(stop_at[n], width - 1) :] = 0.0
        going = moved
        if not going.any():
            break
    return proved, expected


def stands(plan: Sequence, results: tuple[bool, ...]) -> tuple[str, int]:
    """How a trial stands: "proved", "failed" or "going", and the clean firings it still takes where none fails."""
    failed = 0
    for n, result in enumerate(results, start=1):
        failed += result
        if failed < len(plan.prove_at) and n >= plan.prove_at[failed]:
            return "proved", 0
        if n >= plan.most or failed >= len(plan.prove_at) or failed >= plan.stop_at[n]:
            return "failed", 0
    return "going", plan.prove_at[failed] - len(results)
