"""Pages at Power that are a few sentences and lists with one line to type: cells, use, fitting, supply. Beside them stands the
battery in use."""

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.errors import VioletDialError
from violet_dial.core.power.budget import understand_use
from violet_dial.core.power.cells import SIZES
from violet_dial.core.power.feeds import DIODES
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell, Power
from violet_dial.kit.cards import card, fill, labelled, say, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.rows import Rows
from violet_dial.kit.said_page import SaidPage
from violet_dial.kit.typed_line import line
from violet_dial.services import live
from violet_dial.services.circuits import circuit_of
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.power import acts
from violet_dial.stations.power.bench import diodes_of, sizes_of, use_of
from violet_dial.stations.power.hands_free import CellHands, FitHands
from violet_dial.stations.power.pages_state import cell_shown, differences, fit_shown, use_shown
from violet_dial.stations.power.work import PowerWorked


class ChoicePanel(QWidget):
    """Words alone: the choice is taken on the lanes."""

    def __init__(self) -> None:
        super().__init__()
        frame, inside = card()
        self.title, self.reason = labelled("", "head", True), labelled("", "", True)
        self.caution, self.design = labelled("", "fault", True), labelled("", "", True)
        keys = labelled(
            "Up and down: choice. Left and right: light. Page up, page down: temperature. Enter takes it, Del leaves it out. "
            "Ctrl+R tries every part of the drawer with its cell. F3 opens the arithmetic.", "small", True,
        )  # fmt: skip
        for item in (self.title, self.reason, self.caution, self.design, keys):
            inside.addWidget(item)
        inside.addStretch(1)
        fill(self, scrolled(frame))

    def show_choice(self, title: str, reason: str, caution: str) -> None:
        """A choice in full."""
        self.title.setText(title)
        self.reason.setText(reason)
        say((self.caution, caution))

    def show_design(self, said: str) -> None:
        """What the drawer gives."""
        say((self.design, said))


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


Works = Callable[[], PowerWorked | None]  # what was worked out for the job as it stands


class HandedPage(SaidPage):
    """The connected meter's readings go to its ``hands``."""

    hands: CellHands | FitHands

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.hands.begin()

    @property
    def slot(self) -> live.Slot | None:
        return self.hands.slot(self._job) if self._job is not None else None

    @property
    def asks(self) -> Evidence | None:
        return self.hands.asks(self._job) if self._job is not None else None

    @property
    def awaits(self) -> str:
        return self.hands.awaits

    def put_capture(self, capture: Capture) -> bool:
        try:
            act = self.hands.put(self._known(), capture)
        except VioletDialError as error:
            self._context.say(str(error))
            return False
        kept = act is None or self._context.perform(act)
        self.changed.emit()
        return kept

    def drop_capture(self) -> bool:
        return self.hands.drop()


class CellPage(HandedPage):
    """Whether a cell is still good."""

    def __init__(self, context: PageContext, works: Works) -> None:
        super().__init__(
            context, "LR44 1.52 1.31 47", line("A cell as it was read", self._understood, self._take),
            "Size, volts at rest; then volts under a load and its ohms. The meter takes both by itself when hands-free is on. "
            "A battery test: test 60 %.",
        )  # fmt: skip
        self._works, self.hands, look = works, CellHands(), context.look
        self.serves, self.before = Rows(look, "What it still serves"), Rows(look, "Read before")
        self.device, self.test, self.caution = (labelled("", "", True) for _ in range(3))
        self.heads = (
            self.add("What it still serves", self.serves), self.add("In this device", self.device),
            self.add("Battery test", self.test, right=True), self.add("Read before", self.before, right=True),
        )  # fmt: skip
        self.close_columns()
        self.inside.insertWidget(2, self.caution)
        self.caution.setProperty("role", "fault")

    def draw(self, job: Job) -> None:
        one = cell_shown(job, self._works())
        say((self.headline, one.headline), (self.reason, one.reason), (self.caution, one.caution))
        self.serves.show_rows(tuple((row.name, row.words) for row in one.serves), (), tuple(row.mark for row in one.serves))
        self.before.show_rows(tuple((text,) for text in one.before))
        say((self.device, one.device), (self.test, one.test))
        for head, there in zip(self.heads, (one.serves, one.device, one.test, one.before), strict=True):
            head.setVisible(bool(there))

    def _understood(self, text: str) -> str:
        job = self._known()
        if text.lower().startswith("test"):
            return acts.read_test(job, text, "").reason
        return f"= {acts.state_of_cell(job.power, acts.understand_cell(job, text)).words}"

    def _take(self, text: str) -> bool:
        act = acts.read_test if text.lower().startswith("test") else acts.type_cell
        return self._context.perform(lambda job, at: act(job, text, at))


class UsePage(SaidPage):
    """How the device is used, and how long its battery lasts."""

    def __init__(self, context: PageContext, works: Works) -> None:
        super().__init__(
            context, "2 rolls a month", line("How it is used", self._understood, self._take),
            "2 rolls a month · metering 20 min a roll · magnet held 40 s a roll · metering 120 uA (measured) · leak 3 uA · "
            "longest open 30 s · cold 0 C",
        )  # fmt: skip
        self._works, look = works, context.look
        self.table, self.use = Rows(look, "What takes the charge"), Rows(look, "How it is used")
        self.positions, self.warnings = Rows(look, "Drawn in each position of the switches"), Rows(look, "To mind")
        self.add("What takes the charge", self.table)
        self.to_mind = self.add("To mind", self.warnings)
        self.add("Drawn by the circuit in each position", self.positions, right=True)
        self.add("How it is used", self.use, right=True)
        self.close_columns()

    def draw(self, job: Job) -> None:
        one = use_shown(job, self._works())
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.table.show_rows(one.rows, ("state", "current", "a month", "share"))
        self.warnings.show_rows(tuple((text,) for text in one.warnings), (), tuple("undecided" for _ in one.warnings))
        self.to_mind.setVisible(bool(one.warnings))
        self.positions.show_rows(one.positions)
        self.use.show_rows(tuple((text,) for text in one.use))

    def _understood(self, text: str) -> str:
        understand_use(use_of(self._known().power), text)
        return f"= {text.strip()}"

    def _take(self, text: str) -> bool:
        return self._context.perform(lambda job, at: acts.say_use(job, text, at))


class FitPage(HandedPage):
    """How a diode is fitted, and whether it was fitted right."""

    def __init__(self, context: PageContext, works: Works) -> None:
        super().__init__(
            context, "forward 0.25", line("What was read at the diode", self._understood, self._take),
            "forward 0.25 · reverse OL · Ev 9: 1.56 before 1.36 behind · lead negative. Hands-free takes them too.",
        )  # fmt: skip
        self._works, self.hands, look = works, FitHands(), context.look
        self.steps, self.expected = Rows(look, "Step by step"), Rows(look, "What should be read")
        self.chances = Rows(look, "How it was fitted")
        self.heads = (
            self.add("How it was fitted", self.chances), self.add("What should be read", self.expected),
            self.add("Step by step", self.steps),
        )  # fmt: skip

    def draw(self, job: Job) -> None:
        one = fit_shown(job, self._works())
        self.headline.setText(one.headline)
        self.reason.setVisible(False)
        self.chances.show_rows(one.chances)
        self.expected.show_rows(tuple((text,) for text in one.expected))
        self.steps.show_rows(tuple((f"{number}", text) for number, text in enumerate(one.steps, start=1)))
        for head, there in zip(self.heads, (one.chances, one.expected, one.steps), strict=True):
            head.setVisible(bool(there))

    def _understood(self, text: str) -> str:
        said = acts.understand_fit(text)
        return f"= the {said} lead" if isinstance(said, str) else f"= {text.strip()}"

    def _take(self, text: str) -> bool:
        return self._context.perform(lambda job, at: acts.say_fit(job, text, at))


class SupplyPage(SaidPage):
    """What may differ between batteries and a bench supply."""

    def __init__(self, context: PageContext, works: Works) -> None:
        super().__init__(
            context,
            "bench supply",
            line("Evidence for Trace", self._understood, self._take),
            "What is typed here is evidence at Trace: how it stands (bench supply, battery in, pressed), or a figure.",
        )
        self.headline.setText("On batteries and on the supply it does not do the same")
        self.reason.setText("Four things differ. Each has a test that tells; what is read goes to Trace.")
        self._works, self.list = works, Rows(context.look, "What differs")
        self.body.addWidget(self.list)

    def draw(self, job: Job) -> None:
        rows = ((one.name, f"{one.why}\n{one.test}\nType: {one.typed}") for one in differences(self._works()))
        self.list.show_rows(tuple(rows))

    def _understood(self, text: str) -> str:
        job, meter = self._known(), self._context.instruments.meter_on()
        return understand_evidence(circuit_of(job), text, job.tracing.setting, meter).words

    def _take(self, text: str) -> bool:
        meter = self._context.instruments.meter_on()
        return self._context.perform(lambda job, at: type_evidence(job, text, at, meter))
