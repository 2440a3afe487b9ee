"""A board as it is being traced: spots, what runs between them and how surely, boxes, touches of the meter.

Everything is frozen; what changes a board is in `change`. A spot is known by its name, case and spaces aside.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import LEADS, Setting
from violet_dial.core.steady.samples import Capture

How = Literal["seen", "measured", "guessed"]
Name = Annotated[str, MaxLen(80)]
Words = Annotated[str, MaxLen(300)]
CHASSIS = "chassis"
CHASSIS_NAMES = ("chassis", "ground", "gnd", "earth", "body", "0")
NOTHING = "-"  # an end that goes nowhere
BOX = "box"
WIPER = "wiper"  # the third leg of a trimmer
MOST_SPOTS, MOST_ITEMS, MOST_TOUCHES = 400, 600, 2000
TWO_LEGS = (("left", "right"), ("1", "2"), ("a", "b"), ("+", "-"), ("plus", "minus"))
LEG_WORDS = {
    "anode": "a", "cathode": "band", "k": "band", "emitter": "e", "base": "b", "collector": "c", "plus": "+", "minus": "-",
    "com": "common",
}  # fmt: skip


@dataclass(frozen=True)
class Pin:
    """Where a spot is on a photo: from the left and the top of the photo as it lies, as shares of its width and height."""

    photo: Name
    x: Annotated[float, Ge(-0.5), Le(1.5)]
    y: Annotated[float, Ge(-0.5), Le(1.5)]


@dataclass(frozen=True)
class SolderPoint:
    """A point that a probe can touch: where in the device, behind what, and where on which photos."""

    name: Name
    place: Words = ""
    behind: Words = ""
    minutes: Annotated[float, Ge(0), Le(1000)] = 0.0
    pins: Annotated[tuple[Pin, ...], MaxLen(20)] = ()


@dataclass(frozen=True)
class ItemEnd:
    """A leg of something, and the spot it is at; ``spot`` is `NOTHING` where it goes nowhere."""

    leg: Name
    spot: Name


@dataclass(frozen=True)
class Figure:
    """A figure of a part in SI units; ``said`` as it was printed or typed, ``guessed`` when it is the usual one."""

    key: Name
    value: float
    said: Name = ""
    guessed: bool = False


@dataclass(frozen=True)
class Item:
    """Something between spots: a lead, a part, a switch, a box. ``spice`` holds its lines where it came from such text and
    can be said no other way; ``closes`` for each position the leg that the common one is joined to."""

    name: Name
    kind: Name
    ends: Annotated[tuple[ItemEnd, ...], MaxLen(80)]
    figures: Annotated[tuple[Figure, ...], MaxLen(12)] = ()
    how: How = "seen"
    colour: Name = ""
    place: Words = ""
    behind: Words = ""
    minutes: Annotated[float, Ge(0), Le(1000)] = 0.0
    closes: Annotated[tuple[tuple[Name, Name], ...], MaxLen(40)] = ()
    measured_ohm: Annotated[float, Ge(0), Le(1e12)] | None = None  # in this very device; 5e7 for broken
    spice: Annotated[str, MaxLen(2000)] = ""
    notes: Annotated[tuple[tuple[Name, Words], ...], MaxLen(20)] = ()
    line: Words = ""

    @property
    def is_lead(self) -> bool:
        """Whether it only joins two spots."""
        return self.kind in LEADS

    @property
    def spots(self) -> tuple[str, ...]:
        """Where it is, each spot once."""
        return tuple(dict.fromkeys(end.spot for end in self.ends if end.spot != NOTHING))

    def figure(self, key: str) -> Figure | None:
        """The figure of this key."""
        return next((one for one in self.figures if one.key == key), None)

    def value(self, key: str, usual: float) -> float:
        """A figure's value, or the usual one."""
        found = self.figure(key)
        return usual if found is None else found.value

    def at(self, leg: str) -> str | None:
        """The spot of a leg; None where it has no such leg."""
        return next((end.spot for end in self.ends if key_of(end.leg) == key_of(leg)), None)


FactKind = Literal["volts", "drives", "fed from", "clock"]


@dataclass(frozen=True)
class Fact:
    """Something known of a box: volts at a pin awake or asleep (of a working sister), that it drives, is fed from another,
    or a clock between two pins. ``value`` in V or Hz."""

    box: Name
    kind: FactKind
    pin: Name
    other: Name = ""
    value: float = 0.0
    asleep: float | None = None
    line: Words = ""


@dataclass(frozen=True)
class Touch:
    """The meter between two spots, on ohms: ``ohm`` (5e7 for open); ``beep`` True or False where only that was heard.
    ``setting`` how the switches stood; ``capture`` what an instrument gave."""

    a: Name
    b: Name
    ohm: Annotated[float, Ge(0), Le(1e12)]
    beep: bool | None = None
    setting: Setting = field(default_factory=Setting)
    line: Words = ""
    at: Words = ""
    capture: Capture | None = None


@dataclass(frozen=True)
class Ground:
    """A photo laid down: ``mirrored`` for a back, ``turned`` in degrees clockwise, brightness from -1 to 1, and two points
    (x, y as shares of the photo as it lies) with their distance."""

    photo: Name
    name: Name
    mirrored: bool = False
    turned: Literal[0, 90, 180, 270] = 0
    brightness: Annotated[float, Ge(-1), Le(1)] = 0.0
    scale_from: tuple[float, float] = (0.0, 0.0)
    scale_to: tuple[float, float] = (0.0, 0.0)
    scale_mm: Annotated[float, Ge(0), Le(10_000)] = 0.0
    aspect: Annotated[float, Ge(0.01), Le(100)] = 1.0  # width by height, as it lies


@dataclass(frozen=True)
class Board:
    """All that was traced so far. ``preface`` holds models and subcircuits where it came from SPICE text."""

    spots: Annotated[tuple[SolderPoint, ...], MaxLen(MOST_SPOTS)] = ()
    items: Annotated[tuple[Item, ...], MaxLen(MOST_ITEMS)] = ()
    facts: Annotated[tuple[Fact, ...], MaxLen(400)] = ()
    touches: Annotated[tuple[Touch, ...], MaxLen(MOST_TOUCHES)] = ()
    grounds: Annotated[tuple[Ground, ...], MaxLen(20)] = ()
    preface: Annotated[str, MaxLen(100_000)] = ""

    @cached_property
    def _spots(self) -> dict[str, SolderPoint]:
        return {key_of(spot.name): spot for spot in self.spots}

    @cached_property
    def _items(self) -> dict[str, Item]:
        return {key_of(item.name): item for item in self.items}

    def spot(self, name: str) -> SolderPoint | None:
        """The spot of this name; None when there is none."""
        return self._spots.get(key_of(name))

    def item(self, name: str) -> Item | None:
        """The item of this name; None when there is none."""
        return self._items.get(key_of(name))

    def found_spot(self, name: str) -> SolderPoint:
        """The spot of this name. Raises InvalidInput: there is none; the nearest names are said."""
        found = self.spot(name)
        if found is None:
            raise InvalidInput("Spot", name, f"one of {named(spot.name for spot in self.spots)}")
        return found

    def found_item(self, name: str) -> Item:
        """The item of this name. Raises InvalidInput: there is none."""
        found = self.item(name)
        if found is None:
            raise InvalidInput("Part", name, f"one of {named(item.name for item in self.items)}")
        return found

    @cached_property
    def _at(self) -> dict[str, tuple[Item, ...]]:
        found: dict[str, list[Item]] = {}
        for item in self.items:
            for spot in item.spots:
                found.setdefault(key_of(spot), []).append(item)
        return {key: tuple(several) for key, several in found.items()}

    def at(self, spot: str) -> tuple[Item, ...]:
        """The items that touch a spot."""
        return self._at.get(key_of(spot), ())

    @property
    def is_empty(self) -> bool:
        """Whether nothing was said yet."""
        return not (self.spots or self.items or self.grounds)


MOST_NAMED = 12


def named(names: Iterator[str]) -> str:
    """Names in a list, the first dozen of them."""
    every = list(names)
    more = f" and {len(every) - MOST_NAMED} more" if len(every) > MOST_NAMED else ""
    return ", ".join(every[:MOST_NAMED]) + more if every else "none yet"


@lru_cache(maxsize=8192)
def key_of(name: str) -> str:
    """By which names are the same: lower case, spaces as one; all words for the chassis are one."""
    low = " ".join(name.lower().replace("−", "-").split())
    return CHASSIS if low in CHASSIS_NAMES else low


@lru_cache(maxsize=8192)
def node_of(name: str) -> str:
    """The name of a spot as the circuit has it: no spaces; the chassis is node 0. ``name``: of a spot."""
    key = key_of(name)
    return "0" if key == CHASSIS else re.sub(r"[^a-z0-9_+\-]", "_", key)


def leg_of(item: Item, word: str) -> ItemEnd | None:
    """The leg of a part by one of its names: left and right, a and b, base, band, a pin's number.

    Parameters
    ----------
    item : a part
    word : what the leg is called
    """
    low = word.lower()
    for leg in dict.fromkeys((low, LEG_WORDS.get(low, low))):
        found = next((end for end in item.ends if end.leg.lower() == leg), None)
        if found is not None:
            return found
    if len(item.ends) == 2 or item.at(WIPER) is not None:
        place = next((pair.index(low) for pair in TWO_LEGS if low in pair), None)
        return None if place is None else item.ends[place]
    return None
