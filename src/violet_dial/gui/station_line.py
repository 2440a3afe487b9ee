"""The line of stations with their state."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import StationState


class StationLine(QWidget):
    """Dots on a line: filled done, half begun, hollow open; the one shown has a ring. Click or Alt+number goes there."""

    chosen = Signal(str)

    def __init__(self, look: Look, names: tuple[str, ...]) -> None:
        super().__init__()
        self._look, self._names = look, names
        self._states: dict[str, StationState] = dict.fromkeys(names, "open")
        self._shown = names[0]
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def show_states(self, states: dict[str, StationState], shown: str) -> None:
        if (states, shown) == (self._states, self._shown) and self.accessibleName():
            return
        self._states, self._shown = states, shown
        said = ", ".join(f"{name} {state}" for name, state in states.items())
        self.setAccessibleName(f"Stations: {said}. Showing {shown}.")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, self._look.px(52))

    def _at(self, index: int) -> QPointF:
        inset = self._look.px(44)
        width = self.width() - 2 * inset
        return QPointF(inset + width * index / max(len(self._names) - 1, 1), self._look.px(15))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        look, radius = self._look, self._look.px(8)
        for index in range(len(self._names) - 1):
            done = self._states[self._names[index]] == "done"
            painter.setPen(QPen(look.colour("violet" if done else "line"), 3))
            painter.drawLine(self._at(index), self._at(index + 1))
        for index, name in enumerate(self._names):
            at, state, shown = self._at(index), self._states[name], name == self._shown
            box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
            if shown:
                pens(painter, look, "violet", "ground", 2)
                painter.drawEllipse(box.adjusted(-5, -5, 5, 5))
            pens(painter, look, "violet" if state != "open" or shown else "quiet", "violet" if state == "done" else "card", 2)
            painter.drawEllipse(box)
            if state == "begun":
                painter.setBrush(look.colour("violet"))
                painter.drawPie(box, 90 * 16, 180 * 16)
            painter.setFont(look.font(13, shown))
            painter.setPen(look.colour("violet" if shown else "ink" if state != "open" else "quiet"))
            width = look.px(140)
            text = QRectF(at.x() - width / 2, at.y() + radius + look.px(6), width, look.px(22))
            painter.drawText(text, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        nearest = min(range(len(self._names)), key=lambda index: abs(self._at(index).x() - event.position().x()))
        if abs(self._at(nearest).x() - event.position().x()) < self._look.px(60):
            self.chosen.emit(self._names[nearest])
