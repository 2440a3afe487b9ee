"""Whether a dial was moved before the camera: by how much two pictures of it are shifted."""

import math

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import ndimage

Array = npt.NDArray[np.float64]
SIDE = 256  # points that a picture is looked at with
MOST_SHARE = 0.06  # of its width: beyond it nothing is found again
ALIKE = 0.06  # height of the peak, of 1: below it the pictures are not of the same


def moved(before: Array, now: Array) -> tuple[float, float] | None:
    """By how many px the second picture is shifted to the right and down; None where it is too far, or of something else.

    Raises InvalidInput: pictures of different shapes.

    Parameters
    ----------
    before, now : float array, shape (h, w); brightness

    Source: Phase correlation (Kuglin and Hines 1975, from memory), its peak by a parabola.
    """
    if before.shape != now.shape or before.ndim != 2:
        raise InvalidInput("Picture", f"{now.shape}", f"as large as the one before, {before.shape}")
    scale = min(SIDE / max(before.shape), 1.0)
    a, b = (
        _whitened(ndimage.zoom(np.asarray(one, dtype=np.float32), scale, order=1) if scale < 1 else one)
        for one in (before, now)
    )
    cross = np.fft.rfft2(b) * np.conj(np.fft.rfft2(a))
    size = np.abs(cross)
    peak = np.fft.irfft2(cross / np.maximum(size, 1e-9 * float(size.max())), s=a.shape)
    place = np.unravel_index(int(np.argmax(peak)), peak.shape)
    if float(peak[place]) < ALIKE:
        return None
    down, right = (_fine(peak, place, axis) for axis in (0, 1))
    found = right / scale, down / scale
    return found if math.hypot(*found) <= MOST_SHARE * before.shape[1] else None


def _whitened(picture: Array) -> Array:
    """Without its mean, falling off to the edges."""
    window = np.outer(np.hanning(picture.shape[0]), np.hanning(picture.shape[1]))
    return np.asarray((picture - picture.mean()) * window)


def _fine(peak: Array, place: tuple[np.intp, ...], axis: int) -> float:
    """Where the peak lies along an axis, between its points; beyond the middle it is a shift the other way."""
    count, at = peak.shape[axis], int(place[axis])

    def height(step: int) -> float:
        index = list(place)
        index[axis] = np.intp((at + step) % count)
        return float(peak[tuple(index)])

    left, middle, right = height(-1), height(0), height(1)
    bend = left - 2 * middle + right
    off = 0.5 * (left - right) / bend if bend < 0 else 0.0
    whole = at + min(max(off, -0.5), 0.5)
    return whole - count if whole > count / 2 else whole
