"""A long signal for drawing: least and most over ever longer stretches, so that any part of it is drawn from a few thousand
figures.

Source: A pyramid of halves, as of pictures: common practice, no source.
"""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float32]
FIRST = 64  # samples in a stretch of the finest level; below it samples themselves are drawn
FACTOR = 4


class Pyramid:
    """Levels of least and most. ``read``: gives samples from a place to another."""

    def __init__(self, read: Callable[[int, int], npt.NDArray[np.float64]], count: int) -> None:
        self._read, self.count = read, count
        self._levels: list[tuple[Array, Array]] = []
        low, high = self._finest()
        while len(low):
            self._levels.append((low, high))
            if len(low) <= 2 * FACTOR:
                break
            edges = np.arange(0, len(low), FACTOR)
            low, high = np.minimum.reduceat(low, edges), np.maximum.reduceat(high, edges)
        self.span = (float(self._levels[-1][0].min()), float(self._levels[-1][1].max())) if self._levels else (0.0, 0.0)

    def _finest(self) -> tuple[Array, Array]:
        lows, highs = [], []
        piece = FIRST * 16_384
        for first in range(0, self.count, piece):
            part = self._read(first, min(first + piece, self.count)).astype(np.float32)
            edges = np.arange(0, len(part), FIRST)
            lows.append(np.minimum.reduceat(part, edges))
            highs.append(np.maximum.reduceat(part, edges))
        if not lows:
            return np.zeros(0, np.float32), np.zeros(0, np.float32)
        return np.concatenate(lows), np.concatenate(highs)

    def shown(self, first: int, last: int, columns: int) -> tuple[Array, Array]:
        """Least and most of each of so many columns between two places; fewer columns where there are fewer samples."""
        first, last = max(first, 0), min(last, self.count)
        if last - first <= columns * FIRST:
            part = self._read(first, last).astype(np.float32)
            return _columns(part, part, columns)
        level, size = 0, FIRST
        while level + 1 < len(self._levels) and (last - first) / (size * FACTOR) > 2 * columns:
            level, size = level + 1, size * FACTOR
        low, high = self._levels[level]
        return _columns(low[first // size : -(-last // size)], high[first // size : -(-last // size)], columns)


def _columns(low: Array, high: Array, columns: int) -> tuple[Array, Array]:
    if len(low) <= columns:
        return low, high
    edges = np.linspace(0, len(low), columns + 1).astype(int)[:-1]
    return np.minimum.reduceat(low, edges), np.maximum.reduceat(high, edges)
