"""The safety gate of a job, for the stations that open it or mean to."""

from dataclasses import replace

from violet_dial.core.receiving.findings import MEANINGS, Meaning
from violet_dial.core.receiving.gate import GatePoint, gate_points
from violet_dial.core.receiving.places import nearest_spot
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.receiving import Finding, TakenTrial


def record_trial(job: Job, trial: TakenTrial, at: str) -> ActResult:
    """One act of the function walk as tried."""
    have = job.receiving.trials
    taken = replace(trial, at=at, note=trial.note.strip())
    setting = f" at {trial.setting}" if trial.setting else ""
    reason = f"{trial.act.capitalize()}{setting}, {trial.supply}: {trial.result}" + f" ({taken.note})" * bool(
        taken.note
    )
    return ActResult(replace(job, receiving=replace(job.receiving, trials=(*have, taken))), "Receive", reason)


def gate_of(job: Job) -> tuple[GatePoint, ...]:
    """The points of the safety gate that apply."""
    return gate_points(job.receiving.gate, job.device.kind)


def gate_open(job: Job) -> tuple[str, ...]:
    """Names of the points still to be done."""
    return tuple(point.name for point in gate_of(job) if point.open)


def gate_first(job: Job) -> str:
    """What of the gate is still to be done before the first thing comes off, for the cost of an act; empty when nothing is."""
    waiting = gate_open(job)
    if not waiting or any(not step.planned for step in job.opening.steps):
        return ""
    return f" · first look: {', '.join(waiting).lower()}"


def place_of(job: Job, finding: Finding) -> str:
    """The named place nearest to a finding."""
    return nearest_spot(job.device.kind, finding.view, finding.x, finding.y).name


def meaning_of(finding: Finding) -> Meaning:
    """What a finding means for tracing, and its caution."""
    return MEANINGS[finding.kind]


def finding_line(job: Job, finding: Finding) -> str:
    """A finding in one line: what, where, how much, and its note."""
    note = f": {finding.note}" if finding.note else ""
    return f"{finding.kind}, {place_of(job, finding)} ({finding.view}), {finding.extent}{note}"
