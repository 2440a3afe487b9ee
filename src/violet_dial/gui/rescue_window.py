"""A job that cannot be read: why, and the acts after which it still can be; Enter brings it back as it stood then."""

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from violet_dial.job.spoken import spoken_time
from violet_dial.kit.cards import labelled
from violet_dial.kit.theme.look import Look
from violet_dial.store.records import LogRow


class RescueWindow(QDialog):
    """``wanted`` carries the version that was chosen; nothing is changed before one is."""

    wanted = Signal(int)

    def __init__(self, parent: QWidget, look: Look, why: str, rows: tuple[LogRow, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle("This job cannot be read")
        self._rows = rows
        self.list = QListWidget()
        self.list.setWordWrap(True)  # a long act is read to its end, not scrolled to
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Acts after which the job can be read, newest first")
        self.list.addItems([f"{spoken_time(row.kept_at)}   {row.station}: {row.reason}" for row in rows])
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(self._take)
        self.take = QPushButton("Bring it back as it stood then  ⏎")
        self.take.setProperty("role", "main")
        self.take.setEnabled(bool(rows))
        self.take.clicked.connect(self._take)
        leave = QPushButton("Leave it  Esc")
        leave.clicked.connect(self.reject)
        for button in (self.take, leave):
            button.setAutoDefault(False)
        found = "It can be read as it stood after these acts:" if rows else "No older version of it can be read either."
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(why, "head", True))
        layout.addWidget(labelled(found, "quiet", True))
        layout.addWidget(self.list, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(820), room.width() - 80), min(look.px(480), room.height() - 60))
        self.list.setFocus()

    @Slot()
    def _take(self) -> None:
        place = self.list.currentRow()
        if 0 <= place < len(self._rows):
            self.accept()
            self.wanted.emit(self._rows[place].version_id)
