"""Paper printed: the system's printers, or a PDF, asked for by Qt's own dialog over the page."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMarginsF, QRectF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.kit.over import open_over
from violet_dial.kit.pdf_pages import drawn_pages
from violet_dial.services.files import write_file

DOTS_PER_INCH = 300
A4_WIDTH_INCH = 8.27


def ask_print(parent: QWidget, name: str, content: bytes, said: Callable[[str], None]) -> QPrintDialog:
    """Ask where to print a PDF called ``name``; ``said`` is told what came of it."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(name)
    printer.setPageLayout(
        QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
    )
    dialog = QPrintDialog(printer, parent)
    dialog.setWindowTitle(f"Print {name}")
    dialog.accepted.connect(lambda: said(_printed(printer, content)))
    open_over(dialog)
    return dialog


def _printed(printer: QPrinter, content: bytes) -> str:
    """Print; what came of it, in a sentence."""
    target = printer.outputFileName()
    if target:  # as a file: the PDF itself, its letters as letters
        path = Path(target if target.lower().endswith(".pdf") else f"{target}.pdf")
        try:
            write_file(path, content)
        except InvalidInput as error:
            return str(error)
        return f"Written: {path}"
    painter = QPainter()
    if not painter.begin(printer):
        return f"The printer {printer.printerName()} cannot be reached. Nothing was printed."
    for number, page in enumerate(drawn_pages(content, round(A4_WIDTH_INCH * DOTS_PER_INCH))):
        if number:
            printer.newPage()
        painter.drawImage(QRectF(painter.viewport()), page)
    painter.end()
    return f"Sent to {printer.printerName()}."
