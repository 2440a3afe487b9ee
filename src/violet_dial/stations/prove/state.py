"""Prove: its state on the line, what it wants done next, its words for the card and for search, its files of the bundle."""

import re
from datetime import date

from violet_dial.core.proof.said import plan_said, provoked_said, share_said
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.services.job_shutter import has_shutter
from violet_dial.services.next import NextAct, Urgency, described
from violet_dial.services.repairs import repairs_of
from violet_dial.services.station import StationState
from violet_dial.stations.prove.bench import judged_of
from violet_dial.stations.prove.firings_state import next_said
from violet_dial.stations.prove.rounds_state import contacts_of, course_of, next_position
from violet_dial.stations.prove.seals_acts import next_frame, planned
from violet_dial.stations.prove.seals_state import plan_words, suspects_of
from violet_dial.stations.prove.table import write_contacts, write_log

FIRINGS, CONTACTS, EXERCISE, SEALS, SOAK = range(5)
NOW_AND_THEN = re.compile(
    r"now and then|sometimes|intermittent|not always|every so often|off and on|blank frames|does not always|comes and goes",
    re.IGNORECASE,
)
LEAKS = re.compile(r"light leaks?|light seals?|\bfog(ged|s)?\b|streaks? on (the )?film", re.IGNORECASE)


def begun(job: Job) -> bool:
    """Whether anything was done here."""
    proving = job.proving
    return bool(proving.log or proving.rounds or proving.exercise or proving.frames or proving.roll or proving.soak.readings)


def state(job: Job) -> StationState:
    """Done when what was begun is proved, held, told or read."""
    if not begun(job):
        return "open"
    return "done" if next_of(job, None) is None else "begun"


def finding(job: Job) -> str:
    """What is proved or told, in a few words."""
    proving = job.proving
    if proving.log:
        return plan_said(judged_of(job).plan)
    if proving.exercise is not None and (found := course_of(job, date.today())) is not None:
        return found.words
    suspects = suspects_of(job)
    return f"Light gets in at the {suspects[0].cause}" if suspects else ""


def words(job: Job) -> tuple[str, ...]:
    """What search finds this job by."""
    failed = dict.fromkeys(one.failed for one in job.proving.log if one.failed)
    leak = tuple(suspect.cause for suspect in suspects_of(job)[:1])
    return (*failed, *(repair.words for repair in repairs_of(job)), *leak)


def members(job: Job) -> tuple[Member, ...]:
    """Firings and contacts as CSV."""
    log = (("proof-log.csv", write_log(job)),) if job.proving.log else ()
    return (*log, *((("contacts.csv", write_contacts(job)),) if job.proving.rounds else ()))


def next_of(job: Job, result: object) -> NextAct | None:
    """The firings that are left, the round, the day, the frame: where that is the complaint or was begun."""
    if not described(job):
        return None
    if (found := _fire(job)) is not None:
        return found
    if job.proving.rounds and (found := _clean(job)) is not None:
        return found
    if job.proving.exercise is not None and (found := _exercise(job)) is not None:
        return found
    leaking = bool(LEAKS.search(job.intake.headline_fault))
    return _look(job) if job.proving.roll or job.proving.frames or leaking else None


def _fire(job: Job) -> NextAct | None:
    about = has_shutter(job) and bool(NOW_AND_THEN.search(job.intake.headline_fault))
    if not job.proving.log and not about:
        return None
    one = judged_of(job).plan
    urgency = Urgency.COMPLAINT if about and (job.proving.log or not repairs_of(job)) else Urgency.LIGHT
    if not job.proving.log:
        return NextAct(
            "Prove", "Fire it and count", "How often it fails, and where, is not known: every firing counts, clean ones too.",
            "10 min", "To the lanes", "prove", "firings to be counted", urgency, page=FIRINGS,
        )  # fmt: skip
    if one.verdict == "proved" or (one.verdict == "failed" and not one.after):
        return None
    if one.verdict == "failed":
        return NextAct(
            "Prove", "It failed again: find out why", plan_said(one), "as long as it takes", "To the lanes", "prove",
            "the fault that came back", Urgency.TRACE, page=FIRINGS,
        )  # fmt: skip
    how = provoked_said(one.provoked) if one.provoked_left else ""
    cost = f"{one.days} days" if one.days > 1 else f"{max(one.left // 4, 1)} min"
    title = next_said(one).removeprefix("Next: ").rstrip(".")
    sure = f"fewer than {share_said(one.claim.share)} fail, with {100 * one.claim.confidence:.4g} %"
    fewest = f" {one.now} was fired least." if one.now and not one.now_provoked and len(one.by_setting) > 1 else ""
    why = f"{plan_said(one)} Then {sure}.{fewest}" + (f" It used to fail {how}." if how else "")
    return NextAct(
        "Prove", f"{title[:1].upper()}{title[1:]}" or "Fire it", why, cost, "To the lanes", "prove",
        "its proof", urgency, page=FIRINGS,
    )  # fmt: skip


def _clean(job: Job) -> NextAct | None:
    found = contacts_of(job)
    if found.is_done:
        return None
    where = next_position(job)
    title = f"Read the contact at {where}" if where else found.next.rstrip(".")
    return NextAct("Prove", title, found.words, "3 min", "To the contacts", "clean", "its contacts", Urgency.LIGHT, page=CONTACTS)


def _exercise(job: Job) -> NextAct | None:
    today = date.today()
    found = course_of(job, today)
    if found is None or found.state in ("done", "failing"):
        return None
    if found.due is None:
        on = next((date.fromordinal(day.on) for day in found.days if day.done is None), today)
        return NextAct(
            "Prove", "Let it rest today", f"{found.words} Next on {on:%A}.", "nothing", "To the days", "exercise",
            "its exercise", Urgency.CLOSE, page=EXERCISE,
        )  # fmt: skip
    return NextAct(
        "Prove", "Exercise it today", found.words, "10 min", "To the days", "exercise", "its exercise", Urgency.COMPLAINT,
        page=EXERCISE,
    )  # fmt: skip


def _look(job: Job) -> NextAct | None:
    frames, roll = job.proving.frames, planned(job)
    if roll and all(number != next_frame(job) for number, _open in roll):
        return None
    if not roll and suspects_of(job) and suspects_of(job)[0].chance >= 0.9:
        return None
    about = bool(LEAKS.search(job.intake.headline_fault))
    title = "Look at the next frame" if frames else "Lamp test in the dark, then a seal roll"
    return NextAct(
        "Prove", title, plan_words(job), "1 min" if frames else "15 min and a roll", "To the seals", "seals",
        "its seal roll", Urgency.COMPLAINT if about else Urgency.LIGHT, page=SEALS,
    )  # fmt: skip
