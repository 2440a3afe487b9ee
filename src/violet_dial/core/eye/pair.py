"""A needle against the pointer of a ring that is turned to meet it: how far they stand apart, or that one covers the other."""

import math
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.eye.needle import Contrast, Eye, NeedleReading, Refused, contrast_of, find_line

Array = npt.NDArray[np.float64]
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
