"""A workshop with all the stations of the line, and copies of the demo, which takes seconds to lay out, laid out once."""

import fcntl
import shutil
from pathlib import Path

from violet_dial.demo.workshop import build_demo
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile

ROOT = Path(__file__).resolve().parent.parent
KEPT = ROOT / ".test-demo"


def open_workshop(path: Path) -> Workshop:
    """The workshop kept at ``path``, made when missing."""
    return Workshop(WorkshopFile(path), lambda: STATIONS)


def demo_at(path: Path) -> None:
    """A copy of the demo workshop; it is laid out anew when anything of the application has changed since."""
    newest = max(one.stat().st_mtime for one in (ROOT / "src").rglob("*.py"))
    KEPT.mkdir(exist_ok=True)
    kept = KEPT / "demo.violet"
    with open(KEPT / "lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists() or kept.stat().st_mtime < newest:
            build_demo(kept)
    path.parent.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(kept, path)
