"""What the pages Bench and Workshop show: minutes, parts, the drawer; the workshop's figures."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from violet_dial.job.document import Job
from violet_dial.report.labels import Label
from violet_dial.services.scanned import CODE
from violet_dial.stations.hand_back.figures import LEAST_LEARNT, Figures
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
    rows = tuple(
        (name, f"{spent.get(name, 0.0):.0f} min", f"{thought[name]:g} min" if name in thought else "") for name in names
    )
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
    first = (
        f"The first suspect was the one in {found.first} of {found.told} repairs, among three in {found.among_three}."
    )
    reason = (
        first if found.told else "How well first suspects were right shows once faults are put right from the list."
    )
    unread = f" {found.unreadable} could not be read." if found.unreadable else ""
    parts: tuple[tuple[str, Rows], ...] = (
        ("Faults put right, by kind of part", _counted(found.kinds)),
        ("By model", _counted(found.models)),
        ("Found on receipt", _counted(found.places)),
        ("Came back", tuple((one,) for one in found.returned[:MOST_ROWS])),
        ("Parts used", _counted(found.used)),
        (
            "Left in the drawer",
            tuple(
                (f"{count}", f"{name}{', order some' if count < 2 else ''}") for name, count in found.left[:MOST_ROWS]
            ),
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
    return tuple(
        (f"{count}", name if count >= LEAST_LEFT else f"{name}: order some") for name, count in left[:MOST_ROWS]
    )


def _weights(found: Figures) -> Rows:
    from violet_dial.core.diagnosis.faults import WEIGHTS

    shifted = sorted(found.weights, key=lambda weight: -abs(weight[1] - WEIGHTS[weight[0]]))
    return tuple(
        (f"{100 * weight:.1f} %", f"{kind}, shipped {100 * WEIGHTS[kind]:.1f} %") for kind, weight in shifted[:5]
    )


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
