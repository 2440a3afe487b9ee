"""Words on a drawing, each beside its mark and off every other: the nearest side that is still free."""

from PySide6.QtCore import QPointF, QRectF, QSizeF

_BELOW, _RIGHT, _ABOVE, _LEFT = (0, 1), (1, 0), (0, -1), (-1, 0)
_CORNERS = ((1, 1), (-1, 1), (1, -1), (-1, -1))
UNDER = (_BELOW, _RIGHT, _ABOVE, _LEFT, *_CORNERS)
OVER = (_ABOVE, (1, -1), (-1, -1), _BELOW, _RIGHT, _LEFT, (1, 1), (-1, 1))
BESIDE = (_RIGHT, _LEFT, _BELOW, *_CORNERS, _ABOVE)
LATER = 14.0  # square pixels of overlap that a later side is worth
INK = 3.0  # pixels of a line's height, above and below, that letters seldom reach
OUTSIDE = 20.0  # times worse to lie outside the drawing than on other words


class WordPlaces:
    """Keeps what is taken on a drawing and finds room for the next words."""

    def __init__(self, within: QRectF) -> None:
        self._within = within
        self._taken: list[QRectF] = []

    def take(self, box: QRectF) -> None:
        """Nothing is to be written here."""
        self._taken.append(box)

    def room(self, at: QPointF, mark: QSizeF, words: QSizeF, sides: tuple[tuple[int, int], ...] = UNDER) -> QRectF:
        """Where words of this size go beside a mark of this size, the first of ``sides`` that is free; then taken.

        Where no side is free, the one that covers least.
        """
        boxes = [_beside(at, mark, words, side) for side in sides]
        best = min(enumerate(boxes), key=lambda pair: self._covered(pair[1]) + LATER * pair[0])[1]
        self.take(best.adjusted(0, INK, 0, -INK))
        return best

    def _covered(self, box: QRectF) -> float:
        inside = box & self._within
        outside = box.width() * box.height() - max(inside.width(), 0.0) * max(inside.height(), 0.0)
        shared = (box & other for other in self._taken if box.intersects(other))
        return OUTSIDE * outside + sum(one.width() * one.height() for one in shared)


def _beside(at: QPointF, mark: QSizeF, words: QSizeF, side: tuple[int, int]) -> QRectF:
    right, down = side
    along = 0.5 if right and down else 1.0  # at a corner, words may start over the mark's edge
    x = at.x() + right * along * (mark.width() + words.width()) / 2
    y = at.y() + down * (mark.height() + words.height()) / 2
    return QRectF(x - words.width() / 2, y - words.height() / 2, words.width(), words.height())
