"""Files asked for.

The chooser is Qt's own, in the application's look, opened over the page and worked by keys; nothing waits for it.
"""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QFileDialog, QWidget

from violet_dial.kit.ask import open_over


def _chooser(parent: QWidget, title: str, kinds: str, folder: str) -> QFileDialog:
    dialog = QFileDialog(parent, title, folder, kinds)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    room = parent.window().size()
    dialog.resize(min(900, room.width() - 60), min(560, room.height() - 60))
    return dialog


class Chooser:
    """Asks for files; begins where the last one was."""

    def __init__(self, settings: QSettings | None = None) -> None:
        self._settings = settings
        self._folder = str(settings.value("folder", "")) if settings is not None else ""

    @property
    def folder(self) -> str:
        """Where to begin: the last folder while it is there, else home."""
        return self._folder if self._folder and Path(self._folder).is_dir() else str(Path.home())

    def _remember(self, path: str) -> None:
        self._folder = str(Path(path).parent)
        if self._settings is not None:
            self._settings.setValue("folder", self._folder)

    def _chosen(self, name: str, then: Callable[[Path], None]) -> None:
        self._remember(name)
        then(Path(name))

    def _many_chosen(self, names: list[str], then: Callable[[list[str]], None]) -> None:
        self._remember(names[0])
        then(list(names))

    def ask_open(self, parent: QWidget, title: str, kinds: str, then: Callable[[Path], None]) -> QFileDialog:
        """A file to read; ``then`` is called with it, and not at all when the person thought better of it."""
        dialog = _chooser(parent, title, kinds, self.folder)
        dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
        dialog.fileSelected.connect(lambda name: self._chosen(name, then))
        open_over(dialog)
        return dialog

    def ask_open_many(self, parent: QWidget, title: str, kinds: str, then: Callable[[list[str]], None]) -> QFileDialog:
        """Files to read."""
        dialog = _chooser(parent, title, kinds, self.folder)
        dialog.setFileMode(QFileDialog.FileMode.ExistingFiles)
        dialog.filesSelected.connect(lambda names: self._many_chosen(names, then))
        open_over(dialog)
        return dialog

    def ask_save(self, parent: QWidget, title: str, name: str, kinds: str, then: Callable[[Path], None]) -> QFileDialog:
        """A place to write; a file already there is asked about."""
        dialog = _chooser(parent, title, kinds, self.folder)
        dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        dialog.setFileMode(QFileDialog.FileMode.AnyFile)
        dialog.selectFile(name)
        dialog.fileSelected.connect(lambda chosen: self._chosen(chosen, then))
        open_over(dialog)
        return dialog

    def ask_folder(self, parent: QWidget, title: str, then: Callable[[Path], None]) -> QFileDialog:
        """A folder that is there; ``then`` is called with it, and not at all when the person thought better of it."""
        dialog = _chooser(parent, title, "", self.folder)
        dialog.setFileMode(QFileDialog.FileMode.Directory)
        dialog.setOption(QFileDialog.Option.ShowDirsOnly)
        dialog.fileSelected.connect(lambda name: self._chosen(name, then))
        open_over(dialog)
        return dialog
