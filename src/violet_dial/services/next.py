"""The one next act, and what a job waits for: the most urgent of what the stations want.

Each station says what it wants done and how urgent that is; this module alone chooses. What a job waits for is said by
the same act, so that a card and the Next card never disagree.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

from violet_dial.core.receiving.symptom import Approach, Known, approach
from violet_dial.job.act import Act, Done
from violet_dial.job.document import Job
from violet_dial.job.light import LightCheck
from violet_dial.services.station import Station, StationState

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


def next_act(job: Job, stations: tuple[Station, ...], results: Mapping[str, Any] | None = None) -> NextAct:
    """The next act and why.

    Parameters
    ----------
    job : Job
    stations : the line, in the order of the work; the last always wants something (the sheet)
    results : what pages have worked out for this very job, by station; nothing where nothing was
    """
    offers = [station.next(job, (results or {}).get(station.name)) for station in stations]
    wanted = [offer for offer in offers if offer is not None]
    return max(wanted, key=lambda offer: offer.urgency)


def waits_for(job: Job, stations: tuple[Station, ...]) -> str:
    """What a job waits for: what it was put aside for, or its next act."""
    return job.waits_for or next_act(job, stations).waits


def finding(job: Job, stations: tuple[Station, ...]) -> str:
    """What is known, in a few words for the card: of the latest station that has something to say."""
    said = [station.finding(job) for station in reversed(stations)]
    return next((words for words in said if words), "")


def station_states(job: Job, stations: tuple[Station, ...]) -> dict[str, StationState]:
    """State of each station for the line at the top."""
    return {station.name: station.state(job) for station in stations}


def described(job: Job) -> bool:
    """Whether it was said what came in and what is wrong with it."""
    return bool(job.device.name and job.intake.headline_fault)


def approach_of(job: Job) -> Approach:
    """Where to begin with this job, from its headline fault, kind and what is known so far."""
    tried = {one.act for one in job.receiving.trials if one.result != "not tried"}
    gate = job.receiving.gate
    known = Known(
        headline=f"{job.intake.headline_fault}; {job.intake.tried_already}",
        kind=job.device.kind,
        needs_battery=job.device.cell != "selenium" and gate.battery != "has none",
        walked=bool(tried),
        looked=bool(job.receiving.findings),
        opened=any(not step.planned for step in job.opening.steps),
        traced=bool(job.tracing.circuit_text),
        read=job.light.runs != LightCheck().runs,
        battery_seen=gate.battery != "not looked" or "battery test" in tried,
        film_seen=gate.film != "not looked",
    )
    return approach(known)


def put_aside(job: Job, what: str, at: str) -> Done:
    """The job put aside until something comes; empty text takes it up again."""
    words = what.strip()
    return Done(replace(job, waits_for=words), "Job", f"Waits for {words}" if words else "Taken up again")
