"""The demo workshop built while a small picture says how far it is."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFrame, QLabel, QProgressBar, QVBoxLayout

Build = Callable[[Path, Callable[[float], None]], None]
WIDTH = 420


class _Progress(QFrame):
    """Words and a bar; nothing can be pressed."""

    def __init__(self, said: str) -> None:
        super().__init__(None, Qt.WindowType.SplashScreen)
        self.setObjectName("ground")
        self.bar = QProgressBar(maximum=100)
        self.bar.setTextVisible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 24, 28, 24)
        layout.setSpacing(14)
        words = QLabel(said)
        words.setProperty("role", "title")
        layout.addWidget(words)
        layout.addWidget(self.bar)
        self.setMinimumWidth(WIDTH)

    def show_share(self, share: float) -> None:
        self.bar.setValue(round(100 * share))
        QApplication.processEvents()


def build_with_progress(path: Path, build: Build, said: str) -> None:
    """What ``build`` makes at ``path``, its progress shown under what is said."""
    progress = _Progress(said)
    progress.show()
    progress.show_share(0)
    try:
        build(path, progress.show_share)
    finally:
        progress.close()
        progress.deleteLater()
