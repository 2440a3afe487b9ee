"""What to fire next: how many, at which settings, after which rest, over how many days, until the claim can be made."""

import math
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.counting import Worse, clean_run, upper, worse
from violet_dial.core.proof.follows import Followed, follow
from violet_dial.core.proof.log import MORNING_H, Firing, School, by_setting, epochs, failures
from violet_dial.core.proof.sequential import checked_claim, sequence, stands
from violet_dial.core.scipy_rooms import special

SCHOOLS: tuple[School, ...] = get_args(School)
Verdict = Literal["proved", "failed", "going"]
FRAMES = 36
UNKNOWN_SHARE = 1 / 3  # of the firings first after a rest, where it is not known how the fault shows itself; common practice
MOST_OLD = 400
WAKING_H = 14.0  # of a day at the bench
PRIOR = 0.5  # failures and clean firings laid beside those counted (Jeffreys)


@dataclass(frozen=True)
class Claim:
    """What is to be claimed: fewer than ``share`` fail, with ``confidence``; by which school; settings to be fired, those of the
    log where none are named; ``frames`` of a film."""

    share: float = 0.05
    confidence: float = 0.95
    school: School = "sequential"
    settings: tuple[str, ...] = ()
    frames: int = FRAMES


@dataclass(frozen=True)
class Provoked:
    """How the fault used to show itself: at a setting (empty: at any), after a rest of so many hours (0: at any time), on low
    volts, in the cold, in a position; ``failed`` of ``n`` such firings before."""

    setting: str = ""
    rest_h: float = 0.0
    battery_v: float = 0.0
    cold: bool = False
    position: str = ""
    failed: int = 0
    n: int = 0

    @property
    def is_any(self) -> bool:
        """Whether nothing is known to bring it on."""
        return not (self.setting or self.rest_h or self.battery_v or self.cold or self.position)

    def holds(self, one: Firing) -> bool:
        """Whether a firing was made as the fault used to show itself."""
        return (
            (not self.setting or one.setting == self.setting)
            and (not self.rest_h or (one.rest_h is not None and one.rest_h >= self.rest_h))
            and (not self.battery_v or (one.battery_v is not None and one.battery_v <= self.battery_v))
            and (not self.cold or one.cold)
            and (not self.position or one.position == self.position)
        )


@dataclass(frozen=True)
class ProofPlan:
    """What is left. ``left`` clean firings until the claim if none fails, ``provoked_left`` of them as the fault used to show
    itself; ``by_setting`` how they are spread; ``now`` the next one's setting, and whether it should come after a rest."""

    verdict: Verdict
    left: int
    provoked_left: int
    days: int
    rolls: int
    by_setting: tuple[tuple[str, int], ...]
    provoked: Provoked
    now: str
    now_provoked: bool
    claim: Claim
    after: str
    n: int
    failed: int
    upper: float
    false_claim: float
    power: float
    expected: float


def provoked_by(before: tuple[Firing, ...], followed: tuple[Followed, ...], worst: Worse | None) -> Provoked:
    """How the fault used to show itself, from the firings before the repair."""
    found = Provoked(setting=worst.setting if worst is not None else "")
    for one in followed[:1]:  # the surest alone: what goes along with it is not asked for twice
        failed = [shot for shot in before if shot.failed]
        rests = [shot.rest_h for shot in failed if shot.rest_h]
        volts = [shot.battery_v for shot in failed if shot.battery_v is not None]
        if one.factor == "rest" and rests:
            usual = float(np.median(rests))
            found = replace(found, rest_h=min(usual, MORNING_H) if max(rests) >= MORNING_H else usual)
        elif one.factor == "low battery" and volts:
            found = replace(found, battery_v=max(volts))
        elif one.factor == "cold":
            found = replace(found, cold=True)
        elif one.factor == "position":
            found = replace(found, position=one.detail)
    alike = tuple(one for one in before if found.holds(one))
    return replace(found, failed=failures(alike), n=len(alike))


def old_fault_run(failed: int, n: int, confidence: float) -> int:
    """Clean firings as the fault used to show itself, after which it would have stayed quiet by luck with no more than the chance
    that is left; its share before is only as well known as its count allows.

    Source: Mean of (1 - q)^m over the beta distribution of q with half a failure and half a clean firing beside the count.

    Example
    -------
    >>> old_fault_run(3, 10, 0.95), old_fault_run(9, 10, 0.95)
    (12, 2)
    """
    if not failed:
        return 0
    a, b = failed + PRIOR, n - failed + PRIOR
    quiet = np.exp(special.betaln(a, b + np.arange(1, MOST_OLD + 1)) - special.betaln(a, b))
    enough = np.flatnonzero(quiet <= 1 - confidence)
    return int(enough[0]) + 1 if len(enough) else MOST_OLD


def plan(log: tuple[Firing, ...], claim: Claim, after: str | None = None) -> ProofPlan:
    """What is left to fire until the claim can be made, or that it cannot be.

    ``after``: the newest repair, where nothing may have been fired since; None for that of the last firing. Raises
    InvalidInput: a claim, school or number of frames out of bounds.
    """
    checked_claim(claim.share, claim.confidence)
    if claim.school not in SCHOOLS:
        raise InvalidInput("School", claim.school, " or ".join(SCHOOLS))
    if not 1 <= claim.frames <= 1000:
        raise InvalidInput("Frames", claim.frames, "1 to 1000 on a film")
    parted = epochs(log)
    newest = parted[-1][0] if parted and after is None else after or ""
    now = tuple(one for name, several in parted if name == newest for one in several)
    before = tuple(one for name, several in parted if name != newest for one in several)
    return _planned(claim, newest, now, before or (now if failures(now) else ()))


def _planned(claim: Claim, after: str, now: tuple[Firing, ...], before: tuple[Firing, ...]) -> ProofPlan:
    provoked = provoked_by(before, follow(before), worse(before))
    test = sequence(claim.share, claim.confidence)
    verdict, left = _stand(claim, now)
    asked = _old_asked(claim, provoked, len(now) + left)
    done = sum(provoked.holds(one) and not one.failed for one in now) if not provoked.is_any else len(now)
    provoked_left = max(asked - done, 0) if verdict != "failed" and not provoked.is_any else 0
    if not before and not now:
        provoked, provoked_left = Provoked(rest_h=MORNING_H), math.ceil(left * UNKNOWN_SHARE)
    if verdict == "proved" and provoked_left:
        verdict = "going"
    left = max(left, provoked_left)
    if claim.school == "film" and left:
        left = math.ceil((len(now) + left) / claim.frames) * claim.frames - len(now)
    spread = _spread(claim, now, before, left, provoked, provoked_left)
    following = max(spread, key=lambda one: one[1])[0] if spread and left else ""
    fixed = clean_run(claim.share, claim.confidence)
    by_course = (test.false_claim, test.power, test.expected)
    by_count = ((1 - claim.share) ** fixed, (1 - test.good) ** fixed, (1 - (1 - test.good) ** fixed) / test.good)
    here = provoked.setting if provoked_left and provoked.setting else following
    limit = upper(failures(now), len(now), claim.confidence)
    return ProofPlan(
        verdict, left, provoked_left, _days(provoked, provoked_left, left), math.ceil(left / claim.frames), spread, provoked,
        here, provoked_left > 0, claim, after, len(now), failures(now), limit,
        *(by_course if claim.school == "sequential" else by_count),
    )  # fmt: skip


def _stand(claim: Claim, now: tuple[Firing, ...]) -> tuple[Verdict, int]:
    """The verdict of the school on the firings since the repair, and clean firings still asked for."""
    results = tuple(bool(one.failed) for one in now)
    if claim.school == "sequential":
        verdict, left = stands(sequence(claim.share, claim.confidence), results)
        return verdict, left  # type: ignore[return-value]
    if any(results):
        return "failed", 0
    left = max(clean_run(claim.share, claim.confidence) - len(results), 0)
    if claim.school == "film" and len(results) % claim.frames and left == 0:
        left = claim.frames - len(results) % claim.frames  # it is judged at the end of a roll
    return ("going" if left else "proved"), left


def _old_asked(claim: Claim, provoked: Provoked, most: int) -> int:
    return min(old_fault_run(provoked.failed, provoked.n, claim.confidence), most)


def _spread(
    claim: Claim, now: tuple[Firing, ...], before: tuple[Firing, ...], left: int, provoked: Provoked, provoked_left: int
) -> tuple[tuple[str, int], ...]:
    """What is left over the settings: evenly in the end, the setting that used to fail at least as often as asked."""
    names = claim.settings or tuple(by_setting((*before, *now)))
    if not names or not left:
        return ()
    fired = {name: len(several) for name, several in by_setting(now).items()}
    shares = dict.fromkeys(names, 0)
    free = left
    if provoked.setting in shares:
        shares[provoked.setting] = min(provoked_left, left)
        free -= shares[provoked.setting]
    for _one in range(free):
        least = min(names, key=lambda name: fired.get(name, 0) + shares[name])
        shares[least] += 1
    return tuple((name, count) for name, count in shares.items() if count)


def _days(provoked: Provoked, provoked_left: int, left: int) -> int:
    """Over how many days: as many rests as are asked for need their time."""
    if not left:
        return 0
    if not provoked.rest_h or not provoked_left:
        return 1
    a_day = max(int(WAKING_H // provoked.rest_h), 1) if provoked.rest_h < MORNING_H else 1
    return math.ceil(provoked_left / a_day)
