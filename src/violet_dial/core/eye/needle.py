"""The needle on a dial: found against the picture without it, unrolled round the pivot, fitted as a line with its uncertainty;
what cannot be read is refused with its reason."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import Face
from violet_dial.core.scipy_rooms import ndimage

Array = npt.NDArray[np.float64]
FROM, TO = 0.38, 0.92  # of the scale's radius: where a needle is looked for
RADII = 40
STEP_PX = 0.7  # along the scale, between the rays
BEYOND = 0.08  # of the span, looked at beyond the ends
MOST_RAYS = 2_400
WIDEST_DEG = 7.0  # of a needle or a blade
LEAST_Z, LEAST_CONTRAST = 14.0, 0.035  # of the best ray over the noise of all; of full white
RIVAL, ALIKE = 0.55, 0.45  # of the best: another ray as strong is another needle; of its length, that another must have
COVERED = 0.55  # of the radii, that must show it
GLARE, GLARED = 0.985, 0.3  # of full white: nothing is seen there; of the radii along the needle
U_LEAST_PX = 0.12
PARALLAX = 0.001  # of the radius: a needle 2 % of it over the dial, 3 degrees off the axis; common practice, no source
MARKED_PX = 0.68  # how well marks were put
LAW_SHARE = 0.2  # of what the worst left-out mark is missed by, between marks: 95 of 100 readings then lie within two u
CHANGED, MOST_CHANGED = 0.07, 0.16  # of full white; of the dial, that may differ from the empty one
WIDER, BLUR_PX = 1.5, 4.0  # than the needle was before: what is seen then is none; what blur and shake add
UNSEEN = "no needle is seen"
OFF_PIVOT = 0.14  # of the radius: a line that passes farther from the pivot is no needle


@dataclass(frozen=True)
class NeedleReading:
    """A needle read: value, its standard uncertainty in the same unit, its angle (radians), its width (px), and contrast over
    noise."""

    value: float
    u: float
    angle: float
    width_px: float
    z: float


@dataclass(frozen=True)
class Refused:
    """Nothing was read, and why."""

    reason: str


@dataclass(frozen=True, eq=False)
class Contrast:
    """A picture along the rays less its ground, shape (radii, angles), and where glare hides it."""

    values: Array
    glare: npt.NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class _Rays:
    """The dial unrolled: angles, radii, and points of the picture, shape (radii, angles, 2)."""

    angles: Array
    radii: Array
    points: Array


def grey(picture: npt.NDArray[np.generic]) -> Array:
    """A picture as brightness 0 to 1.

    Raises InvalidInput: no such array.

    Parameters
    ----------
    picture : array, shape (h, w) or (h, w, 3); 0 to 1, or whole numbers to 255
    """
    found = np.asarray(picture)
    if found.ndim not in (2, 3) or min(found.shape[:2]) < 32:
        raise InvalidInput("Picture", found.shape, "a picture of 32 by 32 points or more")
    values = found.astype(np.float32) / (255.0 if found.dtype.kind in "ui" else 1.0)
    return np.asarray(values @ np.array([0.299, 0.587, 0.114], np.float32) if values.ndim == 3 else values)


def rays_of(face: Face) -> _Rays:
    """The rays along which a needle is looked for."""
    low, high = face.angles[0], face.angles[-1]
    beyond = BEYOND * (high - low)
    count = int(min(max((high - low + 2 * beyond) * face.radius_px / STEP_PX, 60), MOST_RAYS))
    angles = np.linspace(low - beyond, high + beyond, count)
    radii = np.linspace(FROM, TO, RADII)
    plane = radii[:, None, None] * np.stack([np.cos(angles), np.sin(angles)], axis=-1)[None]
    return _Rays(angles, radii, face.picture(plane.reshape(-1, 2)).reshape(RADII, count, 2))


def unrolled(picture: Array, rays: _Rays) -> Array:
    """A picture along the rays, shape (radii, angles).

    Parameters
    ----------
    picture : float array, shape (h, w)
    """
    x, y = rays.points[..., 0], rays.points[..., 1]
    found: Array = ndimage.map_coordinates(picture, (y, x), order=1, mode="nearest")
    return found


@dataclass(frozen=True, eq=False)
class Eye:
    """A dial set up to be read: its rays, the empty dial along them (None where there is no such picture), whether its needle is
    dark and how wide it is (None: not known yet)."""

    face: Face
    rays: _Rays
    empty: Array | None
    shape: tuple[int, int] | None
    is_dark: bool | None = None
    wide_px: float | None = None


def eye_of(face: Face, empty: Array | None = None, is_dark: bool | None = None, wide_px: float | None = None) -> Eye:
    """An eye for a dial.

    Parameters
    ----------
    empty : float array, shape (h, w); the dial without its needle; None where there is none
    is_dark : whether the needle is darker than its ground; None where that is not known
    wide_px : float or None; the needle's width as it was read before
    """
    rays = rays_of(face)
    shape = None if empty is None else (empty.shape[0], empty.shape[1])
    return Eye(face, rays, unrolled(empty, rays) if empty is not None else None, shape, is_dark, wide_px)


def read_needle(eye: Eye, picture: Array) -> NeedleReading | Refused:
    """The needle of a dial in a picture.

    Raises InvalidInput: pictures of different shapes.

    Parameters
    ----------
    picture : float array, shape (h, w); brightness 0 to 1
    """
    seen = contrast_of(eye, picture)
    if isinstance(seen, Refused):
        return seen
    signs = (-1.0, 1.0) if eye.is_dark is None else (-1.0 if eye.is_dark else 1.0,)
    tried = [find_line(eye, replace(seen, values=sign * seen.values)) for sign in signs]
    read = [one for one in tried if isinstance(one, NeedleReading)]
    if read:
        return max(read, key=lambda one: one.z)
    refused = [one for one in tried if isinstance(one, Refused)]
    return next((one for one in refused if one.reason != UNSEEN), refused[0])


def contrast_of(eye: Eye, picture: Array) -> Contrast | Refused:
    """A picture along the rays, less what would be seen without the needle.

    Raises InvalidInput: pictures of different shapes.

    Parameters
    ----------
    picture : float array, shape (h, w)
    """
    if eye.shape is not None and eye.shape != picture.shape:
        raise InvalidInput("Picture", f"{picture.shape}", f"as large as the one without the needle, {eye.shape}")
    seen = unrolled(picture, eye.rays)
    glare = seen > GLARE
    contrast = np.where(glare, 0.0, seen - _ground(seen, eye.empty, glare))
    if eye.empty is not None and float((np.abs(contrast) > CHANGED).mean()) > MOST_CHANGED:
        return Refused("something lies before the dial, or it was moved")
    return Contrast(contrast, glare)


def _ground(seen: Array, empty: Array | None, glare: npt.NDArray[np.bool_]) -> Array:
    """What would be seen without the needle: the empty dial under today's light, else what lies beside along the scale."""
    if empty is None:
        wide = max(int(seen.shape[1] * 0.12) | 1, 9)
        # Row by row: on one dimension SciPy moves its median along, on two it sorts at every place, in twenty times the time.
        return np.array([ndimage.median_filter(row, size=wide, mode="nearest") for row in seen])
    return np.asarray(empty * _lighting(seen, empty, glare))


def _lighting(seen: Array, empty: Array, glare: npt.NDArray[np.bool_]) -> Array:
    """Today's light over that of the empty picture: a plane over radius and angle, what does not fit it left out."""
    whole, terms = _planes(*seen.shape)
    ratio = (seen / np.maximum(empty, 0.02))[::2, ::4].reshape(-1)
    use = ~glare[::2, ::4].reshape(-1)
    solved = np.array([1.0, 0, 0, 0, 0])
    for _round in range(4):
        if use.sum() < 40:
            break
        solved, *_ = np.linalg.lstsq(terms[use], ratio[use], rcond=None)
        off = np.abs(ratio - terms @ solved)
        use = (off < 2.5 * max(float(np.median(off[use])), 1e-3)) & ~glare[::2, ::4].reshape(-1)
    return np.asarray(whole @ solved)


@lru_cache(maxsize=8)
def _planes(rows: int, columns: int) -> tuple[Array, Array]:
    """What today's light is made of over radius and angle, shape (rows, columns, 5), and a part of it, shape (n, 5)."""
    u, v = np.meshgrid(np.linspace(-1, 1, columns), np.linspace(-1, 1, rows))
    whole = np.stack([np.ones_like(u), u, v, u * v, u * u], axis=-1)
    return whole, np.ascontiguousarray(whole[::2, ::4].reshape(-1, 5))


def find_line(eye: Eye, seen: Contrast, alone: bool = True) -> NeedleReading | Refused:
    """The needle of one polarity.

    Parameters
    ----------
    seen : Contrast; positive where a needle is
    alone : whether another one as strong is a reason to refuse
    """
    face, rays, contrast, glare = eye.face, eye.rays, seen.values, seen.glare
    step = float(rays.angles[1] - rays.angles[0])
    smooth = ndimage.gaussian_filter1d(contrast, max(math.radians(0.35) / step, 0.8), axis=1, mode="nearest")
    shown = np.clip(smooth, 0, None)
    score = np.median(shown, axis=0) * 0.5 + shown.mean(axis=0) * 0.5
    noise = _noise(score)
    place = int(np.argmax(score))
    peak = float(score[place])
    z = peak / max(noise, 1e-6)
    if z < LEAST_Z or peak < LEAST_CONTRAST:
        blind = float(glare.mean())
        return Refused("glare hides the dial" if blind > 0.12 else UNSEEN)
    width = _width(score, place)
    wide_px = width * step * face.radius_px
    if width * step > math.radians(WIDEST_DEG) or (eye.wide_px is not None and wide_px > WIDER * eye.wide_px + BLUR_PX):
        return Refused("what is seen is too wide for a needle: a shadow, a hand, or glare")
    near = max(int(1.6 * width) + 2, int(math.radians(1.2) / step))
    if alone and (rival := _rival(shown, score, place, near)) is not None:
        return Refused(f"two needles are seen, at {_said(face, rays.angles[place])} and {_said(face, rays.angles[rival])}")
    return _fitted(face, rays, shown, glare, (place, near, width, z))


def _noise(score: Array) -> float:
    """Of rays where there is no needle."""
    middle = float(np.median(score))
    return 1.4826 * float(np.median(np.abs(score - middle))) + 0.25 * middle + 1e-4


def _width(score: Array, place: int) -> float:
    """Of the best ray, in rays, at half of its height."""
    half = 0.5 * float(score[place])
    left = right = place
    while left > 0 and score[left - 1] > half:
        left -= 1
    while right < len(score) - 1 and score[right + 1] > half:
        right += 1
    return float(right - left + 1)


def _rival(shown: Array, score: Array, place: int, near: int) -> int | None:
    """Another ray that is as strong, and over as much of its length; None where there is none."""
    rest = score.copy()
    rest[max(place - 2 * near, 0) : place + 2 * near + 1] = 0.0
    other = int(np.argmax(rest))
    if rest[other] < RIVAL * score[place]:
        return None
    own, theirs = shown[:, place], shown[:, max(other - near // 2, 0) : other + near // 2 + 1].max(axis=1)
    level = 0.35 * float(np.median(own[own > 0])) if (own > 0).any() else 0.0
    return other if float((theirs > level).mean()) > ALIKE else None


def _said(face: Face, angle: float) -> str:
    return f"{face.value_at(float(angle)):.3g}"


def _fitted(
    face: Face, rays: _Rays, shown: Array, glare: npt.NDArray[np.bool_], best: tuple[int, int, float, float]
) -> NeedleReading | Refused:
    """The line through the needle's middle at each radius, taken to the scale."""
    place, near, width, z = best
    first, last = max(place - near, 0), min(place + near + 1, shown.shape[1])
    window, angles = shown[:, first:last], rays.angles[first:last]
    tops = window.max(axis=1)
    level = 0.4 * float(np.quantile(tops, 0.7))
    blind = glare[:, first:last].mean(axis=1) > 0.25
    if float(blind.mean()) > GLARED:
        return Refused("glare hides the needle")
    use = (tops > level) & ~blind
    if float(use.mean()) < COVERED:
        return Refused("too little of the needle is seen")
    weight = np.clip(window - 0.35 * tops[:, None], 0, None)
    middle = (weight * angles).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-12)
    radii, middle, sizes = rays.radii[use], middle[use], tops[use]
    points = radii[:, None] * np.stack([np.cos(middle), np.sin(middle)], axis=1)
    base = float(np.median(middle))
    along, across = np.array([math.cos(base), math.sin(base)]), np.array([-math.sin(base), math.cos(base)])
    s, d = points @ along, points @ across
    kept = np.ones(len(s), dtype=bool)
    for _round in range(4):
        line, cov = np.polyfit(s[kept], d[kept], 1, w=np.sqrt(sizes[kept]), cov="unscaled")
        left = d - np.polyval(line, s)
        scatter = 1.4826 * float(np.median(np.abs(left[kept]))) + 1e-5
        kept = np.abs(left) < 3.5 * scatter + 1e-4
        if kept.sum() < 0.4 * RADII:
            return Refused("what is seen is not straight: no needle")
    slope, offset = float(line[0]), float(line[1])
    if abs(offset) > OFF_PIVOT:
        return Refused("what is seen does not pass through the pivot")
    angle = base + _meets(slope, offset)
    scatter = float(np.sqrt(np.mean(left[kept] ** 2)))
    spread = scatter * math.sqrt(float(np.array([1.0, 1.0]) @ cov @ np.array([1.0, 1.0])) * float(sizes[kept].mean()))
    return _reading(face, angle, spread, (width, z), float(rays.angles[1] - rays.angles[0]))


def _meets(slope: float, offset: float) -> float:
    """Where a line d = slope s + offset meets the circle of radius 1, as an angle from its own direction."""
    a, b, c = 1 + slope**2, 2 * slope * offset, offset**2 - 1
    s = (-b + math.sqrt(max(b * b - 4 * a * c, 0.0))) / (2 * a)
    return math.atan2(slope * s + offset, s)


def _reading(face: Face, angle: float, spread: float, how: tuple[float, float], step: float) -> NeedleReading | Refused:
    width, z = how
    low, high = face.angles[0], face.angles[-1]
    if not low - BEYOND * (high - low) * 0.9 <= angle <= high + BEYOND * (high - low) * 0.9:
        return Refused("the needle stands beyond the scale")
    pixel = 1.0 / face.radius_px
    marks = MARKED_PX * pixel / math.sqrt(2.0)  # of the marks on either side, as they were put
    u_angle = math.sqrt(spread**2 + (U_LEAST_PX * pixel) ** 2 + marks**2 + (0.06 * width * step) ** 2 + PARALLAX**2)
    law = LAW_SHARE * face.worst_check * face.scale if math.isfinite(face.worst_check) else 0.0
    u = math.hypot(abs(face.slope_at(angle)) * u_angle, law)
    return NeedleReading(face.value_at(angle), u, angle, width * step * face.radius_px, z)
