"""Return: the sheet the owner gets, as it will print, and the words that go on it."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date

from PySide6.QtCore import Qt, QTimer, Signal, Slot
from PySide6.QtGui import QImage, QPixmap, QResizeEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QWidget,
)

from violet_dial.core.task import Task
from violet_dial.gui.runner import Runner
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.form import fill_text, line_edit, text_edit
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.job.document import Closing, Job
from violet_dial.services.acts import Done, close_sheet
from violet_dial.services.opening import note_shorter_way, said_shorter_way, understand_shorter_way

KEEP_AFTER_MS = 1_200
PREVIEW_WIDTH_PX = 900


def render_pages(job: Job, day: date, task: Task) -> list[QImage]:
    """Every page of the sheet as a picture, made from the PDF itself."""
    import pypdfium2

    from violet_dial.report.pdf import sheet_pdf
    from violet_dial.services.sheets import sheet_for

    document = pypdfium2.PdfDocument(sheet_pdf(sheet_for(job, day), task.check))
    pages = []
    for page in document:
        task.check()
        picture = page.render(scale=PREVIEW_WIDTH_PX / page.get_width()).to_pil().convert("RGB")
        data = picture.tobytes()
        image = QImage(data, picture.width, picture.height, picture.width * 3, QImage.Format.Format_RGB888)
        pages.append(image.copy())
    document.close()
    return pages


class ReturnStation(QWidget):
    """Words on the right, the sheet on the left; the sheet is made again when the job changes and the page is shown."""

    act_asked = Signal(object)
    print_asked = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._job: Job | None = None
        self._drawn: Job | None = None
        self._pages: list[QImage] = []
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._show_pages)
        self.runner.failed.connect(self._show_failure)
        self._rest = QTimer(self, singleShot=True, interval=KEEP_AFTER_MS)
        self._rest.timeout.connect(self.keep)
        self.texts: dict[str, QPlainTextEdit] = {}
        self.lines: dict[str, QLineEdit] = {}
        self.sheet = QLabel(
            "The sheet is being drawn…", alignment=Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        )
        self.sheet.setAccessibleName("The sheet as it will print")
        self.area = QScrollArea(widgetResizable=True)
        self.area.setWidget(self.sheet)
        self._build()

    def _build(self) -> None:
        frame, inside = card("The words on it")
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for key, name in (("done", "Done"), ("left", "Left, and why")):
            self._text(grid, key, name)
        self._line(grid, "battery", "Battery to use")
        self._text(grid, "lesson", "Lesson for the next one (stays at the bench)")
        self.shorter = TypedLine("A shorter way in, for the next one", lambda text: (), said_shorter_way)
        self.shorter.edit.setPlaceholderText("shorter way: meter cell through front frame; 6 min")
        self.shorter.taken.connect(self._note_way)
        grid.addWidget(self.shorter, grid.rowCount(), 0)
        self._line(grid, "signed_by", "Signed by")
        self._line(grid, "signed_on", "Date")
        inside.addLayout(grid, 1)
        write = QPushButton("Write PDF or HTML  Ctrl+P")
        write.setProperty("role", "main")
        write.clicked.connect(self.print_asked)
        inside.addWidget(write)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.area, 3)
        layout.addWidget(scrolled(frame), 2)

    def _text(self, grid: QGridLayout, key: str, name: str) -> None:
        text = text_edit(name)
        text.setMinimumHeight(40)
        text.textChanged.connect(self._rest.start)
        self.texts[key] = text
        grid.addWidget(labelled(name, "quiet", True), grid.rowCount(), 0)
        grid.addWidget(text, grid.rowCount(), 0)

    def _line(self, grid: QGridLayout, key: str, name: str) -> None:
        line = line_edit(name)
        line.textEdited.connect(self._rest.start)
        line.editingFinished.connect(self.keep)
        line.returnPressed.connect(self._signed)
        self.lines[key] = line
        grid.addWidget(labelled(name, "quiet"), grid.rowCount(), 0)
        grid.addWidget(line, grid.rowCount(), 0)

    @Slot()
    def _signed(self) -> None:
        """Enter after the name puts today's date."""
        if self.lines["signed_by"].text().strip() and not self.lines["signed_on"].text().strip():
            from violet_dial.services.sheets import spoken_date

            self.lines["signed_on"].setText(spoken_date(date.today()))
            self.keep()

    @Slot(str)
    def _note_way(self, text: str) -> None:
        self.shorter.clear()
        self.act_asked.emit(lambda job, at: note_shorter_way(job, understand_shorter_way(text), at))

    def show_job(self, job: Job) -> None:
        """Fill the words without writing back, and draw the sheet when the page is in view."""
        self._job = job
        for key, text in self.texts.items():
            value = getattr(job.closing, key)
            if text.toPlainText() != value and not (text.hasFocus() and self._rest.isActive()):
                fill_text(text, value)
        for key, line in self.lines.items():
            value = getattr(job.closing, key)
            if line.text() != value and not (line.hasFocus() and line.isModified()):
                line.setText(value)
                line.setCursorPosition(0)
        self.draw_sheet()

    def draw_sheet(self) -> None:
        """Draw the sheet of the present job in a worker."""
        job = self._job
        if job is not None and job != self._drawn:
            self._drawn = job
            day = date.today()
            self.runner.start(lambda task: render_pages(job, day, task))

    @Slot(object)
    def _show_pages(self, pages: object) -> None:
        self._pages = pages if isinstance(pages, list) else []
        self._scale()

    @Slot(str)
    def _show_failure(self, sentence: str) -> None:
        self.sheet.setText(sentence)

    def _scale(self) -> None:
        if not self._pages:
            return
        from PySide6.QtGui import QPainter

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

    @Slot()
    def keep(self) -> None:
        """Keep the words when there are new ones."""
        self._rest.stop()
        if self._job is None:
            return
        words = {key: text.toPlainText() for key, text in self.texts.items()}
        words |= {key: line.text().strip() for key, line in self.lines.items()}
        closing = replace(self._job.closing, **words)
        if closing != self._job.closing:
            for line in self.lines.values():
                line.setModified(False)
            self.act_asked.emit(_closed(closing))

    def focus_first(self) -> None:
        """To the first words still missing: what was done, then the signature."""
        target = self.texts["done"] if not self.texts["done"].toPlainText() else self.lines["signed_by"]
        target.setFocus(Qt.FocusReason.OtherFocusReason)


def _closed(closing: Closing) -> Callable[[Job, str], Done]:
    return lambda job, at: close_sheet(job, closing, at)
