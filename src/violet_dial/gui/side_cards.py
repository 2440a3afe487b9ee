"""The two cards on the right: the one next act, and the job log. The photos of the job at hand, checked and made small beside
the window's work.
"""

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QModelIndex, QObject, QPersistentModelIndex, QSize, Qt, Signal, Slot
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QListWidget, QListWidgetItem, QPushButton, QStyleOptionViewItem, QVBoxLayout

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.job.document import Photo
from violet_dial.job.spoken import spoken_time
from violet_dial.kit.cards import labelled
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.services.decoder import SMALL
from violet_dial.services.files import read_file
from violet_dial.services.next import NextAct
from violet_dial.services.photos import LARGE, MOST_BYTES, CheckedPhoto, check_photo, thumbnail
from violet_dial.store.records import LogRow

MOST_HELD = 400  # small pictures
Sized = tuple[str, int]  # a photo by its hash, and the pixels it is wanted at
Checked = tuple[tuple[CheckedPhoto, ...], tuple[str, ...]]


def check_files(paths: list[str], task: Task) -> Checked:
    """Photos from files, and in a sentence why others were refused."""
    found: list[CheckedPhoto] = []
    refused: list[str] = []
    for path in paths:
        task.check()
        try:
            found.append(check_photo(read_file(Path(path), MOST_BYTES, "Photo"), Path(path).name))
        except VioletDialError as error:
            refused.append(str(error))
    return tuple(found), tuple(refused)


class JobPhotos(QObject):
    """``checked`` carries photos that may be kept, ``said`` why others may not, ``ready`` that small pictures have come."""

    checked = Signal(object)
    said = Signal(str)
    ready = Signal()

    def __init__(self, parent: QObject, content: Callable[[str], bytes]) -> None:
        super().__init__(parent)
        self._content = content
        self._small: OrderedDict[Sized, bytes] = OrderedDict()
        self._wanted: dict[Sized, bytes] = {}
        self._at_work: Sized | None = None  # being made small
        self._checking, self._drawing = Runner(self), Runner(self)
        self._checking.succeeded.connect(self._were_checked)
        self._checking.failed.connect(self.said)
        self._drawing.succeeded.connect(self._were_drawn)
        self._drawing.failed.connect(self._was_not_drawn)

    def attach(self, paths: list[str]) -> None:
        """Check files; those that are photos come with ``checked``."""
        self._checking.start(lambda task: check_files(paths, task))

    @Slot(object)
    def _were_checked(self, result: Checked) -> None:
        found, refused = result
        if found:
            self.checked.emit(found)
        if refused:
            more = f" And {len(refused) - 1} more." if len(refused) > 1 else ""
            self.said.emit(f"{refused[0]}.{more}")

    def small(self, photo: Photo) -> bytes:
        """A small picture; empty until it is ready, or when it cannot be had."""
        return self._at((photo.sha256, SMALL), photo)

    def large(self, photo: Photo) -> bytes:
        """As `small`, large enough to be worked on."""
        return self._at((photo.sha256, LARGE), photo)

    def _at(self, sized: Sized, photo: Photo) -> bytes:
        if sized in self._small:
            return self._small[sized]
        if sized not in self._wanted:
            try:
                self._wanted[sized] = self._content(photo.sha256)
            except VioletDialError as error:
                self._small[sized] = b""
                self.said.emit(f"{photo.file_name}: {error}")
                return b""
            self._draw()
        return b""

    def _draw(self) -> None:
        if self._at_work is not None or not self._wanted:
            return
        sized, content = next(iter(self._wanted.items()))
        self._at_work = sized

        def work(task: Task) -> tuple[Sized, bytes, str]:
            try:
                return sized, thumbnail(content, sized[1]), ""
            except VioletDialError as error:
                return sized, b"", str(error)

        self._drawing.start(work)

    @Slot(object)
    def _were_drawn(self, result: tuple[Sized, bytes, str]) -> None:
        sized, picture, why = result
        self._at_work = None
        self._wanted.pop(sized, None)
        self._small[sized] = picture
        while len(self._small) > MOST_HELD:
            self._small.popitem(last=False)
        if why:
            self.said.emit(why)
        self.ready.emit()
        self._draw()

    @Slot(str)
    def _was_not_drawn(self, sentence: str) -> None:
        """A fault on the way: the picture is let be."""
        if self._at_work is not None:
            self._wanted.pop(self._at_work, None)
            self._at_work = None
        self.said.emit(sentence)
        self._draw()

    @property
    def settled(self) -> bool:
        """Whether nothing is being checked or drawn."""
        return not (self._checking.busy or self._at_work or self._wanted)

    def close(self) -> None:
        """Another job, or the end: nothing more is wanted."""
        self._wanted.clear()
        self._at_work = None
        self._checking.close()
        self._drawing.close()


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


class LogList(QListWidget):
    """A row is measured when it is put in and when the list is another width, not all of them after every act."""

    def __init__(self) -> None:
        super().__init__()
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._wide = 0

    def measure(self, item: QListWidgetItem) -> None:
        """A row as tall as its words are."""
        item.setSizeHint(QSize())
        option = QStyleOptionViewItem()
        self.initViewItemOption(option)
        option.rect = self.viewport().rect()
        item.setSizeHint(self.itemDelegate().sizeHint(option, self.indexFromItem(item)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.viewport().width() != self._wide:
            self._wide = self.viewport().width()
            for place in range(self.count()):
                self.measure(self.item(place))


class LogCard(QFrame):
    """The acts of the job, newest first; undone ones faint and crossed. Enter on one asks for the job as it stood then."""

    wanted = Signal(int, str)  # which version, and the act's words

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setProperty("role", "card")
        self.list = LogList()
        self.list.setAccessibleName("Job log")
        self.list.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
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
                self._put(0, row)
            while self.list.count() > len(rows):
                self.list.takeItem(self.list.count() - 1)
        elif [row.version_id for row in rows] == [row.version_id for row in self._rows]:
            for place, (row, before) in enumerate(zip(rows, self._rows, strict=True)):
                if force or row != before:
                    self._dress(self.list.item(place), row)
        else:
            self.list.clear()
            for place, row in enumerate(rows):
                self._put(place, row)
            self.list.scrollToTop()
        self._rows = rows

    def _added(self, rows: tuple[LogRow, ...]) -> int:
        """How many acts came on top while those below stayed as they were; 0 when more than that changed."""
        added = rows.index(self._rows[0]) if self._rows and self._rows[0] in rows else 0
        kept = len(rows) - added
        return added if rows[added:] == self._rows[:kept] else 0

    def _put(self, place: int, row: LogRow) -> None:
        item = QListWidgetItem()
        self.list.insertItem(place, item)
        self._dress(item, row)

    def _dress(self, item: QListWidgetItem, row: LogRow) -> None:
        item.setText(f"{spoken_time(row.kept_at)}   {row.reason}")
        font = self._look.font(13)
        font.setStrikeOut(row.undone)
        item.setFont(font)
        item.setForeground(self._look.colour("quiet" if row.undone else "ink"))
        self.list.measure(item)
