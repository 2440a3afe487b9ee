"""The page Sheet: the sheet or the card as it will print, and the words beside the paragraphs that they become."""

from collections.abc import Callable
from datetime import date
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt, Slot
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.job.spoken import spoken_date
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.kept_fields import KeptFields
from violet_dial.kit.page import StationPage
from violet_dial.kit.paper_view import PaperView
from violet_dial.kit.pdf_pages import WordSpot, drawn_pages, spots_of
from violet_dial.report.blocks import NOT_SIGNED, Paper
from violet_dial.services.sheet import CARD
from violet_dial.stations.hand_back.acts import close_sheet, with_words
from violet_dial.stations.hand_back.paper import HEADS
from violet_dial.stations.hand_back.state import fields_of

DRAWING = "The sheet is being drawn…"
TEXTS = (("done", "Done"), ("left", "Left, and why"), ("care", "Care"))
LINES = (("battery", "Battery to use"), ("recheck_on", "Check again"), ("signed_by", "Signed by"), ("signed_on", "Date"))
BENCH_TEXTS = (
    ("lesson", "Lesson for the next one (stays at the bench)"),
    ("begins", "The next one of this model should begin with"),
)
Drawn = tuple[Paper, bytes, list[QImage], dict[str, WordSpot], str]


def drawn(paper: Paper, content: bytes | None, wide_px: int, task: Task) -> Drawn:
    """A paper's PDF (made, where there is none yet), its pages as pictures, where its words stand, letters that cannot be
    printed."""
    from violet_dial.report.pdf import not_printed, paper_pdf

    made = content if content is not None else paper_pdf(paper, task.check)
    words = {**HEADS, "signed_by": f"{HEADS['signed_by']} " if paper.author else NOT_SIGNED}
    return paper, made, drawn_pages(made, wide_px, task), spots_of(made, words), not_printed(paper)


class SheetPage(StationPage):
    """The preview; ``fields`` are laid in ``words``, which stands beside it."""

    panel: QWidget

    def __init__(self, context: PageContext, texts_at: QGridLayout) -> None:
        super().__init__(context)
        self._paper: Paper | None = None  # as it now reads
        self._spots: dict[str, WordSpot] = {}
        self._pointed = ""
        self.is_card = False
        self.answer = PageAnswer(self)  # a paper at a width, drawn
        self.workers = (self.answer,)
        self.answer.came.connect(self._show)
        self.fields = KeptFields(self, self._keep)
        self.view = PaperView(context.look, "The sheet as it will print")
        self.view.zoomed.connect(self._draw)
        self.missing, self.stands = labelled("", "fault", True), labelled("", "small", True)
        self.missing.hide()
        self.words = self._words(texts_at)
        self.panel = scrolled(self.words)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.stands)
        layout.addWidget(self.view, 1)

    def _words(self, texts_at: QGridLayout) -> QFrame:
        """The card of the fields; those that stay at the bench go elsewhere."""
        frame, inside = card("The words on it")
        inside.addWidget(self.missing)  # before anything is signed
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for key, name in TEXTS:
            self._text(grid, key, name)
        for key, name in LINES:
            line = self.fields.line(key, name)
            line.returnPressed.connect(self._signed)
            self._add(grid, name, line, key)
        for key, name in BENCH_TEXTS:
            self._text(texts_at, key, name)
        inside.addLayout(grid, 1)
        papers = self._context.papers
        for name, role, act in (("Into a file  Ctrl+S", "", papers.write_sheet), ("Print  Ctrl+P", "main", papers.print_sheet)):
            inside.addWidget(_button(name, role, act))
        return frame

    def _text(self, grid: QGridLayout, key: str, name: str) -> None:
        text = self.fields.text(key, name)
        text.setMinimumHeight(34)
        self._add(grid, name, text, key)

    def _add(self, grid: QGridLayout, name: str, widget: QWidget, key: str) -> None:
        grid.addWidget(labelled(name, "quiet", True), grid.rowCount(), 0)
        grid.addWidget(widget, grid.rowCount(), 0)
        widget.setProperty("key", key)
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A field that is gone to is pointed at on the sheet."""
        if event.type() == QEvent.Type.FocusIn:
            self._pointed = str(watched.property("key"))
            self.view.point_at(self._spots.get(self._pointed))
        return super().eventFilter(watched, event)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._paper, self._spots, self._pointed = None, {}, ""
        self.is_card = False
        self.fields.begin()
        self.view.begin(DRAWING)

    def draw(self, job: Job) -> None:
        """Draw the words without writing back, and the paper as it now reads."""
        self.fill(job)
        paper = self._paper = self._context.papers.card(job) if self.is_card else self._context.papers.sheet(job)
        what = "The card, a third of a page" if self.is_card else "The sheet"
        self.stands.setText(
            f"{what}, {paper.size.removesuffix(' card')} · F5, then + − 0 zoom · Ctrl+R {'sheet' if self.is_card else 'card'} · "
            "Ctrl+L paper · Ctrl+Shift+L labels"
        )
        self._draw()

    def fill(self, job: Job) -> None:
        """The words as they stand, also of those fields that are on another page."""
        self._job = job
        self.fields.fill(fields_of(job))

    @property
    def part(self) -> Any:
        """What is printed and written: the card, where it is in view; else the sheet."""
        return CARD if self.is_card else None

    def keep(self) -> bool:
        return self.fields.keep()

    @property
    def shown(self) -> Paper | None:
        """The paper on the screen."""
        found: Drawn | None = self.answer.last
        return found[0] if found is not None else None

    @Slot()
    def _draw(self) -> None:
        """The paper as it now reads, as wide as it is looked at; what is the same at another width is not made anew."""
        paper, wide_px, last = self._paper, self.view.wanted_px, self.answer.last
        if paper is not None:
            content = last[1] if last is not None and last[0] == paper else None
            if self.answer.ask((paper, wide_px), lambda task: drawn(paper, content, wide_px, task)):
                self._show()

    @Slot()
    def _show(self) -> None:
        if self.answer.failure:
            self.view.begin(self.answer.failure)
            self.changed.emit()
            return
        _, _, pages, self._spots, missing = self.answer.result
        self.missing.setText(f"Cannot be printed: {' '.join(missing[:20])}. An empty square stands for each." if missing else "")
        self.missing.setVisible(bool(missing))
        self.view.show_pages(tuple(pages))
        self.view.point_at(self._spots.get(self._pointed))
        self.changed.emit()
        self._draw()

    def turn_view(self) -> None:
        """The card in place of the sheet, and back."""
        self.is_card = not self.is_card
        if self._job is not None:
            self.show_job(self._job)

    # words

    @Slot()
    def _signed(self) -> None:
        """Enter after the name puts today's date."""
        values = self.fields.values()
        if values["signed_by"] and not values["signed_on"]:
            self._keep({**values, "signed_on": spoken_date(date.today())})
            self.fields.burst += 1

    def _keep(self, values: dict[str, str]) -> bool:
        """Keep the words when there are new ones."""
        if self._job is None:
            return True
        if with_words(self._job.closing, values) == self._job.closing:
            return True
        return self._context.perform_coalesced(
            lambda job, at: close_sheet(job, with_words(job.closing, values), at), "words", self.fields.burst
        )

    def focus_first(self) -> None:
        """To the first words still missing: what was done, then the signature."""
        done = self.fields.texts["done"]
        target = done if not done.toPlainText() else self.fields.lines["signed_by"]
        target.setFocus(Qt.FocusReason.OtherFocusReason)


def _button(name: str, role: str, act: Callable[[], None]) -> QPushButton:
    button = QPushButton(name)
    if role:
        button.setProperty("role", role)
    button.clicked.connect(act)
    return button
