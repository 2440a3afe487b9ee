"""Paper printed: one of the system's printers, or a PDF, chosen by keys over the page."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMarginsF, QRectF, Signal, Slot
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrinterInfo
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.kit.ask import open_over
from violet_dial.kit.cards import labelled
from violet_dial.kit.files import Chooser
from violet_dial.kit.pdf_pages import drawn_pages
from violet_dial.services.files import write_file

DOTS_PER_INCH = 300
A4_WIDTH_INCH = 8.27
AS_PDF = "A PDF file…"


class PrintWindow(QDialog):
    """The printers there are, the usual one first chosen, and a PDF; ``chosen`` carries a printer's name, empty for a PDF."""

    chosen = Signal(str)

    def __init__(self, parent: QWidget, name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Print {name}")
        self._printers = QPrinterInfo.availablePrinterNames()
        self.list = QListWidget()
        self.list.setAccessibleName("Where to print")
        self.list.addItems([*self._printers, AS_PDF])
        usual = QPrinterInfo.defaultPrinterName()
        self.list.setCurrentRow(self._printers.index(usual) if usual in self._printers else 0)
        self.list.itemActivated.connect(self._take)
        leave = QPushButton("Print nothing  Esc")
        leave.clicked.connect(self.reject)
        take = QPushButton("Print  ⏎")
        take.setProperty("role", "main")
        take.clicked.connect(self._take)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (leave, take):
            button.setAutoDefault(False)
            row.addWidget(button)
        said = f"{name}, A4" if self._printers else f"{name}, A4. No printer is set up on this system."
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(said, "head", True))
        layout.addWidget(self.list, 1)
        layout.addLayout(row)
        self.setMinimumWidth(460)
        self.list.setFocus()

    @Slot()
    def _take(self) -> None:
        place = self.list.currentRow()
        self.accept()
        self.chosen.emit(self._printers[place] if place < len(self._printers) else "")


def ask_print(parent: QWidget, name: str, content: bytes, said: Callable[[str], None], chooser: Chooser) -> PrintWindow:
    """Ask where to print a PDF called ``name``; ``said`` is told what came of it."""

    def to_file(path: Path) -> None:
        try:
            write_file(path, content)
        except InvalidInput as error:
            said(str(error))
        else:
            said(f"Written: {path}")

    def take(printer: str) -> None:
        if printer:
            said(_printed(printer, name, content))
        else:
            chooser.ask_save(parent, f"Write {name}", f"{name}.pdf", "PDF (*.pdf)", to_file)

    window = PrintWindow(parent, name)
    window.chosen.connect(take)
    open_over(window)
    return window


def _printed(printer_name: str, name: str, content: bytes) -> str:
    """Print; what came of it, in a sentence."""
    printer = QPrinter(QPrinterInfo.printerInfo(printer_name), QPrinter.PrinterMode.HighResolution)
    printer.setDocName(name)
    printer.setPageLayout(
        QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
    )
    painter = QPainter()
    if not painter.begin(printer):
        return f"The printer {printer_name} cannot be reached. Nothing was printed."
    for number, page in enumerate(drawn_pages(content, round(A4_WIDTH_INCH * DOTS_PER_INCH))):
        if number:
            printer.newPage()
        painter.drawImage(QRectF(painter.viewport()), page)
    painter.end()
    return f"Sent to {printer_name}."
