"""A workshop with all the stations of the line, and copies of the demo, which takes seconds to lay out, laid out once."""

import fcntl
import shutil
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from violet_dial.demo.workshop import build_demo
from violet_dial.job.document import Job
from violet_dial.services.appraisal import Appraisal, appraise
from violet_dial.services.next import NextAct
from violet_dial.services.station import Station, StationState
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile

ROOT = Path(__file__).resolve().parent.parent
KEPT = ROOT / ".test-demo"


def open_workshop(path: Path) -> Workshop:
    """The workshop kept at ``path``, made when missing."""
    return Workshop(WorkshopFile(path), lambda: STATIONS)


def appraised(job: Job, stations: tuple[Station, ...], results: Mapping[str, Any] | None = None) -> Appraisal:
    """What the stations say of a job; none of them may fail."""
    found = appraise(job, 1, stations, results)
    assert not found.faults, found.faults
    return found


def next_act(job: Job, stations: tuple[Station, ...], results: Mapping[str, Any] | None = None) -> NextAct:
    """What is next."""
    return appraised(job, stations, results).next


def station_states(job: Job, stations: tuple[Station, ...]) -> dict[str, StationState]:
    """How far each station is."""
    return appraised(job, stations).states


def demo_at(path: Path) -> None:
    """A copy of the demo workshop; it is laid out anew when anything of the application has changed since."""
    newest = max(path.stat().st_mtime for kind in ("*.py", "*.toml", "*.cir") for path in (ROOT / "src").rglob(kind))
    KEPT.mkdir(exist_ok=True)
    kept = KEPT / "demo.violet"
    with open(KEPT / "lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists() or kept.stat().st_mtime < newest:
            build_demo(kept)
    path.parent.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(kept, path)
