"""Pages at Prove that are a few sentences, rows and one line to type: contacts, exercise, readings over time; and the seals."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.said_page import Rows, SaidPage
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.prove.rounds_state import RowsShown
from violet_dial.stations.prove.seals_state import SealsShown
from violet_dial.stations.prove.seals_view import SealsView


class RowsPage(SaidPage):
    """A headline, what to do, one table, a word of care."""

    def __init__(self, look: Look, hint: str, typed: TypedLine, words: tuple[str, str]) -> None:
        name, under = words
        super().__init__(hint, typed, under)
        self.table = Rows(look, name)
        self.under = labelled("", "fault", True)
        self.body.addWidget(self.table)
        self.body.addWidget(self.under)

    def draw(self, one: RowsShown) -> None:
        """Draw all of it."""
        for label, text in ((self.headline, one.headline), (self.reason, one.reason), (self.under, one.under)):
            label.setText(text)
            label.setVisible(bool(text))
        self.table.show_rows(one.rows, one.heads, one.marks)


class SealsPage(QWidget):
    """The open back, what speaks for each way in, the line."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__()
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.view, self.typed = SealsView(look), typed
        typed.edit.setPlaceholderText("3 edge top perforations")
        frame, inside = card()
        inside.setSpacing(6)
        for item in (self.headline, self.reason):
            inside.addWidget(item)
        inside.addWidget(self.view, 1)
        inside.addWidget(typed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def draw(self, one: SealsShown) -> None:
        """Draw all of it."""
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.view.show_seals(one)

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus()
