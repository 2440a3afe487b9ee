"""Choosing and editing the circuit: templates, the text itself, and typed lines with completion."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Slot
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import LETTERS
from violet_dial.core.circuit.trade import KINDS
from violet_dial.core.errors import VioletDialError
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.circuits import circuit_from, circuit_text_of, has_circuit, templates
from violet_dial.stations.trace.acts import choose_circuit

NOTE_KEYS = (
    "kind=",
    "name=",
    "colour=",
    "place=",
    "behind=",
    "minutes=",
    "tol=",
    "switch=",
    "closed=",
    "positions=",
    "full_a=",
    "on_a=",
)


class CircuitWindow(FormWindow):
    """Enter on a template puts its text in and goes to Keep, where Enter keeps it; the line under the text adds a part.

    Keep takes the text only when it is understood; ``keep_act`` says whether it was kept.
    """

    def __init__(self, parent: QWidget, look: Look, job: Job) -> None:
        super().__init__(parent)
        self.setWindowTitle("The circuit")
        self.keep_act: Callable[[Act], bool] = lambda act: True
        self._name = job.tracing.circuit_name
        self._to_keep = False  # the keys go to Keep once the text is understood
        self._reader = Runner(self)
        self._reader.succeeded.connect(self._was_understood)
        self._reader.failed.connect(self._was_not)
        self.list = QListWidget()
        self.list.setAccessibleName("Circuits to begin from")
        self.list.addItems([template.title for template in templates()])
        self.list.setMaximumWidth(look.px(310))
        self.list.setWordWrap(True)
        self.text = QPlainTextEdit(circuit_text_of(job))
        self.text.setAccessibleName("The circuit as SPICE text")
        self.text.setTabChangesFocus(True)
        self.line = TypedLine("A part or note to add", self._offers, self._understood, self._add)
        self.line.edit.setPlaceholderText("add a line: R9 node+ node- 4.7k, or *: R9 kind=wire colour=red")
        self.fault = labelled("", "understood", True)
        self.keep = self.keep_button = QPushButton("Keep  Ctrl+⏎")
        self.keep.setProperty("role", "main")
        self._lay_out(look, parent)
        self.list.itemActivated.connect(lambda _: self.take_template(self.list.currentRow()))
        self.text.textChanged.connect(self._check)
        self.keep.clicked.connect(self._keep)
        self._check()
        self.list.setCurrentRow(0)
        (self.text if has_circuit(job) else self.list).setFocus(Qt.FocusReason.OtherFocusReason)

    def _lay_out(self, look: Look, parent: QWidget) -> None:
        leave = QPushButton("Leave as it was  Esc")
        leave.clicked.connect(self.reject)
        leave.setAutoDefault(False)  # Enter on a template is not Enter on this
        self.keep.setAutoDefault(False)
        left = QVBoxLayout()
        left.addWidget(labelled("Begin from", "head"))
        left.addWidget(self.list, 1)
        right = QVBoxLayout()
        right.addWidget(labelled("The text, as SPICE reads it; what the trade adds stands after *:", "quiet", True))
        right.addWidget(self.text, 1)
        right.addWidget(self.line)
        right.addWidget(self.fault)
        middle = QHBoxLayout()
        middle.addLayout(left, 2)
        middle.addLayout(right, 5)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.keep)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addLayout(middle, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(1080), room.width() - 60), min(look.px(680), room.height() - 50))

    def take_template(self, place: int) -> None:
        """Put a template's text in."""
        template = templates()[place]
        self._name = template.title
        self._to_keep = True
        self.text.setPlainText(template.text)

    @Slot()
    def _keep(self) -> None:
        if self.keep_act(self.act()):
            self.accept()
        else:
            self.fault.setText("It was not kept: the page behind says why.")

    @Slot()
    def _check(self) -> None:
        """Read the text beside the window's work; until it is understood nothing can be kept."""
        text = self.text.toPlainText()
        self.keep.setEnabled(False)
        if not text.strip():
            self._reader.cancel()
            self.fault.setText("Choose one on the left with Enter, or write a circuit.")
            return
        self._reader.start(lambda task: circuit_from(text))

    @Slot(object)
    def _was_understood(self, circuit: Circuit) -> None:
        self.fault.setText(f"{len(circuit.parts)} parts, {len(circuit.nodes)} points: understood.")
        self.keep.setEnabled(True)
        if self._to_keep:
            self._to_keep = False
            self.keep.setFocus()

    @Slot(str)
    def _was_not(self, sentence: str) -> None:
        self._to_keep = False
        self.fault.setText(sentence)

    def done(self, result: int) -> None:
        self._reader.close()
        super().done(result)

    def _lines_with(self, line: str) -> str:
        """The text with one more line before .end."""
        lines = self.text.toPlainText().rstrip().split("\n")
        at = len(lines) - 1 if lines and lines[-1].strip().lower() == ".end" else len(lines)
        return "\n".join([*(lines if lines != [""] else ["My circuit"])[:at], line, *lines[at:]]) + "\n"

    def _understood(self, line: str) -> str:
        before = self._count()
        after = circuit_from(self._lines_with(line))
        return "a part more" if len(after.parts) > before else "a note more"

    def _count(self) -> int:
        try:
            return len(circuit_from(self.text.toPlainText()).parts)
        except VioletDialError:
            return 0

    def _offers(self, line: str) -> tuple[str, ...]:
        words = line.split(" ")
        last = words[-1]
        try:
            circuit = circuit_from(self.text.toPlainText())
            names = [part.name for part in circuit.parts]
            nodes = [*circuit.nodes, "0"]
        except VioletDialError:
            names, nodes = [], []
        if line.startswith("*:"):
            kinds = [f"kind={kind}" for kind in KINDS]
            choices = [*names, *kinds, *NOTE_KEYS]
        else:
            choices = nodes if len(words) > 1 else [letter for letter in LETTERS if letter != "X"]
        stem = line[: len(line) - len(last)]
        return tuple(stem + choice for choice in choices if last and choice.lower().startswith(last.lower()) and choice != last)[
            :8
        ]

    def _add(self, line: str) -> bool:
        self.text.setPlainText(self._lines_with(line))
        return True

    def act(self) -> Act:
        """The act of keeping the circuit."""
        text = self.text.toPlainText()
        name = self._name or text.split("\n", 1)[0].lstrip("* ").strip() or "own circuit"
        return lambda job, at: choose_circuit(job, name, text, at)
