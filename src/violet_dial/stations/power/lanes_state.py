"""The choices as one frozen value: a lane for each, its band of error over the battery's life, its words; the judgement on the
batteries down to its arithmetic.
"""

import math
from dataclasses import dataclass

import numpy as np

from violet_dial.core.power.budget import band_of, span_words
from violet_dial.core.power.device import lux_of
from violet_dial.core.power.lanes import BatteryResult, BatteryResults
from violet_dial.core.power.said import error_short, life_words, none_words, opened_words, reason
from violet_dial.core.quantities import format_engineering, format_signed
from violet_dial.report.dial import MarkState
from violet_dial.services.station import Section
from violet_dial.stations.power.bench import TEMPERATURES_C
from violet_dial.stations.power.work import PowerWorked

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
        return f"{none_words(lanes)} Type another one below."
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
        None if ends is None else ends / (states - 1), error_short(lane, lanes), life_words(lane, lanes), reason(lane, lanes),
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


TITLE = "How the batteries were judged"
STATES_SHOWN = 6


def opened(worked: PowerWorked, place: int, at: At) -> tuple[str, tuple[Section, ...]]:
    """One lane at one light and temperature, step by step, and what it rests on."""
    lanes = worked.lanes
    lane = lanes.lanes[place]
    sections = [
        ("The choice", (reason(lane, lanes),)),
        ("How it is read", (MODES[lanes.mode], HOW[lanes.mode])),
        ("Along the battery's life", _life(lane, lanes, at)),
        ("Over the range of light", _range(lane, lanes, at)),
        ("The cell", _cell(lane)),
        ("What is drawn", tuple(f"{state.words}\t{state.name}: {format_engineering(state.amp, 3)}A" for state in worked.states)),
    ]
    if worked.said:
        sections.insert(0, ("Not this device's own circuit", (worked.said,)))
    return TITLE, tuple(sections)


_LIGHT = "the light at which it does so when fed otherwise is what is really there. Error = mark − that light."
HOW = {
    "needle": f"At each mark of light the needle's place at the design voltage is the scale; {_LIGHT}",
    "null": f"At each mark the dial is turned until the needle is at null at the design voltage; {_LIGHT}",
    "lamps": f"A lamp changes where it has half of its full current; at the design voltage that is the mark; {_LIGHT}",
    "time": f"The time is C × volts / current until the magnet lets go; at the design voltage it is that of the mark; {_LIGHT}",
}


def _life(lane: BatteryResult, lanes: BatteryResults, at: At) -> tuple[str, ...]:
    """At the chosen light: the cell, the clips, the error, for some states of charge."""
    one = lane.errors[at.warm]
    shown = np.unique(np.linspace(0, len(lane.works) - 1, STATES_SHOWN).round().astype(int))
    ev100 = float(lanes.asked.marks[at.light])
    lux = format_engineering(float(lux_of(np.array(ev100))), 3)
    lines = [f"At Ev {ev100:g} ({lux}lx), {lanes.asked.temperatures_c[at.warm]:g} °C:"]
    for q in shown:
        error = one.error_stops[q, at.light]
        said = "does not follow" if np.isnan(error) else f"{format_signed(float(error), 3)} stop"
        lines.append(
            f"{100 * lanes.asked.left[q]:.0f} % left\tcell {one.cell_v[q]:.3f} V, clips {one.clip_v[q]:.3f} V, "
            f"{format_engineering(float(one.amp[q]), 3)}A: {said}; after {lane.hours[q]:.4g} h"
        )
    return tuple(lines)


def _range(lane: BatteryResult, lanes: BatteryResults, at: At) -> tuple[str, ...]:
    errors = lane.errors[at.warm].error_stops
    lines = []
    for place, ev100 in enumerate(lanes.asked.marks):
        column = errors[:, place]
        good = column[np.isfinite(column)]
        said = (
            "not followed"
            if not len(good)
            else f"{format_signed(float(good.min()), 3)} to {format_signed(float(good.max()), 3)} stop"
        )
        lines.append(f"Ev {ev100:g}\t{said}; tolerance ± {lanes.asked.allowed[place]:.2f}")
    return tuple(lines)


def _cell(lane: BatteryResult) -> tuple[str, ...]:
    size = lane.choice.size
    if size is None:
        return (f"A supply of {lane.choice.supply_v:g} V behind {lane.choice.supply_ohm:g} Ω.",)
    kind = size.chemistry
    lines = [
        f"{size.name}\t{size.cells} × {kind.name}, {1000 * size.ah:g} mAh, {size.ohm:g} Ω each when fresh. Source: {size.source}",
        f"Curves\t{kind.source}; loses {100 * kind.yearly_loss:g} % a year by itself",
    ]
    for diode in lane.choice.diodes:
        lines.append(
            f"{diode.name}\tIS {diode.is_a:.3g} A, N {diode.n:g}, RS {diode.rs_ohm:g} Ω, "
            f"EG {diode.eg_v:g} V, XTI {diode.xti:g} at 27 °C"
        )
    if kind.caution:
        lines.append(f"Caution\t{kind.caution}")
    return tuple(lines)
