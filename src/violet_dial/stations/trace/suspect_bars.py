"""Suspects as bars, likeliest first; the chosen one opens to what speaks for and against it."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.stations.trace.state import Bar

MOST_BARS = 5
ROW = 27


class SuspectBars(QWidget):
    """Up and Down choose; R says the chosen one was put right (``put_right`` carries its place)."""

    chosen = Signal(int)
    put_right = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._bars: tuple[Bar, ...] = ()
        self.place = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)
        self._say()

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(260), self._look.px(ROW) * max(len(self._bars), 1))

    def show_bars(self, bars: tuple[Bar, ...]) -> None:
        self._bars = bars[:MOST_BARS]
        self.place = 0
        self._say()
        self.updateGeometry()
        self.update()

    def _say(self) -> None:
        if not self._bars:
            self.setAccessibleName("No suspects yet")
        else:
            one = self._bars[self.place]
            self.setAccessibleName(f"Suspect {self.place + 1} of {len(self._bars)}: {one.words}, {one.probability:.0%}")

    def _choose(self, place: int) -> None:
        if 0 <= place < len(self._bars):
            self.place = place
            self._say()
            self.chosen.emit(place)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Down:
            self._choose(self.place + 1)
        elif event.key() == Qt.Key.Key_Up:
            self._choose(self.place - 1)
        elif event.text().upper() == "R" and self._bars:
            self.put_right.emit(self.place)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose(int(event.position().y() // self._look.px(ROW)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, tall = self._look, self._look.px(ROW)
        for place, one in enumerate(self._bars):
            box = QRectF(0, place * tall + 2, self.width(), tall - 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("ground"))
            painter.drawRoundedRect(box, 5, 5)
            painter.setBrush(look.colour("band"))
            painter.drawRoundedRect(QRectF(0, box.y(), max(box.width() * one.probability, 4), box.height()), 5, 5)
            if place == self.place:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(look.colour("violet"), 2 if self.hasFocus() else 1.2))
                painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
            painter.setFont(look.font(13, place == 0))
            painter.setPen(look.colour("ink"))
            figure = f"{one.probability:.0%}" if one.probability >= 0.005 else "<1%"
            room = painter.fontMetrics().horizontalAdvance("100%") + look.px(10)
            inner = box.adjusted(look.px(8), 0, -room, 0)
            text = painter.fontMetrics().elidedText(one.words, Qt.TextElideMode.ElideRight, int(inner.width()))
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, text)
            painter.drawText(
                box.adjusted(0, 0, -look.px(8), 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, figure
            )
