"""Return: what its page shows, what it wants done next, its state on the line, its words for search."""

from violet_dial.job.document import Job
from violet_dial.services.light_judgement import judge
from violet_dial.services.next import COLLECTION, NextAct, Urgency
from violet_dial.services.station import StationState


def state(job: Job) -> StationState:
    """Begun when something is written on the sheet, done when it is signed."""
    if job.closing.signed_by:
        return "done"
    return "begun" if job.closing.done else "open"


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Return."""
    closing = job.closing
    parts = tuple(part.name for part in closing.parts)
    said = (
        closing.done,
        closing.left,
        closing.battery,
        closing.care,
        closing.recheck_on,
        closing.lesson,
        closing.begins,
    )
    return (*said, *parts, closing.signed_by, closing.signed_on)


def next_of(job: Job, result: object) -> NextAct:
    """The sheet written, signed, handed over: what is left when no other station wants anything."""
    closing = job.closing
    if closing.signed_by:
        reason = f"Signed by {closing.signed_by} on {closing.signed_on}."
        return NextAct(
            "Return", "Print the sheet and hand it over", reason, "1 min", "Print sheet", "hand over", COLLECTION,
            Urgency.SIGNED,
        )  # fmt: skip
    verdict = judge(job).verdict if job.light.current.readings else None
    if not closing.done:
        found = f"{verdict.headline}. " if verdict else ""
        return NextAct(
            "Return", "Write the sheet", f"{found}Write what was done, then sign.", "2 min", "Write sheet", "write",
            "signing", Urgency.SHEET,
        )  # fmt: skip
    reason = verdict.reason if verdict else "What was done is written; nothing else is waited for."
    return NextAct(
        "Return", "Read the sheet through and sign it", reason, "1 min", "Sign", "sign", "signing", Urgency.SHEET
    )


def fields_of(job: Job) -> dict[str, str]:
    """What stands in the fields of the page."""
    closing = job.closing
    names = ("done", "left", "battery", "care", "recheck_on", "lesson", "begins", "signed_by", "signed_on")
    return {name: getattr(closing, name) for name in names}
