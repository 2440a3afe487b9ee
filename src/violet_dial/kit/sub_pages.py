"""Pages of one station under a line of names; Ctrl+Tab goes on."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget


class SubPages(QWidget):
    """Names on a line, the chosen page below; ``turned`` carries its place. What draws a page (``draws``, in order) is called
    when it is in view: of what changed while another was, once it is turned to."""

    turned = Signal(int)

    def __init__(self, pages: tuple[tuple[str, QWidget], ...], draws: tuple[Callable[[], None], ...] = ()) -> None:
        super().__init__()
        self._draws = draws
        self._stale: set[int] = set()
        self.stack = QStackedWidget()
        self._group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for place, (name, page) in enumerate(pages):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setProperty("role", "tab")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self._group.addButton(button, place)
            row.addWidget(button)
            self.stack.addWidget(page)
        row.addStretch(1)
        self.extra = QHBoxLayout()
        row.addLayout(self.extra)
        self._group.idClicked.connect(self.turn_to)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addLayout(row)
        layout.addWidget(self.stack, 1)
        self._group.button(0).setChecked(True)

    @property
    def place(self) -> int:
        return self.stack.currentIndex()

    @Slot(int)
    def turn_to(self, place: int) -> None:
        """Show a page and tell it."""
        self.show_page(place)
        self.turned.emit(place)

    def begin(self) -> None:
        """Another job: its first page."""
        self._stale.clear()
        self.show_page(0)

    def draw(self) -> None:
        """What the pages show has changed: the one in view is drawn now, each other when it is turned to."""
        self._stale = set(range(len(self._draws)))
        self._draw_in_view()

    def _draw_in_view(self) -> None:
        if self.place in self._stale:
            self._stale.discard(self.place)
            self._draws[self.place]()

    def show_page(self, place: int) -> None:
        """Show a page without telling anybody."""
        self._group.button(place).setChecked(True)
        self.stack.setCurrentIndex(place)
        for button in self._group.buttons():
            button.updateGeometry()  # the chosen one is set in bold
        self._draw_in_view()

    def turn(self, step: int) -> None:
        """On or back by ``step`` pages, round and round."""
        self.turn_to((self.place + step) % self.stack.count())

    def rename(self, place: int, name: str) -> None:
        self._group.button(place).setText(name)
