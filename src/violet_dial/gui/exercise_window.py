"""A new exercise: level, kind of device, coaching, and a seed where a certain one is wanted; what is due today is offered."""

from __future__ import annotations

import secrets
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Slot
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.practice.exercise import ANY, DEVICES, LEVELS, MOST_SEED, ExerciseWish, warm
from violet_dial.core.practice.score import COACHED as COST
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act
from violet_dial.job.practising import Coaching
from violet_dial.kit.ask import open_over
from violet_dial.kit.cards import labelled
from violet_dial.kit.form import add_row, combo, line_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.runner import Runner
from violet_dial.practise.begun import drawn, given, shipped
from violet_dial.practise.exercise import Secret
from violet_dial.practise.outcome import day_of
from violet_dial.practise.progress_state import Progress, progress_in

if TYPE_CHECKING:
    from violet_dial.gui.main_window import MainWindow

_WORDS: tuple[tuple[str, Coaching], ...] = (
    ("a nod: whether a test brought you nearer", "a nod"), ("next after a minute of thought", "next after a minute"),
    ("everything, as at the bench", "everything"), ("silent", "silent"),
)  # fmt: skip
COACHED = {f"{words}{f' (−{COST[how]:.0f} points)' if COST[how] else ''}": how for words, how in _WORDS}
TOLD = 20  # digits of a seed that are looked at


class ExerciseWindow(FormWindow):
    """Enter goes from field to field and at last begins; the exercise is drawn beside."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.setWindowTitle("New exercise")
        self._window = window
        self.level = combo("Level", tuple(f"{n}: {level.words}" for n, level in enumerate(LEVELS, 1)))
        self.kind = combo("Device", (ANY, *DEVICES))
        self.coaching = combo("Coaching", tuple(COACHED))
        self.seed = line_edit("Seed")
        self.seed.setPlaceholderText("empty: another each time; the same seed gives the same device everywhere")
        self.today, self.said = labelled("", "understood", True), labelled("", "fault", True)
        self.begin = self.keep_button = QPushButton("Begin")
        self.begin.setProperty("role", "main")
        form = QGridLayout()
        form.setColumnStretch(1, 1)
        for text, field in (("Level", self.level), ("Device", self.kind), ("Coaching", self.coaching), ("Seed", self.seed)):
            add_row(form, text, field)
        acts = QHBoxLayout()
        acts.addStretch(1)
        acts.addWidget(self.begin)
        leave = QPushButton("Leave  Esc")
        leave.clicked.connect(self.reject)
        acts.addWidget(leave)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled("A device with a hidden fault", "head"))
        for item in (self.today, form, self.said):
            layout.addLayout(item) if isinstance(item, QGridLayout) else layout.addWidget(item)
        layout.addLayout(acts)
        self.begin.clicked.connect(self._begin)
        self.drawing, self.counting = Runner(self), Runner(self)
        self.drawing.succeeded.connect(self._drawn)
        self.drawing.failed.connect(self._failed)
        self.counting.succeeded.connect(self._advised)
        path, today = window.workshop.path, day_of(datetime.now().astimezone().isoformat())
        self.counting.start(partial(progress_in, path, today))
        self.drawing.start(lambda task: warm(shipped(), task))  # while one reads and types; a drawing takes its place
        self.resize(window.look.px(640), window.look.px(280))
        self.level.setFocus(Qt.FocusReason.OtherFocusReason)

    @Slot(object)
    def _advised(self, found: object) -> None:
        """What is due is offered, as long as nothing was chosen."""
        if not isinstance(found, Progress):
            return
        self.today.setText(f"Today: level {found.advice.level}. {found.advice.why}")
        if self.level.currentIndex() == 0 and self.kind.currentIndex() == 0:
            self.level.setCurrentIndex(found.advice.level - 1)
            place = self.kind.findText(found.advice.device)
            self.kind.setCurrentIndex(max(place, 0))
            self.note_kept()

    def _wish(self) -> ExerciseWish:
        typed = self.seed.text().strip()[:TOLD]
        if not typed:
            return ExerciseWish(secrets.randbelow(MOST_SEED), self.level.currentIndex() + 1, self.kind.currentText())
        value = parse_number(typed, "Seed")
        if value != round(value):
            raise InvalidInput("Seed", typed, "a whole number")
        return ExerciseWish(round(value), self.level.currentIndex() + 1, self.kind.currentText())

    @Slot()
    def _begin(self) -> None:
        try:
            wish = self._wish()
        except VioletDialError as error:
            self.said.setText(str(error))
            return
        self.said.setText("")
        self.begin.setEnabled(False)
        self.begin.setText("Drawing…")
        self.drawing.start(lambda task: drawn(wish))

    @Slot(object)
    def _drawn(self, secret: object) -> None:
        if not isinstance(secret, Secret):
            return
        coaching = COACHED[self.coaching.currentText()]
        self.note_kept()
        self.done(1)
        begin_with(self._window, lambda job, at: given(job, secret, coaching, at))

    @Slot(str)
    def _failed(self, sentence: str) -> None:
        self.begin.setEnabled(True)
        self.begin.setText("Begin")
        self.said.setText(sentence)

    def done(self, result: int) -> None:
        for one in (self.drawing, self.counting):
            one.close()
        super().done(result)


def ask_exercise(window: MainWindow) -> None:
    """Which exercise is to be begun."""
    open_over(ExerciseWindow(window))


def begin_with(window: MainWindow, act: Act) -> None:
    """A new job that begins with an act; nothing is left of it where that is refused."""
    try:
        with window.workshop.beginning() as made:
            window.workshop.perform(made, act)
    except VioletDialError as error:
        window.say(str(error))
        return
    window.open_job(made)
