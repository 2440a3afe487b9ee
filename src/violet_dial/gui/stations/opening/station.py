"""Open: off, the way back, the way in, and care."""

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from violet_dial.gui.stations.opening.back_page import BackPage
from violet_dial.gui.stations.opening.care_page import CarePage
from violet_dial.gui.stations.opening.off_page import OffPage
from violet_dial.gui.stations.opening.step_form import StepForm
from violet_dial.gui.stations.opening.way_page import WayPage
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import scrolled
from violet_dial.gui.widgets.sub_pages import SubPages
from violet_dial.job.document import Job
from violet_dial.services.lessons import Offer
from violet_dial.services.opening import change_step, step_at, totals_of


class OpenStation(QWidget):
    """Four pages; Ctrl+Tab goes on. Only the page in view is drawn again after an act."""

    act_asked = Signal(object)
    said = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._job: Job | None = None
        self.off = OffPage(look)
        self.back = BackPage(look)
        self.way = WayPage(look)
        self.care = CarePage(look)
        self._each = (self.off, self.back, self.way, self.care)
        self.pages = SubPages(
            (("Off", self.off), ("Way back", self.back), ("Way in", scrolled(self.way)), ("Care", self.care))
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        for page in self._each:
            page.act_asked.connect(self.act_asked)
        self.back.said.connect(self.said)
        self.off.form_asked.connect(self.open_form)
        self.pages.turned.connect(self._turned)

    def show_job(self, job: Job) -> None:
        """Show the job on the page in view."""
        self._job = job
        total = totals_of(job)
        self.pages.rename(0, f"Off · {len(job.opening.steps)}" if job.opening.steps else "Off")
        self.pages.rename(1, f"Way back · {total.ended} of {total.found}" if total.found else "Way back")
        self._each[self.pages.place].show_job(job)

    def show_offer(self, offer: Offer) -> None:
        self.way.show_offer(offer)

    @Slot(int)
    def _turned(self, place: int) -> None:
        if self._job is not None:
            self._each[place].show_job(self._job)
        self.focus_first()

    @Slot(str)
    def open_form(self, step_id: str) -> None:
        """The short form of a step."""
        if self._job is None:
            return
        step = self._job.opening.steps[step_at(self._job, step_id)]
        form = StepForm(self, self._look, step, self._job.photos)
        if form.exec() == QDialog.DialogCode.Accepted and form.result_step != step:
            changed = form.result_step
            self.act_asked.emit(lambda job, at: change_step(job, changed, at))

    def focus_first(self) -> None:
        self._each[self.pages.place].focus_first()
