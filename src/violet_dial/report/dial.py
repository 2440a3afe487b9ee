"""The dial as plain geometry: light runs around, error outward for high and inward for low.

One description serves the screen, the HTML sheet and the PDF. Coordinates: centre of the dial at (0, 0), radius of
zero error 1, x to the right, y up. Nothing here knows how it is painted.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from violet_dial.core.calibration.assess import Assessment, JudgedReading, response
from violet_dial.core.calibration.readings import Array
from violet_dial.core.quantities import format_signed

Points = tuple[tuple[float, float], ...]
Role = Literal["tolerance", "zero", "limit", "found", "after", "tick", "bar", "needle"]
MarkState = Literal["inside", "high", "low", "undecided", "empty"]

STOP_RADIUS = 0.22  # radius of one stop of error
MOST_ERROR_STOPS = 1.25  # larger errors are drawn at the rim, with an arrow
SCALE_RADIUS = 0.60  # outer end of the scale ticks
LABEL_RADIUS = 0.525
START_DEGREES, END_DEGREES = 176.0, 4.0
MARGIN_EV = 0.8  # scale beyond the range at either end
OUTER_RADIUS = 1 + STOP_RADIUS * MOST_ERROR_STOPS
_BAND_STEP_EV = 0.25


class Line(NamedTuple):
    """A polyline; ``dashed`` where it is a prediction or a limit."""

    points: tuple[tuple[float, float], ...]
    role: Role
    dashed: bool = False


@dataclass(frozen=True)
class Area:
    """A filled outline."""

    points: tuple[tuple[float, float], ...]
    role: Role


@dataclass(frozen=True)
class DialPoint:
    """A reading (``index`` into the judged readings) or a light still to be read (``index`` -1)."""

    x: float
    y: float
    state: MarkState
    index: int = -1
    beyond: bool = False


class DialLabel(NamedTuple):
    """A word of the scale, centred on its point."""

    x: float
    y: float
    text: str


@dataclass(frozen=True)
class Dial:
    """Everything to paint, in painting order: areas, lines, labels, marks, then the needle."""

    areas: tuple[Area, ...]
    lines: tuple[Line, ...]
    labels: tuple[DialLabel, ...]
    marks: tuple[DialPoint, ...]
    needle: Line | None


@dataclass(frozen=True)
class Scale:
    """The scale of one dial: EV100 at both ends of the arc."""

    low: float
    high: float

    def points(self, ev100: Array, radius: Array | float) -> Points:
        """Points at lights and radii, both shape (n,); lights beyond the scale are kept at its end."""
        share = (np.clip(ev100, self.low, self.high) - self.low) / (self.high - self.low)
        angle = np.radians(START_DEGREES + share * (END_DEGREES - START_DEGREES))
        x, y = radius * np.cos(angle), radius * np.sin(angle)
        return tuple(zip(x.tolist(), y.tolist(), strict=True))

    def at(self, ev100: float, radius: float) -> tuple[float, float]:
        return self.points(np.array([ev100]), radius)[0]

    def at_errors(self, ev100: Array, error_stops: Array) -> Points:
        """Points of errors at lights; errors too large for the dial are kept at its rim."""
        return self.points(ev100, 1 + STOP_RADIUS * np.clip(error_stops, -MOST_ERROR_STOPS, MOST_ERROR_STOPS))

    def arc(self, radius: float) -> Points:
        return _arc(self, radius)


@lru_cache(maxsize=16)
def _arc(scale: Scale, radius: float) -> Points:
    return scale.points(np.linspace(scale.low, scale.high, 97), radius)


@dataclass(frozen=True)
class DialRequest:
    """What to draw: the assessment, where the meter shows now (EV100), lights still to read, with curves or not."""

    assessment: Assessment
    now_ev100: float | None = None
    to_read_ev100: tuple[float, ...] = ()
    show_after: bool = True


def mark_state(judged: JudgedReading) -> MarkState:
    """Shape of a reading's mark: round within, triangle up or down outside, half undecided."""
    if judged.state == "outside":
        return "high" if judged.error_stops > 0 else "low"
    return judged.state


def scale_for(assessment: Assessment) -> Scale:
    """The scale that holds the meter's range and every reading."""
    lights = [one.reading.reference_ev100 for one in assessment.readings]
    low, high = min([assessment.span[0], *lights]), max([assessment.span[1], *lights])
    return Scale(low - MARGIN_EV, max(high, low + 1) + MARGIN_EV)


def draw_dial(request: DialRequest) -> Dial:
    """The dial of one assessment."""
    a = request.assessment
    scale = scale_for(a)
    ticks, labels = _ticks(scale)
    lines = [Line(scale.arc(1 + STOP_RADIUS), "limit", True), Line(scale.arc(1 - STOP_RADIUS), "limit", True)]
    lines += [Line(scale.arc(1.0), "zero"), *ticks]
    lines += _curves(scale, request)
    lines += _bars(scale, a.readings)
    marks = _marks(scale, a.readings)
    marks += [DialPoint(*scale.at(ev100, 1.0), "empty") for ev100 in request.to_read_ev100]
    return Dial((_band(scale, a),), tuple(lines), labels, tuple(marks), needle_at(a, request.now_ev100))


def needle_at(assessment: Assessment, now_ev100: float | None) -> Line | None:
    """The needle where the meter shows now; None when nothing is shown."""
    if now_ev100 is None:
        return None
    scale = scale_for(assessment)
    ends = (scale.at(now_ev100, SCALE_RADIUS - 0.19), scale.at(now_ev100, 1 - STOP_RADIUS * 1.1))
    return Line(ends, "needle")


def _band(scale: Scale, a: Assessment) -> Area:
    """The tolerance as a ring, wider at the ends of the range."""
    steps = max(round((scale.high - scale.low) / _BAND_STEP_EV), 1)
    x = np.linspace(scale.low, scale.high, steps + 1)
    tolerance = np.full_like(x, 1 / 3)
    if a.levels:
        lights = np.array([level.ev100 for level in a.levels])
        nearest = np.argmin(np.abs(x[:, None] - lights), axis=1)
        tolerance = np.array([level.tolerance_stops for level in a.levels])[nearest]
    return Area((*scale.at_errors(x, tolerance), *reversed(scale.at_errors(x, -tolerance))), "tolerance")


@lru_cache(maxsize=8)
def _ticks(scale: Scale) -> tuple[tuple[Line, ...], tuple[DialLabel, ...]]:
    ticks, labels = [], []
    every = 1 if scale.high - scale.low <= 13 else 2
    for ev100 in range(math.ceil(scale.low), math.floor(scale.high) + 1):
        named = ev100 % every == 0
        length = 0.06 if named else 0.035
        ticks.append(Line((scale.at(ev100, SCALE_RADIUS), scale.at(ev100, SCALE_RADIUS + length)), "tick"))
        if named:
            labels.append(DialLabel(*scale.at(ev100, LABEL_RADIUS), str(ev100)))
    rim = scale.at(scale.low, 1 + STOP_RADIUS)
    base = scale.at(scale.low, 1 - STOP_RADIUS)
    labels += [DialLabel(rim[0], rim[1] - 0.06, "+1"), DialLabel(base[0], base[1] - 0.06, "−1")]
    return tuple(ticks), tuple(labels)


def _curves(scale: Scale, request: DialRequest) -> list[Line]:
    curve = response(request.assessment)
    if len(curve.ev100) == 0:
        return []
    found = Line(scale.at_errors(curve.ev100, curve.before), "found")
    after = Line(scale.at_errors(curve.ev100, curve.after), "after", True)
    moved = abs(request.assessment.shift.stops) > 0.05 and request.show_after
    return [after, found] if moved else [found]


def _bars(scale: Scale, readings: tuple[JudgedReading, ...]) -> list[Line]:
    """The expanded uncertainty of each reading."""
    x = np.array([one.reading.reference_ev100 for one in readings])
    error = np.array([reading.error_stops for reading in readings])
    half = np.array([reading.expanded_uncertainty_stops for reading in readings])
    ends = zip(scale.at_errors(x, error - half), scale.at_errors(x, error + half), strict=True)
    return [Line(pair, "bar") for pair in ends]


def _marks(scale: Scale, readings: tuple[JudgedReading, ...]) -> list[DialPoint]:
    x = np.array([one.reading.reference_ev100 for one in readings])
    places = scale.at_errors(x, np.array([reading.error_stops for reading in readings]))
    return [
        DialPoint(*place, mark_state(one), index, abs(one.error_stops) > MOST_ERROR_STOPS)
        for index, (place, one) in enumerate(zip(places, readings, strict=True))
    ]


STATE_WORDS: dict[MarkState, str] = {
    "inside": "within", "high": "too high", "low": "too low", "undecided": "undecided, take it again", "empty": "not taken",
}  # fmt: skip


def reading_sentence(one: JudgedReading) -> str:
    """One reading said in a sentence, for a screen reader and for the tip."""
    reading = one.reading
    way = f", light {reading.direction}" if reading.direction else ""
    held = f", held {reading.attitude}" if reading.attitude else ""
    return (
        f"At Ev {reading.reference_ev100:.1f}{way}{held} it read {reading.indicated_ev100:.1f}: "
        f"{format_signed(one.error_stops)} ± {one.expanded_uncertainty_stops:.2f} stop, {STATE_WORDS[mark_state(one)]}."
    )
