"""Lines of what has more than two legs: switches, boxes, transistors, regulators."""

import re

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import (
    BOX,
    NOTHING,
    Board,
    Figure,
    Item,
    ItemEnd,
)
from violet_dial.core.mapping.kinds import figure_words
from violet_dial.core.mapping.names import new_name, resolved
from violet_dial.core.mapping.said import Said
from violet_dial.core.quantities import parse_with_unit

_SWITCH = re.compile(r"^(\S+)\s+((?:[\w+\-]+/)+[\w+\-]+)\s*:\s*(.+?)\s+to\s+(.+)$")
_OWN = re.compile(r"^(common|com|pole|[a-z]|\d+|no|nc)$", re.IGNORECASE)  # names that each switch has for itself
_BOX = re.compile(r"^(\S+)\s+pins?\s+(\S+\s+.+)$", re.IGNORECASE)
_TRANSISTOR = re.compile(r"^(\S+)\s+(npn|pnp)\s+(.+)$", re.IGNORECASE)
_REGULATOR = re.compile(
    r"^(?:(\S+)\s+)?regulator\s+in\s+(.+?)\s+out\s+(.+?)\s+gnd\s+(.+?)(?:\s+(\d[\d.,]*\s*V))?$", re.IGNORECASE
)


def read_switch(board: Board, line: str) -> Said | None:
    """A switch with its positions; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    match = _SWITCH.match(line)
    if match is None:
        return None
    name, positions = match[1], tuple(word.lower() for word in match[2].split("/"))
    legs = [word.strip() for word in match[4].split(",")]
    if len(legs) != len(positions):
        raise InvalidInput(
            "Switch", line, f"one spot for each of its {len(positions)} positions, with {NOTHING} for nothing; "
            f"understood {name} {'/'.join(positions)} from {match[3]}",
        )  # fmt: skip
    if len(set(positions)) != len(positions):
        raise InvalidInput("Switch", match[2], "positions of different names")

    def terminal(word: str) -> ItemEnd:
        own = f"{name} {word}"
        spot = board.spot(own) or board.spot(word)
        return ItemEnd(word, spot.name if spot else own if _OWN.match(word) else resolved(board, word))

    bare = board.spot(name) if board.spot(f"{name} {match[3]}") is None else None
    common = ItemEnd(match[3], bare.name) if bare else terminal(match[3])
    ends = {leg: terminal(leg) for leg in legs if leg != NOTHING}
    closes = tuple(zip(positions, legs, strict=True))
    item = Item(name, "switch", (common, *ends.values()), closes=closes, line=line)
    said = ", ".join(
        f"{where}: {common.spot} to {ends[leg].spot if leg in ends else 'nothing'}" for where, leg in closes
    )
    return Said(f"switch {name}; {said}", item=item)


def read_box(board: Board, line: str) -> Said | None:
    """A box and its pins; None when the line is none. Raises InvalidInput: it is one, and something of it is not understood."""
    match = _BOX.match(line)
    if match is None or (board.item(match[1]) is not None and board.found_item(match[1]).kind != BOX):
        return None
    ends: list[ItemEnd] = []
    for clause in (part.strip() for part in match[2].split(",")):
        pin, _, spot = clause.partition(" ")
        if not spot:
            raise InvalidInput(
                "Box", clause, f"a pin and its spot, for instance 7 run; understood {len(ends)} pins before it"
            )
        ends.append(ItemEnd(pin, resolved(board, spot)))
    if len({end.leg.lower() for end in ends}) != len(ends):
        raise InvalidInput("Box", match[2], "each pin once")
    item = Item(match[1], BOX, tuple(ends), line=line)
    return Said(
        f"box {item.name} with {len(ends)} pins: {', '.join(f'{end.leg} at {end.spot}' for end in ends)}", item=item
    )


def read_transistor(board: Board, line: str) -> Said | None:
    """A transistor and its legs; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    match = _TRANSISTOR.match(line)
    if match is None:
        return None
    found = re.split(r"\s+(?=[ebc]\s)", " " + match[3])
    ends = {}
    for clause in (one.strip() for one in found):
        leg, _, spot = clause.partition(" ")
        if leg.lower() in ("e", "b", "c") and spot and leg.lower() not in ends:
            ends[leg.lower()] = resolved(board, spot)
        elif clause:
            raise InvalidInput(
                "Transistor", clause, f"e, b and c with a spot each; understood {', '.join(ends) or 'none'} so far"
            )
    if len(ends) != 3:
        missing = ", ".join(leg for leg in "ebc" if leg not in ends)
        raise InvalidInput("Transistor", line, f"e, b and c with a spot each; {missing} is missing")
    item = Item(
        match[1],
        "transistor",
        tuple(ItemEnd(leg, ends[leg]) for leg in "ebc"),
        notes=(("sub", match[2].lower()),),
        line=line,
    )
    return Said(
        f"{match[2].lower()} transistor {item.name}: {', '.join(f'{leg} at {ends[leg]}' for leg in 'ebc')}", item=item
    )


def read_regulator(board: Board, line: str) -> Said | None:
    """A regulator and its legs; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    match = _REGULATOR.match(line)
    if match is None:
        return None
    ends = tuple(ItemEnd(leg, resolved(board, match[n])) for leg, n in (("in", 2), ("out", 3), ("gnd", 4)))
    volts = parse_with_unit(match[5], ("V",), "Volts").value if match[5] else 3.0
    figure = Figure("volt", volts, match[5] or "", not match[5])
    name = match[1] or new_name(board, "regulator")
    item = Item(name, "regulator", ends, (figure,), line=line)
    return Said(
        f"{name}: {figure_words(figure)} from {ends[0].spot} to {ends[1].spot}, against {ends[2].spot}", item=item
    )
