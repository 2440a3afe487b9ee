"""Open: off, the way back, the way in, and care."""

from functools import partial

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QVBoxLayout

from violet_dial.job.document import Job
from violet_dial.kit.cards import scrolled
from violet_dial.kit.over import open_over
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.sub_pages import SubPages
from violet_dial.services.next import NextAct
from violet_dial.stations.open.acts import change_step, step_at
from violet_dial.stations.open.back import BackPage
from violet_dial.stations.open.off import CarePage, OffPage
from violet_dial.stations.open.state import OFF, page_names
from violet_dial.stations.open.step_form import StepForm
from violet_dial.stations.open.way import WayPage


class OpenPage(StationPage):
    """Four pages; Ctrl+Tab goes on."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.off = OffPage(context)
        self.back = BackPage(context)
        self.way = WayPage(context)
        self.care = CarePage(context)
        self._each = (self.off, self.back, self.way, self.care)
        pages = (("Off", self.off), ("Way back", self.back), ("Way in", scrolled(self.way)), ("Care", self.care))
        self.pages = SubPages(pages, tuple(partial(self._draw, one) for one in self._each))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.off.form_asked.connect(self.open_form)
        self.pages.turned.connect(self._turned)

    def begin(self, job: Job) -> None:
        self.pages.begin()
        for page in (self.off, self.back, self.way):
            page.begin()

    def show_job(self, job: Job) -> None:
        """Draw the page in view."""
        self._job = job
        for place, name in enumerate(page_names(job)):
            self.pages.rename(place, name)
        self.pages.draw()

    def _draw(self, page: OffPage | BackPage | WayPage | CarePage) -> None:
        if self._job is not None:
            page.show_job(self._job)

    @Slot(int)
    def _turned(self, place: int) -> None:
        self.focus_first()

    @Slot(str)
    def open_form(self, step_id: str) -> None:
        """The short form of a step."""
        if self._job is None:
            return
        step = self._job.opening.steps[step_at(self._job, step_id)]
        form = StepForm(self, self._context.look, step, self._job.photos)
        form.keep_step = lambda new: new == step or self._context.perform(lambda job, at: change_step(job, new, at))
        open_over(form)

    def focus_first(self) -> None:
        self._each[self.pages.place].focus_first()

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)

    def to_picture(self) -> None:
        self.pages.turn_to(OFF)
        self.off.table.setFocus()

    def adopt(self) -> None:
        """Begin from an earlier strip-down of this model, as a plan."""
        if self._job is not None:
            self.way.show_job(self._job)
            self.way.adopt()
