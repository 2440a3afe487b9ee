"""A picture's shapes: Qt and SVG draw the same, marks by one description, and a view makes them only when something changed."""

import unittest
from collections.abc import Iterable

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QByteArray
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from tests.gui.window import application
from violet_dial.kit.picture import PictureView, paint
from violet_dial.kit.theme.look import Look
from violet_dial.report.palette import STATE_ROLES
from violet_dial.report.shapes import Box, Caption, Circle, Filled, Polyline, Ready, Shape, Sign, Strokes, svg

SIDE = 200
FEW = 0.012  # of all points, that may differ: edges are smoothed otherwise
ALL: tuple[Shape, ...] = (
    Box((10, 10), (60, 40), "band", "line", 2.0, 6.0), Polyline(((10, 70), (90, 60), (120, 90)), "violet", 2.0),
    Strokes((((10, 100), (10, 130)), ((20, 100), (20, 130))), "within", 2.0),
    Filled(((130, 20), (190, 20), (160, 70)), "out", 0.5),
    Circle((150, 120), 20, "ink", "card", 2.0), *(Sign((20 + 30 * n, 170), state, 9) for n, state in enumerate(STATE_ROLES)),
)  # fmt: skip


def blank() -> QImage:
    image = QImage(SIDE, SIDE, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    return image


def points(image: QImage) -> npt.NDArray[np.int16]:
    held = image.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(held.constBits(), np.uint8).reshape(SIDE, held.bytesPerLine())
    return rows[:, : 3 * SIDE].astype(np.int16)


class Both(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.look = Look()

    def by_qt(self, shapes: Iterable[Shape]) -> npt.NDArray[np.int16]:
        image = blank()
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint(painter, self.look, shapes)
        painter.end()
        return points(image)

    def by_svg(self, shapes: Iterable[Shape]) -> npt.NDArray[np.int16]:
        image = blank()
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        QSvgRenderer(QByteArray(svg((SIDE, SIDE), shapes).encode())).render(painter)
        painter.end()
        return points(image)

    def test_screen_and_paper_show_the_same(self) -> None:
        for shape in ALL:
            with self.subTest(shape):
                screen, paper = self.by_qt((shape,)), self.by_svg((shape,))
                self.assertGreater(int(np.count_nonzero(screen < 250)), 60, "something is drawn")
                self.assertLess(np.mean(np.abs(screen - paper) > 90), FEW)
        self.assertLess(np.mean(np.abs(self.by_qt(ALL) - self.by_svg(ALL)) > 90), FEW)

    def test_what_is_for_paper_alone_is_not_on_the_screen(self) -> None:
        ready = Ready('<rect x="0" y="0" width="200" height="200" fill="#000000"/>')
        self.assertEqual(int(self.by_qt((ready,)).min()), 255)
        self.assertLess(int(self.by_svg((ready,)).max()), 10)

    def test_words_end_where_they_are_told_to(self) -> None:
        for anchor, left, right in (("start", 100, 190), ("middle", 60, 140), ("end", 10, 101)):
            columns = np.nonzero((self.by_qt((Caption((100, 100), "nine words", 13, anchor=anchor),)) < 128).any(axis=0))[0] / 3
            with self.subTest(anchor):
                self.assertTrue(left <= columns.min() and columns.max() <= right, (columns.min(), columns.max()))
        cut = self.by_qt((Caption((0, 100), "much too long for so little room", 13, most=60),))
        self.assertLess(np.nonzero((cut < 128).any(axis=0))[0].max() / 3, 62)


class Counting(PictureView):
    """Counts how often its shapes are made."""

    made = 0

    def least(self) -> tuple[float, float]:
        return 120, 60

    def shapes(self) -> Iterable[Shape]:
        self.made += 1
        yield Sign((20, 20), "inside")


class Views(unittest.TestCase):
    def test_shapes_are_made_when_something_changed(self) -> None:
        application()
        look = Look()
        view = Counting(look)
        view.resize(200, 100)
        for _ in range(3):
            view.grab()
        self.assertEqual(view.made, 1)
        view.draw_anew()
        view.grab()
        view.resize(300, 100)
        view.grab()
        look.set_look("night", 150)
        view.grab()
        self.assertEqual(view.made, 4)
        self.assertEqual((view.minimumSizeHint().width(), view.minimumSizeHint().height()), (180, 90))


if __name__ == "__main__":
    unittest.main()
