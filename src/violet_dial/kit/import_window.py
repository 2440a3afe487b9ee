"""What a file holds before anything of it is taken: what is offered, what was rejected and why."""

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.kit.cards import labelled
from violet_dial.kit.text_window import sections_html
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import Listing


class ImportWindow(QDialog):
    """Nothing is taken until Take is pressed."""

    def __init__(self, parent: QWidget, look: Look, listing: Listing) -> None:
        super().__init__(parent)
        self.setWindowTitle(listing.title)
        text = QTextBrowser()
        text.setHtml(sections_html(listing.sections, look))
        self.take = QPushButton(f"Take {listing.offered} {listing.noun}  ⏎")
        self.take.setProperty("role", "main")
        self.take.setDefault(True)
        self.take.setEnabled(listing.offered > 0)
        self.take.clicked.connect(self.accept)
        leave = QPushButton("Take none  Esc")
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(listing.summary, "head", True))
        layout.addWidget(text, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(760), room.width() - 80), min(look.px(560), room.height() - 60))
        self.take.setFocus()
