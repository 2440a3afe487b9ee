"""A table of rows of text that is walked by arrows and acts on keys."""

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QPointF, Qt, Signal, Slot
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPixmap, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from violet_dial.kit.picture import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import MarkState

Index = QModelIndex | QPersistentModelIndex
Row = tuple[str, ...]


class RowsModel(QAbstractTableModel):
    """Rows of text under heads; rows that did not change are not touched, so that long lists stay fluid."""

    def __init__(self, look: Look, heads: Row) -> None:
        super().__init__()
        self._look, self._heads = look, heads
        self.rows: tuple[Row, ...] = ()
        self.marks: tuple[MarkState, ...] = ()
        self._icons: dict[tuple[MarkState, int, str], QIcon] = {}

    def show(self, rows: tuple[Row, ...], marks: tuple[MarkState, ...] = ()) -> None:
        """Show rows, each with its mark in the second column where marks are given; high and low stand out."""
        before = self.rows
        self.marks = marks
        if len(rows) == len(before) + 1 and rows[: len(before)] == before:
            self.beginInsertRows(QModelIndex(), len(before), len(before))
            self.rows = rows
            self.endInsertRows()
            return
        if len(rows) == len(before):
            changed = [place for place in range(len(rows)) if rows[place] != before[place]]
            self.rows = rows
            for place in changed:
                self.dataChanged.emit(self.index(place, 0), self.index(place, len(self._heads) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(self._heads)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole:
            return self.rows[index.row()][index.column()]
        if index.row() >= len(self.marks):
            return None
        mark = self.marks[index.row()]
        if role == Qt.ItemDataRole.ForegroundRole and mark in ("high", "low"):
            return self._look.colour("out")
        if role == Qt.ItemDataRole.DecorationRole and index.column() == 1:
            return self._icon(mark)
        return None

    def _icon(self, mark: MarkState) -> QIcon:
        key = (mark, self._look.percent, self._look.theme)
        if key not in self._icons:
            size = self._look.px(14)
            picture = QPixmap(size, size)
            picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            draw_mark(painter, self._look, QPointF(size / 2, size / 2), mark, size * 0.4)
            painter.end()
            self._icons[key] = QIcon(picture)
        return self._icons[key]

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self._heads[section]
        return None


class _Spilling(QStyledItemDelegate):
    """Lets one column's text run on into the next where that has none."""

    def __init__(self, table: QTableView, column: int) -> None:
        super().__init__(table)
        self._table, self._column = table, column

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        free = index.sibling(index.row(), self._column + 1)
        if index.column() in (self._column, self._column + 1) and not free.data():
            if index.column() != self._column:
                return
            option.rect = option.rect.united(self._table.visualRect(free))
        super().paint(painter, option, index)


class RowsTable(QTableView):
    """One row chosen at a time; Enter, Del and single letters go out as signals with the row."""

    entered_row = Signal(int)
    struck_row = Signal(int)
    letter = Signal(str, int)
    row_changed = Signal(int)

    def __init__(self, look: Look, name: str, stretch: int) -> None:
        super().__init__()
        self._look, self._stretch = look, stretch
        self._droppable: tuple[int, int] | None = None
        self._widths: tuple[int, ...] = ()
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setHighlightSections(False)
        look.changed.connect(self.restyle)
        self.restyle()

    @Slot()
    def restyle(self) -> None:
        self.verticalHeader().setDefaultSectionSize(self._look.px(26))
        for column, width in enumerate(self._widths):
            if column != self._stretch:
                self.horizontalHeader().resizeSection(column, self._look.px(width))

    def set_widths(self, *widths: int) -> None:
        """Widths of the columns at 100 % text; the stretching one takes the rest."""
        self._widths = widths
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column in range(len(widths)):
            mode = QHeaderView.ResizeMode.Stretch if column == self._stretch else QHeaderView.ResizeMode.Fixed
            header.setSectionResizeMode(column, mode)
        self.restyle()

    def spill(self, column: int) -> None:
        """Let a column's text run on into the next where that has none."""
        self.setItemDelegate(_Spilling(self, column))

    def drop_when_narrow(self, column: int, below: int) -> None:
        """Leave a column out while the table is narrower than ``below`` at 100 % text."""
        self._droppable = (column, below)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._droppable is not None:
            column, below = self._droppable
            self.setColumnHidden(column, self.width() < self._look.px(below))

    @property
    def row(self) -> int:
        return self.currentIndex().row()

    def choose(self, row: int) -> None:
        """Make a row the chosen one."""
        model = self.model()
        if model is not None and 0 <= row < model.rowCount():
            self.setCurrentIndex(model.index(row, 0))

    def currentChanged(self, current: object, previous: object) -> None:
        super().currentChanged(current, previous)  # type: ignore[arg-type]
        self.row_changed.emit(self.row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, row = Qt.Key(event.key()), self.row
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and row >= 0:
            self.entered_row.emit(row)
        elif key == Qt.Key.Key_Delete and row >= 0:
            self.struck_row.emit(row)
        elif len(event.text()) == 1 and event.text().isalpha() and not event.modifiers() and row >= 0:
            self.letter.emit(event.text().upper(), row)
        else:
            super().keyPressEvent(event)
