"""The evidence opened: what was typed, what instruments gave, and why the next test is the next."""

from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.job.document import Job
from violet_dial.services.captures import capture_lines
from violet_dial.services.next import NextAct
from violet_dial.services.station import Section


def opened(job: Job, act: NextAct | None) -> tuple[Section, ...]:
    """The next test with its sum, then every piece of evidence since the last repair."""
    first = (("Next", (act.reason, act.arithmetic)),) if act is not None and act.arithmetic else ()
    return (*first, *explain_evidence(job))


def explain_evidence(job: Job) -> tuple[Section, ...]:
    """Every piece of evidence since the last repair, newest first, with what an instrument gave for it."""
    sections = []
    for place, taken in reversed(tuple(enumerate(job.tracing.now, start=1))):
        behind = (
            capture_lines(taken.capture) if taken.capture else (f"typed: {taken.typed}" if taken.typed else "typed",)
        )
        sections.append((f"{place}: {evidence_words(taken.evidence)}", (f"taken {taken.at}", *behind)))
    return tuple(sections) or (("Evidence", ("None was taken yet.",)),)
