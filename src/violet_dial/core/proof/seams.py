"""Where light gets in: seams and other ways, what seals each, and how its fog looks on the film.

Source: Common practice, no source. Places are named as seen from behind with the back open: the cassette on the left, the hinge
on the right where nothing else is said.
"""

from dataclasses import dataclass
from typing import Literal, get_args

Cause = Literal[
    "top channel", "bottom channel", "hinge", "latch", "film window", "lens mount", "curtain or blades", "none of these"
]
CAUSES: tuple[Cause, ...] = get_args(Cause)
SEAMS: tuple[Cause, ...] = ("top channel", "bottom channel", "hinge", "latch", "film window")  # what tape can close
Shape = Literal["edge", "corner", "sprocket wave", "streak", "spot", "patch", "all over"]
SHAPES: tuple[Shape, ...] = get_args(Shape)
Side = Literal["top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right", "middle"]
SIDES: tuple[Side, ...] = get_args(Side)
OPPOSITE = {"top": "bottom", "bottom": "top", "left": "right", "right": "left", "middle": "middle"}


@dataclass(frozen=True)
class Seal:
    """What seals a place: material, how thick (mm), what to mind."""

    where: Cause
    material: str
    thick_mm: str
    mind: str


SEALS: tuple[Seal, ...] = (
    Seal(
        "top channel", "yarn or thin foam in the groove", "1.5 to 2", "yarn lasts; foam goes sticky in some ten years"
    ),
    Seal(
        "bottom channel",
        "yarn or thin foam in the groove",
        "1.5 to 2",
        "the tongue of the door must still reach the bottom",
    ),
    Seal("hinge", "foam or velvet strip", "2 to 3", "too thick and the door springs: the latch opens by itself"),
    Seal("latch", "foam strip", "1.5 to 2", "keep it off the hook"),
    Seal("film window", "foam frame, closed cells", "1 to 1.5", "it touches the cassette: no adhesive outside"),
    Seal("lens mount", "felt ring or none; screws and shims", "0.5", "shims set the lens-to-film distance: count them"),
    Seal(
        "curtain or blades",
        "none: cloth is patched with black rubber cement",
        "-",
        "hold the curtain against a lamp, in the dark",
    ),
)

Shares = dict[str, float]
_SHAPES: dict[Cause, Shares] = {
    "top channel": {
        "edge": 0.5, "sprocket wave": 0.27, "streak": 0.04, "corner": 0.12, "spot": 0.01, "patch": 0.02, "all over": 0.04,
    },
    "bottom channel": {
        "edge": 0.5, "sprocket wave": 0.27, "streak": 0.04, "corner": 0.12, "spot": 0.01, "patch": 0.02, "all over": 0.04,
    },
    "hinge": {
        "edge": 0.42, "sprocket wave": 0.04, "streak": 0.34, "corner": 0.1, "spot": 0.01, "patch": 0.04, "all over": 0.05,
    },
    "latch": {
        "edge": 0.42, "sprocket wave": 0.04, "streak": 0.34, "corner": 0.1, "spot": 0.01, "patch": 0.04, "all over": 0.05,
    },
    "film window": {
        "edge": 0.07, "sprocket wave": 0.03, "streak": 0.1, "corner": 0.04, "spot": 0.1, "patch": 0.48, "all over": 0.18,
    },
    "lens mount": {
        "edge": 0.08, "sprocket wave": 0.01, "streak": 0.03, "corner": 0.05, "spot": 0.05, "patch": 0.33, "all over": 0.45,
    },
    "curtain or blades": {
        "edge": 0.04, "sprocket wave": 0.01, "streak": 0.3, "corner": 0.02, "spot": 0.5, "patch": 0.05, "all over": 0.08,
    },
    "none of these": {
        "edge": 0.17, "sprocket wave": 0.1, "streak": 0.15, "corner": 0.1, "spot": 0.16, "patch": 0.16, "all over": 0.16,
    },
}  # fmt: skip
_EVEN: Shares = dict.fromkeys(SIDES, 1 / len(SIDES))


def _mostly(side: str, share: float, beside: tuple[str, ...], their: float) -> Shares:
    """A side with so much, those beside it with their share, the rest over what is left."""
    found = {side: share, **{one: their / len(beside) for one in beside}}
    left = (1 - share - their) / (len(SIDES) - len(found))
    return {one: found.get(one, left) for one in SIDES}


def sides_of(cause: Cause, hinge: str) -> Shares:
    """Where on the gate, seen from behind, light from a place lands."""
    other = OPPOSITE[hinge]
    if cause == "top channel":
        return _mostly("top", 0.78, ("top left", "top right"), 0.16)
    if cause == "bottom channel":
        return _mostly("bottom", 0.78, ("bottom left", "bottom right"), 0.16)
    if cause == "hinge":
        return _mostly(hinge, 0.74, (f"top {hinge}", f"bottom {hinge}", "middle"), 0.18)
    if cause == "latch":
        return _mostly(other, 0.74, (f"top {other}", f"bottom {other}", "middle"), 0.18)
    if cause == "film window":
        return _mostly("middle", 0.5, ("left", "right"), 0.36)
    if cause in ("lens mount", "curtain or blades"):
        return _mostly("middle", 0.45, ("left", "right", "top", "bottom"), 0.35)
    return _EVEN


def shapes_of(cause: Cause) -> Shares:
    """How fog from a place looks."""
    return _SHAPES[cause]


BORDER: dict[Cause, float] = {
    "top channel": 0.93,
    "bottom channel": 0.93,
    "hinge": 0.9,
    "latch": 0.9,
    "film window": 0.75,
    "lens mount": 0.04,
    "curtain or blades": 0.04,
    "none of these": 0.5,
}  # that it reaches into the perforations: from behind the gate it does, through the lens opening it cannot
BEFORE: dict[Cause, float] = {
    "top channel": 0.18,
    "bottom channel": 0.14,
    "hinge": 0.24,
    "latch": 0.14,
    "film window": 0.08,
    "lens mount": 0.07,
    "curtain or blades": 0.1,
    "none of these": 0.05,
}  # before anything was seen; hinge seals rot first


Hinge = Literal["right", "left"]
