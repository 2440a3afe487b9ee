"""Receive: describe it, look it over, try it."""

from functools import partial

from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from violet_dial.job.document import Job
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.sub_pages import SubPages
from violet_dial.services.next import NextAct
from violet_dial.stations.receive.describe import DescribePage
from violet_dial.stations.receive.look_over import LookPage
from violet_dial.stations.receive.state import LOOK_OVER, page_names
from violet_dial.stations.receive.walk import WalkPage

PICTURES = "Pictures (*.jpg *.jpeg *.png *.webp)"


class ReceivePage(StationPage):
    """Three pages: Describe, Look over, Try and make sure. Ctrl+Tab goes on."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        attach = QPushButton("Attach photos  Ctrl+O")
        attach.clicked.connect(self.attach_photos)
        self.describe = DescribePage(context, attach)
        self.look_over = LookPage(context)
        self.walk = WalkPage(context)
        self._each = (self.describe, self.look_over, self.walk)
        self._job: Job | None = None
        self.pages = SubPages(
            tuple(zip(("Describe", "Look over", "Try, make sure"), self._each, strict=True)),
            tuple(partial(self._draw, one) for one in self._each),
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.setAcceptDrops(True)
        self.pages.turned.connect(lambda _: self.focus_first())

    def begin(self, job: Job) -> None:
        self.pages.begin()
        self.describe.begin()
        self.look_over.begin(job)
        self.walk.begin()

    def show_job(self, job: Job) -> None:
        self._job = job
        self.pages.draw()
        for place, name in enumerate(page_names(job)):
            self.pages.rename(place, name)

    def _draw(self, page: DescribePage | LookPage | WalkPage) -> None:
        if self._job is not None:
            page.show_job(self._job)

    def keep(self) -> bool:
        return self.describe.keep()

    def focus_first(self) -> None:
        """To where the work on the page in view begins."""
        self._each[self.pages.place].focus_first()

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)
        if act.kind in ("battery", "film"):
            self.walk.gate.focus_on(act.kind)

    def to_picture(self) -> None:
        self.pages.turn_to(LOOK_OVER)

    def attach_photos(self) -> None:
        """Photos chosen from files."""
        self._context.records.choose_many("Attach photos", PICTURES, self._context.records.attach_photos)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._context.records.attach_photos([url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()])
