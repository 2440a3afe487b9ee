"""Named places on each kind of device, view by view.

Coordinates are fractions of the drawing of one view: x from left, y from top. They belong to the outlines that ship
with the application; the names are how places are spoken of at the bench.
"""

import math
from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.errors import InvalidInput

DeviceKind = Literal[
    "hand meter", "rangefinder compact", "reflex", "instant camera", "medium-format body", "board", "other"
]
View = Literal["front", "top", "back", "bottom"]
VIEWS: tuple[View, ...] = get_args(View)


@dataclass(frozen=True)
class OutlineSpot:
    """A named place at ``x``, ``y`` (0 to 1) of one view."""

    name: str
    x: float
    y: float


Spots = tuple[OutlineSpot, ...]


def _spots(*rows: tuple[str, float, float]) -> Spots:
    return tuple(OutlineSpot(*row) for row in rows)


_CAMERA_BOTTOM = _spots(
    ("battery cover", 0.28, 0.50), ("tripod bush", 0.52, 0.50), ("rewind button", 0.72, 0.36),
    ("base plate, left screw", 0.07, 0.50), ("base plate, right screw", 0.93, 0.50),
)  # fmt: skip

SPOTS: dict[DeviceKind, dict[View, Spots]] = {
    "hand meter": {
        "front": _spots(
            ("cell window", 0.50, 0.20), ("scale window", 0.50, 0.45), ("dial", 0.50, 0.75),
            ("zero screw", 0.78, 0.50), ("film-speed window", 0.50, 0.92), ("case seam", 0.14, 0.50),
        ),
        "top": _spots(("cell edge", 0.50, 0.35), ("dome rail", 0.28, 0.60), ("strap lug", 0.86, 0.60)),
        "back": _spots(
            ("back plate", 0.50, 0.40), ("top left screw", 0.17, 0.13), ("top right screw", 0.83, 0.13),
            ("bottom left screw", 0.17, 0.87), ("bottom right screw", 0.83, 0.87), ("battery door", 0.50, 0.74),
        ),
        "bottom": _spots(("battery contact", 0.50, 0.50), ("strap screw", 0.20, 0.50)),
    },
    "rangefinder compact": {
        "front": _spots(
            ("finder window", 0.26, 0.17), ("rangefinder window", 0.50, 0.16), ("meter cell", 0.70, 0.16),
            ("lens rings", 0.52, 0.58), ("shutter blades", 0.52, 0.62), ("self-timer lever", 0.78, 0.62),
            ("flash socket", 0.20, 0.60), ("covering", 0.14, 0.78),
        ),
        "top": _spots(
            ("rewind knob", 0.12, 0.50), ("accessory shoe", 0.44, 0.40), ("counter window", 0.70, 0.40),
            ("release", 0.79, 0.55), ("advance lever", 0.91, 0.50), ("film-speed dial", 0.60, 0.62),
        ),
        "back": _spots(
            ("eyepiece", 0.24, 0.16), ("back door", 0.50, 0.62), ("door hinge", 0.96, 0.60), ("door latch", 0.04, 0.60),
            ("light seal", 0.50, 0.30),
        ),
        "bottom": _CAMERA_BOTTOM,
    },
    "reflex": {
        "front": _spots(
            ("lens mount", 0.50, 0.60), ("mirror", 0.50, 0.55), ("prism housing", 0.50, 0.14), ("self-timer", 0.82, 0.55),
            ("stop-down lever", 0.68, 0.82), ("flash socket", 0.18, 0.45), ("covering", 0.12, 0.75),
        ),
        "top": _spots(
            ("rewind knob", 0.10, 0.50), ("accessory shoe", 0.50, 0.30), ("speed dial", 0.72, 0.45),
            ("release", 0.80, 0.58), ("advance lever", 0.92, 0.50), ("meter switch", 0.20, 0.62), ("counter window", 0.86, 0.30),
        ),
        "back": _spots(
            ("eyepiece", 0.50, 0.15), ("back door", 0.50, 0.65), ("light seal", 0.50, 0.36), ("door latch", 0.04, 0.60),
            ("curtain", 0.50, 0.55),
        ),
        "bottom": _CAMERA_BOTTOM,
    },
    "instant camera": {
        "front": _spots(
            ("lens", 0.50, 0.46), ("photocell", 0.72, 0.38), ("light-dark slider", 0.72, 0.58), ("flash tube", 0.50, 0.12),
            ("film door", 0.50, 0.86), ("release", 0.24, 0.44),
        ),
        "top": _spots(("flash contacts", 0.50, 0.40), ("finder", 0.24, 0.45), ("hinge", 0.85, 0.50)),
        "back": _spots(("eyepiece", 0.28, 0.22), ("counter window", 0.70, 0.26), ("pack chamber", 0.50, 0.66)),
        "bottom": _spots(("pack door latch", 0.50, 0.30), ("rollers", 0.50, 0.62), ("gear train", 0.88, 0.55)),
    },
    "medium-format body": {
        "front": _spots(
            ("lens mount", 0.50, 0.62), ("release", 0.16, 0.74), ("finder hood", 0.50, 0.12), ("coupling pin", 0.66, 0.82),
        ),
        "top": _spots(("finder catch", 0.50, 0.16), ("focusing screen", 0.50, 0.50), ("meter contacts", 0.18, 0.50)),
        "back": _spots(("film back", 0.50, 0.55), ("dark slide slot", 0.92, 0.30), ("back hooks", 0.50, 0.08)),
        "bottom": _spots(("tripod foot", 0.50, 0.50), ("rack screws", 0.20, 0.40), ("battery cover", 0.80, 0.50)),
    },
    "board": {
        "front": _spots(
            ("connector", 0.10, 0.50), ("chip", 0.45, 0.40), ("capacitor", 0.72, 0.28), ("flex join", 0.86, 0.62),
            ("switch contacts", 0.30, 0.78), ("trimmer", 0.62, 0.74),
        ),
        "top": _spots(("near edge", 0.50, 0.50),),
        "back": _spots(("tracks", 0.50, 0.45), ("joints", 0.75, 0.60), ("ground pad", 0.16, 0.20)),
        "bottom": _spots(("far edge", 0.50, 0.50),),
    },
}  # fmt: skip
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
    found = [pair for pair in every if pair[1].name == wanted] or [
        pair for pair in every if pair[1].name.startswith(wanted)
    ]
    if len(found) == 1:
        return found[0]
    names = ", ".join(spot.name for _, spot in (found or every))
    raise InvalidInput("Place", name, f"one of: {names}")
