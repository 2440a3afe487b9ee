"""The safety gate of a job, for the stations that open it or mean to; functions tried; the cautions that apply, brief, and
deferring to local rules and licensed practice.

Source: Common practice, no source. Nothing here declares a device safe.
"""

from dataclasses import dataclass, replace

from violet_dial.core.receiving.findings import MEANINGS, Meaning
from violet_dial.core.receiving.gate import GatePoint, gate_points
from violet_dial.core.receiving.places import nearest_spot
from violet_dial.job.act import ActResult
from violet_dial.job.document import Hazard, Job
from violet_dial.job.receiving import Finding, TakenTrial


@dataclass(frozen=True)
class Caution:
    """One caution: what it is about and what to do."""

    title: str
    text: str


LOCAL_RULES = "Local rules and licensed practice come first; this list does not make a device safe."
HAZARDS: dict[Hazard, Caution] = {
    "alkaline residue": Caution("Alkaline residue", "Caustic. Gloves and eye protection; keep the dust out of eyes and lungs."),
    "flash capacitor": Caution(
        "Flash capacitor", "Holds a lethal charge for days. Discharge through a resistor, then measure before touching."
    ),
    "mercury cell": Caution("Mercury cell", "Toxic. Do not open or crush; seal it in a bag and hand it in by local rules."),
    "unknown growth": Caution("Unknown growth or crystals", "Treat as hazardous until known. Do not scrape dry or blow."),
    "solvents": Caution("Solvents", "They burn and attack paint and coverings. Air the room; no flame; gloves."),
}
SELENIUM = Caution("Selenium plate", "Toxic. Do not sand or break the cell; dispose of it by local rules.")
LEAD = Caution("Lead solder", "Toxic. Wash hands; no food at the bench.")
_CAMERAS_WITH_FLASH = ("rangefinder compact", "instant camera")


def cautions_for(job: Job) -> tuple[Caution, ...]:
    """The cautions that apply to this device, those ticked at Receive first."""
    found = [HAZARDS[name] for name in job.intake.hazards]
    if job.device.cell == "selenium":
        found.append(SELENIUM)
    if job.device.kind in _CAMERAS_WITH_FLASH and HAZARDS["flash capacitor"] not in found:
        found.append(HAZARDS["flash capacitor"])
    found.append(LEAD)
    return tuple(found)


def record_trial(job: Job, trial: TakenTrial, at: str) -> ActResult:
    """One act of the function walk as tried."""
    have = job.receiving.trials
    taken = replace(trial, at=at, note=trial.note.strip())
    setting = f" at {trial.setting}" if trial.setting else ""
    reason = f"{trial.act.capitalize()}{setting}, {trial.supply}: {trial.result}" + f" ({taken.note})" * bool(taken.note)
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
