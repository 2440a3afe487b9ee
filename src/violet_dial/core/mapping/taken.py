"""What a touch of the meter does to the map: a beep joins, a figure sets, an open parts what was only guessed. And what it
says: what was expected there, and which join or part is missing or wrong where it is not that.
"""

import math
from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import BOX, MOST_TOUCHES, Board, Figure, Item, ItemEnd, Touch, key_of, node_of
from violet_dial.core.mapping.doubts import BEEPS_OHM, JOINED_OHM, Networks, own_sigma, rows_of, shown
from violet_dial.core.mapping.names import new_name
from violet_dial.core.mapping.ohms import Expected, expected_ohm
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM

NO_LEAD_OHM = 1e6  # what no lead measures
FIXED = ("resistor", "trimmer", "movement", "solenoid", "coil", "motor", "lamp", "fuse")


def taken_in(board: Board, touch: Touch, asked: bool = False) -> tuple[Board, str]:
    """The board with a touch, and what it did beside being kept.

    ``touch``: of the meter on ohms. Raises InvalidInput: there is no room for more touches.
    """
    if len(board.touches) >= MOST_TOUCHES:
        raise InvalidInput("Touches", len(board.touches) + 1, f"at most {MOST_TOUCHES}")
    board = replace(board, touches=(*board.touches, touch))
    between = [
        item for item in board.at(touch.a)
        if len(item.ends) == 2 and {key_of(spot) for spot in item.spots} == {key_of(touch.a), key_of(touch.b)}
    ]  # fmt: skip
    lead = next((item for item in between if item.is_lead), None)
    if lead is not None:
        return _of_lead(board, lead, touch)
    if between:
        return _of_part(board, between[0], touch) if len(between) == 1 else (board, "")
    if touch.beep and not asked and Networks(board).ohm_of(touch) < BEEPS_OHM[-1]:
        return board, "; parts of few ohms lie between, a beep joins nothing there"
    if is_low(touch) and not asked and not joined(board, touch.a, touch.b, touch):
        name = new_name(board, f"join {touch.a} {touch.b}"[:76])
        item = Item(name, "track", (ItemEnd("a", touch.a), ItemEnd("b", touch.b)), how="measured", line=touch.line)
        return replace(board, items=(*board.items, item)), "; joined on the map"
    return board, ""


def is_low(touch: Touch) -> bool:
    """Whether a touch shows what a lead shows. ``touch``: of the meter on ohms."""
    return touch.beep is True or (touch.beep is None and touch.ohm <= JOINED_OHM)


def is_whole(item: Item) -> bool:
    """Whether an item is a lead between two spots that was not measured to be more than one."""
    return item.is_lead and len(item.spots) == 2 and (item.measured_ohm is None or item.measured_ohm <= JOINED_OHM)


def _of_lead(board: Board, lead: Item, touch: Touch) -> tuple[Board, str]:
    if is_low(touch):
        ohm = None if touch.beep else max(touch.ohm - LEADS_OHM, 0.0)
        return _with(board, lead, replace(lead, how="measured", measured_ohm=ohm)), f"; {lead.name} is measured"
    if touch.ohm >= NO_LEAD_OHM and lead.how == "guessed":
        return replace(board, items=tuple(item for item in board.items if item is not lead)), f"; {lead.name} was a guess: parted"
    words = "does not beep" if touch.beep is False else "shows more than a lead should: a suspect"
    return board, f"; {lead.name} {words}"


def _of_part(board: Board, item: Item, touch: Touch) -> tuple[Board, str]:
    """A part whose figure was only the usual one gets it from the meter, where nothing on the map lies beside it."""
    figure = item.figure("ohm")
    if figure is None or not figure.guessed or item.kind not in FIXED or touch.beep is not None or touch.ohm >= NO_LEAD_OHM:
        return board, ""
    if len(board.at(touch.a)) > 2 and len(board.at(touch.b)) > 2:
        return board, ""
    measured = Figure("ohm", max(touch.ohm - LEADS_OHM, 0.01), f"{touch.ohm:g}")
    rest = tuple(measured if one.key == "ohm" else one for one in item.figures)
    return _with(board, item, replace(item, figures=rest, how="measured")), f"; {item.name} is {measured.value:.4g} Ω"


def _with(board: Board, old: Item, new: Item) -> Board:
    return replace(board, items=tuple(new if item is old else item for item in board.items))


def joined(board: Board, one: str, other: str, touch: Touch | None = None) -> bool:
    """Whether leads, and switches as they stand, join two spots on the map.

    ``touch``: how the switches stood; None leaves them out.
    """
    stands = {name.lower(): position for name, position in touch.setting.switches} if touch else {}
    seen, waiting = {key_of(one)}, [one]
    while waiting:
        at = waiting.pop()
        for item in board.at(at):
            for spot in _reached(item, at, stands):
                if key_of(spot) not in seen:
                    seen.add(key_of(spot))
                    waiting.append(spot)
    return key_of(other) in seen


def _reached(item: Item, at: str, stands: dict[str, str]) -> tuple[str, ...]:
    if item.is_lead:
        return item.spots
    if item.kind == "switch" and stands.get(item.name.lower()):
        leg = dict(item.closes).get(stands[item.name.lower()], "-")
        closed = item.at(leg)
        both = (item.ends[0].spot, closed) if closed else ()
        return tuple(spot for spot in both if spot) if key_of(at) in {key_of(spot) for spot in both if spot} else ()
    return ()


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
        odd = expected.ohm > BEEPS_OHM[-1] if touch.beep else expected.ohm < BEEPS_OHM[1]
    else:
        odd = abs(away) > ODD and not (touch.ohm >= OVERLOAD_OHM * 0.9 and expected.is_open)
    words = _odd_words(board, touch, expected) if odd else _fits_words(board, touch, expected)
    return TouchReading(touch, expected, bool(odd), words)


def touch_words(touch: Touch) -> str:
    """What a touch showed, said. ``touch``: of the meter on ohms."""
    return "a beep" if touch.beep else "no beep" if touch.beep is False else _ohms(touch.ohm)


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
    head = f"{touch_words(touch)}, the map has {_ohms(expected.ohm)}"
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
