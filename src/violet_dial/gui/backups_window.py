"""The backups of the workshop on the bench: when each was made and how large it is; Enter brings one back."""

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from violet_dial.kit.cards import labelled
from violet_dial.kit.theme.look import Look
from violet_dial.store.backups import DAYS, FOLDER, MONTHS, WEEKS, backups_of

RULE = (
    f"One is made each day on which something was kept; the newest of {DAYS} days, {WEEKS} weeks and {MONTHS} months stay. "
    "Bringing one back puts the workshop as it is now beside; nothing is lost."
)


class BackupsWindow(QDialog):
    """``wanted`` carries the backup to be brought back; ``now_wanted`` asks for one of this moment."""

    wanted = Signal(object)
    now_wanted = Signal()

    def __init__(self, parent: QWidget, look: Look, workshop: Path) -> None:
        super().__init__(parent)
        self.setWindowTitle("Backups")
        self._backups = backups_of(workshop)
        self.list = QListWidget()
        self.list.setAccessibleName("Backups, newest first")
        now_is = datetime.now()
        self.list.addItems([backup.said(now_is) for backup in self._backups])
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(self._take)
        now = QPushButton("Make one now  Alt+N")
        now.setShortcut("Alt+N")
        now.clicked.connect(self._make)
        leave = QPushButton("Leave all as it is  Esc")
        leave.clicked.connect(self.reject)
        self.take = QPushButton("Bring it back  ⏎")
        self.take.setProperty("role", "main")
        self.take.setEnabled(bool(self._backups))
        self.take.clicked.connect(self._take)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (now, leave, self.take):
            button.setAutoDefault(False)
            row.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.setSpacing(10)
        layout.addWidget(labelled(f"Backups of {workshop.name}", "head", True))
        layout.addWidget(labelled(RULE, "quiet", True))
        layout.addWidget(self.list, 1)
        layout.addWidget(labelled(f"They lie in {workshop.parent / FOLDER}", "quiet", True))
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(760), room.width() - 80), min(look.px(480), room.height() - 60))
        (self.list if self._backups else now).setFocus()

    @Slot()
    def _take(self) -> None:
        place = self.list.currentRow()
        if 0 <= place < len(self._backups):
            self.accept()
            self.wanted.emit(self._backups[place].path)

    @Slot()
    def _make(self) -> None:
        self.accept()
        self.now_wanted.emit()
