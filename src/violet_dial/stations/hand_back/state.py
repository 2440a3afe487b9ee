"""Return: what its pages show, what it wants done next, its state on the line, its words for search; minutes, parts, the
drawer, the workshop's figures.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from violet_dial.job.document import Job
from violet_dial.services.keys import CODE
from violet_dial.services.light_judgement import judge
from violet_dial.services.next import COLLECTION, NextAct, Urgency
from violet_dial.services.station import StationState
from violet_dial.stations.hand_back.figures import LEAST_LEARNT, Figures
from violet_dial.stations.hand_back.labels import Label
from violet_dial.store.records import LogRow

MOST_ROWS = 8
LEAST_LEFT = 2  # in the drawer: below it some are to be ordered
Rows = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class HandBackShown:
    """Headline; stations with minutes spent and thought; parts used here."""

    headline: str
    minutes: Rows
    parts: Rows


def bench_shown(job: Job, log: Sequence[LogRow]) -> HandBackShown:
    """The page as the job stands."""
    thought = {one.station: one.minutes for one in job.closing.thought}
    spent = dict(minutes_by_station(log))
    names = tuple(dict.fromkeys((*spent, *thought)))
    rows = tuple((name, f"{spent.get(name, 0.0):.0f} min", f"{thought[name]:g} min" if name in thought else "") for name in names)
    whole, said = sum(spent.values()), sum(thought.values())
    headline = f"{whole:.0f} minutes at the bench" + (f", {said:g} thought" if thought else "")
    return HandBackShown(headline, rows, tuple((f"{part.count} ×", part.name) for part in job.closing.parts))


@dataclass(frozen=True)
class WorkshopShown:
    """Headline and reason; rows by heading."""

    headline: str
    reason: str
    parts: tuple[tuple[str, Rows], ...]


def workshop_shown(job: Job, found: Figures | None) -> WorkshopShown:
    """The figures of the workshop, and whether this job's chances beforehand follow them."""
    if found is None:
        return WorkshopShown("The jobs of this workshop are being read…", "", ())
    first = f"The first suspect was the one in {found.first} of {found.told} repairs, among three in {found.among_three}."
    reason = first if found.told else "How well first suspects were right shows once faults are put right from the list."
    unread = f" {found.unreadable} could not be read." if found.unreadable else ""
    parts: tuple[tuple[str, Rows], ...] = (
        ("Faults put right, by kind of part", _counted(found.kinds)),
        ("By model", _counted(found.models)),
        ("Found on receipt", _counted(found.places)),
        ("Came back", tuple((one,) for one in found.returned[:MOST_ROWS])),
        ("Parts used", _counted(found.used)),
        (
            "Left in the drawer",
            tuple((f"{count}", f"{name}{', order some' if count < 2 else ''}") for name, count in found.left[:MOST_ROWS]),
        ),
        (learnt_head(job, found), _weights(found)),
    )
    jobs, faults = _many(found.jobs, "job"), _many(found.repaired, "fault")
    headline = f"{jobs}, {faults} put right, {len(found.returned)} came back.{unread}"
    return WorkshopShown(headline, reason, tuple(part for part in parts if part[1]))


def _many(count: int, name: str) -> str:
    return f"{count} {name}{'s' * (count != 1)}"


def learnt_head(job: Job, found: Figures) -> str:
    """Whether chances follow the workshop, and how to have it so."""
    if job.tracing.weights:
        return "Chances beforehand in this job follow the workshop: forget brings the shipped ones back"
    return "Chances beforehand, if this job is to learn from the workshop: type learn"


def _counted(rows: tuple[tuple[str, int], ...]) -> Rows:
    return tuple((f"{count}", name) for name, count in rows[:MOST_ROWS])


def _drawer(left: tuple[tuple[str, int], ...]) -> Rows:
    return tuple((f"{count}", name if count >= LEAST_LEFT else f"{name}: order some") for name, count in left[:MOST_ROWS])


def _weights(found: Figures) -> Rows:
    from violet_dial.core.diagnosis.faults import WEIGHTS

    shifted = sorted(found.weights, key=lambda weight: -abs(weight[1] - WEIGHTS[weight[0]]))
    return tuple((f"{100 * weight:.1f} %", f"{kind}, shipped {100 * WEIGHTS[kind]:.1f} %") for kind, weight in shifted[:5])


def few_said(found: Figures) -> str:
    """That there are too few faults to learn from; empty where there are enough."""
    return (
        ""
        if found.weights
        else f"From {LEAST_LEARNT} faults put right, chances beforehand can follow them; {found.repaired} so far."
    )


def labels_of(job: Job) -> tuple[Label, ...]:
    """The labels of a job."""
    code, device = CODE.format(job.number), job.device.name or "Not described"
    trays = tuple(dict.fromkeys(step.tray for step in job.opening.steps if step.tray.strip()))
    more = job.device.serial or job.intake.owner
    return (Label(code, job.label, device, more), *(Label(code, job.label, f"Tray {tray}", device) for tray in trays))


LONGEST_MIN = 15.0  # between two acts: a longer pause was a break, and counts for the least
LEAST_MIN = 1.0  # for an act after a break, and for the first of all


def minutes_by_station(log: Sequence[LogRow]) -> tuple[tuple[str, float], ...]:
    """Stations with their minutes, in the order they were first worked at.

    The time since the act before counts for the station of the act; after a pause of over a quarter of an hour, one minute.
    """
    found: dict[str, float] = {}
    last: datetime | None = None
    for row in sorted(log, key=lambda one: one.version_id):
        try:
            at = datetime.fromisoformat(row.kept_at)
        except ValueError:
            continue
        since = (at - last).total_seconds() / 60 if last is not None else LEAST_MIN
        spent = since if 0 <= since <= LONGEST_MIN else LEAST_MIN
        found[row.station] = found.get(row.station, 0.0) + spent
        last = at
    return tuple(found.items())


def state(job: Job) -> StationState:
    """Begun when something is written on the sheet, done when it is signed."""
    if job.closing.signed_by:
        return "done"
    return "begun" if job.closing.done else "open"


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Return."""
    closing = job.closing
    parts = tuple(part.name for part in closing.parts)
    said = (closing.done, closing.left, closing.battery, closing.care, closing.recheck_on, closing.lesson, closing.begins)
    return (*said, *parts, closing.signed_by, closing.signed_on)


def next_of(job: Job, result: object) -> NextAct:
    """The sheet written, signed, handed over: what is left when no other station wants anything."""
    closing = job.closing
    if closing.signed_by:
        reason = f"Signed by {closing.signed_by} on {closing.signed_on}."
        return NextAct(
            "Return", "Print the sheet and hand it over", reason, "1 min", "Print sheet", "hand over", COLLECTION, Urgency.SIGNED
        )
    verdict = judge(job).verdict if job.light.current.readings else None
    if not closing.done:
        found = f"{verdict.headline}. " if verdict else ""
        return NextAct(
            "Return", "Write the sheet", f"{found}Write what was done, then sign.", "2 min", "Write sheet", "write",
            "signing", Urgency.SHEET,
        )  # fmt: skip
    reason = verdict.reason if verdict else "What was done is written; nothing else is waited for."
    return NextAct("Return", "Read the sheet through and sign it", reason, "1 min", "Sign", "sign", "signing", Urgency.SHEET)


def fields_of(job: Job) -> dict[str, str]:
    """What stands in the fields of the page."""
    closing = job.closing
    names = ("done", "left", "battery", "care", "recheck_on", "lesson", "begins", "signed_by", "signed_on")
    return {name: getattr(closing, name) for name in names}
