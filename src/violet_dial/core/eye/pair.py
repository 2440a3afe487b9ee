"""A needle against the pointer of a ring that is turned to meet it: how far they stand apart, or that one covers the other.

Also whether a dial was moved before the camera: by how much two pictures of it are shifted.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import Face
from violet_dial.core.eye.needle import Contrast, Eye, NeedleReading, Refused, contrast_of, eye_of, find_line
from violet_dial.core.scipy_rooms import ndimage

Array = npt.NDArray[np.float64]

SIDE = 256  # points that a picture is looked at with
MOVED_PX, MARKS_PX = 1.2, 1.0  # a shift that is followed; how far off one by the marks is, of invented dials
MOST_SHARE = 0.06  # of its width: beyond it nothing is found again
ALIKE = 0.06  # height of the peak, of 1: below it the pictures are not of the same
AROUND_PX, OUT = 41, 0.3  # what a mark is compared with; as much as any one mark may add
SEEN_OUT, STEEP, LEAST_MARKS = 0.04, 2.0, 3  # the least that marks stand out by, of white, and against elsewhere
ACROSS_PX, ALONG_PX, NEAR_PX = 9.0, 4.0, 5.0  # how far from a mark it is looked for, how far along its ray, how wide it may be


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
        _whitened(ndimage.zoom(np.asarray(one, dtype=np.float32), scale, order=1) if scale < 1 else one) for one in (before, now)
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


def shifted(eye: Eye, shift: tuple[float, float]) -> Eye:
    """The eye of a dial that lies ``shift`` px to the right and down of where it was set up."""
    pivot = (eye.face.pivot[0] + shift[0], eye.face.pivot[1] + shift[1])
    there = eye_of(replace(eye.face, pivot=pivot))
    return replace(there, empty=eye.empty, shape=eye.shape, is_dark=eye.is_dark, wide_px=eye.wide_px)


def moved_from_marks(face: Face, picture: Array, near: tuple[float, float] | None = None) -> tuple[float, float] | None:
    """As `moved`, finer, and also for a dial of which no picture is at hand: how far its marks lie from where they were put, px
    to the right and down; None where they are not to be seen near there.

    What stands out of its surroundings is summed over the marks, shift by shift; then each mark says how far off it lies across
    its own ray: along it, a mark may have been put at either end.

    Parameters
    ----------
    picture : shape (h, w), brightness 0 to 1
    near : about so far, where `moved` told
    """
    fine = ndimage.gaussian_filter(picture, 1.0)
    stands_out = np.minimum(np.abs(fine - ndimage.uniform_filter(fine, AROUND_PX)), OUT)
    marks = np.array([(mark.x, mark.y) for mark in face.marks])
    coarse = _coarse_shift(marks, stands_out) if near is None else np.array(near)
    if coarse is None:
        return None
    rays = marks - face.pivot
    rays /= np.linalg.norm(rays, axis=1, keepdims=True)
    across = np.stack([-rays[:, 1], rays[:, 0]], axis=1)
    steps, along = np.arange(-ACROSS_PX, ACROSS_PX + 0.25, 0.5), np.arange(-ALONG_PX, ALONG_PX + 1.0)
    at = marks[:, None, None] + coarse + across[:, None, None] * steps[:, None, None] + rays[:, None, None] * along[:, None]
    profile = ndimage.map_coordinates(stands_out, (at[..., 1], at[..., 0]), order=1).mean(axis=2)
    profile = np.maximum(profile - np.median(profile, axis=1, keepdims=True), 0.0)
    top = profile > 0.8 * profile.max(axis=1, keepdims=True)
    middle = (top @ steps) / np.maximum(top.sum(axis=1), 1)
    profile *= np.abs(steps - middle[:, None]) < NEAR_PX
    off = (profile @ steps) / np.maximum(profile.sum(axis=1), 1e-9)
    use = profile.max(axis=1) > SEEN_OUT
    shift = np.zeros(2)
    for _round in range(3):
        if use.sum() < LEAST_MARKS:
            return None
        shift = np.linalg.lstsq(across[use], off[use], rcond=None)[0]
        use &= np.abs(across @ shift - off) < max(2.5 * float(np.median(np.abs(across[use] @ shift - off[use]))), 1.0)
    found = coarse + shift
    return float(found[0]), float(found[1])


def _coarse_shift(marks: Array, stands_out: Array) -> Array | None:
    """The shift in whole px with which most stands out where the marks are, shape (2,)."""
    tall, wide = stands_out.shape
    reach = int(MOST_SHARE * wide)
    padded = np.pad(stands_out, reach)
    total = np.zeros((2 * reach + 1, 2 * reach + 1))
    for x, y in marks:
        column, row = min(max(round(x), 0), wide - 1), min(max(round(y), 0), tall - 1)
        total += padded[row : row + 2 * reach + 1, column : column + 2 * reach + 1] / len(marks)
    place = np.unravel_index(int(np.argmax(total)), total.shape)
    if total[place] < max(SEEN_OUT, STEEP * float(np.median(total))):
        return None
    return np.array([place[1] - reach, place[0] - reach], dtype=float)


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


UNLIKE = 1.25  # times as wide as the needle a pointer must be to be told from it
COVERS = 0.85  # of the pointer's width: as wide is what is seen where it covers the needle
BESIDE = 1.1  # widths on each side of what was found, where nothing else is looked for
ALONE = "one pointer is seen alone: turn the ring until both are seen"


@dataclass(frozen=True)
class NeedlePair:
    """Needle less pointer in the scale's unit (0 where one covers the other), its standard uncertainty, and the pointer's width
    in px, by which it is known again."""

    apart: float
    u: float
    pointer_px: float


def read_pair(eye: Eye, picture: Array, pointer_px: float | None = None) -> NeedlePair | Refused:
    """A needle against the wider pointer of a ring.

    Raises InvalidInput: pictures of different shapes.

    Parameters
    ----------
    picture : float array, shape (h, w); brightness 0 to 1
    pointer_px : float or None; the pointer's width as it was read before: without it both must be seen apart
    """
    eye = replace(eye, wide_px=None)
    seen = contrast_of(eye, picture)
    if isinstance(seen, Refused):
        return seen
    first = _one(eye, seen)
    if isinstance(first, Refused):
        return first
    second = _one(eye, _without(eye, seen, first))
    if isinstance(second, Refused):
        return _covered(eye, first, pointer_px)
    needle, pointer = sorted((first, second), key=lambda one: one.width_px)
    if pointer.width_px < UNLIKE * needle.width_px:
        return Refused("needle and pointer look alike: which is which cannot be told")
    return NeedlePair(needle.value - pointer.value, math.hypot(needle.u, pointer.u), pointer.width_px)


def _one(eye: Eye, seen: Contrast) -> NeedleReading | Refused:
    """The stronger of what is darker and what is brighter than its ground."""
    signs = (-1.0, 1.0) if eye.is_dark is None else (-1.0 if eye.is_dark else 1.0,)
    found = [find_line(eye, replace(seen, values=sign * seen.values), alone=False) for sign in signs]
    read = [one for one in found if isinstance(one, NeedleReading)]
    return max(read, key=lambda one: one.z) if read else found[0]


def _without(eye: Eye, seen: Contrast, found: NeedleReading) -> Contrast:
    """The same with nothing where something was found."""
    near = BESIDE * found.width_px / eye.face.radius_px + math.radians(0.6)
    values = np.where(np.abs(eye.rays.angles - found.angle)[None] < near, 0.0, seen.values)
    return replace(seen, values=values)


def _covered(eye: Eye, seen: NeedleReading, pointer_px: float | None) -> NeedlePair | Refused:
    """One is seen: the pointer over the needle, where it is as wide as the pointer is."""
    if pointer_px is None or seen.width_px < COVERS * pointer_px:
        return Refused(ALONE)
    half = 0.5 * seen.width_px / eye.face.radius_px * abs(eye.face.slope_at(seen.angle))
    return NeedlePair(0.0, half / math.sqrt(3.0), pointer_px)
