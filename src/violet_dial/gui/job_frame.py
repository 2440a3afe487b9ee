"""Where all of a job lies: head, line of stations, the station's page, Next, log and reading bar; nothing of what they do."""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from violet_dial.gui.reading_bar import ReadingBar
from violet_dial.gui.side_cards import LogCard, NextCard
from violet_dial.gui.station_line import StationLine
from violet_dial.kit.cards import ElidedLabel, labelled, scrolled
from violet_dial.kit.theme.look import Look

LARGE_PERCENT, LEAST_BELOW = 140, 150  # above it the text is large, and Next and the log scroll together


class JobFrame(QWidget):
    """The pieces of a job's page in their places. ``stations``: their names, in the order of the line."""

    def __init__(self, look: Look, stations: tuple[str, ...]) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._look = look
        self.title = labelled("", "title")
        self.headline = ElidedLabel()
        self.kept = labelled("", "quiet")
        self.line = StationLine(look, stations)
        self.stack = QStackedWidget()
        self.next_card = NextCard()
        self.log = LogCard(look)
        self.bar = ReadingBar(look)
        self._build()
        look.changed.connect(self._share)

    def _build(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(16)
        head.addWidget(self.title)
        head.addWidget(self.headline, 1)
        head.addWidget(self.kept)
        self.side = QWidget()
        side = QVBoxLayout(self.side)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(12)
        side.addWidget(self.next_card)
        self.below_next = QStackedWidget()
        self.below_next.addWidget(self.log)
        side.addWidget(self.below_next, 1)
        self.below_next.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)  # Next has its room first
        self.below_next.setMinimumWidth(1)
        self._middle = QHBoxLayout()
        self._middle.setSpacing(14)
        self._middle.addWidget(self.stack, 2)
        self._middle.addWidget(scrolled(self.side), 1)
        self._share()
        top = QVBoxLayout()
        top.setContentsMargins(24, 12, 24, 12)
        top.setSpacing(8)
        top.addLayout(head)
        top.addWidget(self.line)
        top.addLayout(self._middle, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top, 1)
        layout.addWidget(self.bar)

    @Slot()
    def _share(self) -> None:
        """Next and the log get more of the width where the text is large."""
        large = self._look.percent > LARGE_PERCENT
        self._middle.setStretch(0, 3 if large else 2)
        self._middle.setStretch(1, 2 if large else 1)
        self.below_next.setMinimumHeight(self._look.px(LEAST_BELOW if large else 0))
