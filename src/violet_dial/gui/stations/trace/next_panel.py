"""What the next test shows: the figure is typed here, beside what each outcome would leave. It stands below the Next card."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.evidence import LOOKS, OVERLOAD_OHM, Evidence, Prefer
from violet_dial.core.diagnosis.explain import short_words, spoken
from violet_dial.core.diagnosis.next_test import Outcome, Test
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, parse_number
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.job.document import Job
from violet_dial.services.acts import Done
from violet_dial.services.progress import NextAct
from violet_dial.services.tracing import TraceResult, take_evidence

MOST_OUTCOMES = 6
_UNITS = {"volt": ("V", "volt"), "ohm": ("Ω", "ohm", "R")}


def points_said(circuit: Circuit, test: Test) -> tuple[str, str]:
    """The two spots the probes go to; for something seen, the ends of its part."""
    if test.ask.part:
        return circuit.part(test.ask.part).nodes[0], ""
    return test.ask.plus, test.ask.minus


def test_title(circuit: Circuit, test: Test) -> str:
    """A test in one line."""
    ask = test.ask
    if ask.test == "seen":
        return f"Look at the {short_words(circuit, ask.part)}"
    minus = "gnd" if ask.minus == "0" else ask.minus
    what = {"volt": "Volts", "ohm": "Ohms, cells out,", "amp": "Current"}[ask.test]
    return f"{what} {ask.plus} to {minus}"


def test_cost(test: Test) -> str:
    """Minutes, what to open, how the device stands."""
    opened = f"open {', '.join(test.opens)}" if test.opens else "nothing to open"
    stands = test.ask.setting.words if test.ask.test != "ohm" else ""
    return " · ".join(part for part in (f"{test.minutes:.1f} min", opened, stands) if part)


def next_act_of(circuit: Circuit, result: TraceResult, prefer: Prefer) -> NextAct | None:
    """The best test as the Next card shows it."""
    if not result.ranking.tests:
        return None
    test = result.ranking.tests[0]
    best = "most" if prefer == "fewest tests" else "best for its time"
    reason = f"It parts the suspects {best}: {test.bits:.2f} bit. A healthy one shows {test.healthy}."
    arithmetic = f"{test.bits:.2f} bit / {test.minutes:.2f} min = {test.worth:.2f} bit a minute"
    return NextAct(
        "Trace", test_title(circuit, test), reason, test_cost(test), "Take reading", "test", arithmetic=arithmetic
    )


class NextPanel(QWidget):
    """Enter in the figure takes the reading; the choice of what tests are to save is turned by its key."""

    taken = Signal(object)
    preference_turned = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._tests: tuple[Test, ...] = ()
        frame, inside = card()
        self.prefer = QPushButton()
        self.prefer.setProperty("role", "link")
        self.prefer.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.prefer.clicked.connect(self.preference_turned)
        head = QHBoxLayout()
        head.addWidget(labelled("What it shows", "head"))
        head.addStretch(1)
        head.addWidget(self.prefer)
        inside.addLayout(head)
        self.nothing = labelled("", "quiet", True)
        self.typed = TypedLine("What the test shows", lambda text: (), self._understood)
        self.figure = self.typed.edit
        self.outcomes = _OutcomeTable()
        self.groups = labelled("", "small", True)
        for item in (self.nothing, self.typed, self.outcomes, self.groups):
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        self.typed.taken.connect(self._take)

    @property
    def test(self) -> Test | None:
        """The test that is shown."""
        return self._tests[0] if self._tests else None

    def show_preference(self, prefer: Prefer) -> None:
        """What tests are chosen to save now."""
        self.prefer.setText(f"for {prefer}")
        self.prefer.setToolTip("Ctrl+R turns to the other choice")
        self.prefer.setAccessibleName(f"Tests chosen for {prefer}; turn to the other")

    def show_nothing(self, why: str) -> None:
        self._tests = ()
        self.nothing.setText(f"No test to suggest. {why}")
        self.nothing.setVisible(True)
        self.typed.setVisible(False)
        self.outcomes.show_rows(())
        self.groups.setText("")

    def show_tests(self, circuit: Circuit, tests: tuple[Test, ...], groups: tuple[tuple[str, ...], ...]) -> None:
        """Show the best test and what it would leave."""
        if not tests:
            self.show_nothing("No allowed test would part the suspects further.")
        else:
            self._tests = tests
            test = tests[0]
            self.nothing.setVisible(False)
            self.typed.setVisible(True)
            self.typed.clear()
            hint = {"volt": "1.52 V", "ohm": "38k, OL", "seen": "on, dim, off, 40 %"}.get(test.ask.test, "")
            self.figure.setPlaceholderText(f"shows: {hint}")
            self.outcomes.show_rows(tuple(_outcome_row(circuit, one) for one in test.outcomes[:MOST_OUTCOMES]))
        alike = [" or ".join(spoken(circuit, name) for name in group[:4]) for group in groups[:1]]
        self.groups.setText(f"No allowed test parts: {'; '.join(alike)}" if alike else "")
        self.groups.setVisible(bool(alike))

    def _read(self, text: str) -> Evidence:
        test = self.test
        if test is None:
            raise InvalidInput("Reading", text, "a test to read")
        return replace(test.ask, value=read_figure(test.ask.test, text))

    def _understood(self, text: str) -> str:
        evidence = self._read(text)
        unit = _UNITS.get(evidence.test, ("",))[0]
        if evidence.test == "ohm" and evidence.value >= OVERLOAD_OHM:
            return "= open"
        return f"= {evidence.value:.0%}" if evidence.test == "seen" else f"= {format_engineering(evidence.value)}{unit}"

    @Slot(str)
    def _take(self, text: str) -> None:
        evidence = self._read(text)
        self.typed.clear()
        self.taken.emit(_taking(evidence))


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


def _outcome_row(circuit: Circuit, one: Outcome) -> tuple[str, str, str]:
    left = ", ".join(f"{spoken(circuit, name)} {share:.0%}" for name, share in one.leaves[:1])
    return one.words, f"{one.probability:.0%}", left


def _taking(evidence: Evidence) -> Callable[[Job, str], Done]:
    return lambda job, at: take_evidence(job, evidence, at)


def read_figure(test: str, text: str) -> float:
    """A figure typed for a known test: the unit may be left out.

    Raises
    ------
    InvalidInput
        Not a figure, or a look that is not known.
    """
    low = text.strip().lower()
    if test == "seen":
        if low in LOOKS:
            return LOOKS[low]
        share = low.endswith("%")
        value = parse_number(low.removesuffix("%").strip(), "What is seen")
        value = value / 100 if share else value
        if not 0 <= value <= 1:
            raise InvalidInput("What is seen", text, "on, dim, off, or 0 to 100 %")
        return value
    if test == "ohm" and low in ("ol", "open", "inf"):
        return OVERLOAD_OHM
    for unit in _UNITS.get(test, ()):
        if low.endswith(unit.lower()) and len(low) > len(unit):
            return parse_number(text.strip()[: -len(unit)].strip(), "Reading")
    return parse_number(text, "Reading")
