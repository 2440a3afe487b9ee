"""What stands below Next in place of the log: what was judged, row by row, or what the page in view has to say at length."""

from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from violet_dial.kit.cards import card, fill, labelled, say, scrolled
from violet_dial.kit.rows import Rows
from violet_dial.kit.theme.look import Look


@dataclass(frozen=True)
class SideSaid:
    """What stands below Next while a page is in view: a head, rows of weight and words, sentences, a caution, the page's keys."""

    title: str
    rows: tuple[tuple[str, str], ...] = ()
    words: str = ""
    caution: str = ""
    keys: str = ""


class SidePanel(QWidget):
    """A head, rows of weight and words, sentences, and the keys of the page."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        frame, inside = card()
        self.title = labelled("", "head", True)
        self.rows = Rows(look, "What it may be")
        self.words, self.caution, self.keys = (labelled("", "", True), labelled("", "fault", True), labelled("", "small", True))
        for item in (self.title, self.rows, self.words, self.caution, self.keys):
            inside.addWidget(item)
        inside.addStretch(1)
        fill(self, scrolled(frame))

    def show_panel(self, said: SideSaid) -> None:
        """Draw all of it."""
        say((self.title, said.title), (self.words, said.words), (self.caution, said.caution), (self.keys, said.keys))
        self.rows.show_rows(said.rows)
