"""Where to look for a screw that is missing: the cheapest places first."""

from dataclasses import dataclass

from violet_dial.core.facts import facts
from violet_dial.core.receiving.places import DeviceKind, View


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
    return tuple(
        sorted((Hunt(*place) for place in (*known["outside"], *inside, *below)), key=lambda hunt: hunt.minutes)
    )
