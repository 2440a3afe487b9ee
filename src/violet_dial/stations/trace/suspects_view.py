"""The circuit with the room, the suspects beside it where the screen is wide and below where it is not, the evidence."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal, Slot
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.trace.circuit_view import CircuitView
from violet_dial.stations.trace.state import SuspectBar

HEADS = ("", "evidence", "with")
WIDE = 980  # pixels at 100 %, from which the suspects stand beside the circuit
SHARES = (21, 10)  # of the width, for the circuit and the suspects beside it
LEAST_MAP, LEAST_BELOW = 250, 200  # pixels at 100 % of height; where there is less room the page scrolls


class SuspectsView(QWidget):
    """What is drawn; what it does is the page's."""

    def __init__(self, look: Look, typed: TypedLine) -> None:
        super().__init__()
        self._look = look
        self._is_wide: bool | None = None
        self.map = CircuitView(look)
        self.bars = SuspectBars(look)
        self.why = labelled("", "", True)
        self.stands = labelled("", "quiet", True)
        self.summary = labelled("", "small", True)
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "Evidence; Del strikes out", 1)
        self.table.setModel(self.model)
        self.table.set_widths(24, 150, 116)
        self.table.drop_when_narrow(2, 310)
        self.circuit = QPushButton()
        self.circuit.setProperty("role", "link")
        self._drawing, inside = card()
        head = QHBoxLayout()
        head.addWidget(self.stands, 1)
        head.addWidget(self.circuit)
        inside.addLayout(head)
        self.area = scrolled(self.map)
        inside.addWidget(self.area, 1)
        self._evidence, listed = card()
        listed.addWidget(typed)
        listed.addWidget(self.table, 1)
        suspects, ranked = card("Suspects")
        for item in (self.bars, self.why, self.summary):
            ranked.addWidget(item)
        ranked.addStretch(1)
        self._suspects = scrolled(suspects)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._arrange(False)
        self._least()
        look.changed.connect(self._least)

    @Slot()
    def _least(self) -> None:
        self._drawing.setMinimumHeight(self._look.px(LEAST_MAP))
        for widget in (self._evidence, self._suspects):
            widget.setMinimumHeight(self._look.px(LEAST_BELOW))

    def sizeHint(self) -> QSize:
        px = self._look.px
        return QSize(px(400), px(LEAST_MAP + LEAST_BELOW) + self._grid.spacing())

    def hasHeightForWidth(self) -> bool:
        return False  # what is too tall for its card scrolls there

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def fit(self) -> None:
        """Suspects beside the circuit, unless it has room only above them."""
        needed, beside = self.map.minimumWidth() + self._look.px(50), self.width() * SHARES[0] / sum(SHARES)
        has_room = needed <= beside or needed > self.width()
        self._arrange(self.width() >= self._look.px(WIDE) and has_room)

    def _arrange(self, is_wide: bool) -> None:
        if is_wide == self._is_wide:
            return
        self._is_wide = is_wide
        grid = self._grid
        grid.addWidget(self._drawing, 0, 0, 2 if is_wide else 1, 1 if is_wide else 2)
        grid.addWidget(self._suspects, 0 if is_wide else 1, 1)
        grid.addWidget(self._evidence, 1, 1 if is_wide else 0)
        shares = SHARES if is_wide else (9, 11)
        for n in (0, 1):
            grid.setColumnStretch(n, shares[n])
            grid.setRowStretch(n, (13, 10)[n])


MOST_BARS = 5
ROW = 27


class SuspectBars(QWidget):
    """Up and Down choose; R says the chosen one was put right (``put_right`` carries its place)."""

    chosen = Signal(int)
    put_right = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._bars: tuple[SuspectBar, ...] = ()
        self.place = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)
        self._say()

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(260), self._look.px(ROW) * max(len(self._bars), 1))

    def show_bars(self, bars: tuple[SuspectBar, ...]) -> None:
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
        painter = antialiased(self)
        look, tall = self._look, self._look.px(ROW)
        for place, bar in enumerate(self._bars):
            box = QRectF(0, place * tall + 2, self.width(), tall - 4)
            pens(painter, look, "none", "ground")
            painter.drawRoundedRect(box, 5, 5)
            painter.setBrush(look.colour("band"))
            painter.drawRoundedRect(QRectF(0, box.y(), max(box.width() * bar.probability, 4), box.height()), 5, 5)
            if place == self.place:
                pens(painter, look, "violet", "none", 2 if self.hasFocus() else 1.2)
                painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
            painter.setFont(look.font(13, place == 0))
            painter.setPen(look.colour("ink"))
            figure = f"{bar.probability:.0%}" if bar.probability >= 0.005 else "<1%"
            room = painter.fontMetrics().horizontalAdvance("100%") + look.px(10)
            inner = box.adjusted(look.px(8), 0, -room, 0)
            text = painter.fontMetrics().elidedText(bar.words, Qt.TextElideMode.ElideRight, int(inner.width()))
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, text)
            painter.drawText(
                box.adjusted(0, 0, -look.px(8), 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, figure
            )
