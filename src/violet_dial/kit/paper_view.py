"""Pages of paper on the screen: as wide as there is room, or zoomed by keys; one place of them pointed at."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal, Slot
from PySide6.QtGui import QImage, QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from violet_dial.kit.pdf_pages import WordSpot
from violet_dial.kit.theme.look import Look

ZOOMS = (1.0, 1.25, 1.5, 2.0, 3.0)
GAP, MARK, LEAST_WIDE = 12, 5, 120
MOST_PIXELS = 120_000_000  # of all pages together: more are drawn coarser and stretched


class _Sheets(QWidget):
    """The pages one below the other, and the mark beside what is pointed at."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.pages: tuple[QImage, ...] = ()
        self.page_wide = 0
        self.spot: WordSpot | None = None
        self.words = ""

    def tall_of(self, page: QImage) -> float:
        return self.page_wide * page.height() / max(page.width(), 1)

    def lay(self, wide: int) -> None:
        """As wide as this."""
        self.page_wide = wide
        tall = sum(self.tall_of(page) + GAP for page in self.pages)
        self.setMinimumSize(QSize(wide, int(tall) or 60))
        self.resize(self.minimumSize())
        self.update()

    def top_of(self, spot: WordSpot) -> tuple[float, float]:
        """Where a spot begins and ends, in pixels from the top."""
        before = sum(self.tall_of(page) + GAP for page in self.pages[: spot.page])
        tall = self.tall_of(self.pages[spot.page])
        return before + spot.top * tall, before + spot.bottom * tall

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.pages:
            painter.setFont(self._look.font(14))
            painter.setPen(self._look.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, self.words)
            return
        left, top = max((self.width() - self.page_wide) / 2, 0), 0.0
        for page in self.pages:
            box = QRectF(left, top, self.page_wide, self.tall_of(page))
            if box.intersects(QRectF(event.rect())):
                painter.drawImage(box, page)
                painter.setPen(self._look.colour("line"))
                painter.drawRect(box.adjusted(0, 0, -1, -1))
            top += box.height() + GAP
        if self.spot is not None and self.spot.page < len(self.pages):
            begin, end = self.top_of(self.spot)
            wide = self._look.px(MARK)
            painter.fillRect(QRectF(left + 3 * wide, begin - 4, wide, end - begin + 8), self._look.colour("violet"))


class PaperView(QScrollArea):
    """+ and − zoom, 0 goes from the whole width to the whole page and back; arrows and PageUp and PageDown scroll.

    ``zoomed``: the pages are wanted at another width.
    """

    zoomed = Signal()

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._zoom, self._whole = 0, False
        self._sheets = _Sheets(look)
        self.setWidget(self._sheets)
        self.setWidgetResizable(True)
        self.setCornerWidget(QWidget())
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)  # as wide before and after it is drawn
        self.setAccessibleName(f"{name}; + and − zoom, 0 shows the whole page, arrows scroll")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def pages(self) -> tuple[QImage, ...]:
        return self._sheets.pages

    def begin(self, words: str) -> None:
        """Another paper: these words until it is there."""
        self._sheets.pages, self._sheets.spot, self._sheets.words = (), None, words
        self._zoom, self._whole = 0, False
        self._lay()

    def show_pages(self, pages: tuple[QImage, ...]) -> None:
        """Draw these pages; what is scrolled to stays."""
        self._sheets.pages = pages
        self._lay()

    @property
    def page_wide(self) -> int:
        """How wide a page is to be, in pixels of the screen."""
        view = self.viewport()
        if self._whole and self.pages:
            page = self.pages[0]
            return max(int((view.height() - 4) * page.width() / page.height()), LEAST_WIDE)
        return max(int((view.width() - 2) * ZOOMS[self._zoom]), LEAST_WIDE)

    @property
    def wanted_px(self) -> int:
        """How wide a page is to be drawn."""
        wide = self.page_wide * self.devicePixelRatioF()
        many = max(len(self.pages), 1)
        return int(min(wide, (MOST_PIXELS / many / 1.42) ** 0.5))

    def _lay(self) -> None:
        self._sheets.lay(self.page_wide)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay()
        self.zoomed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        if text in ("+", "="):
            self.zoom(1)
        elif text == "-":
            self.zoom(-1)
        elif text == "0":
            self._zoom, self._whole = 0, not self._whole
            self._lay()
            self.zoomed.emit()
        else:
            super().keyPressEvent(event)

    def zoom(self, step: int) -> None:
        """Larger or smaller, the place in the middle kept."""
        place = min(max(self._zoom + step, 0), len(ZOOMS) - 1)
        if place == self._zoom and not self._whole:
            return
        bar, sheets = self.verticalScrollBar(), self._sheets
        middle = (bar.value() + self.viewport().height() / 2) / max(sheets.height(), 1)
        self._zoom, self._whole = place, False
        self._lay()
        bar.setValue(int(middle * sheets.height() - self.viewport().height() / 2))
        self.zoomed.emit()

    @Slot(object)
    def point_at(self, spot: WordSpot | None) -> None:
        """Mark a place and bring it into view; None marks none."""
        self._sheets.spot = spot if spot is not None and spot.page < len(self.pages) else None
        if self._sheets.spot is not None:
            begin, end = self._sheets.top_of(self._sheets.spot)
            half = int((end - begin) / 2) + 60
            self.ensureVisible(0, int((begin + end) / 2), 0, min(half, self.viewport().height() // 2))
        self._sheets.update()
