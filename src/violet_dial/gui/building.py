"""The demo workshop built while a small picture says how far it is."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFrame, QLabel, QProgressBar, QVBoxLayout

from violet_dial.demo.workshop import build_demo

WIDTH = 420


class _Progress(QFrame):
    """Words and a bar; nothing can be pressed."""

    def __init__(self) -> None:
        super().__init__(None, Qt.WindowType.SplashScreen)
        self.setObjectName("ground")
        self.bar = QProgressBar(maximum=100)
        self.bar.setTextVisible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 24, 28, 24)
        layout.setSpacing(14)
        words = QLabel("The demo workshop is laid out, once…")
        words.setProperty("role", "title")
        layout.addWidget(words)
        layout.addWidget(self.bar)
        self.setMinimumWidth(WIDTH)

    def show_share(self, share: float) -> None:
        self.bar.setValue(round(100 * share))
        QApplication.processEvents()


def build_with_progress(path: Path) -> None:
    """The demo workshop at ``path``; as `build_demo`."""
    progress = _Progress()
    progress.show()
    progress.show_share(0)
    try:
        build_demo(path, progress.show_share)
    finally:
        progress.close()
        progress.deleteLater()
