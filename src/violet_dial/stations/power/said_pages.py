"""Pages at Power that are a few sentences and lists with one line to type: cells, use, fitting, supply."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.report.dial import MarkState
from violet_dial.stations.power.pages_state import CellShown, Difference, FitShown, UseShown


class Mark(QWidget):
    """One mark of a row."""

    def __init__(self, look: Look, state: MarkState) -> None:
        super().__init__()
        self._look, self._state = look, state

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(18), self._look.px(18))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_mark(painter, self._look, QPointF(self.width() / 2, self.height() / 2), self._state, self._look.px(6))


class Rows(QWidget):
    """A grid of words, made anew each time: heads in quiet, the rest as it stands; marks before rows where there are some."""

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look, self._name = look, name
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._inside: QWidget | None = None

    def show_rows(
        self, rows: tuple[tuple[str, ...], ...], heads: tuple[str, ...] = (), marks: tuple[MarkState, ...] = ()
    ) -> None:
        """Show these; hidden when there are none."""
        if self._inside is not None:
            self._inside.hide()
            self._layout.removeWidget(self._inside)
            self._inside.deleteLater()
        self._inside = inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(self._look.px(16))
        grid.setVerticalSpacing(self._look.px(5))
        first = 1 if marks else 0
        for column, head in enumerate(heads):
            grid.addWidget(labelled(head, "small"), 0, column + first)
        for place, row in enumerate(rows, start=1):
            if marks:
                grid.addWidget(Mark(self._look, marks[place - 1]), place, 0)
            for column, text in enumerate(row):
                last = column == len(row) - 1
                grid.addWidget(labelled(text, "", last), place, column + first, Qt.AlignmentFlag.AlignTop)
        grid.setColumnStretch(first + max((len(row) for row in rows), default=1) - 1, 1)
        self._layout.addWidget(inside)
        self.setAccessibleName(
            f"{self._name}: " + "; ".join(", ".join(row) for row in rows) if rows else f"{self._name}: none"
        )
        self.setVisible(bool(rows))


class SaidPage(QWidget):
    """A headline, its reason, lists, and one line to type."""

    def __init__(self, hint: str, typed: TypedLine, under: str) -> None:
        super().__init__()
        self.headline = labelled("", "verdict", True)
        self.reason = labelled("", "quiet", True)
        self.typed = typed
        typed.edit.setPlaceholderText(hint)
        frame, self.inside = card()
        for item in (self.headline, self.reason):
            self.inside.addWidget(item)
        self.body, self.right = QVBoxLayout(), QVBoxLayout()
        self.columns = QHBoxLayout()
        self.columns.setSpacing(24)
        for column, share in ((self.body, 1), (self.right, 0)):
            column.setSpacing(8)
            self.columns.addLayout(column, share)
        self.inside.addLayout(self.columns)
        self.inside.addStretch(1)
        self.inside.addWidget(labelled(under, "small", True))
        self.inside.addWidget(typed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def add(self, head: str, widget: QWidget, right: bool = False) -> QLabel:
        """A part of the page under its head, in the left column or the right one."""
        label = labelled(head, "head", True)
        column = self.right if right else self.body
        if right:
            self.columns.setStretch(1, 1)
        column.addWidget(label)
        column.addWidget(widget)
        return label

    def close_columns(self) -> None:
        """Nothing more comes: what is there stays at the top."""
        self.body.addStretch(1)
        self.right.addStretch(1)

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)


def line(name: str, understand: Callable[[str], str], take: Callable[[str], bool]) -> TypedLine:
    """A line without completions."""
    return TypedLine(name, lambda text: (), understand, take)


class CellPage(SaidPage):
    """Whether a cell is still good."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__(
            "LR44 1.52 1.31 47", typed,
            "Size, volts at rest; then volts under a load and its ohms. The meter takes both by itself when hands-free is on. "
            "A battery test: test 60 %.",
        )  # fmt: skip
        self.serves, self.before = Rows(look, "What it still serves"), Rows(look, "Read before")
        self.device, self.test, self.caution = (labelled("", "", True) for _ in range(3))
        self.heads = (
            self.add("What it still serves", self.serves), self.add("In this device", self.device),
            self.add("Battery test", self.test, right=True), self.add("Read before", self.before, right=True),
        )  # fmt: skip
        self.close_columns()
        self.inside.insertWidget(2, self.caution)
        self.caution.setProperty("role", "fault")

    def draw(self, one: CellShown) -> None:
        """Draw all of it."""
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.caution.setText(one.caution)
        self.caution.setVisible(bool(one.caution))
        self.serves.show_rows(
            tuple((row.name, row.words) for row in one.serves), (), tuple(row.mark for row in one.serves)
        )
        self.before.show_rows(tuple((text,) for text in one.before))
        for label, text in ((self.device, one.device), (self.test, one.test)):
            label.setText(text)
            label.setVisible(bool(text))
        for head, there in zip(self.heads, (one.serves, one.device, one.test, one.before), strict=True):
            head.setVisible(bool(there))


class UsePage(SaidPage):
    """How the device is used, and how long its battery lasts."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__(
            "2 rolls a month", typed,
            "2 rolls a month · metering 20 min a roll · magnet held 40 s a roll · metering 120 uA (measured) · leak 3 uA · "
            "longest open 30 s · cold 0 C",
        )  # fmt: skip
        self.table, self.use = Rows(look, "What takes the charge"), Rows(look, "How it is used")
        self.positions, self.warnings = Rows(look, "Drawn in each position of the switches"), Rows(look, "To mind")
        self.add("What takes the charge", self.table)
        self.to_mind = self.add("To mind", self.warnings)
        self.add("Drawn by the circuit in each position", self.positions, right=True)
        self.add("How it is used", self.use, right=True)
        self.close_columns()

    def draw(self, one: UseShown) -> None:
        """Draw all of it."""
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.table.show_rows(one.rows, ("state", "current", "a month", "share"))
        self.warnings.show_rows(tuple((text,) for text in one.warnings), (), tuple("undecided" for _ in one.warnings))
        self.to_mind.setVisible(bool(one.warnings))
        self.positions.show_rows(one.positions)
        self.use.show_rows(tuple((text,) for text in one.use))


class FitPage(SaidPage):
    """How a diode is fitted, and whether it was fitted right."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__(
            "forward 0.25", typed,
            "forward 0.25 · reverse OL · Ev 9: 1.56 before 1.36 behind · lead negative. Hands-free takes them too.",
        )  # fmt: skip
        self.steps, self.expected = Rows(look, "Step by step"), Rows(look, "What should be read")
        self.chances = Rows(look, "How it was fitted")
        self.heads = (
            self.add("How it was fitted", self.chances), self.add("What should be read", self.expected),
            self.add("Step by step", self.steps),
        )  # fmt: skip

    def draw(self, one: FitShown) -> None:
        """Draw all of it."""
        self.headline.setText(one.headline)
        self.reason.setVisible(False)
        self.chances.show_rows(one.chances)
        self.expected.show_rows(tuple((text,) for text in one.expected))
        self.steps.show_rows(tuple((f"{number}", text) for number, text in enumerate(one.steps, start=1)))
        for head, there in zip(self.heads, (one.chances, one.expected, one.steps), strict=True):
            head.setVisible(bool(there))


class SupplyPage(SaidPage):
    """What may differ between batteries and a bench supply."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__(
            "bench supply",
            typed,
            "What is typed here is evidence at Trace: how it stands (bench supply, battery in, pressed), or a figure.",
        )
        self.headline.setText("On batteries and on the supply it does not do the same")
        self.reason.setText("Four things differ. Each has a test that tells; what is read goes to Trace.")
        self.list = Rows(look, "What differs")
        self.body.addWidget(self.list)

    def draw(self, several: tuple[Difference, ...]) -> None:
        """Draw all of it."""
        rows = tuple((one.name, f"{one.why}\n{one.test}\nType: {one.typed}") for one in several)
        self.list.show_rows(rows)
