"""Two units compared at spots of which no join is known: between which two the sick one drops what the good one does not.

Spots that hang together lie beside each other as they were said, or by the good unit's volts; the fault is rather where one end
is alike still. That places 77 of 100 faults at a point of the likeliest two spots and 81 at one of the three first (simulated
units, `bench/sisters.py`); so the three are said, and which touch tells.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from violet_dial.core.mapping.board import CHASSIS

# Of a reading, by which a good unit is off at one standard deviation where no circuit tells; and what meters add, V.
UNIT_SHARE, FLOOR_V = 0.07, 0.02
FLOOR_SHARE = 0.02  # of the highest volts, by which a drop of a good unit is off
APART = 3.0  # units of what two good ones differ, from which a spot or a drop is apart
SAME_SHARE = 0.03  # of the highest volts, by which spots of one point differ at most
LEAST_SHARE = 0.05  # of the highest volts, from which a spot that is alike says something
# Of the log of a drop's share: two said one after the other, one end alike, each spot farther from the supply. Fitted to half
# of 240 simulated pairs of units, held against the other half.
NEXT_SAID, ONE_ALIKE, LATE = 1.4, 1.0, -0.05
MOST_WAYS = 3


@dataclass(frozen=True)
class SpotVolts:
    """Volts of a spot against the chassis, in the good unit and in the sick one."""

    name: str
    good_v: float
    sick_v: float


def ways_apart(spots: Sequence[SpotVolts]) -> tuple[tuple[str, str], ...]:
    """The likeliest pairs of spots between which the fault lies, the likeliest first; nothing where no drop is another.

    ``spots``: in the order they were said, from the supply on.
    """
    every = [*spots, SpotVolts(CHASSIS, 0.0, 0.0)]
    top = max(abs(spot.good_v) for spot in every) or 1.0
    place = {spot.name: n for n, spot in enumerate(every)}
    by_volts = sorted(every, key=lambda spot: (-round(spot.good_v / top / SAME_SHARE), place[spot.name]))
    level = {spot.name: n for n, spot in enumerate(by_volts)}
    found: dict[tuple[str, str], float] = {}
    for one, other in itertools.combinations(by_volts, 2):
        is_next = abs(place[one.name] - place[other.name]) == 1
        is_same = abs(one.good_v - other.good_v) < SAME_SHARE * top and other.name != CHASSIS
        if is_next or is_same or level[other.name] - level[one.name] == 1:
            score = _score(one, other, top)
            if score is not None:
                late = LATE * min(place[one.name], place[other.name])
                found[one.name, other.name] = score + late + NEXT_SAID * is_next
    return tuple(sorted(found, key=lambda pair: -found[pair])[:MOST_WAYS])


def _score(one: SpotVolts, other: SpotVolts, top: float) -> float | None:
    """Log of the share by which the drop between two spots is another; None where it is none."""
    good, sick = one.good_v - other.good_v, one.sick_v - other.sick_v
    if abs(sick - good) < APART * _unit(good, top):
        return None
    live = [spot for spot in (one, other) if abs(spot.good_v) > LEAST_SHARE * top]
    is_alike = any(abs(spot.good_v - spot.sick_v) < APART * _unit(spot.good_v, top) for spot in live)
    return math.log(min(abs(sick - good) / top, 1.0)) + ONE_ALIKE * is_alike


def _unit(volts: float, top: float) -> float:
    return math.sqrt(2.0) * math.hypot(UNIT_SHARE * volts, FLOOR_SHARE * top) + FLOOR_V


def alone_words(ways: Sequence[tuple[str, str]], sick_v: dict[str, float]) -> str:
    """Where it lies, and the touch on the sick unit that tells. ``sick_v``: volts of the sick unit by spot."""
    one, other = ways[0]
    lost = abs(sick_v.get(one, 0.0) - sick_v.get(other, 0.0))
    tells = "more ohms on the sick one is a break" if lost > FLOOR_V else "fewer ohms on the sick one is a short"
    also = "; else ".join(f"{a} and {b}" for a, b in ways[1:])
    return (
        f"likeliest between {one} and {other}{f'; else {also}' if also else ''}. No join is known: supply out, touch {one} to "
        f"{other} on the sick unit and the good one; {tells}"
    )
