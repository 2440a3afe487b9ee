"""What is asked once before a line is kept: a dead short, and a new spot whose name may be part of something else."""

import re

from violet_dial.core.mapping.board import CHASSIS, NOTHING, Board, Item, key_of
from violet_dial.core.mapping.figures import CODED, cells_v
from violet_dial.core.mapping.kinds import BY_WORD, COLOURS, KINDS
from violet_dial.core.mapping.names import Said
from violet_dial.core.mapping.taken import joined

_UNITS = (
    "ohm", "ohms", "kohm", "mohm", "volt", "volts", "mv", "ma", "ua", "uf", "nf", "pf", "hz", "khz", "mhz", "mh", "uh", "mm",
)  # fmt: skip
_UNIT_WORDS = frozenset((*_UNITS, *"kmrvafunphwx%", "meg"))
_SUBS = (sub for kind in KINDS for sub in kind.subs)
_KIND_WORDS = frozenset((*BY_WORD, *_SUBS, "cell", "switch", "zener", "wiper", "with", "lead", "at"))
_FIGURE = re.compile(r"^±?(?:[.,]\d+|\d[\d.,]*(?:[a-zA-ZµμΩ%]+\d*|[.,]\d+)|\d{3,})[a-zA-ZΩ%]*$")
_CELL_CODE = re.compile(r"^[A-Z]{1,3}\d{2,}[A-Z]?$", re.IGNORECASE)


def asks_first(board: Board, said: Said) -> str:
    """What is asked once before a line is kept; empty when nothing is. ``said``: what a line says."""
    doubt = doubtful_spot(board, said)
    if doubt:
        return f"{doubt} Say it once more if it is so: {said.words}"
    if said.item is None or not said.item.is_lead:
        return ""
    one, other = said.item.ends[0].spot, said.item.ends[1].spot
    rails = {key_of(end.spot) for item in board.items if item.kind == "battery" for end in item.ends if end.leg == "+"}
    sides = [{key_of(spot) for spot in _net(board, where)} for where in (one, other)]
    if any(rails & sides[n] and key_of(CHASSIS) in sides[1 - n] for n in (0, 1)):
        return f"That joins the battery's plus to the chassis: a dead short. Say it once more if it is so: {said.words}"
    return ""


def _net(board: Board, spot: str) -> list[str]:
    return [one.name for one in board.spots if joined(board, spot, one.name)]


def doubtful_spot(board: Board, said: Said) -> str:
    """Of a new spot whose name begins with a unit, a figure, a code, a colour or a kind of part, or that a switch has a leg of
    that name: a sentence; empty where there is none. ``said``: what a line says.
    """
    names = [end.spot for end in said.item.ends] if said.item else [spot for touch in said.touches for spot in (touch.a, touch.b)]
    for name in names:
        if name == NOTHING or board.spot(name) is not None or board.item(name.rpartition(" ")[0]) is not None:
            continue
        own = next((leg for leg in _legs(board, name) if board.spot(leg) is not None), None)
        if own is not None:
            return f"{name} is a new spot; the switch's own leg is {own}."
        if (why := _why(name, said.item)) and not (said.item and key_of(name).startswith(f"{key_of(said.item.name)} ")):
            return f'A new spot called "{name}"? It begins like {why}.'
    return ""


def _legs(board: Board, name: str) -> list[str]:
    return [f"{item.name} {end.leg}" for item in board.items if item.kind == "switch" for end in item.ends
            if key_of(end.leg) == key_of(name)]  # fmt: skip


def _why(name: str, item: Item | None) -> str:
    first, *rest = name.split()
    low = first.lower()
    if _FIGURE.match(first) or (rest and first[0].isdigit()):
        return "a figure"
    if CODED.match(first) or cells_v(first) is not None:
        return "the code of a part"
    if not rest:
        return ""
    if item is not None and item.kind == "battery" and _CELL_CODE.match(first):
        return "the code of a cell"
    if low in _UNIT_WORDS:
        return "a unit"
    if low in COLOURS or low in _KIND_WORDS:
        return "a colour" if low in COLOURS else "a kind of part"
    return ""
