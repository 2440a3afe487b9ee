"""The picture of the choices as one frozen value: a lane for each, its band of error over the battery's life, and its words."""

import math
from dataclasses import dataclass

import numpy as np

from violet_dial.core.power.lanes import BatteryResult, BatteryResults
from violet_dial.core.power.said import error_short, life_words, opened_words, reason
from violet_dial.core.power.spoken import band_of, span_words
from violet_dial.core.quantities import format_signed
from violet_dial.report.dial import MarkState
from violet_dial.stations.power.bench import TEMPERATURES_C

Gap = float | None  # a share of the way up the scale of error, -1 to 1; None where nothing is followed
SCALE_STOPS = 2 / 3  # error at the edge of a lane


@dataclass(frozen=True)
class LaneShown:
    """One lane: ``low``, ``high`` the band of the error over the range of light and ``here`` that at the chosen light, for each
    state of charge, stops (None where the device does not follow); ``leaves`` the place where it leaves the tolerance for good,
    ``ends`` where the device gives up, as shares of the life from full, None where it never does."""

    name: str
    said: str
    mark: MarkState
    is_best: bool
    is_chosen: bool
    low: tuple[Gap, ...]
    high: tuple[Gap, ...]
    here: tuple[Gap, ...]
    leaves: float | None
    leaves_words: str
    ends: float | None
    error: str
    life: str
    reason: str


def _headline(lanes: BatteryResults, best: LaneShown | None) -> str:
    """The best choice in a few words."""
    if best is None:
        return "None of these: on no battery here does the device follow the light. Type another one below."
    if lanes.lanes[lanes.best].serves:
        return f"Best: {best.name}, {best.error}"
    return f"None keeps to the tolerance all its life; least wrong: {best.name}, {best.error}"


@dataclass(frozen=True)
class LanesShown:
    """All lanes at one light and one temperature; ``tolerance_stops`` at that light."""

    rows: tuple[LaneShown, ...]
    tolerance_stops: float
    ev100: float
    temperature_c: float
    headline: str
    stands: str


@dataclass(frozen=True)
class At:
    """What the keys have moved: places of the light among the marks and of the temperature."""

    light: int
    warm: int


def middle_light(lanes: BatteryResults) -> int:
    """The place of the middle one of the lights that the device follows on any choice; of all lights where it follows none."""
    followed = np.flatnonzero(np.any([np.isfinite(lane.error_stops).any(axis=(0, 1)) for lane in lanes.lanes], axis=0))
    return int(followed[len(followed) // 2]) if len(followed) else len(lanes.asked.marks) // 2


def lanes_shown(lanes: BatteryResults, at: At, chosen: str) -> LanesShown:
    """The lanes as they are drawn. ``chosen``: the battery that was taken for use, as it is said; empty for none."""
    rows = tuple(_row(lanes, place, at, chosen) for place in range(len(lanes.lanes)))
    marks = lanes.asked.marks
    ev100, warm = float(marks[at.light]), TEMPERATURES_C[at.warm]
    headline = _headline(lanes, rows[lanes.best] if lanes.best >= 0 else None)
    span = f"Ev {marks[0]:g} to {marks[-1]:g}"
    stands = f"Ev {ev100:g} · {warm:g} °C · {span} · made for {lanes.asked.design_v:.3g} V · {MODES[lanes.mode]}"
    return LanesShown(rows, float(lanes.asked.allowed[at.light]), ev100, warm, headline, stands)


MODES = {
    "needle": "read by the needle", "null": "a bridge, read at its null", "lamps": "read by its lamps",
    "time": "read by the time it gives",
}  # fmt: skip


def _row(lanes: BatteryResults, place: int, at: At, chosen: str) -> LaneShown:
    lane = lanes.lanes[place]
    errors = lane.errors[at.warm].error_stops
    there = [bool(np.isfinite(row).any()) for row in errors]
    low = [float(np.nanmin(row)) if ok else None for row, ok in zip(errors, there, strict=True)]
    high = [float(np.nanmax(row)) if ok else None for row, ok in zip(errors, there, strict=True)]
    here = [float(error) if math.isfinite(error) else None for error in errors[:, at.light]]
    states = len(lane.works)
    leaves = lane.leaves if 0 < lane.leaves < states else None
    ends = lane.ends if lane.ends < states else None
    return LaneShown(
        lane.choice.name, lane.choice.said, _mark(lane), place == lanes.best, lane.choice.said == chosen, tuple(low), tuple(high),
        tuple(here), None if leaves is None else (leaves - 1) / (states - 1), _leaves_words(lane),
        None if ends is None else ends / (states - 1), error_short(lane), life_words(lane, lanes), reason(lane, lanes),
    )  # fmt: skip


def _mark(lane: BatteryResult) -> MarkState:
    """Within all its life; for a part of it; high or low; nothing."""
    if math.isnan(lane.worst) or lane.ends == 0:
        return "empty"
    if lane.serves:
        return "inside"
    if lane.inside.any():
        return "undecided"
    middle = float(np.nanmean(lane.error_stops))
    return "high" if middle > 0 else "low"


def _leaves_words(lane: BatteryResult) -> str:
    """How long it keeps to the tolerance, at the place where it leaves it."""
    if not lane.inside.any():
        return "never within"
    kind = lane.choice.size.chemistry if lane.choice.size else None
    if kind is not None and kind.opened_weeks and lane.serves:
        return opened_words(kind).removesuffix(" once opened, used or not")
    hours = lane.hours_in_tolerance
    return "always" if math.isinf(hours) else span_words(*band_of(hours))


def lane_sentence(row: LaneShown, place: int, count: int) -> str:
    """A lane for a person who does not see it."""
    best = "Best. " if row.is_best else ""
    taken = "Taken. " if row.is_chosen else ""
    here = next((one for one in row.here if one is not None), None)
    fresh = "" if here is None else f" Fresh, at this light, {format_signed(here)} stop."
    return f"Choice {place + 1} of {count}. {best}{taken}{row.reason}{fresh}"
