"""Heavy modules imported in the background, so that the window is up at once and the first job opens at once."""

import contextlib
import importlib
import threading

from PySide6.QtCore import QObject, Signal, Slot

HEAVY = (
    "violet_dial.stations",
    "violet_dial.kit.page",
    "violet_dial.services.live",
    "violet_dial.services.simulated",
    "scipy.special",
    "scipy.sparse.csgraph",
)


class Warming(QObject):
    """``warm`` when they are imported."""

    warm = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._thread: threading.Thread | None = None

    @Slot()
    def begin(self) -> None:
        """Import them beside the window's work."""
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def _work(self) -> None:
        for module in HEAVY:
            importlib.import_module(module)
        with contextlib.suppress(RuntimeError):  # the window may be gone by now
            self.warm.emit()

    def wait(self) -> None:
        """Until they are imported: two threads in the same half-imported module would see half of it."""
        if self._thread is not None:
            self._thread.join()
            self._thread = None
