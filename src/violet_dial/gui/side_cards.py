"""The two cards on the right: the one next act, and the job log."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QSize, Qt, Signal, Slot
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QFrame,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
)

from violet_dial.job.spoken import spoken_time
from violet_dial.kit.cards import labelled
from violet_dial.kit.theme.look import Look
from violet_dial.services.next import NextAct
from violet_dial.store.records import LogRow

Index = QModelIndex | QPersistentModelIndex
MOST_SIZES, MARGIN = 2_000, 18


class NextCard(QFrame):
    """What to do next, why, and what it costs."""

    wanted = Signal()
    arithmetic_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "card")
        self.setMinimumWidth(1)  # its buttons go below each other before it asks for more
        self.title = labelled("", "head", True)
        self.reason = labelled("", "quiet", True)
        self.cost = labelled("", "small", True)
        self.faults = labelled("", "fault", True)
        self.button = QPushButton()
        self.button.setProperty("role", "main")
        self.button.clicked.connect(self.wanted)
        self.why = QPushButton("Open the sum  F3")
        self.why.setProperty("role", "link")
        self.why.clicked.connect(self.arithmetic_asked)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 14, MARGIN, 12)
        layout.setSpacing(6)
        layout.addWidget(labelled("Next", "small"))
        for item in (self.title, self.reason, self.cost, self.faults):
            layout.addWidget(item)
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._row.addWidget(self.button)
        self._row.addWidget(self.why)
        self._row.addStretch(1)
        layout.addLayout(self._row)

    def show_act(self, act: NextAct, faults: str = "") -> None:
        """The act, and what stations could not say."""
        self.title.setText(act.title)
        self.reason.setText(act.reason)
        self.cost.setText(act.cost)
        self.faults.setText(faults)
        self.faults.setVisible(bool(faults))
        self.button.setText(f"{act.button}  F9")
        self._fit()

    @Slot()
    def show_waiting(self) -> None:
        """What is next after the last act is still being worked out."""
        self.title.setText("Working out what is next …")
        self.reason.setText("The act is kept. F9 does what comes of it.")
        self.cost.setText("")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The two buttons side by side where they fit, else one below the other: large text is never cut."""
        wanted = self.button.sizeHint().width() + self.why.sizeHint().width() + self._row.spacing()
        beside = wanted <= self.contentsRect().width() - 2 * MARGIN
        self._row.setDirection(QBoxLayout.Direction.LeftToRight if beside else QBoxLayout.Direction.TopToBottom)


class _LogRows(QStyledItemDelegate):
    """Remembers how tall each row is at a width: a long log is laid out anew after every act."""

    def __init__(self, view: QListWidget) -> None:
        super().__init__(view)
        self._view = view
        self._sizes: dict[tuple[str, int, int], QSize] = {}

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        text, width = index.data(), self._view.viewport().width()
        key = (text, width, self._view.font().pixelSize())
        found = self._sizes.get(key)
        if found is None:
            if len(self._sizes) > MOST_SIZES:
                self._sizes.clear()
            found = self._sizes[key] = super().sizeHint(option, index)
        return found


class LogCard(QFrame):
    """The acts of the job, newest first; undone ones faint and crossed. Enter on one asks for the job as it stood then."""

    wanted = Signal(int, str)  # which version, and the act's words

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setProperty("role", "card")
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Job log")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.list.setItemDelegate(_LogRows(self.list))
        self.list.itemActivated.connect(self._activated)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 10, 12)
        layout.addWidget(labelled("Job log", "head"))
        layout.addWidget(self.list, 1)
        self._rows: tuple[LogRow, ...] = ()
        look.changed.connect(self._show_again)  # a method: gone with the card, should another workshop be opened

    @Slot(QListWidgetItem)
    def _activated(self, item: QListWidgetItem) -> None:
        row = self._rows[self.list.row(item)]
        self.wanted.emit(row.version_id, row.reason)

    def focus_list(self) -> None:
        """The keys to the log, at its newest act."""
        self.list.setCurrentRow(0)
        self.list.setFocus()

    @Slot()
    def _show_again(self) -> None:
        self.show_log(self._rows, force=True)

    def show_log(self, rows: tuple[LogRow, ...], force: bool = False) -> None:
        """Show the log; only acts that are new on top, or stand otherwise now, are made anew."""
        added = self._added(rows)
        if not force and added:
            for row in reversed(rows[:added]):
                self.list.insertItem(0, self._dress(QListWidgetItem(), row))
            while self.list.count() > len(rows):
                self.list.takeItem(self.list.count() - 1)
        elif [row.version_id for row in rows] == [row.version_id for row in self._rows]:
            for place, (row, before) in enumerate(zip(rows, self._rows, strict=True)):
                if force or row != before:
                    self._dress(self.list.item(place), row)
        else:
            self.list.clear()
            for row in rows:
                self.list.addItem(self._dress(QListWidgetItem(), row))
            self.list.scrollToTop()
        self._rows = rows

    def _added(self, rows: tuple[LogRow, ...]) -> int:
        """How many acts came on top while those below stayed as they were; 0 when more than that changed."""
        added = rows.index(self._rows[0]) if self._rows and self._rows[0] in rows else 0
        kept = len(rows) - added
        return added if rows[added:] == self._rows[:kept] else 0

    def _dress(self, item: QListWidgetItem, row: LogRow) -> QListWidgetItem:
        item.setText(f"{spoken_time(row.kept_at)}   {row.reason}")
        font = self._look.font(13)
        font.setStrikeOut(row.undone)
        item.setFont(font)
        item.setForeground(self._look.colour("quiet" if row.undone else "ink"))
        return item
