"""What a touch says of the map: what was expected there, and which join or part is missing or wrong where it is not that."""

import math
from dataclasses import dataclass

from violet_dial.core.mapping.board import BOX, Board, Item, Touch, key_of, node_of
from violet_dial.core.mapping.doubts import Networks, own_sigma, rows_of, shown
from violet_dial.core.mapping.ohms import Expected, expected_ohm
from violet_dial.core.mapping.taken import joined
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import OVERLOAD_OHM

ODD = 4.0  # standard deviations from which a reading is not what was expected
NEAR_ZERO = {"motor": 20.0, "coil": 60.0, "solenoid": 200.0, "fuse": 1.0}  # parts that read few ohms because they should


@dataclass(frozen=True)
class TouchReading:
    """A touch beside what the map expects: ``is_odd`` when it does not fit; ``words`` what it says."""

    touch: Touch
    expected: Expected
    is_odd: bool
    words: str


def reading_of(board: Board, touch: Touch, networks: Networks | None = None) -> TouchReading:
    """What a touch says of the map as it is said.

    Parameters
    ----------
    touch : of the meter on ohms
    networks : of the board, where several touches are asked about
    """
    there = (networks or Networks(board)).at(touch.setting)
    expected = expected_ohm(there, node_of(touch.a), node_of(touch.b))
    rows = rows_of(there, [(touch.a, touch.b)])
    ohm = there.ohm(*rows)
    read = math.log10(min(max(touch.ohm, 0.05), OVERLOAD_OHM))
    away = (read - float(shown(ohm)[0])) / float(own_sigma(there, *rows, ohm)[0])
    if touch.beep is not None:
        odd = touch.beep != (expected.ohm < 30.0)
    else:
        odd = abs(away) > ODD and not (touch.ohm >= OVERLOAD_OHM * 0.9 and expected.is_open)
    words = _odd_words(board, touch, expected) if odd else _fits_words(board, touch, expected)
    return TouchReading(touch, expected, bool(odd), words)


def _ohms(value: float) -> str:
    return "open" if value >= OVERLOAD_OHM * 0.5 else f"{format_engineering(value, 3)}Ω"


def _between(board: Board, touch: Touch) -> list[Item]:
    ends = {key_of(touch.a), key_of(touch.b)}
    return [item for item in board.at(touch.a) if {key_of(spot) for spot in item.spots} == ends]


def _fits_words(board: Board, touch: Touch, expected: Expected) -> str:
    """What is said before it is counted: a switch that stands so, a part that reads near zero because it should."""
    low = touch.beep is True or touch.ohm < 30.0
    if low and not joined(board, touch.a, touch.b) and joined(board, touch.a, touch.b, touch):
        return "as it should: a switch joins them as it stands"
    coil = next((item for item in _between(board, touch) if item.kind in NEAR_ZERO), None)
    if low and coil is not None:
        return f"as it should: the {coil.kind} reads few ohms by itself"
    part = next((item for item in _between(board, touch) if item.figure("ohm") and not item.is_lead), None)
    own = part.value("ohm", 0.0) if part else 0.0
    if part is not None and touch.beep is None and own > 1.15 * expected.ohm:
        return f"as it should: {part.name} alone is {_ohms(own)}, the rest of the map lies beside it"
    return "as the map has it"


def _odd_words(board: Board, touch: Touch, expected: Expected) -> str:
    read = "a beep" if touch.beep else "no beep" if touch.beep is False else _ohms(touch.ohm)
    head = f"{read}, the map has {_ohms(expected.ohm)}"
    part = next((item for item in _between(board, touch) if item.figure("ohm") and not item.is_lead), None)
    name = f"{part.name}: " if part else ""
    if touch.beep is None and touch.ohm < expected.ohm and not expected.is_open:
        beside = 1.0 / max(1.0 / max(touch.ohm - 0.1, 1e-3) - 1.0 / max(expected.ohm - 0.1, 1e-3), 1e-12)
        box = " (a box without papers may be it)" if _near_a_box(board, touch) else ""
        return f"{name}{head}: something of about {_ohms(beside)} lies beside it; nothing on the map does{box}"
    if touch.ohm < expected.ohm or touch.beep:
        return f"{head}: a join is missing on the map between them, or they touch"
    return f"{name}{head}: a join or part on the way is not there, broken or corroded"


def _near_a_box(board: Board, touch: Touch) -> bool:
    return any(item.kind == BOX for spot in (touch.a, touch.b) for item in board.at(spot))
