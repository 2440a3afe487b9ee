"""Exercise of a magnet or an idle shutter: so many firings a day for some days, missed days moved, a check after a rest.

Days are numbers, 1 for the first of January of the year 1 (``date.toordinal``): the core has no calendar.
"""

from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.counting import upper

MOST_DAYS, MOST_A_DAY = 60, 200
USUAL_DAYS, USUAL_A_DAY = 5, 15  # 10 to 20 a day for some days; common practice, no source
ENOUGH = 20  # clean firings over the last two days, from which it may end early
FIRST_DAY, LAST_DAY = 719_163, 3_287_182  # 1970-01-01 to 9000-12-31
LONGEST_REST = 60  # days: a rest beyond it is not waited for


@dataclass(frozen=True)
class RunInPlan:
    """The exercise as it was planned: first day, days, firings a day, days of rest before it is checked again."""

    begins: int
    days: int = USUAL_DAYS
    a_day: int = USUAL_A_DAY
    rest_days: int = 3


@dataclass(frozen=True)
class RunInDay:
    """One day of it as it was done."""

    on: int
    fired: int
    failed: int = 0


@dataclass(frozen=True)
class Day:
    """A day of the plan: done, due today, to come; the check after the rest is the last."""

    on: int
    kind: str  # "exercise" or "check"
    done: RunInDay | None = None


@dataclass(frozen=True)
class RunInCourse:
    """How the exercise stands: its days with missed ones moved, what is due, and whether it may end or must go on."""

    days: tuple[Day, ...]
    missed: int
    due: Day | None
    state: str  # "to begin", "under way", "resting", "done", "failing"
    words: str


def checked(wanted: RunInPlan) -> RunInPlan:
    """An exercise within bounds. Raises InvalidInput: days, firings or rest out of bounds."""
    if not 1 <= wanted.days <= MOST_DAYS:
        raise InvalidInput("Days", wanted.days, f"1 to {MOST_DAYS}")
    if not 1 <= wanted.a_day <= MOST_A_DAY:
        raise InvalidInput("Firings a day", wanted.a_day, f"1 to {MOST_A_DAY}; 10 to 20 are usual")
    if not 0 <= wanted.rest_days <= LONGEST_REST:
        raise InvalidInput("Days of rest", wanted.rest_days, f"0 to {LONGEST_REST}")
    if not FIRST_DAY <= wanted.begins <= LAST_DAY:
        raise InvalidInput("First day", wanted.begins, "a day of the years 1970 to 9000")
    return wanted


def course(wanted: RunInPlan, done: tuple[RunInDay, ...], today: int) -> RunInCourse:
    """How an exercise stands on a day. ``today``: int, the day's number. Raises InvalidInput: an exercise out of bounds."""
    checked(wanted)
    worked, checks = _parted(wanted, sorted({one.on: one for one in done}.values(), key=lambda one: one.on))
    ended = _ended(wanted, worked)
    days = [Day(one.on, "exercise", one) for one in worked]
    missed = 0
    if not ended:
        first = wanted.begins if not worked else worked[-1].on + 1
        missed = max(today - first, 0)
        first = max(first, today)
        days += [Day(first + n, "exercise") for n in range(wanted.days - len(worked))]
    check_on = days[-1].on + max(wanted.rest_days, 1)
    if checks:
        days += [Day(check.on, "check", check) for check in checks]
    else:
        days.append(Day(max(check_on, today) if ended else check_on, "check"))
    due = next((day for day in days if day.done is None and day.on <= today), None)
    state = _state(worked, ended, checks)
    return RunInCourse(tuple(days), missed, due, state, _words(state, wanted, days, missed, today))


def _parted(wanted: RunInPlan, kept: list[RunInDay]) -> tuple[list[RunInDay], list[RunInDay]]:
    """The days of the exercise and, from the end of the rest on, its checks."""
    worked: list[RunInDay] = []
    for at, one in enumerate(kept):
        if _ended(wanted, worked) and one.on - worked[-1].on >= max(wanted.rest_days, 1):
            return worked, kept[at:]
        worked.append(one)
    return worked, []


def _ended(wanted: RunInPlan, worked: list[RunInDay]) -> bool:
    return len(worked) >= wanted.days or _may_end(worked)


def _may_end(worked: list[RunInDay]) -> bool:
    """Whether it may end before its days are full: clean over the last two days, and something failed before."""
    last = worked[-2:]
    clean = sum(one.fired for one in last)
    return (
        len(worked) >= 3
        and len(last) == 2
        and not any(one.failed for one in last)
        and clean >= ENOUGH
        and any(one.failed for one in worked)
    )


def _state(worked: list[RunInDay], ended: bool, checks: list[RunInDay]) -> str:
    if not worked:
        return "to begin"
    if not ended:
        return "under way"
    if not checks:
        return "failing" if worked[-1].failed else "resting"
    return "failing" if checks[-1].failed else "done"


def _words(state: str, wanted: RunInPlan, days: list[Day], missed: int, today: int) -> str:
    worked = [day.done for day in days if day.kind == "exercise" and day.done is not None]
    fired, failed = sum(one.fired for one in worked), sum(one.failed for one in worked)
    so_far = f"{fired} fired, {failed} failed" if worked else ""
    moved = f" {missed} missed, the rest moved on." if missed else ""
    if state == "to begin":
        return f"{wanted.a_day} firings a day for {wanted.days} days, half of them after a short rest.{moved}"
    if state == "under way":
        return f"Day {len(worked) + (days[len(worked)].on <= today)} of {wanted.days}: {so_far}.{moved}"
    if state == "resting":
        early = " It may end early: clean for two days." if len(worked) < wanted.days else ""
        rest = days[-1].on - today
        when = "today" if rest <= 0 else "tomorrow" if rest == 1 else f"in {rest} days"
        return f"{so_far}. It rests now; checked again {when}.{early}"
    if state == "done":
        check = days[-1].done
        limit = upper(0, check.fired) if check is not None and check.fired else 1.0
        clean = check.fired if check else 0
        return f"Held after its rest: {clean} clean. Under {100 * limit:.0f} % fail after such a rest (95 %)."
    return f"It still fails: {so_far}. Exercise alone does not do it: clean the magnet's face, see what holds it."
