"""The dial as plain geometry: light runs around, error outward for high and inward for low.

One description serves the screen, the HTML sheet and the PDF. Coordinates: centre of the dial at (0, 0), radius of
zero error 1, x to the right, y up. Nothing here knows how it is painted.
"""

import math
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.calibration.assess import Assessment, JudgedReading
from violet_dial.core.calibration.curve import response
from violet_dial.core.quantities import format_signed

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


@dataclass(frozen=True)
class Line:
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
class Mark:
    """A reading (``index`` into the judged readings) or a light still to be read (``index`` -1)."""

    x: float
    y: float
    state: MarkState
    index: int = -1
    beyond: bool = False


@dataclass(frozen=True)
class Label:
    """A word of the scale, centred on its point."""

    x: float
    y: float
    text: str


@dataclass(frozen=True)
class Dial:
    """Everything to paint, in painting order: areas, lines, labels, marks, then the needle."""

    areas: tuple[Area, ...]
    lines: tuple[Line, ...]
    labels: tuple[Label, ...]
    marks: tuple[Mark, ...]
    needle: Line | None


@dataclass(frozen=True)
class Scale:
    """The scale of one dial: EV100 at both ends of the arc."""

    low: float
    high: float

    def at(self, ev100: float, radius: float) -> tuple[float, float]:
        share = (min(max(ev100, self.low), self.high) - self.low) / (self.high - self.low)
        angle = math.radians(START_DEGREES + share * (END_DEGREES - START_DEGREES))
        return (radius * math.cos(angle), radius * math.sin(angle))

    def at_error(self, ev100: float, error_stops: float) -> tuple[float, float]:
        limited = min(max(error_stops, -MOST_ERROR_STOPS), MOST_ERROR_STOPS)
        return self.at(ev100, 1 + STOP_RADIUS * limited)

    def arc(self, radius: float) -> tuple[tuple[float, float], ...]:
        steps = 96
        return tuple(self.at(self.low + (self.high - self.low) * n / steps, radius) for n in range(steps + 1))


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
    lines += [_bar(scale, one) for one in a.readings]
    marks = [_mark(scale, one, index) for index, one in enumerate(a.readings)]
    marks += [Mark(*scale.at(ev100, 1.0), "empty") for ev100 in request.to_read_ev100]
    needle = None
    if request.now_ev100 is not None:
        ends = (scale.at(request.now_ev100, SCALE_RADIUS - 0.19), scale.at(request.now_ev100, 1 - STOP_RADIUS * 1.1))
        needle = Line(ends, "needle")
    return Dial((_band(scale, a),), tuple(lines), labels, tuple(marks), needle)


def _band(scale: Scale, a: Assessment) -> Area:
    """The tolerance as a ring, wider at the ends of the range."""
    outer, inner = [], []
    lights = {round(level.ev100, 3): level.tolerance_stops for level in a.levels}
    width = (scale.high - scale.low) / max(round((scale.high - scale.low) / _BAND_STEP_EV), 1)
    for step in range(round((scale.high - scale.low) / width) + 1):
        ev100 = scale.low + step * width
        nearest = min(lights, key=lambda at: abs(at - ev100)) if lights else None
        tolerance = lights[nearest] if nearest is not None else 1 / 3
        outer.append(scale.at_error(ev100, tolerance))
        inner.append(scale.at_error(ev100, -tolerance))
    return Area((*outer, *reversed(inner)), "tolerance")


def _ticks(scale: Scale) -> tuple[list[Line], tuple[Label, ...]]:
    ticks, labels = [], []
    every = 1 if scale.high - scale.low <= 13 else 2
    for ev100 in range(math.ceil(scale.low), math.floor(scale.high) + 1):
        named = ev100 % every == 0
        length = 0.06 if named else 0.035
        ticks.append(Line((scale.at(ev100, SCALE_RADIUS), scale.at(ev100, SCALE_RADIUS + length)), "tick"))
        if named:
            labels.append(Label(*scale.at(ev100, LABEL_RADIUS), str(ev100)))
    rim = scale.at(scale.low, 1 + STOP_RADIUS)
    base = scale.at(scale.low, 1 - STOP_RADIUS)
    labels += [Label(rim[0], rim[1] - 0.06, "+1"), Label(base[0], base[1] - 0.06, "−1")]
    return ticks, tuple(labels)


def _curves(scale: Scale, request: DialRequest) -> list[Line]:
    curve = response(request.assessment)
    if len(curve.ev100) == 0:
        return []
    pairs = list(zip(curve.ev100, curve.before, curve.after, strict=True))
    found = Line(tuple(scale.at_error(float(x), float(e)) for x, e, _ in pairs), "found")
    after = Line(tuple(scale.at_error(float(x), float(e)) for x, _, e in pairs), "after", True)
    moved = abs(request.assessment.shift.stops) > 0.05 and request.show_after
    return [after, found] if moved else [found]


def _bar(scale: Scale, one: JudgedReading) -> Line:
    x, error, half = one.reading.reference_ev100, one.error_stops, one.expanded_uncertainty_stops
    return Line((scale.at_error(x, error - half), scale.at_error(x, error + half)), "bar")


def _mark(scale: Scale, one: JudgedReading, index: int) -> Mark:
    at = scale.at_error(one.reading.reference_ev100, one.error_stops)
    return Mark(*at, mark_state(one), index, abs(one.error_stops) > MOST_ERROR_STOPS)


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
