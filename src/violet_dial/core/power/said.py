"""What a choice of battery is worth, in one sentence."""

import math

import numpy as np

from violet_dial.core.power.cells import AT_C, Chemistry
from violet_dial.core.power.lanes import HOURS_A_WEEK, HOURS_A_YEAR, Lane, Lanes

SCHOOLS = {
    "null": "Leave it: the bridge is read at its null, where the voltage falls out.",
    "diode": "a diode takes the voltage away, by more in bright light than in dim",
    "adapter": "an adapter takes the same voltage away in every light",
    "moved": "the scale is moved once, and is right for this kind of cell alone",
}
MOST_HOURS = 1_000_000


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


def time_words(hours: float) -> str:
    """Hours as a person says them.

    Parameters
    ----------
    hours : 0 or more, infinite too
    """
    if math.isinf(hours):
        return "as long as it is fed"
    for unit, size, least in (("years", HOURS_A_YEAR, 1.5), ("months", HOURS_A_YEAR / 12, 3.0), ("weeks", HOURS_A_WEEK, 2.0), ("days", 24.0, 3.0)):  # fmt: skip
        if hours >= least * size:
            return f"{hours / size:.2g} {unit}"
    return f"{hours:.2g} hours"


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
    kept = good.all(axis=0) & np.isfinite(every).any(axis=0)
    high, low = float(np.nanmax(every)), float(np.nanmin(every))
    way = f"{high:.2g} stop high" if high >= -low else f"{-low:.2g} stop low"
    if not kept.any():
        return f"up to {way}"
    marks = lanes.asked.marks[kept]
    worst_kept = float(np.nanmax(np.abs(every[:, kept])))
    whole = len(marks) == int(np.isfinite(every).any(axis=0).sum())
    if whole:
        return f"within {worst_kept:.2g} stop while it works"
    span = f"from Ev {marks[0]:.3g} up" if kept[-1] else f"up to Ev {marks[-1]:.3g}" if kept[0] else f"from Ev {marks[0]:.3g} to {marks[-1]:.3g}"
    return f"within {max(worst_kept, 0.005):.2g} stop {span}, elsewhere {way}"


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
        return f"about {kind.opened_weeks:g} weeks once opened, used or not"
    ended = "" if lane.ends >= len(lane.works) else f", then the device gives up at {100 * lanes.asked.left[lane.ends]:.0f} % of the charge"
    return f"{time_words(hours)} switched on{ended}"


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
