"""Receive: describe it, look it over, try it."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.gui.stations.receive.describe import DescribePage
from violet_dial.gui.stations.receive.look import LookPage
from violet_dial.gui.stations.receive.walk import WalkPage
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.sub_pages import SubPages
from violet_dial.job.document import Job, Photo
from violet_dial.services.receiving import gate_open


class ReceiveStation(QWidget):
    """Three pages: Describe, Look over, Try and make safe. Ctrl+Tab goes on."""

    act_asked = Signal(object)
    photos_asked = Signal()
    photos_dropped = Signal(list)

    def __init__(self, look: Look, thumbnail: Callable[[Photo], bytes]) -> None:
        super().__init__()
        self.describe = DescribePage(look, thumbnail)
        self.look_over = LookPage(look)
        self.walk = WalkPage(look)
        self.pages = SubPages(
            (("Describe", self.describe), ("Look over", self.look_over), ("Try, make sure", self.walk))
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.describe.photos_asked.connect(self.photos_asked)
        self.setAcceptDrops(True)
        for page in (self.describe, self.look_over, self.walk):
            page.act_asked.connect(self.act_asked)
        self.pages.turned.connect(lambda _: self.focus_first())

    @property
    def lines(self) -> dict[str, object]:
        return dict(self.describe.lines)

    def show_job(self, job: Job) -> None:
        for page in (self.describe, self.look_over, self.walk):
            page.show_job(job)
        count = len(job.receiving.findings)
        self.pages.rename(1, f"Look over · {count}" if count else "Look over")
        waiting = len(gate_open(job))
        self.pages.rename(2, f"Try, make sure · {waiting}" if waiting else "Try, make sure")

    def keep(self) -> None:
        """Keep what was typed but not yet kept."""
        self.describe.keep()

    def focus_first(self) -> None:
        """To where the work on the shown page begins."""
        (self.describe, self.look_over, self.walk)[self.pages.place].focus_first()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.photos_dropped.emit([url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()])
