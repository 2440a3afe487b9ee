"""One sentence across the window, until it was understood."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton


class Message(QFrame):
    """One sentence across the window; ``understood`` when the person took it away."""

    understood = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "message")
        self.text = QLabel("", wordWrap=True, textFormat=Qt.TextFormat.PlainText)
        close = QPushButton("Understood")
        close.setProperty("role", "link")
        close.clicked.connect(self.hide)
        close.clicked.connect(self.understood)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(18, 4, 12, 4)
        layout.addWidget(self.text, 1)
        layout.addWidget(close)
        self.hide()

    def show_text(self, sentence: str) -> None:
        self.text.setText(sentence)
        self.setAccessibleName(sentence)
        self.setVisible(bool(sentence))
