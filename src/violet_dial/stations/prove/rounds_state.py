"""What the pages Contacts, Exercise and Soak show."""

from datetime import date, timedelta

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import Switch, switches_of
from violet_dial.core.errors import NotEnoughData, VioletDialError
from violet_dial.core.proof.contacts import CARE, MOST_OHM, ContactJudgement, judge_contacts
from violet_dial.core.proof.run_in import RunInCourse, course
from violet_dial.core.proof.soak import Soak, soak
from violet_dial.core.quantities import format_engineering
from violet_dial.job.document import Job
from violet_dial.job.proving import Soaking
from violet_dial.job.spoken import spoken_date
from violet_dial.report.blocks import RowsShown
from violet_dial.report.dial import MarkState
from violet_dial.services.circuits import circuit_of
from violet_dial.services.repairs import moment
from violet_dial.stations.prove.rounds_acts import done_of, rounds_of, wanted_of

STATES: dict[str, MarkState] = {"good": "inside", "high": "high", "erratic": "undecided", "not read": "empty"}
MOST_ROUNDS = 5  # the newest, that a page has room for
Array = npt.NDArray[np.float64]
SHORT_H = 72.0  # of readings, up to which drift is said by the hour


# contacts


def contacts_of(job: Job) -> ContactJudgement:
    """The rounds judged."""
    return judge_contacts(rounds_of(job.proving))


def contacts_shown(job: Job) -> RowsShown:
    """Every position with its ohms round by round."""
    found, rounds = contacts_of(job), job.proving.rounds
    first = max(len(rounds) - MOST_ROUNDS, 0)
    beside = set(rounds[-1].beside_mark) if rounds else set()
    heads = ("position", *(one.how for one in rounds[first:]), "now")
    read = {position.name: position for position in found.positions}
    names = tuple(dict.fromkeys((*positions_of(job), *read)))
    rows, marks = [], []
    for name in names:
        ohms = read[name].ohms[first:] if name in read else (None,) * (len(rounds) - first)
        state = read[name].state if name in read else "not read"
        rows.append((name, *(ohm_said(ohm) for ohm in ohms), state + ", beside its mark" * (name in beside)))
        marks.append(STATES[state])
    finger = finger_said(job, found.worst)
    worst = f" Worst at {found.worst}{finger}." if finger else ""
    return RowsShown(f"{found.words}{worst}", found.next, heads, tuple(rows), tuple(marks), CARE)


def ohm_said(ohm: float | None) -> str:
    """Ohms, an open as OL, nothing as a dash."""
    if ohm is None:
        return "–"
    if ohm >= MOST_OHM:
        return "OL"
    return f"{ohm:.3g} Ω" if ohm < 1000 else f"{format_engineering(ohm, 3)}Ω"


def positions_of(job: Job) -> tuple[str, ...]:
    """Positions of the switch that was named, as the circuit has them; none without one."""
    switch = _switch(job)
    return switch.positions if switch is not None else ()


def _switch(job: Job) -> Switch | None:
    try:
        return switches_of(circuit_of(job)).get(job.proving.switch.lower()) if job.proving.switch else None
    except VioletDialError:
        return None


def finger_said(job: Job, position: str) -> str:
    """Which contacts carry the current at a position, from the circuit's switch table; empty where it is not known."""
    switch = _switch(job)
    if switch is None or not position:
        return ""
    circuit = circuit_of(job)
    here = [name for name, closed in switch.contacts if position.lower() in closed]
    said = []
    for name in here:
        note, nodes = circuit.note(name), circuit.part(name).nodes
        said.append(f"{note.get('name', name)} ({' to '.join(nodes[:2])})")
    return f": finger {', '.join(said)}" if said else ""


def next_position(job: Job) -> str:
    """The position that is to be read next in the round at hand; empty when all are."""
    rounds = job.proving.rounds
    names = positions_of(job) or tuple(dict.fromkeys(read.where for one in rounds for read in one.readings))
    done = {read.where for read in rounds[-1].readings} if rounds else set()
    return next((name for name in names if name not in done), "")


# exercise


def course_of(job: Job, today: date) -> RunInCourse | None:
    """How the exercise stands on a day; None without one."""
    plan = job.proving.exercise
    return course(wanted_of(plan), done_of(job.proving), today.toordinal()) if plan is not None else None


def exercise_shown(job: Job, today: date) -> RowsShown:
    """The days of the exercise."""
    found = course_of(job, today)
    if found is None:
        return RowsShown(
            "A magnet that stuck, a shutter that lay idle: exercise over some days",
            "10 to 20 firings a day, half of them after a short rest; then a rest as long as the one it came in with, and it is "
            "fired again. Say, for instance: 5 days 15 a day rest 3.",
        )
    rows: list[tuple[str, str, str]] = []
    marks: list[MarkState] = []
    for number, one in enumerate(found.days, start=1):
        day = date.fromordinal(one.on)
        what = "fired again after its rest" if one.kind == "check" else f"day {number}"
        if one.done is not None:
            said = f"{one.done.fired} fired, {one.done.failed} failed" if one.done.failed else f"{one.done.fired} clean"
            marks.append("high" if one.done.failed else "inside")
        else:
            said = "due today" if found.due is one else ""
            marks.append("undecided" if found.due is one else "empty")
        rows.append((f"{day:%a} {spoken_date(day)}", what, said))
    return RowsShown(found.words, _exercise_next(job, found), ("day", "", ""), tuple(rows), tuple(marks))


def _exercise_next(job: Job, found: RunInCourse) -> str:
    plan = job.proving.exercise
    if plan is None or found.due is None:
        return {"failing": "", "done": "It is done: say so on the sheet.", "resting": "Let it rest; do not fire it."}.get(
            found.state, "Nothing today."
        )
    if found.due.kind == "check":
        return f"Today: fire it {plan.a_day} times, the first one counts most. Then: done {plan.a_day} failed 0."
    half = plan.a_day // 2
    return f"Today: {half} firings, ten minutes of rest, {plan.a_day - half} more. Then: done, or done {plan.a_day} failed 1."


# readings over time


def soak_of(job: Job) -> Soak | None:
    """What the readings over time say; None with too few."""
    times, values, _by_day = series_of(job.proving.soak)
    try:
        return soak(times, values, job.proving.soak.allowed)
    except NotEnoughData:
        return None


def series_of(soaking: Soaking) -> tuple[Array, Array, bool]:
    """Times from the first reading on (hours, or days where they span many), values, whether it is days; of two readings of one
    moment the first."""
    found: list[tuple[float, float]] = []
    start = moment(soaking.readings[0].at) if soaking.readings else None
    for reading in soaking.readings:
        at = moment(reading.at)
        if start is None or at is None:
            continue
        hours = (at - start).total_seconds() / 3600
        if not found or hours > found[-1][0]:
            found.append((hours, reading.value))
    by_day = bool(found) and found[-1][0] > SHORT_H
    times = np.array([hours / (24.0 if by_day else 1.0) for hours, _value in found])
    return times, np.array([value for _hours, value in found]), by_day


def soak_shown(job: Job) -> RowsShown:
    """Drift, step and when it is due again."""
    soaking, found = job.proving.soak, soak_of(job)
    rows = tuple((spoken(reading.at), f"{format_engineering(reading.value)}{soaking.unit}") for reading in soaking.readings[-12:])
    if found is None:
        left = 4 - len(soaking.readings)
        return RowsShown(
            "Does it stay where it was set?",
            f"{left} more reading{'s' * (left != 1)} and a drift can be told. Say what it may go: allow 0.5 uA.", (), rows,
        )  # fmt: skip
    return RowsShown(soak_said(job, found), _soak_reason(job, found), ("when", "reading"), rows, ())


def spoken(at: str) -> str:
    """A moment, short."""
    when = moment(at)
    return f"{spoken_date(when.date())} {when:%H:%M}" if when is not None else at


def soak_said(job: Job, found: Soak) -> str:
    """The verdict over time."""
    unit, per = job.proving.soak.unit, "day" if series_of(job.proving.soak)[2] else "hour"
    if found.step_at is not None:
        at = job.proving.soak.readings[min(found.step_at, len(job.proving.soak.readings) - 1)].at
        jump = f"{format_engineering(found.step)}{unit}"
        return f"From {spoken(at)} on it is not the same device any more: it jumped by {jump}."
    if found.drifts:
        return f"It drifts by {format_engineering(found.drift, 2)}{unit} a{'n' * (per == 'hour')} {per}."
    return "No drift beyond its scatter."


def _soak_reason(job: Job, found: Soak) -> str:
    unit, per = job.proving.soak.unit, "day" if series_of(job.proving.soak)[2] else "hour"
    low, high = (f"{format_engineering(one, 2)}{unit}" for one in (found.drift_low, found.drift_high))
    due = recheck_on(job)
    when = f" It may have used up what is allowed by {spoken_date(due)}: check it again before." if due else ""
    a, scatter = "an" if per == "hour" else "a", f"{format_engineering(found.scatter, 2)}{unit}"
    return f"Drift between {low} and {high} {a} {per} (95 %), scatter {scatter}.{when}"


def recheck_on(job: Job) -> date | None:
    """The day before which it should be checked again; None where none is foreseen."""
    found = soak_of(job)
    start = moment(job.proving.soak.readings[0].at) if job.proving.soak.readings else None
    if found is None or found.due is None or start is None:
        return None
    by_day = series_of(job.proving.soak)[2]
    return (start + timedelta(days=found.due if by_day else found.due / 24)).date()
