"""The photos of the job at hand: checked and made small beside the window's work, shown when they are ready."""

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal, Slot

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.job.document import Photo
from violet_dial.kit.runner import Runner
from violet_dial.services.files import read_file
from violet_dial.services.photos import MOST_BYTES, CheckedPhoto, check_photo, thumbnail

MOST_HELD = 400  # small pictures
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
        self._small: OrderedDict[str, bytes] = OrderedDict()
        self._wanted: dict[str, bytes] = {}
        self._checking, self._drawing = Runner(self), Runner(self)
        self._checking.succeeded.connect(self._were_checked)
        self._checking.failed.connect(self.said)
        self._drawing.succeeded.connect(self._were_drawn)
        self._drawing.failed.connect(self.said)

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
        if photo.sha256 in self._small:
            return self._small[photo.sha256]
        if photo.sha256 not in self._wanted:
            try:
                self._wanted[photo.sha256] = self._content(photo.sha256)
            except VioletDialError as error:
                self._small[photo.sha256] = b""
                self.said.emit(f"{photo.file_name}: {error}")
                return b""
            self._draw()
        return b""

    def _draw(self) -> None:
        if self._drawing.busy or not self._wanted:
            return
        sha256, content = next(iter(self._wanted.items()))

        def work(task: Task) -> tuple[str, bytes, str]:
            try:
                return sha256, thumbnail(content), ""
            except VioletDialError as error:
                return sha256, b"", str(error)

        self._drawing.start(work)

    @Slot(object)
    def _were_drawn(self, result: tuple[str, bytes, str]) -> None:
        sha256, picture, why = result
        self._wanted.pop(sha256, None)
        self._small[sha256] = picture
        while len(self._small) > MOST_HELD:
            self._small.popitem(last=False)
        if why:
            self.said.emit(why)
        self.ready.emit()
        self._draw()

    @property
    def settled(self) -> bool:
        """Whether nothing is being checked or drawn."""
        return not (self._checking.busy or self._drawing.busy or self._wanted)

    def close(self) -> None:
        """Another job, or the end: nothing more is wanted."""
        self._wanted.clear()
        self._checking.close()
        self._drawing.close()
