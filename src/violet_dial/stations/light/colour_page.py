"""The page Colour: what the colour of the light does to the reading, the curves, the best at hand, one line to type."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import House
from violet_dial.kit.said_page import Rows, line
from violet_dial.stations.light import colour_acts
from violet_dial.stations.light.colour_state import colour_shown
from violet_dial.stations.light.colour_view import ColourView

HEADS = ("lamp", "filter", "reads", "takes")


class ColourPage(QWidget):
    """Shows one frozen value."""

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house = house
        self._job: Job | None = None
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.stands = labelled("", "small", True)
        self.view = ColourView(house.look)
        self.rows = Rows(house.look, "The best at hand")
        self.typed = line("Lamp, cell, filters", self._understood, self._take)
        self.typed.edit.setPlaceholderText("lamp A")
        frame, inside = card()
        inside.setSpacing(5)
        for item in (self.headline, self.reason, self.stands):
            inside.addWidget(item)
        inside.addWidget(self.view, 1)
        for widget in (self.rows, labelled(colour_acts.EXPECTED, "small", True), self.typed):
            inside.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def begin(self) -> None:
        """Another job at the bench."""
        self._job = None
        self.typed.clear()

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        self._job = job
        shown = colour_shown(job)
        self.headline.setText(shown.headline)
        self.reason.setText(shown.reason)
        self.stands.setText(shown.stands)
        self.view.show_curves(shown.curves)
        self.view.setVisible(shown.curves is not None)
        self.rows.show_rows(shown.choices, HEADS if shown.choices else ())

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def _understood(self, text: str) -> str:
        return colour_acts.understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        return self._house.perform(colour_acts.understand(self._known(), text).act)

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)
