"""What the next test shows: the figure is typed here, beside what each outcome would leave. It stands below the Next card."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QWidget

from violet_dial.core.diagnosis.evidence import TEST_UNITS, read_figure
from violet_dial.core.diagnosis.next_test import Test
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence
from violet_dial.kit.cards import card, fill, labelled
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.trace.state import MOST_OUTCOMES, SuspectsShown, TestShown

NO_TEST = TestShown(None)


class NextPanel(QWidget):
    """Enter in the figure takes the reading; the choice of what tests are to save is turned by its key.

    ``take``: takes the evidence that a figure makes, and says whether it was kept.
    """

    preference_turned = Signal()

    def __init__(self, take: Callable[[Evidence], bool]) -> None:
        super().__init__()
        self._shown = NO_TEST
        frame, inside = card()
        self.prefer = QPushButton()
        self.prefer.setProperty("role", "link")
        self.prefer.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.prefer.setToolTip("Ctrl+R turns to the other choice")
        self.prefer.clicked.connect(self.preference_turned)
        head = QHBoxLayout()
        head.addWidget(labelled("What it shows", "head"))
        head.addStretch(1)
        head.addWidget(self.prefer)
        inside.addLayout(head)
        self.nothing = labelled("", "quiet", True)
        self.typed = TypedLine("What the test shows", None, self._understood, lambda text: take(self._read(text)))
        self.figure = self.typed.edit
        self.outcomes = _OutcomeTable()
        self.groups = labelled("", "small", True)
        for item in (self.nothing, self.typed, self.outcomes, self.groups):
            inside.addWidget(item)
        inside.addStretch(1)
        fill(self, frame)

    @property
    def test(self) -> Test | None:
        """The test that is shown."""
        return self._shown.test

    def begin(self) -> None:
        """Another job: no figure typed."""
        self._shown = NO_TEST
        self.typed.clear()

    def draw(self, whole: SuspectsShown) -> None:
        """Draw all of the panel; another test than before begins with an empty figure."""
        one = whole.next
        if self._shown.test is None or one.test is None or one.test.ask != self._shown.test.ask:
            self.typed.clear()
        self._shown = one
        self.prefer.setText(f"for {whole.prefer}")
        self.prefer.setAccessibleName(f"Tests chosen for {whole.prefer}; turn to the other")
        self.nothing.setText(one.nothing)
        self.nothing.setVisible(bool(one.nothing))
        self.typed.setVisible(one.test is not None)
        self.figure.setPlaceholderText(one.hint)
        self.outcomes.show_rows(one.outcomes)
        self.groups.setText(one.groups)
        self.groups.setVisible(bool(one.groups))

    def _read(self, text: str) -> Evidence:
        test = self.test
        if test is None:
            raise InvalidInput("Reading", text, "a test to read")
        return replace(test.ask, value=read_figure(test.ask.test, text))

    def _understood(self, text: str) -> str:
        evidence = self._read(text)
        if evidence.test == "ohm" and evidence.value >= OVERLOAD_OHM:
            return "= open"
        unit = TEST_UNITS.get(evidence.test, "")
        return f"= {evidence.value:.0%}" if evidence.test == "seen" else f"= {format_engineering(evidence.value)}{unit}"


class _OutcomeTable(QWidget):
    """One row for each outcome: what the meter would show, how likely that is, and what would be left."""

    HEADS = ("if it shows", "", "then likeliest")

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnStretch(2, 1)
        self._rows = [[labelled("", "small", column == 2) for column in range(3)] for _ in range(MOST_OUTCOMES + 1)]
        for place, row in enumerate(self._rows):
            for column, label in enumerate(row):
                align = Qt.AlignmentFlag.AlignRight if column == 1 else Qt.AlignmentFlag.AlignLeft
                label.setAlignment(align | Qt.AlignmentFlag.AlignTop)
                self._grid.addWidget(label, place, column)

    def show_rows(self, rows: tuple[tuple[str, str, str], ...]) -> None:
        """Show the outcomes, likeliest first; nothing when there are none."""
        texts = (self.HEADS, *rows) if rows else ()
        for place, row in enumerate(self._rows):
            for column, label in enumerate(row):
                label.setText(texts[place][column] if place < len(texts) else "")
                label.setVisible(place < len(texts))
        self.setAccessibleName("; ".join(f"{shown}, {share}: {left}" for shown, share, left in rows))
