"""A plain window over the page: the opened sum, the key sheet. Also what a file holds before anything of it is taken."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.kit.cards import labelled
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import Listing, Section


class TextWindow(QDialog):
    """Sections of lines, read with the arrow keys, closed with Esc or Enter."""

    def __init__(self, parent: QWidget, look: Look, title: str, sections: tuple[Section, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.text = QTextBrowser()
        self.text.setHtml(sections_html(sections, look))
        self.text.setAccessibleName(title)
        close = QPushButton("Close  Esc")
        close.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(title, "title"))
        layout.addWidget(self.text, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(860), room.width() - 80), min(look.px(640), room.height() - 60))
        self.text.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept()
            return
        super().keyPressEvent(event)


def sections_html(sections: tuple[Section, ...], look: Look) -> str:
    """Sections of lines as HTML, all text escaped; a tab in a line parts a bold key from its meaning."""
    quiet, size = look.colour("quiet").name(), look.px(14)
    parts = [f'<div style="font-size:{size}px">']
    for title, lines in sections:
        parts.append(f'<p style="margin:12px 0 3px 0"><b>{escape(title)}</b></p><table cellspacing="0" cellpadding="2">')
        for line in lines:
            key, tab, meaning = line.partition("\t")
            if tab:
                cells = f'<td width="{look.px(190)}"><b>{escape(key)}</b></td><td style="color:{quiet}">{escape(meaning)}</td>'
            else:
                cells = f"<td>{escape(line)}</td>"
            parts.append(f"<tr>{cells}</tr>")
        parts.append("</table>")
    return "".join(parts) + "</div>"


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
