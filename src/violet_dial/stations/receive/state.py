"""Receive: what its pages show, what it wants done first, its state on the line, its words for search."""

from dataclasses import dataclass

from violet_dial.core.receiving.places import hunting_list
from violet_dial.core.receiving.walk import SUPPLIES, Clash, Trial, WalkAct, acts_for, find_clashes
from violet_dial.job.document import Hazard, Job, Photo
from violet_dial.job.receiving import Finding, MissingScrew
from violet_dial.job.spoken import spoken_time
from violet_dial.services.gate import LOCAL_RULES, cautions_for, finding_line, gate_of, gate_open, meaning_of
from violet_dial.services.next import NextAct, Urgency, approach_of, described
from violet_dial.services.station import StationState

DESCRIBE, LOOK_OVER, WALK = range(3)  # places of the pages
NO_FINDINGS = "Nothing noted yet. Arrows go from place to place, Enter writes what is there, PageDown turns the device."
Row = tuple[str, ...]


# the line, search


def state(job: Job) -> StationState:
    """Done when device and headline fault are said."""
    if described(job):
        return "done"
    return "begun" if job.device.name or job.intake.headline_fault else "open"


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Receive."""
    device, intake, receiving = job.device, job.intake, job.receiving
    return (
        device.name, device.maker, device.serial, device.kind, device.cell, device.family,
        intake.headline_fault, intake.owner, intake.received_on, intake.came_with, intake.noticed, intake.tried_already,
        *intake.hazards,
        *(f"{photo.file_name} {photo.caption}" for photo in job.photos),
        *(f"{finding.kind} {finding.note}" for finding in receiving.findings),
        *(f"{trial.act} {trial.setting} {trial.note}" for trial in receiving.trials),
        *(f"{one.place} {one.siblings} {one.found}" for one in receiving.missing),
    )  # fmt: skip


# what is to be done next


@dataclass(frozen=True)
class _First:
    """How one of the first things is asked for: none of them needs anything opened."""

    title: str
    minutes: int
    button: str
    waits: str
    page: int


_FIRST: dict[str, _First] = {
    "battery": _First("Look at the battery first", 2, "Battery", "a look at the battery", WALK),
    "film": _First("See whether film is inside", 1, "Look", "a look for film", WALK),
    "look": _First("Look it all round", 5, "Look over", "looking over", LOOK_OVER),
    "walk": _First("Try every setting, on each supply", 5, "Function walk", "function walk", WALK),
}


def next_of(job: Job, result: object) -> NextAct | None:
    """Describe it; then what comes before anything is opened, measured or read."""
    if not described(job):
        reason = "The headline fault in one line is what everything else is read against."
        return NextAct(
            "Receive", "Say what it is and what is wrong", reason, "1 min · nothing to open", "Describe", "describe",
            "describing", Urgency.DESCRIBE,
        )  # fmt: skip
    wanted = approach_of(job)
    first = _FIRST.get(wanted.first)
    if first is None:
        return None
    cost = f"{first.minutes} min · nothing to open"
    return NextAct(
        "Receive", first.title, wanted.reason, cost, first.button, wanted.first, first.waits, Urgency.FIRST, first.page
    )


# what the pages show


@dataclass(frozen=True)
class DescribeShown:
    """The description: single lines, longer texts and choices by their key, hazards ticked, cautions said, photos."""

    lines: dict[str, str]
    texts: dict[str, str]
    choices: dict[str, str]
    hazards: tuple[Hazard, ...]
    cautions: str
    photos: tuple[Photo, ...]


def describe_shown(job: Job) -> DescribeShown:
    """What the first page shows."""
    device, intake = job.device, job.intake
    lines = {
        "headline_fault": intake.headline_fault, "name": device.name, "maker": device.maker, "serial": device.serial,
        "family": device.family, "owner": intake.owner, "received_on": intake.received_on,
    }  # fmt: skip
    texts = {"came_with": intake.came_with, "noticed": intake.noticed, "tried_already": intake.tried_already}
    said = [f"{one.title}: {one.text}" for one in cautions_for(job)]
    choices = {"kind": str(device.kind), "cell": str(device.cell)}
    return DescribeShown(lines, texts, choices, intake.hazards, "\n\n".join([*said, LOCAL_RULES]), job.photos)


@dataclass(frozen=True)
class HuntRow:
    """A place to look for a missing screw."""

    place: str
    words: str
    why: str


@dataclass(frozen=True)
class LookShown:
    """The findings as lines; what the chosen one means; the hunt for its screw, where it is one."""

    findings: tuple[Finding, ...]
    lines: tuple[str, ...]
    meaning: str
    caution: str
    screw: MissingScrew | None
    hunt: tuple[HuntRow, ...]

    @property
    def found(self) -> str:
        """What the button says that ends the hunt."""
        return f"Found: {self.screw.found}" if self.screw and self.screw.found else "Found at the marked place"


def look_shown(job: Job, chosen: int) -> LookShown:
    """What the second page shows with a finding chosen by its place; -1 for none."""
    findings = job.receiving.findings
    lines = tuple(finding_line(job, finding) for finding in findings)
    if not 0 <= chosen < len(findings):
        return LookShown(findings, lines, "" if findings else NO_FINDINGS, "", None, ())
    one = findings[chosen]
    screw = next((screw for screw in job.receiving.missing if screw.screw_id == one.finding_id), None)
    hunt = _hunt(job, screw) if screw is not None else ()
    return LookShown(findings, lines, meaning_of(one).tracing, meaning_of(one).caution, screw, hunt)


def _hunt(job: Job, screw: MissingScrew) -> tuple[HuntRow, ...]:
    """Where to look for a screw, cheapest first; where was looked already is filled."""
    places = hunting_list(job.device.kind, screw.view)
    signs = ("●" if one.place in screw.looked else "○" for one in places)
    return tuple(
        HuntRow(one.place, f"{sign}  {one.minutes:g} min  {one.place}", one.why) for one, sign in zip(places, signs, strict=True)
    )


@dataclass(frozen=True)
class WalkShown:
    """The function walk as rows (act and setting of each in ``acts``), what does not go together, and the gate."""

    acts: tuple[tuple[str, str], ...]
    rows: tuple[Row, ...]
    clashes: str
    points: str

    def tried(self, job: Job, row: int) -> str:
        """Every trial of a row, newest first, with when and note; empty for no row."""
        return trials_said(job, *self.acts[row]) if 0 <= row < len(self.acts) else ""


def walk_shown(job: Job) -> WalkShown:
    """What the third page shows."""
    clashes = "\n\n".join(f"{clash.title}.\n{clash.meaning}" for clash in clashes_of(job))
    points = "\n".join(f"{'○' if point.open else '●'} {point.name}: {point.advice}" for point in gate_of(job))
    return WalkShown(walk_acts(job), walk_rows(job), clashes or "Nothing so far.", points)


def page_names(job: Job) -> tuple[str, str, str]:
    """Names of the pages with how much is on them."""
    count, waiting = len(job.receiving.findings), len(gate_open(job))
    look = f"Look over · {count}" if count else "Look over"
    return ("Describe", look, f"Try, make sure · {waiting}" if waiting else "Try, make sure")


def walk_of(job: Job) -> tuple[WalkAct, ...]:
    """The acts of the walk that fit this device."""
    return acts_for(job.device.kind, job.device.cell == "selenium")


def clashes_of(job: Job) -> tuple[Clash, ...]:
    """What in the walk does not go together."""
    return find_clashes(tuple(Trial(trial.act, trial.setting, trial.supply, trial.result) for trial in job.receiving.trials))


def walk_acts(job: Job) -> tuple[tuple[str, str], ...]:
    """Act and setting of each row: those that fit the device, then whatever else was tried."""
    wanted = [(act.name, setting) for act in walk_of(job) for setting in (act.settings or ("",))]
    wanted += [(trial.act, trial.setting) for trial in job.receiving.trials]
    return tuple(dict.fromkeys(wanted))


def walk_rows(job: Job) -> tuple[Row, ...]:
    """Rows of the walk, with the newest result on each supply."""
    newest = {(trial.act, trial.setting, trial.supply): trial for trial in job.receiving.trials}
    rows = []
    for act, setting in walk_acts(job):
        tried = [newest.get((act, setting, supply)) for supply in SUPPLIES]
        results = tuple(one.result + " *" * bool(one.note) if one else "" for one in tried)
        rows.append((f"{act} {setting}".strip(), *results))
    return tuple(rows)


def trials_said(job: Job, act: str, setting: str) -> str:
    """Every trial of one act at one setting, newest first, with when and note."""
    tried = [trial for trial in reversed(job.receiving.trials) if (trial.act, trial.setting) == (act, setting)]
    said = [f"{spoken_time(one.at)} {one.supply}: {one.result}" + f" ({one.note})" * bool(one.note) for one in tried]
    return " · ".join(said[:4]) or "not tried yet"
