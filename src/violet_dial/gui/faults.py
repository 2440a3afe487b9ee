"""A fault of the application itself: a sentence on the screen, an entry in the log, and a file that can be sent.

The file holds where it happened, the last acts by their names and the versions of what runs; nothing of any job is put in,
and nothing is ever sent from here.
"""

import platform
import sys
import threading
import traceback
from collections import deque
from datetime import datetime
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QObject, Signal, qVersion

from violet_dial import __version__

LOG_BYTES, LOG_FILES, MOST_REPORTS, MOST_ACTS = 500_000, 3, 20, 40
_acts: deque[str] = deque(maxlen=MOST_ACTS)


def note(act: str) -> None:
    """An act by its name, to be told should a fault follow."""
    _acts.append(f"{datetime.now():%H:%M:%S} {act}")


class Faults(QObject):
    """Catches what nothing else caught, in any thread; ``happened`` carries the sentence to the window."""

    happened = Signal(str)

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._folder = folder
        self._last = ""

    def install(self) -> None:
        """From now on every fault comes here."""
        sys.excepthook = self._caught
        threading.excepthook = lambda found: self._caught(found.exc_type, found.exc_value, found.exc_traceback)

    def begin_log(self) -> None:
        """What the application notes goes to a file that starts anew when it has grown."""
        import logging
        from logging.handlers import RotatingFileHandler

        try:
            self._folder.mkdir(parents=True, exist_ok=True)
        except OSError:
            return  # nowhere to write: the work goes on without a log
        handler = RotatingFileHandler(
            self._folder / "violet-dial.log", maxBytes=LOG_BYTES, backupCount=LOG_FILES, encoding="utf-8", delay=True
        )
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        log = logging.getLogger("violet_dial")
        log.handlers = [handler]
        log.setLevel(logging.INFO)

    def _caught(self, kind: type[BaseException], value: BaseException | None, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, value or kind(), trace)
            return
        told = "".join(traceback.format_exception(kind, value, trace))
        sys.stderr.write(told)
        if told == self._last:
            return  # again and again, while something is drawn: one report
        self._last = told
        try:
            where = f"What is known of it is in {self._report(told)}: read it before you send it."
        except OSError as error:
            where = f"No report could be written ({error.strerror})."
        self.happened.emit(
            f"A fault of the application, not yours ({kind.__name__}). What was kept is safe; go on, or start it anew. {where}"
        )

    def _report(self, told: str) -> Path:
        """Write a report; the oldest make room."""
        import logging

        acts = "\n".join(_acts) or "none"
        logging.getLogger("violet_dial.faults").error("%s\nActs before it:\n%s", told, acts)
        folder = self._folder / "faults"
        folder.mkdir(parents=True, exist_ok=True)
        for old in sorted(folder.glob("fault-*.txt"))[: -MOST_REPORTS + 1]:
            old.unlink(missing_ok=True)
        path = folder / f"fault-{datetime.now():%Y%m%d-%H%M%S-%f}.txt"
        runs = f"Violet Dial {__version__}, Python {platform.python_version()}, Qt {qVersion()}, {platform.platform()}"
        path.write_text(f"{runs}\n\nActs before it:\n{acts}\n\n{told}", encoding="utf-8")
        return path
