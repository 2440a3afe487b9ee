"""Return: the sheet the owner gets, as it will print, and the words that go on it."""

from dataclasses import replace
from datetime import date

from PySide6.QtCore import Qt, Slot
from PySide6.QtGui import QImage, QPainter, QPixmap, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea

from violet_dial.core.task import Task
from violet_dial.job.closing import Closing
from violet_dial.job.document import Job
from violet_dial.job.spoken import spoken_date
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.kept_fields import KeptFields
from violet_dial.kit.page import House, StationPage
from violet_dial.kit.pdf_pages import drawn_pages
from violet_dial.kit.runner import Runner
from violet_dial.kit.typed_line import TypedLine
from violet_dial.report.blocks import Paper
from violet_dial.services.next import NextAct
from violet_dial.services.shorter_way import note_shorter_way, said_shorter_way, understand_shorter_way
from violet_dial.stations.hand_back.acts import close_sheet
from violet_dial.stations.hand_back.state import fields_of

PREVIEW_WIDTH_PX = 900
DRAWING = "The sheet is being drawn…"


def render_pages(paper: Paper, task: Task) -> tuple[list[QImage], str]:
    """Every page of the sheet as a picture, made from the PDF itself, and the letters that cannot be printed."""
    from violet_dial.report.pdf import not_printed, paper_pdf

    return drawn_pages(paper_pdf(paper, task.check), PREVIEW_WIDTH_PX, task), not_printed(paper)


class ReturnPage(StationPage):
    """Words on the right, the sheet on the left; the sheet is drawn anew when what is on it changed."""

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house = house
        self._job: Job | None = None
        self._asked: Paper | None = None  # the sheet being drawn
        self._drawn: Paper | None = None  # the sheet on the screen
        self._pages: list[QImage] = []
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._show_pages)
        self.runner.failed.connect(self._show_failure)
        self.fields = KeptFields(self, self._keep)
        self.lines, self.texts = self.fields.lines, self.fields.texts
        self.sheet = QLabel(DRAWING, alignment=Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self.sheet.setAccessibleName("The sheet as it will print")
        self.missing = labelled("", "fault", True)
        self.missing.hide()
        self.area = QScrollArea(widgetResizable=True)
        self.area.setAccessibleName("The sheet as it will print; arrows scroll it")
        self.area.setWidget(self.sheet)
        self.area.setVerticalScrollBarPolicy(
            Qt.ScrollBarPolicy.ScrollBarAlwaysOn
        )  # the same width before and after it is drawn
        self._build()

    def _build(self) -> None:
        frame, inside = card("The words on it")
        inside.addWidget(self.missing)  # before anything is signed
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for key, name in (("done", "Done"), ("left", "Left, and why")):
            self._text(grid, key, name)
        self._line(grid, "battery", "Battery to use")
        self._text(grid, "lesson", "Lesson for the next one (stays at the bench)")
        self.shorter = TypedLine(
            "A shorter way in, for the next one", lambda text: (), said_shorter_way, self._note_way
        )
        self.shorter.edit.setPlaceholderText("shorter way: meter cell through front frame; 6 min")
        grid.addWidget(self.shorter, grid.rowCount(), 0)
        self._line(grid, "signed_by", "Signed by")
        self._line(grid, "signed_on", "Date")
        inside.addLayout(grid, 1)
        printed = QPushButton("Print  Ctrl+P")
        printed.setProperty("role", "main")
        printed.clicked.connect(self._house.print_sheet)
        write = QPushButton("Into a file  Ctrl+S")
        write.clicked.connect(self._house.write_sheet)
        inside.addWidget(write)
        inside.addWidget(printed)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.area, 3)
        layout.addWidget(scrolled(frame), 2)

    def _text(self, grid: QGridLayout, key: str, name: str) -> None:
        text = self.fields.text(key, name)
        text.setMinimumHeight(40)
        grid.addWidget(labelled(name, "quiet", True), grid.rowCount(), 0)
        grid.addWidget(text, grid.rowCount(), 0)

    def _line(self, grid: QGridLayout, key: str, name: str) -> None:
        line = self.fields.line(key, name)
        line.returnPressed.connect(self._signed)
        grid.addWidget(labelled(name, "quiet"), grid.rowCount(), 0)
        grid.addWidget(line, grid.rowCount(), 0)

    @Slot()
    def _signed(self) -> None:
        """Enter after the name puts today's date."""
        values = self.fields.values()
        if values["signed_by"] and not values["signed_on"]:
            self._keep({**values, "signed_on": spoken_date(date.today())})
            self.fields.burst += 1

    def _note_way(self, text: str) -> bool:
        return self._house.perform(lambda job, at: note_shorter_way(job, understand_shorter_way(text), at))

    def begin(self, job: Job) -> None:
        self._stop()
        self._job = None
        self.fields.begin()
        self.shorter.clear()

    def show_job(self, job: Job) -> None:
        """Draw the words without writing back, and the sheet as it now reads."""
        self._job = job
        self.fields.fill(fields_of(job))
        paper = self._house.sheet(job)
        if paper == self._drawn:
            self._stop()
            self._scale()
        elif paper != self._asked:
            if self._drawn is None or self._drawn.number != paper.number:
                self._drawn, self._pages = None, []
                self.sheet.setText(DRAWING)
            self._asked = paper
            self.runner.start(lambda task: (paper, *render_pages(paper, task)))

    @Slot(object)
    def _show_pages(self, result: tuple[Paper, list[QImage], str]) -> None:
        paper, pages, missing = result
        if paper != self._asked:
            return
        self._asked, self._drawn, self._pages = None, paper, pages
        self.missing.setText(
            f"Cannot be printed: {' '.join(missing[:20])}. An empty square stands for each." if missing else ""
        )
        self.missing.setVisible(bool(missing))
        self._scale()
        self.changed.emit()

    @Slot(str)
    def _show_failure(self, sentence: str) -> None:
        self._asked = self._drawn = None
        self._pages = []
        self.sheet.setText(sentence)
        self.changed.emit()

    def _scale(self) -> None:
        if not self._pages:
            return
        ratio = self.devicePixelRatioF()
        width = max(self.area.viewport().width() - 12, 100)
        shown = [
            page.scaledToWidth(int(width * ratio), Qt.TransformationMode.SmoothTransformation) for page in self._pages
        ]
        gap = int(10 * ratio)
        whole = QPixmap(shown[0].width(), sum(page.height() + gap for page in shown))
        whole.fill(Qt.GlobalColor.transparent)
        painter = QPainter(whole)
        top = 0
        for page in shown:
            painter.drawImage(0, top, page)
            top += page.height() + gap
        painter.end()
        whole.setDevicePixelRatio(ratio)
        self.sheet.setPixmap(whole)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._scale()

    @property
    def settled(self) -> bool:
        return self._asked is None

    def _stop(self) -> None:
        self._asked = None
        self.runner.cancel()

    def close_workers(self) -> None:
        self._asked = None
        self.runner.close()

    def _keep(self, values: dict[str, str]) -> bool:
        """Keep the words when there are new ones."""
        if self._job is None:
            return True
        closing: Closing = replace(self._job.closing, **values)
        if closing == self._job.closing:
            return True
        return self._house.perform_on(lambda job, at: close_sheet(job, closing, at), "words", self.fields.burst)

    def keep(self) -> bool:
        return self.fields.keep()

    def focus_first(self) -> None:
        """To the first words still missing: what was done, then the signature."""
        target = self.texts["done"] if not self.texts["done"].toPlainText() else self.lines["signed_by"]
        target.setFocus(Qt.FocusReason.OtherFocusReason)

    def follow(self, act: NextAct) -> None:
        self.focus_first()
        if act.kind == "hand over":
            self._house.print_sheet()
