"""Pages of a PDF as pictures, for the screen and for printers that are given pictures; where words stand on them. One thread at
a time."""

import threading
from collections.abc import Mapping
from dataclasses import dataclass

from PySide6.QtGui import QImage

from violet_dial.core.task import SilentTask, Task

_ONE_AT_A_TIME = threading.Lock()  # the PDF library ends the process when two threads are in it


@dataclass(frozen=True)
class WordSpot:
    """A place on the pages: the page's number from 0, its top and bottom as shares of the page."""

    page: int
    top: float
    bottom: float


def spots_of(content: bytes, words: Mapping[str, str]) -> dict[str, WordSpot]:
    """Where each of these words stands first on the pages of a PDF; those that do not are left out."""
    import pypdfium2

    found: dict[str, WordSpot] = {}
    with _ONE_AT_A_TIME:
        document = pypdfium2.PdfDocument(content)
        try:
            for number, page in enumerate(document):
                text = page.get_textpage()
                tall = page.get_height()
                for key, wanted in words.items():
                    at = text.search(wanted, match_case=True).get_next() if key not in found else None
                    if at is not None:
                        boxes = [text.get_charbox(place) for place in range(at[0], at[0] + at[1])]
                        top, bottom = max(box[3] for box in boxes), min(box[1] for box in boxes)
                        found[key] = WordSpot(number, 1 - top / tall, 1 - bottom / tall)
                text.close()
                page.close()
        finally:
            document.close()
    return found


def drawn_pages(content: bytes, width_px: int, task: Task | None = None) -> list[QImage]:
    """Every page of a PDF at a width in pixels. Raises TaskCancelled."""
    import pypdfium2

    watched = task or SilentTask()
    pages: list[QImage] = []
    with _ONE_AT_A_TIME:
        document = pypdfium2.PdfDocument(content)
        try:
            for page in document:
                watched.check()
                picture = page.render(scale=width_px / page.get_width()).to_pil().convert("RGB")
                data = picture.tobytes()
                image = QImage(data, picture.width, picture.height, picture.width * 3, QImage.Format.Format_RGB888)
                pages.append(image.copy())
                page.close()
        finally:
            document.close()
    return pages
