"""Sister: a working unit beside the sick one, spot by spot, each comparison chosen for what it settles."""

import threading
from dataclasses import dataclass, replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.diagnosis.evidence import THIRD
from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.board import Board, node_of
from violet_dial.core.mapping.differing import Differing, Opened
from violet_dial.core.mapping.sister import Pair, SisterFound, compare, differing_of, opened_pairs
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.steady.samples import Capture
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.kit.cards import ElidedLabel, card, scrolled
from violet_dial.kit.page import House
from violet_dial.kit.runner import Runner
from violet_dial.services import live
from violet_dial.services.circuits import circuit_text_of
from violet_dial.services.station import Section
from violet_dial.stations.trace.acts import captured_evidence, take_evidence
from violet_dial.stations.trace.map_acts import board_of
from violet_dial.stations.trace.pairs_view import PairsView
from violet_dial.stations.trace.sister_panel import UNITS, SisterPanel
from violet_dial.stations.trace.sister_state import (
    Order,
    SisterShown,
    Unit,
    opened_sister,
    pairs_of,
    sister_shown,
    volts_of,
)
from violet_dial.stations.trace.work import within_reach

Worked = tuple[SisterFound, tuple[Opened, ...]]
ORDERS: tuple[Order, Order] = ("spot by spot", "working unit first")


@dataclass(frozen=True)
class _Asked:
    """What a comparison is worked out from."""

    job_id: str
    circuit: str
    setting: Setting
    pairs: tuple[Pair, ...]


class SisterPage(QWidget):
    """Spots along the way, both figures at each. ``changed`` when another touch is asked for."""

    changed = Signal()

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house = house
        self._job: Job | None = None
        self._board = Board()
        self._question: _Asked | None = None
        self._found: SisterFound | None = None
        self._opened: tuple[Opened, ...] = ()
        self._failure = ""
        self._order: Order = ORDERS[0]
        self._last: Unit = "working"
        self._circuit: tuple[str, Differing | None] = ("", None)
        self._lock = threading.Lock()
        self.shown: SisterShown | None = None
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._succeeded)
        self.runner.failed.connect(self._failed)
        self.pairs = PairsView(house.look)
        self.stands = ElidedLabel()
        self.next = SisterPanel(house.look, self._take)
        self.next.order_turned.connect(self.turn_order)
        frame, inside = card()
        inside.addWidget(self.stands)
        self.area = scrolled(self.pairs)
        inside.addWidget(self.area, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)

    # what is shown

    def begin(self, job: Job) -> None:
        """Another job: nothing compared, the first order."""
        self.runner.cancel()
        self._job, self._question, self._found, self._failure, self.shown = None, None, None, "", None
        self._order, self._last = ORDERS[0], "working"
        self.next.begin()
        self.pairs.show_rows(())

    def show_job(self, job: Job) -> None:
        """Draw both units; what they say is worked out beside."""
        self._job = job
        try:
            self._board, self._failure = board_of(job), ""
        except VioletDialError as error:
            self._board, self._failure = Board(), str(error)
        setting = job.tracing.setting
        asked = _Asked(job.job_id, circuit_text_of(job), setting, pairs_of(volts_of(job, self._board), setting))
        if asked != self._question:
            self._question, self._found, self._opened = asked, None, ()
            board = within_reach(job, self._board)
            self.runner.start(lambda task: (asked, self._work(board, asked, task)))
        self._draw()

    def _work(self, board: Board, asked: _Asked, task: Task) -> Worked | None:
        if not board.spots:
            return None
        with self._lock:
            if self._circuit[0] != asked.circuit:
                self._circuit = (asked.circuit, differing_of(board))
            found = compare(board, asked.pairs, self._circuit[1], asked.setting, task)
            return found, opened_pairs(board, asked.pairs, self._circuit[1])

    @Slot(object)
    def _succeeded(self, result: tuple[_Asked, Worked | None]) -> None:
        if result[0] == self._question:
            self._found, self._opened = result[1] or (None, ())
            self._draw()
            self.changed.emit()

    @Slot(str)
    def _failed(self, sentence: str) -> None:
        self._failure = sentence
        self._draw()
        self.changed.emit()

    def _draw(self) -> None:
        if self._job is None:
            return
        one = sister_shown(self._job, self._board, self._found, self._order, self._last, self._failure)
        self.shown = one
        self.stands.setText(one.stands)
        self.pairs.show_rows(one.rows)
        self.next.draw(one, self._order)
        at = self.pairs.asked_at()
        if at is not None:
            self.area.ensureVisible(0, at, 0, 60)

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        """What was compared, and the arithmetic of the likeliest faults."""
        if self.shown is None:
            return None
        return "Both units, and what would make the difference", opened_sister(self.shown, self._opened)

    @property
    def settled(self) -> bool:
        return not self.runner.busy

    def close_workers(self) -> None:
        self.runner.close()

    # acts

    def _evidence(self, unit: Unit, spot: str, volts: float) -> Evidence:
        setting = self._job.tracing.setting if self._job is not None else Setting()
        note = THIRD if unit == "third" else ""
        return Evidence(
            "volt", volts, node_of(spot), GROUND, setting=replace(setting), sister=unit != "sick", note=note
        )

    def _take(self, unit: Unit, spot: str, volts: float) -> bool:
        evidence = self._evidence(unit, spot, volts)
        return self._kept(unit, spot, self._house.perform(lambda job, at: take_evidence(job, evidence, at)))

    def _kept(self, unit: Unit, spot: str, kept: bool) -> bool:
        if kept:
            self._last = self._last if unit == "third" else unit
            self.next.read_at(spot)
            self._draw()
        return kept

    @Slot()
    def turn_order(self) -> None:
        """Spot by spot on both units in turn, or the working unit all along first."""
        self._order = ORDERS[1 - ORDERS.index(self._order)]
        self._draw()
        self.changed.emit()

    # keys

    def focus_first(self) -> None:
        """To the figure that is asked for."""
        self.next.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)

    def to_picture(self) -> None:
        self.focus_first()

    # live instruments

    @property
    def asks(self) -> Evidence | None:
        """The touch as a test, for whoever stands at the spots; of the sick unit alone."""
        ask = self.next.asked
        return self._evidence(ask.unit, ask.spot, 0.0) if ask is not None and ask.unit == "sick" else None

    @property
    def slot(self) -> live.Slot | None:
        ask = self.next.asked
        return live.Slot(f"{UNITS[ask.unit].lower()}, {ask.spot}", "volt") if ask is not None else None

    def put_capture(self, capture: Capture) -> bool:
        """A steady figure of the meter is the one that is asked for."""
        ask = self.next.asked
        if ask is None:
            return False
        evidence = captured_evidence(self._evidence(ask.unit, ask.spot, 0.0), capture)
        return self._kept(
            ask.unit, ask.spot, self._house.perform(lambda job, at: take_evidence(job, evidence, at, capture))
        )
