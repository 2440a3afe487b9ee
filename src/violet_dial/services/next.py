"""The one next act, and what a job waits for: the most urgent of what the stations want.

Each station says what it wants done and how urgent that is; this module alone chooses. What a job waits for is said by
the same act, so that a card and the Next card never disagree.
"""

from dataclasses import dataclass, replace
from enum import IntEnum

from violet_dial.core.receiving.symptom import Approach, KnownOfJob, approach
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.job.light import LightCheck
from violet_dial.services.circuits import has_circuit

COLLECTION = "collection"


class Urgency(IntEnum):
    """How urgent an act is; the higher goes first, and of equals the earlier station."""

    SHEET = 1  # write and sign
    CLOSE = 2  # put back what is off
    LIGHT = 3  # read, adjust, put right
    TRACE = 4  # a fault is being traced
    COMPLAINT = 5  # the complaint itself is about this: what feeds it, its shutter, its pictures
    FIRST = 6  # what comes before anything is opened or read
    DESCRIBE = 7  # nothing can be judged before it is said what is wrong
    SIGNED = 8  # the sheet is signed: nothing but handing it over
    EXERCISE = 9  # a job that is practice: what is next is the trainee's to find


@dataclass(frozen=True)
class NextAct:
    """The one next act: where, what, why, its cost; what the job waits for meanwhile.

    ``act`` is performed by Next itself (a new run begins); without one Next goes to ``page`` of the station.
    ``reference`` and ``direction`` are what the reference light is to be set to; ``arithmetic`` opens the reason.
    """

    station: str
    title: str
    reason: str
    cost: str
    button: str
    kind: str
    waits: str
    urgency: Urgency
    page: int = 0
    act: Act | None = None
    reference: str = ""
    direction: str = ""
    arithmetic: str = ""


def most_urgent(offers: list[NextAct], otherwise: NextAct) -> NextAct:
    """The most urgent of what the stations want, the earlier of equals; ``otherwise`` where none wants anything."""
    return max(offers, key=lambda offer: offer.urgency, default=otherwise)


def described(job: Job) -> bool:
    """Whether it was said what came in and what is wrong with it."""
    return bool(job.device.name and job.intake.headline_fault)


def approach_of(job: Job) -> Approach:
    """Where to begin with this job, from its headline fault, kind and what is known so far."""
    tried = {trial.act for trial in job.receiving.trials if trial.result != "not tried"}
    gate = job.receiving.gate
    known = KnownOfJob(
        headline=f"{job.intake.headline_fault}; {job.intake.tried_already}",
        kind=job.device.kind,
        needs_battery=job.device.cell != "selenium" and gate.battery != "has none",
        walked=bool(tried),
        looked=bool(job.receiving.findings),
        opened=any(not step.planned for step in job.opening.steps),
        traced=has_circuit(job),
        read=job.light.runs != LightCheck().runs,
        battery_seen=gate.battery != "not looked" or "battery test" in tried,
        film_seen=gate.film != "not looked",
    )
    return approach(known)


def put_aside(job: Job, what: str, at: str) -> ActResult:
    """The job put aside until something comes; empty text takes it up again."""
    words = what.strip()
    return ActResult(replace(job, waits_for=words), "Job", f"Waits for {words}" if words else "Taken up again")
