"""The photos of the job at hand: checked and made small beside the window's work, shown when they are ready."""

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal, Slot

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.job.document import Photo
from violet_dial.kit.runner import Runner
from violet_dial.services.decoder import SMALL
from violet_dial.services.files import read_file
from violet_dial.services.photos import LARGE, MOST_BYTES, CheckedPhoto, check_photo, thumbnail

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
