"""What the house asks of a station's page.

A page shows one frozen value made by a plain function of its station's ``state`` module, and drawing it draws all of it.
"""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QStackedWidget, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture, Function
from violet_dial.job.act import Understood
from violet_dial.job.document import Job
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import card, fill, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.runner import Runner
from violet_dial.kit.side_panel import SidePanel, SideSaid
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.next import NextAct
from violet_dial.services.station import FileIn, Section

OpenedSum = tuple[str, tuple[Section, ...]]


class StationPage(QWidget):
    """A page of the job, and nothing to it but being shown; pages override what they have more of."""

    sets_up = False  # whether there is a window that sets this station up
    says_beside = False  # whether `beside` stands below Next in place of the log
    opens: Callable[[Job], OpenedSum | None] | None = None  # the judgement opened to its arithmetic: a title and sections
    panel: QWidget | None = None  # the page's own, to stand below Next in place of that
    typed: TypedLine  # the page's line, where it has one

    changed = Signal()  # what was worked out, or what is asked for, is another now
    beside_changed = Signal()  # what stands beside is another now

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.workers: tuple[PageAnswer | Runner, ...] = ()  # what the page has worked out beside

    def begin(self, job: Job) -> None:
        """Another job comes to the bench: nothing typed, chosen or turned to in the last one is left."""
        self._job = None
        for worker in self.workers:
            worker.begin()
        if hasattr(self, "typed"):
            self.typed.clear()

    def take_job(self, job: Job) -> None:
        """The job as it stands; nothing is drawn."""
        self._job = job

    def show_job(self, job: Job) -> None:
        """Draw all of what the page has to show of the job."""
        self.take_job(job)
        self.draw(job)

    def draw(self, job: Job) -> None:
        """Draw all of the page."""

    def _known(self) -> Job:
        """The job at the bench. Raises InvalidInput: there is none."""
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def _line(
        self, name: str, understand: Callable[[Job, str], Understood], offers: Callable[[Job, str], tuple[str, ...]] | None = None
    ) -> TypedLine:
        """A line by which acts are said; ``offers`` are its completions."""
        return TypedLine(
            name,
            None if offers is None else lambda text: offers(self._known(), text),
            lambda text: understand(self._known(), text).words,
            lambda text: self._context.perform(understand(self._known(), text).act),
        )

    def lay(
        self, above: tuple[QWidget, ...], picture: QWidget, below: tuple[QWidget, ...], is_scrolled: bool = True, spacing: int = 5
    ) -> None:
        """The usual page: words, the picture in all the room that is left, what stands under it."""
        frame, inside = card()
        inside.setSpacing(spacing)
        for item in above:
            inside.addWidget(item)
        inside.addWidget(picture, 1)
        for item in below:
            inside.addWidget(item)
        fill(self, scrolled(frame) if is_scrolled else frame)

    def keep(self) -> bool:
        """Keep what was typed and not kept yet; False when it was refused."""
        return True

    def focus_first(self) -> None:
        """The keys to where the work of this page begins: its line, where it has one."""
        (self.typed.edit if hasattr(self, "typed") else self).setFocus(Qt.FocusReason.OtherFocusReason)

    def follow(self, act: NextAct) -> None:
        """Get ready for what Next asks; the page is in view and has the keys."""

    def to_picture(self) -> None:
        """The keys to the station's own picture."""

    def turn_view(self) -> None:
        """To the next view of the same, where the page has several."""

    def set_up(self) -> None:
        """The window that sets this station up."""

    def opened(self) -> OpenedSum | None:
        """The judgement opened to its arithmetic; None when there is none."""
        return self.opens(self._job) if self.opens is not None and self._job is not None else None

    @property
    def part(self) -> Any:
        """The part of the job in view, where only that is written into a file; None for all."""
        return None

    @property
    def file_in(self) -> FileIn | None:
        """What the page in view takes from a file, where that is another than its station's."""
        return None

    @property
    def result(self) -> Any:
        """What was worked out for the job as it stands; None when nothing was."""
        return None

    @property
    def settled(self) -> bool:
        """Whether nothing is being worked out or drawn."""
        return not any(worker.busy for worker in self.workers)

    @property
    def beside(self) -> SideSaid:
        """What stands below Next, where the page says something there."""
        return SideSaid("")

    def close_workers(self) -> None:
        """Stop what runs in the background."""
        for worker in self.workers:
            worker.close()

    # the reading bar and live instruments

    def understand(self) -> None:
        """The bar's fields changed: say what was understood."""

    def take_typed(self) -> None:
        """Take what was typed in the bar."""

    @property
    def typed_ready(self) -> bool:
        """Whether what was typed in the bar may be taken."""
        return False

    @property
    def slot(self) -> live.Slot | None:
        """Where the next reading of an instrument goes; None when none is asked for."""
        return None

    @property
    def slot_missing(self) -> str:
        """Why no reading of an instrument is asked for here."""
        return "no reading is asked for here"

    @property
    def asks(self) -> Evidence | None:
        """The test whose spots are to be touched; None when none is asked for."""
        return None

    @property
    def looks_at(self) -> Function:
        """What instruments of this station show where nothing is asked for."""
        return "volt"

    def put_capture(self, capture: Capture) -> bool:
        """A reading of an instrument into its place; False when it was refused."""
        return False

    def drop_capture(self) -> bool:
        """Take back a reading of an instrument that is not part of the job yet; False when there is none."""
        return False

    def hands_changed(self, is_free: bool) -> None:
        """Readings are taken by themselves from now on, or no more."""

    def by_hand(self) -> bool:
        """Simulated hands do what the page waits for, where that is no touch of probes; False when it is none."""
        return False

    @property
    def awaits(self) -> str:
        """What is waited for before the next reading of an instrument goes anywhere; empty for nothing."""
        return ""


class PagedStation(StationPage):
    """A station: its pages under a line of names. What is asked of the station is asked of the page in view; only that one is
    drawn."""

    def __init__(self, context: PageContext, pages: tuple[tuple[str, StationPage], ...]) -> None:
        super().__init__(context)
        self.each = tuple(page for _, page in pages)
        self.pages = SubPages(pages, tuple(partial(self._draw_page, page) for page in self.each))
        self.side_panel = SidePanel(context.look)
        self._side = QStackedWidget(self)  # it goes below Next; where nothing is said there it stays here, out of sight
        self._side.hide()
        for panel in (self.side_panel, *(page.panel for page in self.each)):
            if panel is not None:
                self._side.addWidget(panel)
        fill(self, self.pages)
        self.pages.turned.connect(self._turned)
        for page in self.each:
            page.changed.connect(self.changed)
            page.beside_changed.connect(self.draw_beside)

    @property
    def here(self) -> StationPage:
        """The page in view."""
        return self.each[self.pages.place]

    def begin(self, job: Job) -> None:
        super().begin(job)
        for page in self.each:
            page.begin(job)
        self.pages.begin()

    def draw(self, job: Job) -> None:
        self.pages.draw()
        self.draw_beside()

    def _draw_page(self, page: StationPage) -> None:
        if self._job is not None:
            page.show_job(self._job)

    @Slot()
    def draw_beside(self) -> None:
        """Draw what stands below Next."""
        here = self.here
        if self._job is not None and here.says_beside:
            self.side_panel.show_panel(here.beside)
        self._side.setCurrentWidget(here.panel or self.side_panel)

    @property
    def side(self) -> QWidget | None:
        """What stands below Next in place of the log; None for the log."""
        return self._side if any(page.says_beside or page.panel is not None for page in self.each) else None

    @Slot(int)
    def _turned(self, place: int) -> None:
        self.draw_beside()
        self.focus_first()
        self.changed.emit()

    def turn(self, step: int) -> None:
        """To the next page of the station, or as many on."""
        self.pages.turn(step)

    def turn_to(self, page: int) -> None:
        """To a page of the station by its place."""
        self.pages.turn_to(page)

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)
        self.here.follow(act)

    # of the page in view

    def focus_first(self) -> None:
        self.here.focus_first()

    def to_picture(self) -> None:
        self.here.to_picture()

    def turn_view(self) -> None:
        self.here.turn_view()

    def opened(self) -> OpenedSum | None:
        return None if self._job is None else self.here.opened()

    @property
    def part(self) -> Any:
        return self.here.part

    @property
    def file_in(self) -> FileIn | None:
        return self.here.file_in

    def take_typed(self) -> None:
        self.here.take_typed()

    @property
    def typed_ready(self) -> bool:
        return self.here.typed_ready

    @property
    def slot(self) -> live.Slot | None:
        return self.here.slot

    @property
    def slot_missing(self) -> str:
        return self.here.slot_missing

    @property
    def asks(self) -> Evidence | None:
        return self.here.asks

    @property
    def looks_at(self) -> Function:
        return self.here.looks_at

    def put_capture(self, capture: Capture) -> bool:
        return self.here.put_capture(capture)

    def drop_capture(self) -> bool:
        return self.here.drop_capture()

    def hands_changed(self, is_free: bool) -> None:
        self.here.hands_changed(is_free)

    def by_hand(self) -> bool:
        return self.here.by_hand()

    @property
    def awaits(self) -> str:
        return self.here.awaits

    # of all pages

    def keep(self) -> bool:
        return all(page.keep() for page in self.each)

    @property
    def settled(self) -> bool:
        return all(page.settled for page in self.each)

    def close_workers(self) -> None:
        for page in self.each:
            page.close_workers()
