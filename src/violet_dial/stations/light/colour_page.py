"""The page Colour: what the colour of the light does to the reading, the curves, the best at hand, one line to type."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen

from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import PaintedView, antialiased
from violet_dial.kit.rows import Rows
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import FileIn
from violet_dial.stations.light import colour_acts
from violet_dial.stations.light.colour_state import Curve, Curves, colour_opened, colour_shown

LEFT, FOOT, AREAS, GAP = 16, 24, 150, 8


MARKED_NM = (400, 500, 600, 700, 800, 900, 1000)
HEADS = ("lamp", "filter", "reads", "takes")


class ColourPage(StationPage):
    """Shows one frozen value."""

    opens = staticmethod(colour_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.stands = labelled("", "small", True)
        self.view = ColourView(context.look)
        self.rows = Rows(context.look, "The best at hand")
        self.typed = self._line("Lamp, cell, filters", colour_acts.understand)
        self.typed.edit.setPlaceholderText("lamp A")
        below = (self.rows, labelled(colour_acts.EXPECTED, "small", True), self.typed)
        self.lay((self.headline, self.reason, self.stands), self.view, below)

    def draw(self, job: Job) -> None:
        """Draw all of it."""
        shown = colour_shown(job)
        self.headline.setText(shown.headline)
        self.reason.setText(shown.reason)
        self.stands.setText(shown.stands)
        self.view.show_curves(shown.curves)
        self.view.setVisible(shown.curves is not None)
        self.rows.show_rows(shown.choices, HEADS if shown.choices else ())

    @property
    def file_in(self) -> FileIn | None:
        return colour_acts.FILE_IN


class ColourView(PaintedView):
    """Drawn from one frozen value: lights and cell above, what the cell sees below, areas at the right."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self._curves: Curves | None = None

    def least(self) -> tuple[float, float]:
        return 360, 190

    def show_curves(self, curves: Curves | None) -> None:
        """Draw these."""
        self._curves = curves
        said = "nothing" if curves is None else f"{curves.names[2]} sees {curves.area:.2f} times as much of {curves.names[0]}"
        self.say(f"Lamp and cell over wavelength: {said}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._curves is None:
            return
        painter = antialiased(self)
        look, curves = self._look, self._curves
        wide = self.width() - look.px(LEFT + AREAS)
        tall = (self.height() - look.px(FOOT + GAP)) / 2
        above = QRectF(look.px(LEFT), 0, wide, tall)
        below = QRectF(look.px(LEFT), tall + look.px(GAP), wide, tall)
        self._scale(painter, above, below, curves)
        self._line(painter, above, curves.nm, curves.meant_for, look.colour("within"), dashed=True)
        self._line(painter, above, curves.nm, curves.lamp, look.colour("watch"))
        self._line(painter, above, curves.nm, curves.cell, look.colour("ink"))
        self._names(painter, above, curves)
        self._area(painter, below, curves.nm, curves.sees_meant, look.colour("within"))
        self._area(painter, below, curves.nm, curves.sees_lamp, look.colour("watch"))
        painter.setPen(look.colour("quiet"))
        painter.setFont(look.font(12))
        said = below.adjusted(0, 0, -look.px(6), 0)
        painter.drawText(said, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight, "what the cell sees, for as many lux")
        self._bars(painter, QRectF(self.width() - look.px(AREAS), 0, look.px(AREAS), self.height()), curves)

    def _x(self, box: QRectF, curves: Curves, nm: float) -> float:
        first, last = curves.nm[0], curves.nm[-1]
        return box.left() + (nm - first) / (last - first) * box.width()

    def _scale(self, painter: QPainter, above: QRectF, below: QRectF, curves: Curves) -> None:
        look = self._look
        painter.setFont(look.font(12))
        for nm in MARKED_NM:
            x = self._x(below, curves, nm)
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(QPointF(x, above.top()), QPointF(x, below.bottom()))
            painter.setPen(look.colour("quiet"))
            label = QRectF(x - look.px(40), below.bottom() + 2, look.px(80), look.px(FOOT - 4))
            painter.drawText(label, Qt.AlignmentFlag.AlignHCenter, f"{nm} nm" if nm == MARKED_NM[-1] else f"{nm}")
        painter.setPen(QPen(look.colour("ink"), 1))
        for box in (above, below):
            painter.drawLine(box.bottomLeft(), box.bottomRight())

    def _path(self, box: QRectF, nm: Curve, values: Curve) -> QPainterPath:
        path = QPainterPath()
        first, last = nm[0], nm[-1]
        for place, (at, value) in enumerate(zip(nm, values, strict=True)):
            x = box.left() + (at - first) / (last - first) * box.width()
            y = box.bottom() - value * (box.height() - self._look.px(6))
            path.lineTo(x, y) if place else path.moveTo(x, y)
        return path

    def _line(self, painter: QPainter, box: QRectF, nm: Curve, values: Curve, colour: QColor, dashed: bool = False) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, self._look.px(2), Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
        painter.drawPath(self._path(box, nm, values))

    def _area(self, painter: QPainter, box: QRectF, nm: Curve, values: Curve, colour: QColor) -> None:
        path = self._path(box, nm, values)
        path.lineTo(box.right(), box.bottom())
        path.lineTo(box.left(), box.bottom())
        filled = QColor(colour)
        filled.setAlphaF(0.28)
        painter.setPen(QPen(colour, 1.4))
        painter.setBrush(filled)
        painter.drawPath(path)

    def _names(self, painter: QPainter, box: QRectF, curves: Curves) -> None:
        """What is what, at the top left."""
        look = self._look
        painter.setFont(look.font(13))
        rows = ((curves.names[0], "watch"), (f"{curves.names[1]}, dashed", "within"), (f"cell: {curves.names[2]}", "ink"))
        for row, (name, role) in enumerate(rows):
            painter.setPen(look.colour(role))
            line = QRectF(box.left() + look.px(6), look.px(2 + 17 * row), look.px(200), look.px(17))
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, name)

    def _bars(self, painter: QPainter, box: QRectF, curves: Curves) -> None:
        """Both areas as bars: what the cell sees of either light."""
        look = self._look
        floor, high = box.bottom() - look.px(FOOT), max(curves.area, 1.0)
        wide = look.px(38)
        for place, (size, role, name) in enumerate(((1.0, "within", curves.names[1]), (curves.area, "watch", curves.names[0]))):
            x = box.left() + look.px(26 + 62 * place)
            tall = size / high * (box.height() - look.px(FOOT + 40))
            painter.fillRect(QRectF(x, floor - tall, wide, tall), look.colour(role))
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(14, True))
            over = QRectF(x - look.px(14), floor - tall - look.px(20), wide + look.px(28), look.px(18))
            painter.drawText(over, Qt.AlignmentFlag.AlignCenter, f"{size:.2f}")
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            under = QRectF(x - look.px(14), floor + 2, wide + look.px(28), look.px(FOOT - 4))
            said = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(under.width()))
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, said)
