"""Acts at Contacts, Exercise and Soak."""

import re
from dataclasses import replace
from datetime import date, timedelta

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.contacts import MOST_OHM, Round, judge_contacts
from violet_dial.core.proof.run_in import RunInDay as DayDone
from violet_dial.core.proof.run_in import RunInPlan, checked
from violet_dial.core.quantities import format_engineering, parse_number, parse_with_unit
from violet_dial.core.steady.samples import Measured
from violet_dial.core.units import is_overload
from violet_dial.job.act import Act, ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.proving import Cleaning, ContactRead, ExerciseDay, ExercisePlan, Proving, Soaking, SoakRead
from violet_dial.stations.prove.acts import setting_said, with_proving

CONTACT_EXPECTED = (
    "1/250 4.2 (ohm; several readings are several figures, OL for open) · swab, fluid or burnish (a new round) · black · "
    "no black "
    "· 1/250 beside its mark · switch s1 (from the circuit)"
)
EXERCISE_EXPECTED = "5 days 15 a day rest 3 · from 2026-11-30 · done 15 failed 1 · done 15 on 2026-11-28 · no exercise"
HOWS = {"swab": "swab", "fluid": "fluid", "burnish": "burnish", "other": "other", "as it came": "as it came"}
MOST_READINGS, MOST_ROUNDS, MOST_SOAKED = 400, 60, 2_000
UNITS = ("A", "V", "Ω", "Ev", "lx")


def rounds_of(proving: Proving) -> tuple[Round, ...]:
    """Rounds for the core."""
    return tuple(Round(one.how, tuple((read.where, read.ohm) for read in one.readings), one.black) for one in proving.rounds)


# contacts


def understand_contact(job: Job, text: str) -> Understood:
    """A line typed at Contacts. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().lower().split())
    how = low.removeprefix("round ").strip()
    if how in HOWS:
        if len(job.proving.rounds) >= MOST_ROUNDS:
            raise InvalidInput("Rounds", len(job.proving.rounds) + 1, f"at most {MOST_ROUNDS}")
        return Understood(f"= a new round: {how}; now read every position", lambda job, at: _begin(job, how, at))
    if low in ("black", "no black"):
        return Understood(f"= {low} came off", lambda job, at: _change(job, at, black=low == "black"))
    if match := re.fullmatch(r"switch (\S+)", low):
        name = match[1]
        return Understood(
            f"= the contacts of {name.upper()}",
            lambda job, at: with_proving(job, replace(job.proving, switch=name), f"Contacts of {name.upper()}"),
        )
    if match := re.fullmatch(r"(\S+(?: s)?) (beside|at) its mark", low):
        where, beside = setting_said(match[1]), match[2] == "beside"
        words = f"{where} stands {match[2]} its mark"
        return Understood(f"= {words}", lambda job, at: _beside(job, where, beside, at))
    where, ohms = _ohms(low)
    said = ", ".join("OL" if ohm >= MOST_OHM else f"{format_engineering(ohm, 3)}Ω" for ohm in ohms)
    reads = tuple(ContactRead(where, ohm) for ohm in ohms)
    return Understood(f"= {where}: {said}", lambda job, at: read_contact(job, reads, at))


def _ohms(low: str) -> tuple[str, tuple[float, ...]]:
    words = low.split()
    if len(words) > 2 and words[1] == "s":
        words = [f"{words[0]} s", *words[2:]]
    if len(words) < 2 or len(words) > 41:
        raise InvalidInput("Contacts", low, CONTACT_EXPECTED)
    ohms = tuple(MOST_OHM if is_overload(word) else parse_with_unit(word, ("Ω",), "Ohms", "Ω").value for word in words[1:])
    where = setting_said(words[0])
    judge_contacts((Round("as it came", tuple((where, ohm) for ohm in ohms)),))
    return where, ohms


def _begin(job: Job, how: str, at: str) -> ActResult:
    rounds = (*job.proving.rounds, Cleaning(how, at=at))  # type: ignore[arg-type]
    return with_proving(job, replace(job.proving, rounds=rounds), f"Contacts: {how}")


def _newest(job: Job, at: str) -> tuple[Cleaning, tuple[Cleaning, ...]]:
    rounds = job.proving.rounds
    return (rounds[-1], rounds[:-1]) if rounds else (Cleaning(at=at), ())


def _change(job: Job, at: str, black: bool) -> ActResult:
    last, before = _newest(job, at)
    words = "black still comes off" if black else "no black comes off any more"
    return with_proving(job, replace(job.proving, rounds=(*before, replace(last, black=black))), f"Contacts: {words}")


def _beside(job: Job, where: str, beside: bool, at: str) -> ActResult:
    last, before = _newest(job, at)
    rest = tuple(one for one in last.beside_mark if one != where)
    changed = replace(last, beside_mark=(*rest, where) if beside else rest)
    words = f"Contacts: {where} stands {'beside' if beside else 'at'} its mark"
    return with_proving(job, replace(job.proving, rounds=(*before, changed)), words)


def read_contact(job: Job, reads: tuple[ContactRead, ...], at: str) -> ActResult:
    """Ohms of a position in the round at hand; the first reading of all begins the round as it came."""
    last, before = _newest(job, at)
    readings = (*last.readings, *(replace(one, ohm=min(one.ohm, MOST_OHM)) for one in reads))
    if len(readings) > MOST_READINGS:
        raise InvalidInput("Readings", len(readings), f"at most {MOST_READINGS} a round")
    said = ", ".join("OL" if one.ohm >= MOST_OHM else f"{format_engineering(one.ohm, 3)}Ω" for one in reads)
    changed = replace(last, readings=readings)
    return with_proving(job, replace(job.proving, rounds=(*before, changed)), f"Contacts: {reads[0].where} {said}")


# exercise


def wanted_of(plan: ExercisePlan) -> RunInPlan:
    """The plan for the core."""
    return RunInPlan(date.fromisoformat(plan.begins_on).toordinal(), plan.days, plan.a_day, plan.rest_days)


def done_of(proving: Proving) -> tuple[DayDone, ...]:
    """Days done, for the core."""
    return tuple(DayDone(date.fromisoformat(day.on).toordinal(), day.fired, day.failed) for day in proving.days)


def day_of(at: str) -> date:
    """The day of a moment as it was kept."""
    return date.fromisoformat(at[:10])


def understand_exercise(job: Job, text: str, today: date) -> Understood:
    """A line typed at Exercise. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().lower().split())
    if low == "no exercise":
        return Understood("= no exercise", lambda job, at: with_proving(job, replace(job.proving, exercise=None), "No exercise"))
    if match := re.fullmatch(r"done(?: (\d+))?(?: failed (\d+))?(?: on (\S+))?", low):
        return _day(job, match, today)
    begins = today if job.proving.exercise is None else date.fromisoformat(job.proving.exercise.begins_on)
    plan = job.proving.exercise or ExercisePlan(begins.isoformat())
    pattern = r"(?:(\d+) days?)?(?: ?(\d+) (?:a|per) day)?(?: ?rest (\d+)(?: days?)?)?(?: ?from (\S+))?"
    match = re.fullmatch(pattern, low)
    if match is None or not any(match.groups()):
        raise InvalidInput("Exercise", low, EXERCISE_EXPECTED)
    if match[4]:
        begins = {"today": today, "tomorrow": today + timedelta(days=1)}.get(match[4]) or _date(match[4])
    plan = ExercisePlan(
        begins.isoformat(), int(match[1] or plan.days), int(match[2] or plan.a_day), int(match[3] or plan.rest_days)
    )
    checked(wanted_of(plan))
    words = f"{plan.a_day} firings a day for {plan.days} days from {plan.begins_on}, checked after {plan.rest_days} days of rest"
    return Understood(f"= {words}", lambda job, at: with_proving(job, replace(job.proving, exercise=plan), f"Exercise: {words}"))


def _day(job: Job, match: re.Match[str], today: date) -> Understood:
    plan = job.proving.exercise
    if plan is None:
        raise InvalidInput("Exercise", "none yet", "a plan first, for instance: 5 days 15 a day rest 3")
    fired, failed = int(match[1] or plan.a_day), int(match[2] or 0)
    on = _date(match[3]) if match[3] else today
    if not 0 <= failed <= fired <= 2000 or not fired:
        raise InvalidInput("Done", f"{failed} of {fired}", "1 to 2000 firings, not more failed than fired")
    if on > today:
        raise InvalidInput("Day", on.isoformat(), "today or a day before it")
    return Understood(
        f"= {fired} fired on {on.isoformat()}, {failed} failed", lambda job, at: tick_day(job, at, fired, failed, on)
    )


def _date(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise InvalidInput("Date", text, "a day such as 2026-11-30") from error


def tick_day(job: Job, at: str, fired: int = 0, failed: int = 0, on: date | None = None) -> ActResult:
    """A day of the exercise done; without figures as it was planned, today.

    Raises InvalidInput: there is no exercise, or the day was ticked off already.
    """
    plan = job.proving.exercise
    if plan is None:
        raise InvalidInput("Exercise", "none", "an exercise planned at Prove")
    day = ExerciseDay((on or day_of(at)).isoformat(), fired or plan.a_day, failed)
    if not fired and any(one.on == day.on for one in job.proving.days):
        raise InvalidInput("Exercise", f"{day.on} is ticked off", "one day once; type done 15 failed 1 to change it")
    days = (*(one for one in job.proving.days if one.on != day.on), day)
    words = f"Exercise: {day.fired} fired" + f", {day.failed} failed" * bool(day.failed)
    return with_proving(job, replace(job.proving, days=days), words)


# readings over time


def understand_soak(job: Job, text: str) -> Understood:
    """A line typed at Soak. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().split())
    soak = job.proving.soak
    if match := re.fullmatch(r"every (\S+) ?(s|min|h)", low, re.IGNORECASE):
        minutes = parse_number(match[1], "Every") * {"s": 1 / 60, "min": 1.0, "h": 60.0}[match[2].lower()]
        if not 0.02 <= minutes <= 10_000:
            raise InvalidInput("Every", match[0], "2 s to some days")
        return _soaking(f"a reading every {match[1]} {match[2]}", every_min=minutes)
    if match := re.fullmatch(r"allow (.+)", low, re.IGNORECASE):
        allowed, unit = _figure(match[1], soak)
        if allowed <= 0:
            raise InvalidInput("Allow", match[1], "more than nothing")
        return _soaking(f"it may go {format_engineering(allowed)}{unit} from where it began", allowed=allowed, unit=unit)
    when, rest = "", low
    if match := re.fullmatch(r"(\d{4}-\d\d-\d\d)(?:T(\d\d:\d\d))? (.+)", low):
        when, rest = f"{_date(match[1]).isoformat()}T{match[2] or '12:00'}:00+00:00", match[3]
    value, unit = _figure(rest, soak)
    said = f"{format_engineering(value)}{unit}"
    return Understood(f"= {said}", lambda job, at: read_soak(job, Measured(value, unit=unit), when or at))


def _figure(text: str, soak: Soaking) -> tuple[float, str]:
    """A figure in the unit of the readings; the first one says which that is."""
    if match := re.fullmatch(r"(?:ev ?)?(-?[\d.,]+) ?(?:ev)?", text.strip(), re.IGNORECASE):
        bare = "Ev" if "ev" in text.lower() else soak.unit
        value, unit = parse_number(match[1], "Reading"), bare
    else:
        found = parse_with_unit(text, ("A", "V", "Ω", "lx"), "Reading", None)
        value, unit = found.value, found.unit
    if soak.readings and unit != soak.unit:
        raise InvalidInput("Reading", text, f"in {soak.unit}, as the readings before it")
    return value, unit


def _soaking(words: str, **change: object) -> Understood:
    def act(job: Job, at: str) -> ActResult:
        soak = replace(job.proving.soak, **change)  # type: ignore[arg-type]
        return with_proving(job, replace(job.proving, soak=soak), f"Soak: {words}")

    return Understood(f"= {words}", act)


def read_soak(job: Job, read: Measured, at: str) -> ActResult:
    """A reading over time."""
    soak = job.proving.soak
    if len(soak.readings) >= MOST_SOAKED:
        raise InvalidInput("Readings", len(soak.readings) + 1, f"at most {MOST_SOAKED}")
    readings = tuple(sorted((*soak.readings, SoakRead(at, read.value, read.capture)), key=lambda reading: reading.at))
    return with_proving(
        job, replace(job.proving, soak=replace(soak, unit=read.unit, readings=readings)),
        f"Soak: {format_engineering(read.value)}{read.unit}",
    )  # fmt: skip


def ticked(job: Job) -> Act | None:
    """The act that ticks today off; None where there is no exercise."""
    return None if job.proving.exercise is None else tick_day
