"""The rows of a CSV before they are taken: what is offered, what was rejected and why."""

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import labelled
from violet_dial.gui.widgets.pages import sections_html
from violet_dial.job.readings_csv import ReadResult

MOST_SHOWN = 300


def import_summary(read: ReadResult) -> str:
    """What the file holds, in one line."""
    separator = {"\t": "tab", ";": "semicolon", ",": "comma"}[read.separator]
    comma = ", decimal comma" if read.decimal_comma else ""
    rejected = f"{read.rejected_count} rejected" if read.rejected_count else "none rejected"
    return f"{len(read.readings)} readings offered, {rejected} ({separator} separated{comma})"


class ImportDialog(QDialog):
    """Nothing is taken until Take is pressed."""

    def __init__(self, parent: QWidget, look: Look, name: str, read: ReadResult) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Readings from {name}")
        offered = tuple(
            f"Ev {one.reference_ev100:.2f} read {one.indicated_ev100:.2f} {one.direction} {one.attitude}".rstrip()
            for one in read.readings[:MOST_SHOWN]
        )
        rejected = tuple(f"line {row.line}\t{row.reason}" for row in read.rejected) or ("none",)
        ignored = (("Columns not used", read.ignored_columns),) if read.ignored_columns else ()
        text = QTextBrowser()
        text.setHtml(sections_html((("Rejected rows", rejected), ("Offered", offered), *ignored), look))
        self.take = QPushButton(f"Take {len(read.readings)} readings  ⏎")
        self.take.setProperty("role", "main")
        self.take.setDefault(True)
        self.take.setEnabled(bool(read.readings))
        self.take.clicked.connect(self.accept)
        leave = QPushButton("Take none  Esc")
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(import_summary(read), "head", True))
        layout.addWidget(text, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(760), room.width() - 80), min(look.px(560), room.height() - 60))
        self.take.setFocus()
