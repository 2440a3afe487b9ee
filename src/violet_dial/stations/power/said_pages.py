"""Pages at Power that are a few sentences and lists with one line to type: cells, use, fitting, supply."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.power.cells import SIZES
from violet_dial.core.power.feeds import DIODES
from violet_dial.job.power import OwnCell, Power
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.said_page import Rows, SaidPage
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.power.bench import diodes_of, sizes_of
from violet_dial.stations.power.pages_state import CellShown, FitShown, SupplyDifference, UseShown


class ChoicePanel(QWidget):
    """Words alone: the choice is taken on the lanes."""

    def __init__(self) -> None:
        super().__init__()
        frame, inside = card()
        self.title = labelled("", "head", True)
        self.reason, self.caution, self.design = (
            labelled("", "", True),
            labelled("", "fault", True),
            labelled("", "", True),
        )
        self.keys = labelled(
            "Up and down: choice. Left and right: light. Page up, page down: temperature. Enter takes it, Del leaves it out. "
            "Ctrl+R tries every part of the drawer with its cell. F3 opens the arithmetic.", "small", True,
        )  # fmt: skip
        for item in (self.title, self.reason, self.caution, self.design, self.keys):
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))
        self.begin()

    def begin(self) -> None:
        """Another job: nothing said."""
        self.show_choice("", "", "")
        self.show_design("")

    def show_choice(self, title: str, reason: str, caution: str) -> None:
        """A choice in full."""
        self.title.setText(title)
        self.reason.setText(reason)
        self.caution.setText(caution)
        self.caution.setVisible(bool(caution))

    def show_design(self, said: str) -> None:
        """What the drawer gives."""
        self.design.setText(said)
        self.design.setVisible(bool(said))


def offers_of(power: Power, text: str, at_hand: tuple[OwnCell, ...] = ()) -> tuple[str, ...]:
    """Completions of the last word, best first: cells first, then what goes with them."""
    head, plus, tail = text.rpartition("+")
    word = tail.strip().lower()
    if not plus:
        every = (
            *sizes_of(power),
            *(one.name for one in at_hand),
            *SIZES,
            "supply 1.5 V",
            "design 1.35 V",
            "drawer 150 ohm",
            "diode name IS=1e-7 N=1.1",
        )
        return tuple(one for one in every if one.lower().startswith(word))
    every = (*DIODES, *diodes_of(power), "adapter 0.2 V", "moved", "1 k")
    return tuple(f"{head.strip()} + {one}" for one in every if one.lower().startswith(word))


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

    def draw(self, several: tuple[SupplyDifference, ...]) -> None:
        """Draw all of it."""
        rows = tuple((one.name, f"{one.why}\n{one.test}\nType: {one.typed}") for one in several)
        self.list.show_rows(rows)
