"""A dial in a picture, from marks of its scale: pivot, tilt, and the law from angle to value."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import interpolate, optimize

Array = npt.NDArray[np.float64]
LEAST_MARKS, MOST_MARKS = 3, 60
MARK_PX = 0.6  # how well a mark is put, standard deviation; common practice, no source
SQUASH = 0.01  # of the circle by the tilt, standard deviation beforehand: five to eight degrees
LEAST_SPAN_DEG, MOST_SPAN_DEG = 15.0, 340.0
STRAIGHT = 1e-3  # marks that lie on a line to so much of their length make no dial
LOG_GAIN = 0.5  # the logarithm is taken where it leaves less than half of what the values themselves leave


@dataclass(frozen=True)
class ScaleMark:
    """A mark of the scale: where it is in the picture (px from the left and from the top), and its value."""

    x: float
    y: float
    value: float


@dataclass(frozen=True, eq=False)
class Face:
    """A dial set up. ``pivot`` in px; ``matrix`` takes the offset from it to the dial's plane, the scale at radius 1;
    ``angles`` of the marks in radians, rising, with their ``values``; ``is_log`` whether values run evenly by their
    logarithm; ``residual_px`` by which marks miss the circle, root mean square; ``check`` by how much each mark, left out, is
    missed, as a share of the scale (nan at the ends)."""

    marks: tuple[ScaleMark, ...]
    pivot: tuple[float, float]
    matrix: tuple[tuple[float, float], tuple[float, float]]
    angles: tuple[float, ...]
    values: tuple[float, ...]
    is_log: bool
    residual_px: float
    check: tuple[float, ...]

    @property
    def scale(self) -> float:
        """The whole scale in its values."""
        return abs(self.values[-1] - self.values[0])

    @property
    def radius_px(self) -> float:
        """Of the scale in the picture."""
        return 1.0 / math.sqrt(abs(np.linalg.det(np.array(self.matrix))))

    @property
    def worst_check(self) -> float:
        """The largest of the checks; 0 where none can be made."""
        known = [abs(one) for one in self.check if math.isfinite(one)]
        return max(known, default=0.0)

    def plane(self, points: Array) -> Array:
        """Points of the picture, shape (n, 2), in the dial's plane."""
        found: Array = (np.asarray(points, float) - self.pivot) @ np.array(self.matrix).T
        return found

    def picture(self, points: Array) -> Array:
        """Points of the dial's plane, shape (n, 2), in the picture."""
        return np.asarray(points, float) @ np.linalg.inv(np.array(self.matrix)).T + self.pivot

    def angle_of(self, points: Array) -> Array:
        """Angles of points of the plane, radians, turned so that they run on through the scale."""
        raw = np.arctan2(points[:, 1], points[:, 0])
        middle = 0.5 * (self.angles[0] + self.angles[-1])
        return middle + (raw - middle + math.pi) % (2 * math.pi) - math.pi

    def value_at(self, angle: float) -> float:
        """The value at an angle; a little beyond the ends it is carried on straight.

        ``angle``: float, radians, as `angle_of` gives it.
        """
        return float(_law(self.angles, self.values, self.is_log)(angle))

    def slope_at(self, angle: float) -> float:
        """Value for each radian at an angle. ``angle``: float, radians."""
        step = 1e-4
        return (self.value_at(angle + step) - self.value_at(angle - step)) / (2 * step)


class _law:
    """Monotone between the marks, straight beyond them."""

    def __init__(self, angles: tuple[float, ...], values: tuple[float, ...], is_log: bool) -> None:
        self._at, self._log = np.array(angles), is_log
        self._t = np.log(np.array(values)) if is_log else np.array(values)
        self._curve = interpolate.PchipInterpolator(self._at, self._t)

    def __call__(self, angle: float) -> float:
        held = min(max(angle, self._at[0]), self._at[-1])
        slope = float(self._curve(held, 1))
        if held != angle and abs(slope) < 1e-12:
            slope = float((self._t[-1] - self._t[0]) / (self._at[-1] - self._at[0]))
        found = float(self._curve(held)) + slope * (angle - held)
        return math.exp(found) if self._log else found


def face_of(marks: tuple[ScaleMark, ...], pivot: tuple[float, float] | None = None) -> Face:
    """A dial from marks of its scale.

    Raises InvalidInput: too few marks, not finite, on a line, two in one place, or values that neither rise nor fall round the
    dial.

    Parameters
    ----------
    marks : three or more, values rising or falling round the dial
    pivot : where the needle turns, px, where it can be seen; else it follows from the marks

    Source: Least squares of a circle seen at a slant; the slant is small beforehand (Gauss, 1 % of squash), so that three marks
    make a circle and many an ellipse.
    """
    points = _checked(marks)
    centre, radius = _circle(points) if pivot is None else (np.array(pivot, float), 0.0)
    if pivot is not None:
        radius = float(np.hypot(*(points - centre).T).mean())
    found = _slanted(points, centre, radius, pivot is not None)
    matrix = _matrix(*found[2:])
    plane = (points - found[:2]) @ matrix.T
    order, angles, values = _law_of(plane, np.array([mark.value for mark in marks]))
    miss = (np.hypot(*plane.T) - 1.0) * found[2]
    is_log = _is_log(angles, values)
    rows = (tuple(matrix[0].tolist()), tuple(matrix[1].tolist()))
    sorted_marks = tuple(marks[place] for place in order)
    return Face(
        sorted_marks, (float(found[0]), float(found[1])), rows, tuple(angles.tolist()), tuple(values.tolist()), is_log,
        float(np.sqrt(np.mean(miss**2))), _checks(angles, values, is_log),
    )  # fmt: skip


def _checked(marks: tuple[ScaleMark, ...]) -> Array:
    if not LEAST_MARKS <= len(marks) <= MOST_MARKS:
        raise InvalidInput("Marks", len(marks), f"{LEAST_MARKS} to {MOST_MARKS} marks of the scale with their values")
    points = np.array([(mark.x, mark.y) for mark in marks], float)
    if not np.isfinite(points).all() or not all(math.isfinite(mark.value) for mark in marks):
        raise InvalidInput("Marks", "not finite", "places in px and values, finite")
    apart = np.hypot(*(points[:, None] - points[None]).transpose(2, 0, 1)) + np.eye(len(points)) * 1e9
    if float(apart.min()) < 2.0:
        raise InvalidInput("Marks", "two in one place", "marks that lie apart in the picture")
    spread = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)
    if spread[1] < STRAIGHT * spread[0]:
        raise InvalidInput("Marks", "on a line", "marks along the arc of a scale")
    return points


def _circle(points: Array) -> tuple[Array, float]:
    """The circle nearest to points, by least squares of x² + y² (Kåsa)."""
    mean = points.mean(axis=0)
    local = points - mean
    size = float(np.hypot(*local.T).max())
    local = local / size
    matrix = np.column_stack([2 * local, np.ones(len(local))])
    solved, *_ = np.linalg.lstsq(matrix, (local**2).sum(axis=1), rcond=None)
    radius = math.sqrt(max(float(solved[2] + solved[0] ** 2 + solved[1] ** 2), 1e-9))
    return mean + size * solved[:2], size * radius


def make_ready() -> None:
    """Bring in what a dial is fitted with: most of a second the first time, so beside the window's work."""
    _ = optimize.least_squares, interpolate.PchipInterpolator


def _matrix(radius: float, along: float, across: float) -> Array:
    """From the picture to the plane: a circle squashed by e along a direction; e cos 2t and e sin 2t are its figures."""
    squash = np.array([[1 + along, across], [across, 1 - along]])
    return np.asarray(squash / radius)


def _slanted(points: Array, centre: Array, radius: float, is_seen: bool) -> Array:
    """Pivot x and y, radius, and the slant's two figures."""

    def miss(at: Array) -> Array:
        plane = (points - at[:2]) @ _matrix(*at[2:]).T
        off = (np.hypot(*plane.T) - 1.0) * at[2] / MARK_PX
        held = (at[:2] - centre) / (1.5 if is_seen else 1e6)
        return np.concatenate([off, at[3:] / SQUASH, held])

    start = np.array([*centre, radius, 0.0, 0.0])
    scale = np.array([radius, radius, radius, SQUASH, SQUASH])
    return np.asarray(optimize.least_squares(miss, start, x_scale=scale, max_nfev=200).x)


def _law_of(plane: Array, values: Array) -> tuple[list[int], Array, Array]:
    """Places of the marks round the dial, their angles running on, their values."""
    raw = np.arctan2(plane[:, 1], plane[:, 0])
    order = np.argsort(raw)
    gaps = np.diff(np.append(raw[order], raw[order][0] + 2 * math.pi))
    order = np.roll(order, -(int(np.argmax(gaps)) + 1))  # the scale begins after the widest gap
    angles = np.unwrap(raw[order])
    values = values[order]
    rises = np.diff(values)
    if not ((rises > 0).all() or (rises < 0).all()):
        raise InvalidInput("Marks", ", ".join(f"{value:g}" for value in values), "values that rise, or fall, round the dial")
    span = math.degrees(angles[-1] - angles[0])
    if not LEAST_SPAN_DEG <= span <= MOST_SPAN_DEG:
        raise InvalidInput("Marks", f"{span:.0f}° of the dial", f"{LEAST_SPAN_DEG:.0f} to {MOST_SPAN_DEG:.0f}°")
    return order.tolist(), angles, values


def _is_log(angles: Array, values: Array) -> bool:
    """Whether values run more evenly by their logarithm."""
    if len(values) < 4 or (values <= 0).any():
        return False

    def left(t: Array) -> float:
        line = np.polyval(np.polyfit(angles, t, 1), angles)
        return float(np.sqrt(np.mean((t - line) ** 2)) / np.ptp(t))

    return left(np.log(values)) < LOG_GAIN * left(values)


def _checks(angles: Array, values: Array, is_log: bool) -> tuple[float, ...]:
    """By how much each mark between the ends is missed when it is left out, as a share of the scale."""
    found = [math.nan] * len(angles)
    if len(angles) < 4:
        return tuple(found)
    for place in range(1, len(angles) - 1):
        rest = np.arange(len(angles)) != place
        law = _law(tuple(angles[rest].tolist()), tuple(values[rest].tolist()), is_log)
        found[place] = (law(float(angles[place])) - float(values[place])) / abs(float(values[-1] - values[0]))
    return tuple(found)
