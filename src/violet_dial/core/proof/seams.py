"""Where light gets in: seams and other ways, what seals each, and how its fog looks on the film."""

from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.facts import facts

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


SEALS: tuple[Seal, ...] = tuple(Seal(*seal) for seal in facts("seams")["seals"])

Shares = dict[str, float]
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
    shapes: dict[str, Shares] = facts("seams")["shapes"]
    return shapes[cause]


BORDER: dict[str, float] = facts("seams")["border"]  # that it reaches into the perforations
BEFORE: dict[str, float] = facts("seams")["before"]  # anything was seen
Hinge = Literal["right", "left"]
