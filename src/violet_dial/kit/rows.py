"""Grids of words, with marks before rows where there are some."""

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QGridLayout, QSizePolicy, QVBoxLayout, QWidget

from violet_dial.kit.cards import labelled
from violet_dial.kit.picture import antialiased, draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import MarkState


class MarkWidget(QWidget):
    """One mark of a row."""

    def __init__(self, look: Look, state: MarkState) -> None:
        super().__init__()
        self._look, self._state = look, state
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(18), self._look.px(18))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        draw_mark(painter, self._look, QPointF(self.width() / 2, self.height() / 2), self._state, self._look.px(6))


class Rows(QWidget):
    """A grid of words, made anew each time: heads in quiet, the rest as it stands; marks before rows where there are some."""

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look, self._name = look, name
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._inside: QWidget | None = None
        self._shown: object = None

    def show_rows(
        self, rows: tuple[tuple[str, ...], ...], heads: tuple[str, ...] = (), marks: tuple[MarkState, ...] = ()
    ) -> None:
        """Show these; hidden when there are none. What is there already stays."""
        wanted = (rows, heads, marks, self._look.percent)
        if wanted == self._shown:
            return
        self._shown = wanted
        if self._inside is not None:
            self._inside.hide()
            self._layout.removeWidget(self._inside)
            self._inside.deleteLater()
        self._inside = inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(self._look.px(16))
        grid.setVerticalSpacing(self._look.px(5))
        first = 1 if marks else 0
        for column, head in enumerate(heads):
            grid.addWidget(labelled(head, "small"), 0, column + first)
        for place, row in enumerate(rows, start=1):
            if marks:
                grid.addWidget(MarkWidget(self._look, marks[place - 1]), place, 0)
            for column, text in enumerate(row):
                last = column == len(row) - 1
                grid.addWidget(labelled(text, "", last), place, column + first, Qt.AlignmentFlag.AlignTop)
        grid.setColumnStretch(first + max((len(row) for row in rows), default=1) - 1, 1)
        self._layout.addWidget(inside)
        self.setAccessibleName(f"{self._name}: " + "; ".join(", ".join(row) for row in rows) if rows else f"{self._name}: none")
        self.setVisible(bool(rows))
