"""Sister: a working unit beside the sick one, spot by spot, each comparison chosen for what it settles."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal, Slot
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.diagnosis.evidence import THIRD
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.mapping.board import Board, node_of
from violet_dial.core.mapping.differing import Differing, Opened
from violet_dial.core.mapping.sister import SisterFound, SisterPair, compare, differing_of, opened_pairs
from violet_dial.core.quantities import format_engineering, parse_with_unit
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.steady.samples import Capture
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import ElidedLabel, card, fill, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.circuits import circuit_text_of
from violet_dial.services.remembered import Answers
from violet_dial.services.station import Section
from violet_dial.stations.trace.acts import captured_evidence, take_evidence
from violet_dial.stations.trace.map_acts import board_of
from violet_dial.stations.trace.sister_state import (
    AskShown,
    Order,
    PairShown,
    SisterShown,
    Unit,
    figure,
    opened_sister,
    pairs_of,
    sister_shown,
    volts_of,
)
from violet_dial.stations.trace.work import opened_of, within_reach

Worked = tuple[SisterFound, tuple[Opened, ...]]
KNOWN = Answers(4)  # comparisons of the jobs that were at the bench last
ORDERS: tuple[Order, Order] = ("spot by spot", "working unit first")


@dataclass(frozen=True)
class _Asked:
    """What a comparison is worked out from."""

    job_id: str
    circuit: str
    setting: Setting
    pairs: tuple[SisterPair, ...]
    opened: frozenset[str]


class SisterPage(StationPage):
    """Spots along the way, both figures at each. ``changed`` when another touch is asked for."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._board = Board()
        self._failure = ""
        self._order: Order = ORDERS[0]
        self._last: Unit = "working"
        self._circuit: tuple[str, Differing | None] = ("", None)
        self.shown: SisterShown | None = None
        self.answer = PageAnswer(self, KNOWN)
        self.workers = (self.answer,)
        self.answer.came.connect(self._came)
        self.pairs = PairsView(context.look)
        self.stands = ElidedLabel()
        self.next = SisterPanel(context.look, self._take)
        self.next.order_turned.connect(self.turn_view)
        self.panel = scrolled(self.next)
        self.area = scrolled(self.pairs)
        self.lay((self.stands,), self.area, (), is_scrolled=False)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._failure, self.shown = "", None
        self._order, self._last = ORDERS[0], "working"
        self.next.begin()
        self.pairs.show_rows(())

    def draw(self, job: Job) -> None:
        """Draw both units; what they say is worked out beside."""
        try:
            self._board, self._failure = board_of(job), ""
        except VioletDialError as error:
            self._board, self._failure = Board(), str(error)
        setting = job.tracing.setting
        asked = _Asked(job.job_id, circuit_text_of(job), setting, pairs_of(volts_of(job, self._board), setting), opened_of(job))
        board = within_reach(job, self._board)
        if board.spots:
            self.answer.ask(asked, lambda task: self._work(board, asked, task))
        else:
            self.answer.stop()
        self._draw()

    def _work(self, board: Board, asked: _Asked, task: Task) -> Worked:
        if self._circuit[0] != asked.circuit:
            self._circuit = (asked.circuit, differing_of(board))
        found = compare(board, asked.pairs, self._circuit[1], asked.setting, task)
        return found, opened_pairs(board, asked.pairs, self._circuit[1])

    @Slot()
    def _came(self) -> None:
        self._draw()
        self.changed.emit()

    def _draw(self) -> None:
        if self._job is None:
            return
        found = self.answer.result[0] if self.answer.result else None
        failure = self._failure or self.answer.failure
        one = sister_shown(self._job, self._board, found, self._order, self._last, failure)
        self.shown = one
        self.stands.setText(one.stands)
        self.pairs.show_rows(one.rows)
        self.next.draw(one, self._order)
        if self.hasFocus():
            self.focus_first()  # what is asked for may have come meanwhile
        at = self.pairs.asked_at()
        if at is not None:
            self.area.ensureVisible(0, at, 0, 60)

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        """What was compared, and the arithmetic of the likeliest faults."""
        if self.shown is None:
            return None
        differences = self.answer.result[1] if self.answer.result else ()
        return "Both units, and what would make the difference", opened_sister(self.shown, differences)

    # acts

    def _evidence(self, unit: Unit, spot: str, volts: float) -> Evidence:
        setting = self._job.tracing.setting if self._job is not None else Setting()
        note = THIRD if unit == "third" else ""
        return Evidence("volt", volts, node_of(spot), GROUND, setting=replace(setting), sister=unit != "sick", note=note)

    def _take(self, unit: Unit, spot: str, volts: float) -> bool:
        evidence = self._evidence(unit, spot, volts)
        return self._kept(unit, spot, self._context.perform(lambda job, at: take_evidence(job, evidence, at)))

    def _kept(self, unit: Unit, spot: str, kept: bool) -> bool:
        if kept:
            self._last = self._last if unit == "third" else unit
            self.next.read_at(spot)
            self._draw()
        return kept

    @Slot()
    def turn_view(self) -> None:
        """Spot by spot on both units in turn, or the working unit all along first."""
        self._order = ORDERS[1 - ORDERS.index(self._order)]
        self._draw()
        self.changed.emit()

    # keys

    def focus_first(self) -> None:
        """To the figure that is asked for; where none is, to the page itself: the keys stay with nothing that is elsewhere."""
        line = self.next.typed
        (line.edit if line.isVisibleTo(self.next) else self).setFocus(Qt.FocusReason.OtherFocusReason)

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
        return self._kept(ask.unit, ask.spot, self._context.perform(lambda job, at: take_evidence(job, evidence, at, capture)))


ROW, NAME, FIGURE = 30, 108, 66


MOST_ROWS = 60


class PairsView(QWidget):
    """Rows from the supply down; the spot that is asked for is framed. It is looked at, not worked with."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._rows: tuple[PairShown, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(440), self._look.px(ROW) * (len(self._rows) + 1))

    def show_rows(self, rows: tuple[PairShown, ...]) -> None:
        """Draw these."""
        self._rows = rows[:MOST_ROWS]
        self.setAccessibleName("; ".join(row.words for row in self._rows) or "No spots yet")
        self.updateGeometry()
        self.update()

    def asked_at(self) -> int | None:
        """How far down the row lies that is asked for."""
        place = next((n for n, row in enumerate(self._rows) if row.asked), None)
        return None if place is None else (place + 1) * self._look.px(ROW)

    def _scale(self) -> tuple[float, float]:
        figures = [value for row in self._rows for value in (row.working, row.sick) if value is not None]
        low, high = min([0.0, *figures]), max([0.1, *figures])
        room = 0.06 * (high - low)
        return low - room, high + room

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        look, tall = self._look, self._look.px(ROW)
        left = look.px(NAME)
        right = self.width() - look.px(FIGURE) * 3
        self._heads(painter, right, tall)
        for place, row in enumerate(self._rows, start=1):
            self._row(painter, row, QRectF(left, place * tall, right - left, tall))
            self._texts(painter, row, place * tall, right, tall)

    def _heads(self, painter: QPainter, right: float, tall: int) -> None:
        look = self._look
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        for place, words in enumerate(("working", "sick", "apart")):
            box = QRectF(right + place * look.px(FIGURE), 0, look.px(FIGURE) - look.px(6), tall)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.drawText(QRectF(0, 0, look.px(NAME), tall), Qt.AlignmentFlag.AlignVCenter, "spot")

    def _row(self, painter: QPainter, one: PairShown, box: QRectF) -> None:
        look, middle = self._look, box.center().y()
        low, high = self._scale()

        def at(volts: float) -> float:
            return box.left() + look.px(8) + (volts - low) / (high - low) * (box.width() - look.px(16))

        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawLine(QPointF(box.left() + look.px(8), middle), QPointF(box.right() - look.px(8), middle))
        if one.working is not None and one.sick is not None and one.is_apart:
            painter.setPen(QPen(look.colour("out"), 3))
            painter.drawLine(QPointF(at(one.working), middle), QPointF(at(one.sick), middle))
        size = look.px(6)
        if one.working is not None:  # a ring
            pens(painter, look, "ink", "card", 1.6)
            painter.drawEllipse(QPointF(at(one.working), middle), size, size)
        if one.sick is not None:  # an upright stroke
            painter.setPen(QPen(look.colour("out" if one.is_apart else "ink"), 3))
            painter.drawLine(QPointF(at(one.sick), middle - size * 1.4), QPointF(at(one.sick), middle + size * 1.4))

    def _texts(self, painter: QPainter, one: PairShown, top: float, right: float, tall: int) -> None:
        look = self._look
        if one.asked:
            pens(painter, look, "violet", "none", 1.6)
            painter.drawRoundedRect(QRectF(1, top + 2, self.width() - 2, tall - 4), 5, 5)
        painter.setFont(look.font(13, bool(one.asked)))
        painter.setPen(look.colour("ink"))
        name = painter.fontMetrics().elidedText(one.spot, Qt.TextElideMode.ElideRight, look.px(NAME) - look.px(10))
        painter.drawText(QRectF(look.px(8), top, look.px(NAME), tall), Qt.AlignmentFlag.AlignVCenter, name)
        apart = "" if one.apart is None else f"{one.apart:.1f}{' !' if one.is_apart else ''}"
        for place, words in enumerate((figure(one.working), figure(one.sick), apart)):
            box = QRectF(right + place * look.px(FIGURE), top, look.px(FIGURE) - look.px(6), tall)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)


UNITS: dict[Unit, str] = {"working": "Working unit", "sick": "Sick unit", "third": "Third unit"}


class SisterPanel(QWidget):
    """It stands below the Next card; Enter in the field takes the figure for the unit and spot that are asked for. ``third``
    before a figure takes it for another working unit."""

    order_turned = Signal()

    def __init__(self, look: Look, take: Callable[[Unit, str, float], bool]) -> None:
        super().__init__()
        self._take_volts = take
        self._asked: AskShown | None = None
        self._last = ""  # the spot read last: a third unit is read there
        frame, inside = card()
        self.order = QPushButton()
        self.order.setProperty("role", "link")
        self.order.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.order.setToolTip("Ctrl+R turns to the other order")
        self.order.clicked.connect(self.order_turned)
        head = QHBoxLayout()
        head.addWidget(labelled("Touch next", "head"))
        head.addStretch(1)
        head.addWidget(self.order)
        inside.addLayout(head)
        self.unit = labelled("", "head", True)
        self.spot = labelled("", "huge", True)
        self.why = labelled("", "small", True)
        self.typed = TypedLine("Volts against the chassis", None, self._understood, self._take)
        self.typed.edit.setPlaceholderText("shows: 2.61, 80 mV")
        self.words = labelled("", "", True)
        self.suspects = labelled("", "small", True)
        self.doubts = labelled("", "small", True)
        for item in (self.unit, self.spot, self.why, self.typed, self.words, self.suspects, self.doubts):
            inside.addWidget(item)
        inside.addStretch(1)
        fill(self, frame)

    @property
    def asked(self) -> AskShown | None:
        """The touch that is asked for."""
        return self._asked

    def begin(self) -> None:
        """Another job: nothing typed."""
        self._asked, self._last = None, ""
        self.typed.clear()

    def draw(self, shown: SisterShown, order: Order) -> None:
        """Draw all of the panel; another touch than before begins with an empty field."""
        ask = shown.ask
        if ask != self._asked:
            self.typed.clear()
        self._asked = ask
        self.order.setText(order)
        self.order.setAccessibleName(f"Order: {order}; turn to the other")
        for label in (self.unit, self.spot):
            label.setVisible(ask is not None)
        self.unit.setText(UNITS[ask.unit] if ask is not None else "")
        self.spot.setText(ask.spot if ask is not None else "")
        self.spot.setAccessibleName(f"{UNITS[ask.unit]}, touch {ask.spot} and the chassis" if ask is not None else "")
        nothing_left = "" if shown.nothing or not shown.words else "No comparison would settle more."
        self.why.setText(ask.why if ask is not None else nothing_left)
        self.typed.setVisible(ask is not None or bool(self._last))
        self.typed.edit.setPlaceholderText("shows: 2.61, 80 mV" if ask is not None else "of a third unit: third 2.61")
        self.words.setText(shown.words or shown.nothing)
        self.suspects.setText("\n".join(f"{chance:.0%}  {name}" for name, chance in shown.suspects))
        self.suspects.setVisible(bool(shown.suspects))
        self.doubts.setText("\n".join(f"Mind: {doubt}." for doubt in shown.doubts))
        self.doubts.setVisible(bool(shown.doubts))

    def _read(self, text: str) -> tuple[Unit, float]:
        third = text.strip().lower().startswith("third ")
        value = parse_with_unit(text.strip()[6:] if third else text, ("V",), "Volts", "V").value
        unit: Unit = "third" if third else self._asked.unit if self._asked is not None else "sick"
        return unit, value

    def _understood(self, text: str) -> str:
        unit, value = self._read(text)
        where = self._third_spot() if unit == "third" else self._spot()
        return f"= {UNITS[unit].lower()}, {where}: {format_engineering(value)}V"

    def _third_spot(self) -> str:
        return self._last or self._spot()

    def _take(self, text: str) -> bool:
        unit, value = self._read(text)
        if unit != "third" and self._asked is None:
            raise InvalidInput("Volts", text, "a spot that is asked for; of a third unit: third 2.61")
        return self._take_volts(unit, self._third_spot() if unit == "third" else self._spot(), value)

    def read_at(self, spot: str) -> None:
        """A spot was read: a third unit is read there."""
        self._last = spot

    def _spot(self) -> str:
        return self._asked.spot if self._asked is not None else ""
