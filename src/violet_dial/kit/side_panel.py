"""What stands below Next in place of the log: what was judged, row by row, or what the page in view has to say at length."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.said_page import Rows
from violet_dial.kit.theme.look import Look


class SidePanel(QWidget):
    """A head, rows of weight and words, sentences, and the keys of the page."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        frame, inside = card()
        self.title = labelled("", "head", True)
        self.rows = Rows(look, "What it may be")
        self.words, self.caution, self.keys = (
            labelled("", "", True),
            labelled("", "fault", True),
            labelled("", "small", True),
        )
        for item in (self.title, self.rows, self.words, self.caution, self.keys):
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def show_panel(self, title: str, rows: tuple[tuple[str, str], ...], words: str, caution: str, keys: str) -> None:
        """Draw all of it."""
        for label, text in ((self.title, title), (self.words, words), (self.caution, caution), (self.keys, keys)):
            label.setText(text)
            label.setVisible(bool(text))
        self.rows.show_rows(rows)
