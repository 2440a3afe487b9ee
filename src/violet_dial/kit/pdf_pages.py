"""Pages of a PDF as pictures: for the screen and for printers that are given pictures. One thread at a time."""

import threading

from PySide6.QtGui import QImage

from violet_dial.core.task import SilentTask, Task

_ONE_AT_A_TIME = threading.Lock()  # the PDF library ends the process when two threads are in it


def drawn_pages(content: bytes, width_px: int, task: Task | None = None) -> list[QImage]:
    """Every page of a PDF at a width in pixels.

    Raises
    ------
    TaskCancelled
    """
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
