"""What was found on a device, for all who reckon with it: where it is, and what it means."""

from violet_dial.core.receiving.findings import MEANINGS, Meaning
from violet_dial.core.receiving.places import nearest_spot
from violet_dial.job.document import Job
from violet_dial.job.receiving import Finding


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
