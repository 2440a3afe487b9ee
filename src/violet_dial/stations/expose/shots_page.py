"""The page Test shots: the wheel with what is expected at each number, every frame, one line to type."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.pictures.compare import compare, grey_stops
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import PageContext
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import Rows, line
from violet_dial.services.files import read_file
from violet_dial.services.prints import KINDS, MOST_BYTES, compared_said, picture_of
from violet_dial.stations.expose import shots_acts as acts
from violet_dial.stations.expose.shots_state import CARE, RULE, shots_shown
from violet_dial.stations.expose.shots_view import ShotsView


class ShotsPage(QWidget):
    """Shows one frozen value; ``compared_changed`` when two pictures were laid over each other."""

    compared_changed = Signal()

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.compared: tuple[str, ...] = ()
        self._card: tuple[float, float, float, float] | None = None
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._compared)
        self.runner.failed.connect(context.say)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "quiet", True)
        self.rule, self.left = labelled(RULE, "", True), labelled("", "small", True)
        self.view, self.rows = ShotsView(context.look), Rows(context.look, "Shots so far")
        self.typed = line("A test shot", self._understood, self._take)
        self.typed.edit.setPlaceholderText("5 0 -1.5")
        frame, inside = card()
        inside.setSpacing(6)
        for label in (self.headline, self.reason, self.rule):
            inside.addWidget(label)
        inside.addWidget(self.view, 1)
        for widget in (self.rows, self.left, labelled(CARE, "fault", True), self.typed):
            inside.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def begin(self, job: Job) -> None:
        """Another job at the bench."""
        self.runner.cancel()
        self.compared, self._card = (), None
        self.typed.clear()

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        self._job = job
        shown = shots_shown(job)
        self.headline.setText(shown.headline)
        self.reason.setText(shown.reason)
        self.view.show_shots(shown)
        self.rows.show_rows(shown.rows)
        self.left.setText(f"{shown.left} · wheel, slider, stops too bright (−: dark); then indoors, flash")

    def _understood(self, text: str) -> str:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        if text.lower().startswith("card "):
            left, top, wide, tall = acts.card_of(text)
            return (
                f"= an 18 % card from {left:.0%}, {top:.0%}, {wide:.0%} wide and {tall:.0%} tall, in pictures compared"
            )
        return acts.understand(self._job, text).words

    def _take(self, text: str) -> bool:
        if text.lower().startswith("card "):
            self._card = acts.card_of(text)
            return True
        return self._context.perform(lambda job, at: acts.say_line(job, text, at))

    def compare(self) -> None:
        """Two pictures chosen, and laid over each other beside the window's work."""
        self._context.records.choose_many(
            "Two pictures of the same scene, the earlier one first by name", KINDS, self._chosen
        )

    def _chosen(self, names: list[str]) -> None:
        if len(names) != 2:
            self._context.say(f"Pictures: {len(names)} came, expected two of the same scene; mark both.")
            return
        paths = [Path(name) for name in sorted(names)]
        card = self._card
        self.runner.start(lambda task: _laid_over(paths, card))

    @Slot(object)
    def _compared(self, said: tuple[str, ...]) -> None:
        self.compared = said
        self.compared_changed.emit()

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)


def _laid_over(paths: list[Path], card: tuple[float, float, float, float] | None) -> tuple[str, ...]:
    """Two pictures compared, in sentences; for a worker."""
    pictures = [picture_of(read_file(path, MOST_BYTES, "Picture"), path.name) for path in paths]
    said = [f"{paths[0].name} first, {paths[1].name} second.", *compared_said(compare(pictures[0], pictures[1]))]
    if card is not None:
        for path, picture in zip(paths, pictures, strict=True):
            said.append(f"The card of {path.name} comes out at {format_signed(grey_stops(picture, card), 1)} stop.")
    return tuple(said)
