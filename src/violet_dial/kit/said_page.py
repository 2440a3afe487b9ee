"""Pages of a few sentences and lists with one line to type, and the grids of words they are made of."""

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
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
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_mark(painter, self._look, QPointF(self.width() / 2, self.height() / 2), self._state, self._look.px(6))


class Rows(QWidget):
    """A grid of words, made anew each time: heads in quiet, the rest as it stands; marks before rows where there are some."""

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look, self._name = look, name
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._inside: QWidget | None = None

    def show_rows(
        self, rows: tuple[tuple[str, ...], ...], heads: tuple[str, ...] = (), marks: tuple[MarkState, ...] = ()
    ) -> None:
        """Show these; hidden when there are none."""
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
        self.setAccessibleName(
            f"{self._name}: " + "; ".join(", ".join(row) for row in rows) if rows else f"{self._name}: none"
        )
        self.setVisible(bool(rows))


class SaidPage(QWidget):
    """A headline, its reason, lists, and one line to type."""

    def __init__(self, hint: str, typed: TypedLine, under: str) -> None:
        super().__init__()
        self.headline = labelled("", "verdict", True)
        self.reason = labelled("", "quiet", True)
        self.typed = typed
        typed.edit.setPlaceholderText(hint)
        frame, self.inside = card()
        for item in (self.headline, self.reason):
            self.inside.addWidget(item)
        self.body, self.right = QVBoxLayout(), QVBoxLayout()
        self.columns = QHBoxLayout()
        self.columns.setSpacing(24)
        for column, share in ((self.body, 1), (self.right, 0)):
            column.setSpacing(8)
            self.columns.addLayout(column, share)
        self.inside.addLayout(self.columns)
        self.inside.addStretch(1)
        self.inside.addWidget(labelled(under, "small", True))
        self.inside.addWidget(typed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def add(self, head: str, widget: QWidget, right: bool = False) -> QLabel:
        """A part of the page under its head, in the left column or the right one."""
        label = labelled(head, "head", True)
        column = self.right if right else self.body
        if right:
            self.columns.setStretch(1, 1)
        column.addWidget(label)
        column.addWidget(widget)
        return label

    def close_columns(self) -> None:
        """Nothing more comes: what is there stays at the top."""
        self.body.addStretch(1)
        self.right.addStretch(1)

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)


class RowsSaid(Protocol):
    """What a page of rows shows: headline, reason, heads and rows with their marks, a line under them."""

    @property
    def headline(self) -> str: ...
    @property
    def reason(self) -> str: ...
    @property
    def heads(self) -> tuple[str, ...]: ...
    @property
    def rows(self) -> tuple[tuple[str, ...], ...]: ...
    @property
    def marks(self) -> tuple[MarkState, ...]: ...
    @property
    def under(self) -> str: ...


class RowsPage(SaidPage):
    """A headline, what to do, one table, a word of care."""

    def __init__(self, look: Look, hint: str, typed: TypedLine, words: tuple[str, str]) -> None:
        name, under = words
        super().__init__(hint, typed, under)
        self.table = Rows(look, name)
        self.under = labelled("", "fault", True)
        self.body.addWidget(self.table)
        self.body.addWidget(self.under)

    def draw(self, one: RowsSaid) -> None:
        """Draw all of it."""
        for label, text in ((self.headline, one.headline), (self.reason, one.reason), (self.under, one.under)):
            label.setText(text)
            label.setVisible(bool(text))
        self.table.show_rows(one.rows, one.heads, one.marks)


def line(name: str, understand: Callable[[str], str], take: Callable[[str], bool]) -> TypedLine:
    """A line without completions."""
    return TypedLine(name, lambda text: (), understand, take)
