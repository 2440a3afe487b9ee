"""What the stations say of one version of a job, once it is kept: Next, the line, the card, the words that search finds.

Each station is asked by itself: where one fails, the others are heard all the same, and the fault is said.
"""

import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

from violet_dial.job.document import Job
from violet_dial.services.next import NextAct, Urgency, most_urgent
from violet_dial.services.station import Station, StationState
from violet_dial.store.records import Description

T = TypeVar("T")
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Appraisal:
    """What is said of a version: the next act, the state of each station, the card and the words; ``faults``, a sentence each,
    where a station failed."""

    version_id: int
    next: NextAct
    states: dict[str, StationState]
    told: Description
    faults: tuple[str, ...] = ()


class FaultGuard:
    """Asks stations one by one; what fails is logged and said in ``faults`` instead of stopping the rest."""

    def __init__(self) -> None:
        self.faults: list[str] = []

    def ask(self, station: Station, what: str, answer: Callable[[], T], otherwise: T) -> T:
        """What a station answers; ``otherwise`` where it fails."""
        try:
            return answer()
        except Exception as error:  # noqa: BLE001 - a fault of one station hides no other
            self.faults.append(fault_said(station.name, what, error))
            return otherwise


def fault_said(station: str, what: str, error: Exception) -> str:
    """A station's own fault as a sentence; it is logged with where it came from."""
    _log.error("%s: %s", station, what, exc_info=error)
    detail = " ".join(str(error).split())[:160]
    return f"{station} could not say {what}: a fault of the application ({type(error).__name__}: {detail})."


def appraise(job: Job, version_id: int, stations: tuple[Station, ...], results: Mapping[str, Any] | None = None) -> Appraisal:
    """What the stations of the line say of a version."""
    asked, worked = FaultGuard(), results or {}
    offers, words, found = [], [job.label, job.waits_for], []
    states: dict[str, StationState] = {}
    for station in stations:
        offers.append(asked.ask(station, "what is next", partial(station.next, job, worked.get(station.name)), None))
        states[station.name] = asked.ask(station, "how far it is", partial(station.state, job), "begun")
        words += asked.ask(station, "its words for search", partial(station.words, job), ())
        found.append(asked.ask(station, "what was found", partial(station.finding, job), ""))
    act = most_urgent([offer for offer in offers if offer is not None], nothing_said(stations))
    finding = next((said for said in reversed(found) if said), "")
    told = Description(
        job.waits_for or act.waits, " · ".join((finding, *asked.faults[:1])) if asked.faults else finding,
        "\n".join(word for word in words if word),
    )  # fmt: skip
    return Appraisal(version_id, act, states, told, tuple(asked.faults))


def nothing_said(stations: tuple[Station, ...]) -> NextAct:
    """What is next where no station could say."""
    return NextAct(
        stations[0].name if stations else "", "Look at the job yourself", "No station could say what is next.", "", "Go there",
        "none", "a look", Urgency.SHEET,
    )  # fmt: skip
