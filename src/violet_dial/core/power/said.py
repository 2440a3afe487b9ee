"""What a choice of battery is worth, in one sentence."""

import numpy as np
import numpy.typing as npt

from violet_dial.core.power.budget import HOURS_A_WEEK, band_of, plain, span_words
from violet_dial.core.power.cells import AT_C, OPENED_SPREAD, Chemistry
from violet_dial.core.power.lanes import BatteryResult, BatteryResults

SCHOOLS = {
    "null": "Leave it: the bridge is read at its null, where the voltage falls out.",
    "diode": "a diode takes the voltage away, by more in bright light than in dim",
    "adapter": "an adapter takes the same voltage away in every light",
    "moved": "the scale is moved once, and is right for this kind of cell alone",
}


def source_words(lane: BatteryResult) -> str:
    """What feeds it, with its nominal voltage: ``Zinc-air 1.4 V (PR44)``."""
    size = lane.choice.size
    if size is None:
        return lane.choice.name
    volts = size.chemistry.nominal_v * size.cells
    with_ = lane.choice.name.removeprefix(size.name)
    return f"{size.chemistry.name.capitalize()} {volts:.3g} V ({size.name}){with_}"


def opened_words(kind: Chemistry) -> str:
    """How long a cell that needs air lasts."""
    low, high = ((1.0 + sign * OPENED_SPREAD) * kind.opened_weeks for sign in (-1, 1))
    return f"{plain(low)} to {plain(high)} weeks once opened, used or not"


def followed_words(lane: BatteryResult, lanes: BatteryResults) -> str:
    """Which of the lights asked for the device follows on it, where that is not all of them; empty where it is, and for none."""
    followed: npt.NDArray[np.bool_] = np.logical_or.reduce(np.isfinite(lane.error_stops.reshape(-1, len(lanes.asked.marks))))
    first, last = _longest(followed)
    if followed.all() or last < first:
        return ""
    marks = lanes.asked.marks
    span = f"Ev {marks[first]:.3g} to {marks[last]:.3g}" if last > first else f"Ev {marks[first]:.3g}"
    return f"follows {span} alone, there "


def none_words(lanes: BatteryResults) -> str:
    """Why none is to be taken."""
    known = [lane for lane in lanes.lanes if np.isfinite(lane.worst) and lane.choice.size is not None]
    if not known:
        return "None of these: the device follows the light on no battery here."
    least = min(known, key=lambda lane: lane.worst)
    return f"None of these is to be taken; least wrong: {least.choice.name}, {error_short(least, lanes)}."


def error_words(lane: BatteryResult, lanes: BatteryResults) -> str:
    """Which lights are followed where it is not all, the band of the error over life, light and temperature there, and where it
    keeps to the tolerance."""
    return followed_words(lane, lanes) + _error_words(lane, lanes)


def _error_words(lane: BatteryResult, lanes: BatteryResults) -> str:
    every = lane.error_stops.reshape(-1, len(lanes.asked.marks))
    if not np.isfinite(every).any():
        return "the device follows no light on it"
    worst = max(lane.worst, 0.005)
    if lane.serves:
        return f"within {worst:.2g} stop"
    with np.errstate(all="ignore"):
        good = (np.abs(every) <= lanes.asked.allowed + 1e-9) | np.isnan(every)
    followed = np.isfinite(every).any(axis=0)
    kept: npt.NDArray[np.bool_] = np.logical_and(good.all(axis=0), followed)
    first, last = _longest(kept)
    way = _way(every)
    if last - first < 1:
        return f"up to {way}"
    marks, worst_kept = lanes.asked.marks, max(float(np.nanmax(np.abs(every[:, first : last + 1]))), 0.005)
    if last - first + 1 == int(followed.sum()):
        return f"within {worst_kept:.2g} stop while it works"
    places = np.flatnonzero(followed)
    span = f"from Ev {marks[first]:.3g} to {marks[last]:.3g}"
    span = f"from Ev {marks[first]:.3g} up" if last == places[-1] else span
    span = f"up to Ev {marks[last]:.3g}" if first == places[0] else span
    return f"within {worst_kept:.2g} stop {span}, elsewhere {way}"


def error_short(lane: BatteryResult, lanes: BatteryResults) -> str:
    """The largest error, and which way, in a few words; where not all lights are followed, that first."""
    every = lane.error_stops
    if not np.isfinite(every).any():
        return "follows no light"
    followed = followed_words(lane, lanes)
    if lane.serves:
        return f"{followed}within {max(lane.worst, 0.005):.2g} stop"
    return f"{followed}up to {_way(every)}"


def _way(every: npt.NDArray[np.float64]) -> str:
    """The largest error and which way, of any shape with one figure in it."""
    high, low = float(np.nanmax(every)), float(np.nanmin(every))
    return f"{max(high, -low, 0.005):.2g} stop {'high' if high >= -low else 'low'}"


def _longest(kept: npt.NDArray[np.bool_]) -> tuple[int, int]:
    """First and last place of the longest unbroken run; the first behind the last where there is none."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], kept, [False]]).astype(int)))
    runs = list(zip(edges[::2], edges[1::2], strict=True))
    first, end = max(runs, key=lambda run: run[1] - run[0], default=(0, -1))
    return int(first), int(end) - 1


def life_words(lane: BatteryResult, lanes: BatteryResults) -> str:
    """How long it lasts, and what ends it."""
    size = lane.choice.size
    if size is None:
        return "a supply does not run down"
    kind: Chemistry = size.chemistry
    if kind.letter == "M":
        return "the reference; no longer to be had"
    if lane.ends == 0:
        return "does not run the device"
    hours = lane.hours_to_cutoff
    if kind.opened_weeks and hours >= kind.opened_weeks * HOURS_A_WEEK - 1:
        return opened_words(kind)
    ended = (
        ""
        if lane.ends >= len(lane.works)
        else f", then the device gives up at {100 * lanes.asked.left[lane.ends]:.0f} % of the charge"
    )
    return f"{span_words(*band_of(hours))} switched on{ended}"


def school_words(lane: BatteryResult, lanes: BatteryResults) -> str:
    """Why one does it so: the school it belongs to; empty for a plain cell in a meter that minds."""
    choice = lane.choice
    if lanes.mode == "null" and choice.is_plain:
        return SCHOOLS["null"]
    key = "diode" if choice.diodes else "adapter" if choice.adapter_v else "moved" if choice.moved else ""
    if key == "moved":
        return f"{SCHOOLS['moved']}: move it {lane.shift_stops:+.2f} stop".replace("-", "−")
    return SCHOOLS[key] if key else ""


def reason(lane: BatteryResult, lanes: BatteryResults) -> str:
    """One sentence: what feeds it, how far it is off, how long it lasts, and why."""
    why = school_words(lane, lanes)
    said = f"{source_words(lane)}: {error_words(lane, lanes)}; {life_words(lane, lanes)}."
    warm = lanes.asked.temperatures_c
    span = f"from {min(warm):g} to {max(warm):g}" if len(warm) > 1 else f"at {warm[0]:g}"
    at = f" Reckoned {span} °C.".replace("-", "−") if warm != (AT_C,) else ""
    return said + at + (f" {why[0].upper()}{why[1:]}{'' if why.endswith('.') else '.'}" if why else "")
