"""Words on a drawing keep off each other and inside."""

import unittest

from PySide6.QtCore import QPointF, QRectF, QSizeF

from violet_dial.kit.word_places import WordPlaces

MARK, WORDS = QSizeF(20, 16), QSizeF(60, 14)


class WordPlacesTest(unittest.TestCase):
    def test_free_ground_takes_the_first_side(self) -> None:
        box = WordPlaces(QRectF(0, 0, 400, 200)).room(QPointF(100, 100), MARK, WORDS)
        self.assertEqual(box, QRectF(70, 108, 60, 14))

    def test_neighbours_closer_than_their_words_do_not_touch(self) -> None:
        places = WordPlaces(QRectF(0, 0, 400, 200))
        boxes = [places.room(QPointF(x, 100), MARK, WORDS) for x in (100, 140, 180)]
        for at, one in enumerate(boxes):
            for other in boxes[at + 1 :]:
                self.assertFalse(one.intersects(other), (one, other))

    def test_words_stay_inside_and_off_what_is_taken(self) -> None:
        places = WordPlaces(QRectF(0, 0, 200, 120))
        places.take(QRectF(110, 60, 90, 60))
        box = places.room(QPointF(190, 50), MARK, WORDS)
        self.assertTrue(QRectF(0, 0, 200, 120).contains(box), box)
        self.assertFalse(box.intersects(QRectF(110, 60, 90, 60)), box)


if __name__ == "__main__":
    unittest.main()
