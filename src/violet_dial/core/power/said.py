"""What a choice of battery is worth, in one sentence."""

import math

import numpy as np
import numpy.typing as npt

from violet_dial.core.power.budget import COVERS, SPREAD
from violet_dial.core.power.cells import AT_C, OPENED_SPREAD, Chemistry
from violet_dial.core.power.lanes import HOURS_A_WEEK, HOURS_A_YEAR, Lane, Lanes

SCHOOLS = {
    "null": "Leave it: the bridge is read at its null, where the voltage falls out.",
    "diode": "a diode takes the voltage away, by more in bright light than in dim",
    "adapter": "an adapter takes the same voltage away in every light",
    "moved": "the scale is moved once, and is right for this kind of cell alone",
}


def source_words(lane: Lane) -> str:
    """What feeds it, with its nominal voltage: ``Zinc-air 1.4 V (PR44)``.

    Parameters
    ----------
    lane : judged
    """
    size = lane.choice.size
    if size is None:
        return lane.choice.name
    volts = size.chemistry.nominal_v * size.cells
    with_ = lane.choice.name.removeprefix(size.name)
    return f"{size.chemistry.name.capitalize()} {volts:.3g} V ({size.name}){with_}"


UNITS = (("years", HOURS_A_YEAR, 1.5), ("months", HOURS_A_YEAR / 12, 3.0), ("weeks", HOURS_A_WEEK, 2.0), ("days", 24.0, 3.0))


def span_words(low: float, high: float) -> str:
    """A span of hours as a person says it: ``6 to 15 months``.

    Parameters
    ----------
    low, high : hours, 0 or more
    """
    unit, size = next(((unit, size) for unit, size, least in UNITS if high >= least * size), ("hours", 1.0))
    said = [_plain(one / size) for one in (low, high)]
    return f"{said[0]} to {said[1]} {unit}" if said[0] != said[1] else f"{said[0]} {unit}"


def _plain(value: float) -> str:
    return f"{value:.0f}" if value >= 9.5 else f"{value:.2g}"


def band_of(hours: float) -> tuple[float, float]:
    """A band of 95 % about hours reckoned with the capacity that is printed.

    Parameters
    ----------
    hours : reckoned
    """
    return hours * math.exp(-COVERS * SPREAD), hours * math.exp(COVERS * SPREAD)


def opened_words(kind: Chemistry) -> str:
    """How long a cell that needs air lasts.

    Parameters
    ----------
    kind : of the cell
    """
    low, high = ((1.0 + sign * OPENED_SPREAD) * kind.opened_weeks for sign in (-1, 1))
    return f"{_plain(low)} to {_plain(high)} weeks once opened, used or not"


def error_words(lane: Lane, lanes: Lanes) -> str:
    """The band of the error over life, light and temperature, and where it keeps to the tolerance.

    Parameters
    ----------
    lane : judged
    lanes : all of them
    """
    every = lane.error_stops.reshape(-1, len(lanes.asked.marks))
    if not np.isfinite(every).any():
        return "the device follows no light on it"
    worst = max(lane.worst, 0.005)
    if lane.serves:
        return f"within {worst:.2g} stop"
    with np.errstate(all="ignore"):
        good = (np.abs(every) <= lanes.asked.allowed + 1e-9) | np.isnan(every)
    followed = np.isfinite(every).any(axis=0)
    first, last = _longest(good.all(axis=0) & followed)
    high, low = float(np.nanmax(every)), float(np.nanmin(every))
    way = f"{high:.2g} stop high" if high >= -low else f"{-low:.2g} stop low"
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


def _longest(kept: npt.NDArray[np.bool_]) -> tuple[int, int]:
    """First and last place of the longest unbroken run; the first behind the last where there is none."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], kept, [False]]).astype(int)))
    runs = list(zip(edges[::2], edges[1::2], strict=True))
    first, end = max(runs, key=lambda run: run[1] - run[0], default=(0, -1))
    return int(first), int(end) - 1


def life_words(lane: Lane, lanes: Lanes) -> str:
    """How long it lasts, and what ends it.

    Parameters
    ----------
    lane : judged
    lanes : all of them
    """
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
    ended = "" if lane.ends >= len(lane.works) else f", then the device gives up at {100 * lanes.asked.left[lane.ends]:.0f} % of the charge"
    return f"{span_words(*band_of(hours))} switched on{ended}"


def school_words(lane: Lane, lanes: Lanes) -> str:
    """Why one does it so: the school it belongs to; empty for a plain cell in a meter that minds.

    Parameters
    ----------
    lane : judged
    lanes : all of them
    """
    choice = lane.choice
    if lanes.mode == "null" and choice.is_plain:
        return SCHOOLS["null"]
    key = "diode" if choice.diodes else "adapter" if choice.adapter_v else "moved" if choice.moved else ""
    if key == "moved":
        return f"{SCHOOLS['moved']}: move it {lane.shift_stops:+.2f} stop".replace("-", "−")
    return SCHOOLS[key] if key else ""


def reason(lane: Lane, lanes: Lanes) -> str:
    """One sentence: what feeds it, how far it is off, how long it lasts, and why.

    Parameters
    ----------
    lane : judged
    lanes : all of them
    """
    why = school_words(lane, lanes)
    said = f"{source_words(lane)}: {error_words(lane, lanes)}; {life_words(lane, lanes)}."
    warm = [one for one in lanes.asked.temperatures_c if one != AT_C]
    at = f" Reckoned at {', '.join(f'{one:g}' for one in lanes.asked.temperatures_c)} °C." if warm else ""
    return said + at + (f" {why[0].upper()}{why[1:]}{'' if why.endswith('.') else '.'}" if why else "")
