"""Acts at Receive: what came in, findings on the drawing, the safety gate, missing screws."""

from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.receiving.findings import EXTENTS, FINDING_KINDS, Extent, FindingKind
from violet_dial.core.receiving.gate import Gate
from violet_dial.core.receiving.places import View
from violet_dial.job.act import ActResult, changes_said
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.receiving import Finding, MissingScrew, Receiving
from violet_dial.services.gate import place_of


@dataclass(frozen=True)
class FindingSeen:
    """What is put on the drawing: kind, view and point (0 to 1), extent, note, photo hash."""

    kind: FindingKind
    view: View
    x: float
    y: float
    extent: Extent = "a spot"
    note: str = ""
    photo: str = ""


@dataclass(frozen=True)
class TypedFinding:
    """A finding as typed: kind, extent, note, and the hash of the photo it names."""

    kind: FindingKind
    extent: Extent
    note: str
    photo: str


def understand_finding(job: Job, text: str) -> TypedFinding:
    """A finding from one line: ``green crust a patch: under the left screw; photo base``.

    Raises InvalidInput: it does not begin with a kind of finding, or names a photo the job has not.
    """
    said, _, photo = text.partition("; photo ")
    low = said.strip().lower()
    kinds = [kind for kind in FINDING_KINDS if low.startswith(kind)]
    spoken = kinds[0] if kinds else low.split(":")[0].split(" ")[0]  # the first word is enough
    kinds = kinds or [kind for kind in FINDING_KINDS if spoken and kind.startswith(spoken)]
    if len(kinds) != 1:
        raise InvalidInput("Finding", text, f"one of {', '.join(kinds or FINDING_KINDS)}, then what else there is to say")
    rest = said.strip()[len(spoken) :].strip(" :,")
    extent: Extent = "a spot"
    for one in EXTENTS:
        if rest.lower().startswith(one):
            extent, rest = one, rest[len(one) :].strip(" :,")
    return TypedFinding(kinds[0], extent, rest, _photo_named(job, photo))


def _photo_named(job: Job, name: str) -> str:
    wanted = name.strip().lower()
    if not wanted:
        return ""
    found = [photo.sha256 for photo in job.photos if wanted in f"{photo.file_name} {photo.caption}".lower()]
    if not found:
        names = ", ".join(photo.file_name for photo in job.photos) or "nothing; attach one first (Ctrl+O)"
        raise InvalidInput("Photo", name, f"part of a photo's name; there is {names}")
    return found[-1]


def _next_id(prefix: str, taken: tuple[str, ...]) -> str:
    numbers = [int(one[1:]) for one in taken if one[1:].isdecimal()]
    return f"{prefix}{max(numbers, default=0) + 1}"


def _with(job: Job, receiving: Receiving) -> Job:
    return replace(job, receiving=receiving)


def place_finding(job: Job, seen: FindingSeen, at: str) -> ActResult:
    """One finding put on the drawing; a missing screw also begins a hunt."""
    have = job.receiving.findings
    finding_id = _next_id("f", tuple(one.finding_id for one in have))
    finding = Finding(finding_id, seen.kind, seen.view, seen.x, seen.y, seen.extent, seen.note.strip(), seen.photo)
    receiving = replace(job.receiving, findings=(*have, finding))
    place = place_of(job, finding)
    if seen.kind == "missing screw":
        screw = MissingScrew(finding_id, seen.view, place, seen.note.strip())
        receiving = replace(receiving, missing=(*receiving.missing, screw))
    reason = f"{seen.kind.capitalize()} at the {place}" + (f": {seen.note.strip()}" if seen.note.strip() else "")
    return ActResult(_with(job, receiving), "Receive", reason)


def change_finding(job: Job, finding_id: str, typed: TypedFinding, at: str) -> ActResult:
    """A finding said in other words; it stays where it was put. A missing screw keeps its hunt."""
    have = job.receiving.findings
    place = next((place for place, one in enumerate(have) if one.finding_id == finding_id), None)
    if place is None:
        raise InvalidInput("Finding", finding_id, "a finding of this job")
    note = typed.note.strip()
    changed = replace(have[place], kind=typed.kind, extent=typed.extent, note=note, photo=typed.photo or have[place].photo)
    missing = tuple(one for one in job.receiving.missing if one.screw_id != finding_id or typed.kind == "missing screw")
    if typed.kind == "missing screw" and not any(one.screw_id == finding_id for one in missing):
        missing = (*missing, MissingScrew(finding_id, changed.view, place_of(job, changed), note))
    receiving = replace(job.receiving, findings=(*have[:place], changed, *have[place + 1 :]), missing=missing)
    reason = f"Finding at the {place_of(job, changed)} now: {typed.kind}, {typed.extent}" + f": {note}" * bool(note)
    return ActResult(_with(job, receiving), "Receive", reason)


def finding_words(finding: Finding) -> str:
    """A finding as it would be typed."""
    return f"{finding.kind} {finding.extent}" + f": {finding.note}" * bool(finding.note)


def strike_finding(job: Job, finding_id: str, at: str) -> ActResult:
    """A finding taken off the drawing; the log and undo still have it."""
    struck = [finding for finding in job.receiving.findings if finding.finding_id == finding_id]
    if not struck:
        raise InvalidInput("Finding", finding_id, "a finding of this job")
    left = tuple(finding for finding in job.receiving.findings if finding.finding_id != finding_id)
    missing = tuple(one for one in job.receiving.missing if one.screw_id != finding_id)
    receiving = replace(job.receiving, findings=left, missing=missing)
    return ActResult(
        _with(job, receiving), "Receive", f"{struck[0].kind.capitalize()} at the {place_of(job, struck[0])} struck out"
    )


def answer_gate(job: Job, gate: Gate, at: str) -> ActResult:
    """The safety gate as now answered."""
    said = []
    before = job.receiving.gate
    if gate.film != before.film:
        said.append(f"film: {gate.film}")
    if gate.battery != before.battery:
        said.append(f"battery: {gate.battery}")
    if gate.has_flash != before.has_flash:
        said.append("has a flash" if gate.has_flash else "has no flash")
    if gate.measured_v != before.measured_v and gate.measured_v is not None:
        said.append(f"flash capacitor {gate.measured_v:g} V measured")
    reason = f"Before opening: {', '.join(said) or 'figures changed'}"
    return ActResult(_with(job, replace(job.receiving, gate=gate)), "Receive", reason)


def note_screw(job: Job, screw: MissingScrew, at: str) -> ActResult:
    """What is known of a missing screw: its siblings, where was looked, where it was found."""
    missing = tuple(screw if one.screw_id == screw.screw_id else one for one in job.receiving.missing)
    if screw.found:
        reason = f"Screw of the {screw.place} found: {screw.found}"
    elif screw.looked:
        reason = f"Screw of the {screw.place}: looked {screw.looked[-1]}"
    else:
        reason = f"Screw of the {screw.place}: siblings {screw.siblings}"
    return ActResult(_with(job, replace(job.receiving, missing=missing)), "Receive", reason)


def describe_device(job: Job, device: Device, intake: Intake, at: str) -> ActResult:
    """What came in and how."""
    said = ", ".join(
        part for part in (changes_said(job.device, device), changes_said(job.intake, intake)) if "nothing" not in part
    )
    return ActResult(replace(job, device=device, intake=intake), "Receive", (said or "nothing changed"))
