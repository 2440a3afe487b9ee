"""A workshop file that cannot be opened: what is wrong, and what can be done about it, before there is any other window. Also a
job that cannot be read, and the acts after which it still can be.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.job.spoken import spoken_time
from violet_dial.kit.cards import labelled
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.store.backups import backups_of, restore
from violet_dial.store.placing import free_name
from violet_dial.store.records import LogRow

if TYPE_CHECKING:
    from violet_dial.services.workshop import Workshop


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


SIZE = (860, 460)


class TroubleWindow(QDialog):
    """``workshop`` is open when the window is closed; None when it was left as it is."""

    def __init__(self, look: Look, path: Path, why: str, opened: Callable[[Path], Workshop]) -> None:
        super().__init__()
        self.setWindowTitle("Violet Dial · the workshop cannot be opened")
        self.setObjectName("ground")
        self.workshop: Workshop | None = None
        self._path, self._opened = path, opened
        self._runner = Runner(self)
        self._runner.succeeded.connect(self._saved)
        self._runner.failed.connect(self._say)
        self.why = labelled(why, "head", True)
        self.list = QListWidget()
        self.list.setAccessibleName("Backups of this workshop, newest first")
        self._backups = backups_of(path)
        now = datetime.now()
        self.list.addItems([backup.said(now) for backup in self._backups])
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(self.bring_back)
        self._build()
        self.resize(look.px(SIZE[0]), look.px(SIZE[1]))
        (self.list if self._backups else self.again).setFocus()

    def _build(self) -> None:
        said = "Backups of it; Enter brings one back:" if self._backups else "There is no backup of it yet."
        self.back = QPushButton("Bring this backup back  ⏎")
        self.back.setEnabled(bool(self._backups))
        self.back.clicked.connect(self.bring_back)
        self.save = QPushButton("Save what can be read  Alt+S")
        self.save.setEnabled(self._path.is_file())
        self.save.setShortcut("Alt+S")
        self.save.clicked.connect(self.save_readable)
        self.again = QPushButton("Try again  Alt+T")
        self.again.setShortcut("Alt+T")
        self.again.clicked.connect(lambda: self._open(self._path))
        leave = QPushButton("Leave all as it is  Esc")
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (leave, self.again, self.save, self.back):
            button.setAutoDefault(False)
            row.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 18)
        layout.setSpacing(12)
        layout.addWidget(self.why)
        layout.addWidget(labelled(said, "quiet", True))
        layout.addWidget(self.list, 1)
        layout.addLayout(row)

    @Slot(str)
    def _say(self, sentence: str) -> None:
        self.why.setText(sentence)
        self.setEnabled(True)

    def _open(self, path: Path) -> None:
        try:
            self.workshop = self._opened(path)
        except VioletDialError as error:
            self._say(str(error))
        else:
            self.accept()

    @Slot()
    def bring_back(self) -> None:
        """The backup chosen, in place of the file; that is put beside."""
        place = self.list.currentRow()
        if not 0 <= place < len(self._backups):
            return
        try:
            restore(self._path, self._backups[place].path, datetime.now())
        except VioletDialError as error:
            self._say(str(error))
        else:
            self._open(self._path)

    @Slot()
    def save_readable(self) -> None:
        """All that can be read, into a new file beside, which is opened then."""
        from violet_dial.services.upkeep import salvage
        from violet_dial.stations import STATIONS

        out = free_name(self._path.with_name(f"{self._path.stem}.salvaged-{datetime.now():%Y%m%d}.violet"))
        self.setEnabled(False)
        self.why.setText("Reading what can be read…")
        self._runner.start(lambda task: (out, salvage(self._path, out, STATIONS)))

    @Slot(object)
    def _saved(self, result: tuple[Path, object]) -> None:
        self._open(result[0])

    def done(self, result: int) -> None:
        self._runner.close()
        super().done(result)
