"""Exercises of one's own, for oneself or for somebody who learns: any circuit, any fault, one or a set in their order, as one
file that does not show what is wrong."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.explain import spoken
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.practice.exercise import DEVICES, FORMS, LEVELS
from violet_dial.core.practice.form import form_of
from violet_dial.core.records.circuit import Fault
from violet_dial.core.task import Task
from violet_dial.kit.ask import open_over
from violet_dial.kit.cards import labelled
from violet_dial.kit.files import Chooser
from violet_dial.kit.form import add_row, combo, line_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.rows import Rows
from violet_dial.kit.runner import Runner
from violet_dial.kit.typed_line import TypedLine
from violet_dial.practise.acts import fault_named, names_like
from violet_dial.practise.exercise import Secret
from violet_dial.practise.files import MOST_OF_A_SET, Given, exercise_file, own_exercise, own_form, set_file
from violet_dial.practise.forms import form_fault, form_names
from violet_dial.services.circuits import circuit_from, circuit_text_of, has_circuit, templates
from violet_dial.services.every_job import every_job
from violet_dial.services.files import write_file
from violet_dial.services.places import workshop_of

if TYPE_CHECKING:
    from violet_dial.gui.main_window import MainWindow

KINDS = "Exercises (*.json)"
MOST_OFFERED = 6


@dataclass(frozen=True)
class CircuitSource:
    """A device there is: what it is called, its circuit's text; ``form`` where it is judged by readings alone."""

    name: str
    text: str
    form: str = ""

    @property
    def circuit(self) -> Circuit:
        return circuit_from(self.text)

    def fault(self, words: str) -> Fault:
        """A fault of it by its words; as `fault_named`."""
        return form_fault(form_of(self.form), words) if self.form else fault_named(self.circuit, words)

    def said(self, fault: Fault) -> str:
        """A fault as it is said."""
        return fault.name if self.form else spoken(self.circuit, fault.name)

    def names(self, words: str) -> tuple[str, ...]:
        """Names of its faults with these words in them."""
        if self.form:
            return tuple(name for name in form_names(form_of(self.form)) if words.lower() in name)
        return names_like(self.circuit, words)

    def exercise(self, faults: tuple[Fault, ...], title: str, level: int) -> Secret:
        """The exercise; as `own_exercise`."""
        if self.form:
            return own_form(self.form, faults[0].mode, title, level)
        return own_exercise(self.text, faults, title, level)


def sources_of(path: Path, task: Task) -> tuple[CircuitSource, ...]:
    """The circuits that ship, devices judged by readings, circuits of a workshop's jobs; over a link of its own, for a worker.

    Raises StoreError, TaskCancelled.
    """
    found = [CircuitSource(template.title, template.text) for template in templates()]
    found += [CircuitSource(device, "", form) for device, (form, *_) in DEVICES.items() if form in FORMS]
    if not path.exists():
        return tuple(found)
    for job in every_job(path, task):
        if job is not None and has_circuit(job):
            found.append(CircuitSource(f"job {job.label}, {job.device.name}", circuit_text_of(job)))
    return tuple(found)


class MakingWindow(FormWindow):
    """Enter in the fault's line adds it to the exercise; Add puts the exercise into the file; Write writes the file."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.setWindowTitle("Make exercises")
        self._window, self._chooser = window, Chooser(window.look.settings)
        self._sources: tuple[CircuitSource, ...] = ()
        self._faults: tuple[Fault, ...] = ()
        self._given: tuple[Given, ...] = ()
        self.circuit = combo("Device")
        self.fault = TypedLine("What is wrong", self._offers, self._understood, self._take)
        self.fault.edit.setPlaceholderText("red wire open   (Enter; a second one the same way)")
        self.level = combo("Level", tuple(str(n) for n in range(1, len(LEVELS) + 1)))
        self.title = line_edit("Title", "Exercise 1")
        self.set_title = line_edit("Set")
        self.set_title.setPlaceholderText("a title for several exercises in their order")
        self.wrong, self.listed = Rows(window.look, "What is wrong"), Rows(window.look, "In the file")
        self.said = labelled("", "understood", True)
        self.add, self.write = QPushButton("Add to the file"), QPushButton("Write the file")
        self.keep_button = self.write
        self.write.setProperty("role", "main")
        self.own_enter = (self.fault.edit,)
        self._build()
        self.checking, self.looking = Runner(self), Runner(self)
        self.checking.succeeded.connect(self._checked)
        self.checking.failed.connect(self.said.setText)
        self.looking.succeeded.connect(self._found)
        path = workshop_of(window.workshop.path)
        self.looking.start(lambda task: sources_of(path, task))
        self._show()

    def _build(self) -> None:
        form = QGridLayout()
        form.setColumnStretch(1, 1)
        fields = (
            ("Device", self.circuit), ("What is wrong", self.fault), ("Level", self.level), ("Title", self.title),
            ("Set", self.set_title),
        )  # fmt: skip
        for text, field in fields:
            add_row(form, text, field)
        acts = QHBoxLayout()
        acts.addStretch(1)
        leave = QPushButton("Leave  Esc")
        for button, act in ((self.add, self._add), (self.write, self._write), (leave, self.reject)):
            button.clicked.connect(act)
            acts.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        words = (
            "The file shows title, level and circuit; what is wrong is sealed in it. That keeps out eyes, not somebody who takes "
            "the program apart."
        )
        layout.addWidget(labelled("Exercises of your own", "head"))
        layout.addWidget(labelled(words, "small", True))
        layout.addLayout(form)
        for item in (self.wrong, self.listed, self.said):
            layout.addWidget(item)
        layout.addStretch(1)
        layout.addLayout(acts)
        self.circuit.currentIndexChanged.connect(self._turned)
        self.resize(self._window.look.px(760), self._window.look.px(440))

    # what is shown

    @Slot(object)
    def _found(self, found: object) -> None:
        if isinstance(found, tuple):
            self._sources = found
            self.circuit.addItems([one.name for one in found])
            self.note_kept()

    @Slot()
    def _turned(self) -> None:
        """Another circuit: its faults are others."""
        self._faults = ()
        self._show()

    def _show(self) -> None:
        source = self._source
        words = (source.said(fault) for fault in self._faults) if source is not None else ()
        self.wrong.show_rows(tuple(("is wrong", word) for word in words))
        rows = ((f"{n}", one.title, f"level {one.secret.exercise.level}") for n, one in enumerate(self._given, 1))
        self.listed.show_rows(tuple(rows))
        self.add.setEnabled(bool(self._faults))
        self.write.setEnabled(bool(self._given))

    @property
    def _source(self) -> CircuitSource | None:
        place = self.circuit.currentIndex()
        return self._sources[place] if 0 <= place < len(self._sources) else None

    @property
    def _known(self) -> CircuitSource:
        source = self._source
        if source is None:
            raise InvalidInput("Device", "none yet", "one of the list")
        return source

    # acts

    def _offers(self, text: str) -> tuple[str, ...]:
        source = self._source
        return source.names(text)[:MOST_OFFERED] if source is not None and text else ()

    def _understood(self, text: str) -> str:
        return f"= {self._known.said(self._known.fault(text))}"

    def _take(self, text: str) -> bool:
        fault = self._known.fault(text)
        if fault.part not in {one.part for one in self._faults}:
            self._faults = (*self._faults, fault)
        self._show()
        return True

    @Slot()
    def _add(self) -> None:
        """The exercise into the file, once it is proved that it can be found."""
        source, faults, level = self._known, self._faults, self.level.currentIndex() + 1
        title = self.title.text().strip() or "Exercise"
        if len(self._given) >= MOST_OF_A_SET:
            self.said.setText(f"A set has at most {MOST_OF_A_SET} exercises.")
            return
        self.said.setText("Looking whether allowed tests can find it…")
        self.checking.start(lambda task: (title, source.exercise(faults, title, level)))

    @Slot(object)
    def _checked(self, found: object) -> None:
        if not isinstance(found, tuple) or not isinstance(found[1], Secret):
            return
        self._given = (*self._given, Given(found[0], found[1]))
        self._faults = ()
        self.title.setText(f"Exercise {len(self._given) + 1}")
        self.said.setText(f"{found[0]} is in the file: it can be found.")
        self._show()

    @Slot()
    def _write(self) -> None:
        name = "exercise.json" if len(self._given) == 1 else "exercises.json"
        self._chooser.ask_save(self, "Write the exercises", name, KINDS, self.write_to)

    def write_to(self, path: Path) -> None:
        """One exercise alone, several as a set."""
        one = self._given[0]
        several = len(self._given) > 1
        data = (
            set_file(self.set_title.text().strip() or "Exercises", self._given)
            if several
            else exercise_file(one.secret, one.title)
        )
        try:
            write_file(path if path.suffix else path.with_suffix(".json"), data)
        except VioletDialError as error:
            self.said.setText(str(error))
            return
        self.note_kept()
        self._window.say(f"{len(self._given)} exercise{'s' * several} written: {path.name}")
        self.done(1)

    def _typed(self) -> tuple[object, ...]:
        return self.fault.edit.text(), self._faults, self._given

    def done(self, result: int) -> None:
        for one in (self.checking, self.looking):
            one.close()
        super().done(result)


def ask_making(window: MainWindow) -> None:
    """Exercises of one's own into a file."""
    open_over(MakingWindow(window))
