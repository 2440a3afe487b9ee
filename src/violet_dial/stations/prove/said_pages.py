"""The page of the seals: the open back, what speaks for each way in, one line to type."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.prove.seals_state import SealsShown
from violet_dial.stations.prove.seals_view import SealsView


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
