"""Where to look for a screw that is missing: the cheapest places first.

Source: Common practice, no source: what falls inside follows gravity past the nearest opening, and the outside costs nothing to
look at.
"""

from dataclasses import dataclass

from violet_dial.core.receiving.places import DeviceKind, View


@dataclass(frozen=True)
class Hunt:
    """One place to look: minutes it costs, and why there."""

    place: str
    minutes: float
    why: str


_OUTSIDE = (
    Hunt("case, bag and wrapping it came in", 1, "It costs nothing, and shaken parts end there."),
    Hunt("magnet along every seam", 1, "Steel screws show themselves; brass ones do not."),
    Hunt("turn it over, tap, listen", 1, "A rattle says it is inside; note in which attitude it stops."),
)
_INSIDE: dict[DeviceKind, dict[View, tuple[Hunt, ...]]] = {
    "hand meter": {
        "front": (
            Hunt("under the dial", 5, "Screws of the dial fall behind its cord drum."),
            Hunt("at the magnet of the movement", 12, "A steel screw goes to the magnet and stops the pointer."),
        ),
        "back": (Hunt("between back plate and movement", 4, "It lies on the plate when the plate comes off."),),
    },
    "instant camera": {
        "bottom": (
            Hunt("rollers and gear train", 4, "What falls at the rollers is carried into the gears."),
            Hunt("pack chamber", 1, "Open the door and look first."),
        ),
    },
}
_CAMERA: dict[View, tuple[Hunt, ...]] = {
    "front": (
        Hunt("behind the lens rings", 15, "Screws of the rings fall between ring and shutter housing."),
        Hunt("at the shutter blades", 25, "Deeper only if the blades hang."),
    ),
    "top": (
        Hunt(
            "under the top cover, on the advance side", 10, "From the shoe they fall upside down into the works there."
        ),
        Hunt("counter and release linkage", 12, "A jam of the advance is explained by it."),
        Hunt("mirror or finder box", 20, "Past the linkage the next floor is the finder."),
    ),
    "back": (
        Hunt("film chamber and take-up spool", 1, "Open the back and look."),
        Hunt("under the pressure plate and its springs", 3, "Slides there when the back is closed."),
    ),
    "bottom": (
        Hunt("under the base plate", 4, "Four screws or fewer, and everything that falls lands there."),
        Hunt("battery compartment", 1, "A screw there also shorts the cell."),
        Hunt("gear train under the plate", 6, "A jam after winding is explained by it."),
    ),
}


def hunting_list(kind: DeviceKind, view: View) -> tuple[Hunt, ...]:
    """Places to look for a screw missing from this view of the device, cheapest first. ``kind``: kind of device."""
    inside = _INSIDE.get(kind, {}).get(view, ()) if kind in _INSIDE else _CAMERA[view]
    below: tuple[Hunt, ...] = ()
    if kind not in ("hand meter", "board", "other") and view in ("top", "front"):
        below = (Hunt("under the base plate", 4, "Loose parts travel down: the lowest floor is the quickest to open."),)
    return tuple(sorted((*_OUTSIDE, *inside, *below), key=lambda hunt: hunt.minutes))
