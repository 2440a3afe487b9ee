"""The page Traces: captures of an oscilloscope, one below the other, with one line to type."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal, Slot
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from violet_dial.core.records.circuit import Evidence
from violet_dial.core.signals.pyramid import Pyramid
from violet_dial.instruments.kept import Kept
from violet_dial.job.document import Job
from violet_dial.job.exposing import TraceTaken
from violet_dial.kit.cards import labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import PaintedView, antialiased, draw_mark
from violet_dial.kit.runner import Runner
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import line
from violet_dial.services.station import FileIn
from violet_dial.stations.expose import traces_acts as acts
from violet_dial.stations.expose.sum import traces_opened
from violet_dial.stations.expose.traces_state import EARTH, TraceRow, TracesShown, traces_shown

LANE, HEAD, FOOT, PAD, LEAST_WIDE = 86, 20, 22, 8, 320
ZOOM, STEP, CLOSEST = 1.6, 0.2, 2e-5  # of the whole: nothing is drawn nearer than that
KEYS = (
    "Ctrl+I takes a capture; vreg to gnd and F8 take the trace of an oscilloscope (scope ADDRESS says which). 1 is vreg to "
    "gnd names it as Trace knows the points; 1 to trace gives it to Trace as evidence; 1 sister marks it as a working unit's; "
    "drop 1 leaves it out. On the traces (F5): + and − zoom, arrows move, 0 shows all."
)
LEAST_SWING = 0.3  # of the level: what a lane spans at least


class TracesView(PaintedView):
    """Up and Down go from trace to trace, + and − zoom, Left and Right move, 0 shows all."""

    chosen = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.rows: tuple[TraceRow, ...] = ()
        self.pyramids: dict[int, Pyramid] = {}
        self.place = 0
        self.first, self.last = 0.0, 1.0  # of the whole stretch, what is shown

    def minimumSizeHint(self) -> QSize:
        look = self._look
        return QSize(look.px(LEAST_WIDE), look.px(LANE) * max(len(self.rows), 1) + look.px(FOOT))

    def begin(self) -> None:
        """Another job: nothing shown, all of it."""
        self.rows, self.pyramids, self.place, self.first, self.last = (), {}, 0, 0.0, 1.0
        self._say()
        self.update()

    def show_rows(self, rows: tuple[TraceRow, ...]) -> None:
        """Draw these; the cursor goes to a new one."""
        grown = len(rows) - len(self.rows)
        self.rows = rows
        self.place = max(len(rows) - 1, 0) if grown > 0 else min(self.place, max(len(rows) - 1, 0))
        if grown:
            self.updateGeometry()
        self._say()
        self.update()

    def _say(self) -> None:
        one = self.rows[self.place] if self.rows else None
        self.say(f"Traces. {one.name}: {one.words}" if one else "No traces yet")

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        middle, wide = (self.first + self.last) / 2, self.last - self.first
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            self.select(self.place + (1 if key == Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._stretch(middle, wide / ZOOM)
        elif key == Qt.Key.Key_Minus:
            self._stretch(middle, wide * ZOOM)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._stretch(middle + (STEP if key == Qt.Key.Key_Right else -STEP) * wide, wide)
        elif key == Qt.Key.Key_0:
            self._stretch(0.5, 1.0)
        else:
            super().keyPressEvent(event)

    def _stretch(self, middle: float, wide: float) -> None:
        """Show so much about a place, all of it inside."""
        wide = min(max(wide, CLOSEST), 1.0)
        self.first = min(max(middle - wide / 2, 0.0), 1.0 - wide)
        self.last = self.first + wide
        self.update()

    def select(self, place: int) -> None:
        """The cursor to a trace."""
        place = min(max(place, 0), len(self.rows) - 1)
        if place != self.place:
            self.place = place
            self._say()
            self.chosen.emit(place)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for place in range(len(self.rows)):
            if self.lane_box(place).contains(QPointF(1, event.position().y())):
                self.select(place)

    # drawing

    def lane_box(self, place: int) -> QRectF:
        """Where a trace lies."""
        look = self._look
        tall = (self.height() - look.px(FOOT)) / max(len(self.rows), 1)
        tall = min(tall, look.px(LANE * 2.4))
        return QRectF(0, place * tall, self.width(), tall)

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.rows:
            return
        painter = antialiased(self)
        for place, row in enumerate(self.rows):
            self._lane(painter, place, row)
        look = self._look
        whole = max(row.span_s for row in self.rows)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        foot = QRectF(0, self.lane_box(len(self.rows) - 1).bottom(), self.width(), look.px(FOOT))
        sides = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        for side, share in zip(sides, (self.first, self.last), strict=True):
            painter.drawText(foot, side | Qt.AlignmentFlag.AlignVCenter, f"{share * whole:.4g} s")
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "+ − zoom   ← → move   0 all")

    def _lane(self, painter: QPainter, place: int, one: TraceRow) -> None:
        look, box = self._look, self.lane_box(place)
        if place == self.place:
            painter.setPen(QPen(look.colour("violet"), 2 if self.hasFocus() else 1))
            painter.setBrush(look.colour("soft") if self.hasFocus() else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)
        draw_mark(painter, look, QPointF(look.px(PAD + 6), box.top() + look.px(HEAD / 2 + 2)), one.mark, look.px(5))
        painter.setFont(look.font(13, place == self.place))
        painter.setPen(look.colour("ink"))
        head = QRectF(look.px(PAD + 18), box.top() + 2, box.width() - look.px(2 * PAD + 18), look.px(HEAD))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, one.name)
        self._line(painter, place, one, box.adjusted(look.px(PAD), look.px(HEAD) + 4, -look.px(PAD), -look.px(6)))

    def _line(self, painter: QPainter, place: int, one: TraceRow, box: QRectF) -> None:
        look = self._look
        low, high, span = self._figures(place, one, int(box.width()))
        if not len(low):
            return
        middle = (span[0] + span[1]) / 2  # a still line is drawn still
        swing = max(span[1] - span[0], LEAST_SWING * max(abs(span[0]), abs(span[1])), 1e-12)

        def y(value: float) -> float:
            return box.center().y() - (value - middle) / swing * box.height()

        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        said = f"{span[0]:.3g} to {span[1]:.3g}".replace("-", "−")
        above = QRectF(box.left(), box.top() - look.px(HEAD) - 2, box.width(), look.px(HEAD))
        painter.drawText(above, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)
        if span[0] < 0 < span[1]:
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(QPointF(box.left(), y(0.0)), QPointF(box.right(), y(0.0)))
        self._behind(painter, one, box, y)
        painter.setPen(QPen(look.colour("ink"), 1.3))
        x = box.left() + np.linspace(0.0, 1.0, len(low)) * box.width()
        points = [QPointF(at, y(value)) for at, a, b in zip(x, low, high, strict=True) for value in ((a,) if a == b else (a, b))]
        painter.drawPolyline(QPolygonF(points))

    def _behind(self, painter: QPainter, one: TraceRow, box: QRectF, y: Callable[[float], float]) -> None:
        """The sister's line, and the difference to it filled."""
        if not one.sister:
            return
        count = len(one.sister)
        first, last = int(self.first * count), int(np.ceil(self.last * count))
        own = np.array(one.points)[: 2 * count].reshape(-1, 2).mean(axis=1) if len(one.points) >= 2 * count else None
        shown = [place for place in range(first, last) if np.isfinite(one.sister[place])]
        places = [box.left() + (place - first + 0.5) / max(last - first, 1) * box.width() for place in shown]
        line = [QPointF(x, y(one.sister[place])) for x, place in zip(places, shown, strict=True)]
        if own is not None:
            back = [QPointF(x, y(float(own[place]))) for x, place in zip(reversed(places), reversed(shown), strict=True)]
            fill = self._look.colour("out")
            fill.setAlphaF(0.16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawPolygon(QPolygonF([*line, *back]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.colour("violet"), 1.6, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF(line))

    def _figures(self, place: int, one: TraceRow, columns: int) -> tuple[np.ndarray, np.ndarray, tuple[float, float]]:
        """Least and most for each column of what is shown, and those of all."""
        if place in self.pyramids:
            pyramid = self.pyramids[place]
            low, high = pyramid.shown(int(self.first * pyramid.count), int(np.ceil(self.last * pyramid.count)), max(columns, 2))
            return low, high, pyramid.span
        points = np.array(one.points)
        span = (float(points.min()), float(points.max())) if len(points) else (0.0, 0.0)
        part = points[int(self.first * len(points)) : int(np.ceil(self.last * len(points))) + 1]
        return part, part, span


class TracesPage(StationPage):
    """Shows one frozen value; ``shown`` is the last."""

    says_beside = True
    opens = staticmethod(traces_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._scope: Kept | None = None
        self.runner = Runner(self)
        self.workers = (self.runner,)
        self.runner.succeeded.connect(self._fetched)
        self.runner.failed.connect(context.say)
        self.shown = TracesShown("", "", (), ())
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.view, self.captures = TracesView(context.look), acts.Captures()
        self.typed = line("A trace named, or given to Trace", self._understood, self._take)
        self.typed.edit.setPlaceholderText("1 is vreg to gnd")
        self.lay((self.headline, self.reason), scrolled(self.view), (self.typed,), is_scrolled=False)
        self.view.chosen.connect(self._choose)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.view.begin()
        self.captures.clear()

    def draw(self, job: Job) -> None:
        self.shown = traces_shown(job)
        found = {place: self.captures.pyramid(trace) for place, trace in enumerate(job.exposing.traces)}
        self.view.pyramids = {place: one for place, one in found.items() if one is not None}
        self.view.show_rows(self.shown.rows)
        self._choose()

    def _choose(self) -> None:
        rows = self.shown.rows
        if rows:
            one = rows[self.view.place]
            self.headline.setText(one.name)
            self.reason.setText(one.words)
        else:
            self.headline.setText(self.shown.headline)
            self.reason.setText(self.shown.reason)

    def _understood(self, text: str) -> str:
        job = self._known()
        if text.lower().startswith("scope "):
            return f"= an oscilloscope at {acts.scope_of(text[6:]).address}: F8 takes its trace"
        if acts.points_of(job, text) is not None:
            return f"= {text.strip()}: F8 takes the trace there"
        return acts.understand(job, text).words

    def _take(self, text: str) -> bool:
        if text.lower().startswith("scope "):
            self._scope = acts.scope_of(text[6:])
            return True
        if self._job is not None and acts.points_of(self._job, text) is not None:
            self.fetch()
            return False
        return self._context.perform(lambda job, at: acts.understand(job, text).act(job, at))

    # the oscilloscope

    @property
    def asks(self) -> Evidence | None:
        """The points that are typed, for simulated hands."""
        return None if self._job is None else acts.points_of(self._job, self.typed.edit.text())

    def fetch(self) -> None:
        """The trace of the oscilloscope at hand, named as the points that are typed."""
        kept = self._scope or self._context.instruments.scope()
        if kept is None:
            self._context.say(
                "No oscilloscope: type scope and its address, start the simulated bench (F12), or take a file (Ctrl+I)."
            )
            return
        name = self.typed.edit.text().strip() if self.asks is not None else "channel 1"
        self.runner.start(lambda task: acts.fetched(kept, name))

    @Slot(object)
    def _fetched(self, taken: TraceTaken) -> None:
        if self._context.perform(acts.taking((taken,))):
            self._context.instruments.hear(True)
            self.typed.clear()

    # in the house

    @property
    def beside(self) -> SideSaid:
        title = "SideSaid each other" if self.shown.beside else "A sister's trace of the same name is laid beside"
        return SideSaid(title, self.shown.beside, "", EARTH, KEYS)

    @property
    def file_in(self) -> FileIn | None:
        return self.captures.file_in

    @property
    def typed_ready(self) -> bool:
        return self.isVisible()

    def take_typed(self) -> None:
        self.fetch()

    @property
    def slot_missing(self) -> str:
        return "F8 takes the trace of the oscilloscope"

    def to_picture(self) -> None:
        self.view.setFocus()
