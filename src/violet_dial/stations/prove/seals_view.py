"""The back of the camera, open, seen from behind: every way in as heavy as it is suspected, fog where it lay."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from violet_dial.core.proof.said import percent
from violet_dial.core.proof.seams import OPPOSITE
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import PaintedView, antialiased, pens
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import FileIn
from violet_dial.stations.prove.seals_acts import FILE_IN, understand
from violet_dial.stations.prove.seals_state import FrameShown, SealsShown, seals_shown
from violet_dial.stations.prove.sum import seals_opened

TALL, WIDE, STRIP = 210, 420, 66
KEYS = "roll 24 · 3 edge top perforations · 4 clean · 5 open hinge streak left · hinge left. Ctrl+I takes the scan of a frame."
LEAST_SAID = 0.02
MOST_STRIP = 12  # frames under the picture, the newest


class SealsView(PaintedView):
    """Drawn from one frozen value; nothing in it takes keys."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.shown: SealsShown | None = None

    def least(self) -> tuple[float, float]:
        return WIDE, TALL + STRIP

    def show_seals(self, shown: SealsShown) -> None:
        """Draw these."""
        self.shown = shown
        ways = ", ".join(f"{cause} {percent(chance)}" for cause, chance in shown.chances if chance >= LEAST_SAID)
        frames = "; ".join(frame.words for frame in shown.frames)
        self.say(f"The open back, seen from behind. Ways in: {ways or 'none told'}. {frames}")
        self.update()

    # drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.shown is None:
            return
        painter = antialiased(self)
        look = self._look
        strip = look.px(STRIP) if self.shown.frames else 0
        area = QRectF(0, 0, self.width(), self.height() - strip).adjusted(look.px(60), look.px(26), -look.px(60), -look.px(26))
        wide = min(area.width(), area.height() * 2.3)
        body = QRectF(area.center().x() - wide / 2, area.top(), wide, area.height())
        self._body(painter, body)
        if strip:
            self._strip(painter, QRectF(0, self.height() - strip, self.width(), strip))

    def _body(self, painter: QPainter, body: QRectF) -> None:
        look, shown = self._look, self.shown
        if shown is None:
            return
        pens(painter, look, "line", "ground", 2)
        painter.drawRoundedRect(body, look.px(14), look.px(14))
        inner = body.adjusted(look.px(16), look.px(16), -look.px(16), -look.px(16))
        gate = QRectF(0, 0, inner.width() * 0.42, inner.height() * 0.72)
        gate.moveCenter(inner.center())
        room = QRectF(inner.left() + look.px(8), gate.top(), (gate.left() - inner.left()) * 0.72, gate.height())
        spool = QRectF(inner.right() - look.px(8) - room.width(), gate.top(), room.width(), gate.height())
        painter.setBrush(look.colour("card"))
        for box, words in ((room, "cassette"), (spool, "take-up")):
            painter.setPen(QPen(look.colour("line"), 1.2))
            painter.drawRoundedRect(box, look.px(8), look.px(8))
            painter.setPen(look.colour("quiet"))
            painter.setFont(look.font(12))
            low = box.adjusted(0, box.height() * 0.6, 0, 0)
            painter.drawText(low, Qt.AlignmentFlag.AlignCenter, words)
        self._gate(painter, gate)
        self._ways(painter, inner, gate, room)

    def _gate(self, painter: QPainter, gate: QRectF) -> None:
        """The film in its gate, with the fog of every frame laid over each other."""
        look, shown = self._look, self.shown
        pens(painter, look, "ink", "card", 1.4)
        painter.drawRect(gate)
        fogged = [frame for frame in shown.frames if frame.shape] if shown is not None else []
        painter.save()
        painter.setClipRect(gate)
        for one in fogged:
            colour = look.colour("watch")
            colour.setAlphaF(min(0.5, 1.2 / len(fogged)))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawRoundedRect(_fog(gate, one), look.px(6), look.px(6))
        painter.restore()

    def _ways(self, painter: QPainter, inner: QRectF, gate: QRectF, room: QRectF) -> None:
        shown = self.shown
        if shown is None:
            return
        chances = dict(shown.chances)
        hinge, latch = shown.hinge, OPPOSITE[shown.hinge]
        lines = {
            "top channel": QLineF(inner.topLeft(), inner.topRight()),
            "bottom channel": QLineF(inner.bottomLeft(), inner.bottomRight()),
            "hinge": _edge(inner, hinge), "latch": _edge(inner, latch),
        }  # fmt: skip
        for cause, line in lines.items():
            self._pen(painter, chances.get(cause, 0.0))
            painter.drawLine(line)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        window = room.adjusted(room.width() * 0.22, room.height() * 0.2, -room.width() * 0.22, -room.height() * 0.62)
        self._pen(painter, chances.get("film window", 0.0))
        painter.drawRect(window)
        self._pen(painter, chances.get("lens mount", 0.0))
        painter.drawEllipse(gate.center(), gate.height() * 0.36, gate.height() * 0.36)
        self._pen(painter, chances.get("curtain or blades", 0.0))
        across = QLineF(gate.center().x(), gate.top(), gate.center().x(), gate.bottom())
        painter.drawLine(across)
        self._names(painter, inner, gate, window, chances)

    def _pen(self, painter: QPainter, chance: float) -> None:
        look = self._look
        colour = look.colour("out" if chance >= 0.3 else "watch" if chance >= 0.05 else "quiet")
        style = Qt.PenStyle.SolidLine if chance >= LEAST_SAID else Qt.PenStyle.DotLine
        painter.setPen(QPen(colour, look.px(1.5 + 9 * chance), style, Qt.PenCapStyle.RoundCap))

    def _names(self, painter: QPainter, inner: QRectF, gate: QRectF, window: QRectF, chances: dict[str, float]) -> None:
        look, shown = self._look, self.shown
        if shown is None:
            return
        tall, out = look.px(20), look.px(30)
        sides = {"hinge": shown.hinge, "latch": OPPOSITE[shown.hinge]}
        places = {
            "top channel": QRectF(inner.left(), inner.top() - look.px(40), inner.width(), tall),
            "bottom channel": QRectF(inner.left(), inner.bottom() + look.px(20), inner.width(), tall),
            "film window": QRectF(window.center().x() - look.px(60), window.bottom() + look.px(4), look.px(120), tall),
            "lens mount": QRectF(gate.left() - out, gate.top() - tall - look.px(2), gate.width() + 2 * out, tall),
            "curtain or blades": QRectF(gate.left() - out, gate.bottom() + look.px(2), gate.width() + 2 * out, tall),
        }
        for cause, box in places.items():
            self._name(painter, box, cause, chances.get(cause, 0.0))
        for cause, side in sides.items():
            painter.save()
            x = inner.right() + out if side == "right" else inner.left() - out
            painter.translate(x, inner.center().y())
            painter.rotate(90 if side == "right" else -90)
            self._name(painter, QRectF(-inner.height() / 2, -tall / 2, inner.height(), tall), cause, chances.get(cause, 0.0))
            painter.restore()

    def _name(self, painter: QPainter, box: QRectF, cause: str, chance: float) -> None:
        look = self._look
        told = chance >= LEAST_SAID
        painter.setFont(look.font(14 if told else 12, chance >= 0.3))
        painter.setPen(look.colour("ink" if told else "quiet"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{cause} {percent(chance)}" if told else cause)

    def _strip(self, painter: QPainter, box: QRectF) -> None:
        """The frames as they lay on the gate, with what was open."""
        look, shown = self._look, self.shown
        frames = shown.frames[-MOST_STRIP:] if shown is not None else ()
        wide = min(box.width() / max(len(frames), 1), look.px(64))
        painter.setFont(look.font(11))
        for place, one in enumerate(frames):
            left = box.left() + place * wide
            frame = QRectF(left + look.px(6), box.top() + look.px(2), wide - look.px(12), look.px(30))
            pens(painter, look, "ink", "card", 1)
            painter.drawRect(frame)
            if one.shape:
                pens(painter, look, "none", "watch")
                painter.save()
                painter.setClipRect(frame)
                painter.drawRect(_fog(frame, one))
                painter.restore()
            painter.setPen(look.colour("quiet"))
            for row, text in enumerate((f"{one.number}", {"all": "bare", "none": "taped"}.get(one.open, one.open))):
                words = QRectF(left, frame.bottom() + look.px(1 + 14 * row), wide, look.px(15))
                said = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide - 2))
                painter.drawText(words, Qt.AlignmentFlag.AlignCenter, said)


def _edge(box: QRectF, side: str) -> QLineF:
    x = box.right() if side == "right" else box.left()
    return QLineF(QPointF(x, box.top()), QPointF(x, box.bottom()))


def _fog(box: QRectF, one: FrameShown) -> QRectF:
    """Where a fog lies in a frame's box."""
    if one.shape == "all over":
        return box
    words = one.side.split()
    wide = box.width() * (1.0 if "left" not in words and "right" not in words and one.shape != "spot" else 0.28)
    tall = box.height() * (1.0 if "top" not in words and "bottom" not in words and one.shape != "spot" else 0.3)
    if one.side == "middle" and one.shape in ("patch", "streak", "spot"):
        wide, tall = (
            box.width() * (0.12 if one.shape != "patch" else 0.4),
            box.height() * (1.0 if one.shape == "streak" else 0.3),
        )
    x = box.left() if "left" in words else box.right() - wide if "right" in words else box.center().x() - wide / 2
    y = box.top() if "top" in words else box.bottom() - tall if "bottom" in words else box.center().y() - tall / 2
    return QRectF(x, y, wide, tall)


class SealsPage(StationPage):
    """The open back, what speaks for each way in, the line."""

    says_beside = True
    opens = staticmethod(seals_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.view, self.typed = SealsView(context.look), self._line("A frame of the seal roll", understand)
        self.typed.edit.setPlaceholderText("3 edge top perforations")
        self.lay((self.headline, self.reason), self.view, (self.typed,))

    def draw(self, job: Job) -> None:
        one = seals_shown(job)
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.view.show_seals(one)

    @property
    def beside(self) -> SideSaid:
        one = seals_shown(self._known())
        if not one.suspects:
            rows = tuple((where, f"{material}, {thick}: {mind}") for where, material, thick, mind in one.seals)
            return SideSaid("Seals, where they go and how thick", rows, "", one.under, KEYS)
        first = one.chances[0][0]
        seal = (f"Seal it with {material}, {thick}: {mind}." for where, material, thick, mind in one.seals if where == first)
        return SideSaid("Where it gets in", one.suspects, next(seal, ""), one.under, KEYS)

    @property
    def file_in(self) -> FileIn | None:
        return FILE_IN
