"""What a job's firings are to the core: those counted here and those timed at Expose, in time order, parted by the repairs."""

import itertools
from dataclasses import dataclass, replace
from functools import lru_cache

from violet_dial.core.exposure.ladder import Timed
from violet_dial.core.exposure.said import time_said
from violet_dial.core.proof.counting import Better, Rate, Worse, better, bunched, rate, worse
from violet_dial.core.proof.follows import Followed, follow
from violet_dial.core.proof.log import Firing, by_setting, epochs, failures
from violet_dial.core.proof.plan import Claim, ProofPlan, plan
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired
from violet_dial.job.proving import Logged, NamedRepair, Stand, Wish
from violet_dial.services.repairs import moment, order, repairs_of

WRONG_STOPS = 1.0  # off its mark by more, a firing that was timed has failed; common practice, no source
WRONG = "wrong time"
MOST_HELD = 8  # jobs whose judgement is held


@dataclass(frozen=True)
class ProofJudgement:
    """All that a log says. ``told`` are the firings of the newest stretch between repairs in which any failed."""

    log: tuple[Firing, ...]
    after: str
    stretches: tuple[Rate, ...]
    now: tuple[Rate, ...]
    whole: Rate
    better: tuple[Better, ...]
    told: str
    worse: Worse | None
    follows: tuple[Followed, ...]
    bunched: float
    plan: ProofPlan


def hours_between(before: str, at: str) -> float | None:
    """Hours from one moment to another; None where one is not known."""
    first, second = moment(before), moment(at)
    return None if first is None or second is None else max((second - first).total_seconds() / 3600, 0.0)


def log_of(job: Job) -> tuple[Firing, ...]:
    """Every firing, in time order."""
    return _LAST.firings(logged_of(job))


class _Last:
    """The logs worked on last, known again by identity: a log of thousands grows by one firing an act."""

    def __init__(self) -> None:
        self._logged: tuple[Logged, ...] = ()
        self._firings: tuple[Firing, ...] = ()
        self._judged: list[tuple[tuple[object, ...], ProofJudgement]] = []

    def firings(self, logged: tuple[Logged, ...]) -> tuple[Firing, ...]:
        """Firings for the core; those that were there before are not made again."""
        same = 0
        for now, before in zip(logged, self._logged, strict=False):
            if now is not before:
                break
            same += 1
        if same < len(logged) or len(logged) < len(self._logged):
            self._firings = (*self._firings[:same], *(as_firing(one) for one in logged[same:]))
            self._logged = logged
        return self._firings

    def judged(self, job: Job) -> ProofJudgement:
        """What the log says; what it rests on being the same things, it is not judged again."""
        parts = (job.proving, job.exposing.fired, job.tracing.repairs)
        for known, found in self._judged:
            if all(now is before for now, before in zip(parts, known, strict=True)):
                return found
        mends = repairs_of(job)
        made = judge_log(log_of(job), claim_of(job.proving.wish), mends[-1].words if mends else "")
        self._judged = [(parts, made), *self._judged[: MOST_HELD - 1]]
        return made


def logged_of(job: Job) -> tuple[Logged, ...]:
    """Every firing as it is kept here; those timed at Expose are taken in with their times."""
    log, fired = job.proving.log, job.exposing.fired
    return _merged(log, fired, repairs_of(job)) if fired else log


@lru_cache(maxsize=32)
def _merged(log: tuple[Logged, ...], fired: tuple[Fired, ...], mends: tuple[NamedRepair, ...]) -> tuple[Logged, ...]:
    several = [*log, *(_timed(one, mends) for one in fired)]
    several.sort(key=lambda one: order(one.at))
    found: list[Logged] = []
    for one in several:
        rests = one.source == "heard" and one.rest_h is None and bool(found)
        found.append(replace(one, rest_h=hours_between(found[-1].at, one.at)) if rests else one)
    return tuple(found)


def _timed(one: Fired, mends: tuple[NamedRepair, ...]) -> Logged:
    """A firing of Expose: clean, or failed where it was more than a stop off its mark."""
    stands = Logged(Stand(time_said(one.marked_s)), time_s=one.time_s, source="heard", at=one.at[:40])
    after = next((mend.words for mend in reversed(mends) if order(mend.at) <= order(one.at)), "")
    return replace(stands, failed=failed_by(one.marked_s, one.time_s), after=after)


def failed_by(marked_s: float, time_s: float) -> str:
    """What failed at a firing that was timed; empty for a clean one."""
    return WRONG if abs(Timed(marked_s, time_s).stops) > WRONG_STOPS else ""


def as_firing(one: Logged) -> Firing:
    """A firing for the core."""
    stand = one.stand
    return Firing(
        stand.setting, one.failed, one.after, stand.battery_v, one.rest_h, stand.supply, stand.cold, stand.position, stand.lens
    )


def claim_of(wish: Wish) -> Claim:
    """What is to be claimed, for the core."""
    return Claim(wish.share, wish.confidence, wish.school, wish.settings, wish.frames)


def judged_of(job: Job) -> ProofJudgement:
    """What the log of a job says; the same log is judged once."""
    return _LAST.judged(job)


def judge_log(log: tuple[Firing, ...], claim: Claim, after: str | None = None) -> ProofJudgement:
    """What a log says. Raises InvalidInput: a claim out of bounds."""
    parted = epochs(log)
    newest = after if after is not None else parted[-1][0] if parted else ""
    now = tuple(one for one in log if one.after == newest)
    rates = [rate(name, several, claim.confidence) for name, several in parted]
    told = next((name for name, several in reversed(parted) if failures(several)), "")
    telling = tuple(one for one in log if one.after == told)
    return ProofJudgement(
        log, newest, tuple(rates), tuple(rate(name, several, claim.confidence) for name, several in by_setting(now).items()),
        rate("altogether", now, claim.confidence),
        tuple(better(before, later) for before, later in itertools.pairwise(rates)), told, worse(telling),
        follow(log), bunched(telling), plan(log, claim, newest),
    )  # fmt: skip


_LAST = _Last()
