"""Named places on each kind of device, view by view.

Coordinates are fractions of the drawing of one view: x from left, y from top. They belong to the outlines that ship
with the application; the names are how places are spoken of at the bench.
"""

import math
from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.errors import InvalidInput
from violet_dial.core.facts import facts

DeviceKind = Literal["hand meter", "rangefinder compact", "reflex", "instant camera", "medium-format body", "board", "other"]
View = Literal["front", "top", "back", "bottom"]
VIEWS: tuple[View, ...] = get_args(View)


@dataclass(frozen=True)
class OutlineSpot:
    """A named place at ``x``, ``y`` (0 to 1) of one view."""

    name: str
    x: float
    y: float


Spots = tuple[OutlineSpot, ...]


SPOTS: dict[str, dict[str, Spots]] = {
    kind: {view: tuple(OutlineSpot(*spot) for spot in spots) for view, spots in views.items()}
    for kind, views in facts("places").items()
}
SPOTS["other"] = SPOTS["board"]


def spots_of(kind: DeviceKind, view: View) -> Spots:
    """The named places of one view. ``kind``: kind of device."""
    return SPOTS[kind][view]


def nearest_spot(kind: DeviceKind, view: View, x: float, y: float) -> OutlineSpot:
    """The named place nearest to a point of the view.

    Parameters
    ----------
    kind : kind of device
    x : across the outline, 0 to 1
    y : down the outline, 0 to 1
    """
    return min(spots_of(kind, view), key=lambda spot: math.hypot(spot.x - x, spot.y - y))


def spot_named(kind: DeviceKind, name: str) -> tuple[View, OutlineSpot]:
    """View and place with this name; the beginning of the name is enough when only one begins so. ``kind``: kind of device."""
    wanted = name.strip().lower()
    every = [(view, spot) for view in VIEWS for spot in spots_of(kind, view)]
    found = [pair for pair in every if pair[1].name == wanted] or [pair for pair in every if pair[1].name.startswith(wanted)]
    if len(found) == 1:
        return found[0]
    names = ", ".join(spot.name for _, spot in (found or every))
    raise InvalidInput("Place", name, f"one of: {names}")


@dataclass(frozen=True)
class Hunt:
    """One place to look: minutes it costs, and why there."""

    place: str
    minutes: float
    why: str


def hunting_list(kind: DeviceKind, view: View) -> tuple[Hunt, ...]:
    """Places to look for a screw missing from this view of the device, cheapest first. ``kind``: kind of device."""
    known = facts("hunting")
    inside = known["inside"].get(kind, known["inside"]["camera"]).get(view, ())
    is_camera = kind not in ("hand meter", "board", "other")
    below = known["below"] if is_camera and view in ("top", "front") else ()  # loose parts travel down
    return tuple(sorted((Hunt(*place) for place in (*known["outside"], *inside, *below)), key=lambda hunt: hunt.minutes))
