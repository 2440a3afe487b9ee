"""Firings and contacts as CSV, a log of firings taken in, the days of an exercise as a calendar."""

import csv
import io
from datetime import UTC, date, datetime, timedelta

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.log import KINDS, Supply
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, Offered, defused, table_of
from violet_dial.job.document import Job
from violet_dial.job.proving import Logged, Stand
from violet_dial.services.repairs import moment
from violet_dial.services.station import FileIn, FileOut, Listing, rejected_said, rejected_section, unused_section
from violet_dial.stations.prove.acts import LONGEST, UNSAID, setting_said, take_log
from violet_dial.stations.prove.bench import hours_between, logged_of
from violet_dial.stations.prove.rounds_state import course_of

COLUMNS = ("time", "setting", "result", "battery_v", "rest_h", "after", "supply", "cold", "position", "lens", "time_s")
REQUIRED, OPTIONAL = ("setting", "result"), tuple(column for column in COLUMNS if column not in ("setting", "result"))
YES, NO = ("yes", "on", "1", "true"), ("no", "off", "0", "false", "")
KINDS_IN, KINDS_OUT = "Firings (*.csv)", "Firings as CSV (*.csv);;The days of the exercise as a calendar (*.ics)"
ALARM_H = 9  # of the day
FIRST_PAGE, EXERCISE_PAGE = 0, 2


def read_log(data: bytes) -> Offered[Logged]:
    """Firings from the bytes of a CSV, in time order where every row has a time; hours of rest that are not said follow from the
    times. Raises InvalidInput: not such a table.
    """
    offered = table_of(data, "Firings", Names(REQUIRED, OPTIONAL)).offer(_row)
    rows = offered.found
    if rows and all(moment(row.at) is not None for row in rows):
        rows = tuple(sorted(rows, key=lambda row: moment(row.at) or datetime.min))
    found: list[Logged] = []
    for row in rows:
        rest = row.rest_h
        if rest is None and found:
            rest = hours_between(found[-1].at, row.at)
        found.append(Logged(row.stand, row.failed, row.after, rest, row.time_s, "file", row.at))
    return Offered(tuple(found), offered.rejected, offered.rejected_count)


def _row(cell: Cells) -> Logged:
    result = cell("result").strip()
    low = result.lower()
    if not low:
        raise InvalidInput("result", "nothing", f"clean, failed, or a kind of failure such as {KINDS[0]}")
    failed = "" if low == "clean" else low if low in KINDS else UNSAID if low == "failed" else result[:LONGEST]
    stand = Stand(
        setting_said(cell("setting")), _number(cell, "battery_v", 1000.0), _supply(cell("supply")), _yes(cell, "cold"),
        cell("position")[:LONGEST], _yes(cell, "lens") if cell("lens") else None,
    )  # fmt: skip
    time_s = _number(cell, "time_s", 120.0)
    return Logged(
        stand, failed, cell("after")[:LONGEST], _number(cell, "rest_h", 100_000.0), time_s or None, "file", cell("time")[:40]
    )


def _number(cell: Cells, name: str, most: float) -> float | None:
    if not cell(name):
        return None
    value = parse_number(cell(name), name)
    if not 0 <= value <= most:
        raise InvalidInput(name, cell(name), f"0 to {most:g}")
    return value


def _supply(text: str) -> Supply:
    low = text.lower()
    known: dict[str, Supply] = {"": "", "battery": "battery", "bench": "bench supply", "bench supply": "bench supply"}
    if low not in known:
        raise InvalidInput("supply", text, "battery or bench supply")
    return known[low]


def _yes(cell: Cells, name: str) -> bool:
    low = cell(name).lower()
    if low not in (*YES, *NO):
        raise InvalidInput(name, low, "yes or no")
    return low in YES


def write_log(job: Job) -> str:
    """Every firing with the columns `read_log` knows, those timed at Expose too."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for one in logged_of(job):
        stand = one.stand
        writer.writerow((
            one.at, defused(stand.setting), defused(one.failed or "clean"), _said(stand.battery_v), _said(one.rest_h),
            defused(one.after), stand.supply, "yes" if stand.cold else "no", defused(stand.position),
            "" if stand.lens is None else "on" if stand.lens else "off", _said(one.time_s),
        ))  # fmt: skip
    return out.getvalue()


def _said(value: float | None) -> str:
    return "" if value is None else f"{value:.6g}"


def write_contacts(job: Job) -> str:
    """Every reading of every round."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("round", "how", "position", "ohm", "black", "at"))
    for number, one in enumerate(job.proving.rounds, start=1):
        black = "" if one.black is None else "yes" if one.black else "no"
        for read in one.readings:
            writer.writerow((number, one.how, defused(read.where), f"{read.ohm:.6g}", black, one.at))
    return out.getvalue()


def calendar_of(days: tuple[tuple[date, str, str], ...], uid: str, stamp: datetime) -> bytes:
    """Days as an iCalendar: whole days, so that no change of zone or of summer time moves them, each with an alarm.

    ``days``: (day, summary, description), in order.

    Source: RFC 5545: VALUE=DATE, VALARM with a relative TRIGGER.
    """
    from icalendar import Alarm, Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Violet Dial//bench//EN")
    calendar.add("version", "2.0")
    for number, (day, summary, description) in enumerate(days, start=1):
        event, alarm = Event(), Alarm()
        event.add("uid", f"{uid}-{number}@violet-dial")
        event.add("dtstamp", stamp.astimezone(UTC))
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
        event.add("summary", summary)
        event.add("description", description)
        event.add("transp", "TRANSPARENT")
        alarm.add("action", "DISPLAY")
        alarm.add("description", summary)
        alarm.add("trigger", timedelta(hours=ALARM_H))
        event.add_component(alarm)
        calendar.add_component(event)
    written: bytes = calendar.to_ical()
    return written


def exercise_days(job: Job, today: date) -> tuple[tuple[date, str, str], ...]:
    """The days that are left of a job's exercise. Raises InvalidInput: there is none, or none are left."""
    found, plan = course_of(job, today), job.proving.exercise
    left = [day for day in found.days if day.done is None] if found is not None else []
    if plan is None or not left:
        raise InvalidInput("Exercise", "no days left", "an exercise planned at Prove, for instance: 5 days 15 a day rest 3")
    name = f"{job.device.name or 'device'} (job {job.label})"
    half = plan.a_day // 2
    daily = f"{half} firings, ten minutes of rest, {plan.a_day - half} more; write down what failed."
    check = f"After its rest: {plan.a_day} firings, the first one counts most."
    said = {"check": check, "exercise": daily}
    return tuple((date.fromordinal(one.on), f"{one.kind.capitalize()}: {name}", said[one.kind]) for one in left)


def _written(job: Job, name: str, part: object) -> bytes:
    if name.lower().endswith(".ics"):
        now = datetime.now().astimezone()
        return calendar_of(exercise_days(job, now.date()), f"{job.job_id}-exercise", now)
    return write_log(job).encode()


def _name(job: Job) -> str:
    wants_days = job.proving.exercise is not None and not job.proving.log
    return f"job-{job.label}-{'exercise.ics' if wants_days else 'firings-proof.csv'}"


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
    offered = read_log(data)
    if not offered.found and not offered.rejected:
        raise InvalidInput("Firings", "no rows", "at least one firing")
    lines = tuple(
        f"{one.at or number}\t{one.stand.setting}: {one.failed or 'clean'}" + f", after {one.after}" * bool(one.after)
        for number, one in enumerate(offered.found[:300], start=1)
    )
    sections = (rejected_section(offered.rejected), *unused_section(()), ("Firings", lines))
    said = f"{len(offered.found)} firings, {rejected_said(offered.rejected_count)}"
    found = offered.found
    return Listing(f"Firings from {name}", said, sections, len(found), "firings"), lambda one, at: take_log(one, at, found, name)


FILE_IN = FileIn("Firings from a log", KINDS_IN, _offered)
FILE_OUT = FileOut("Write the firings as CSV, or the days of the exercise", KINDS_OUT, _name, _written)
