"""One line in bench words: what it says of the board, and how far it was understood where it is not.

``red wire clip+ to S1``, ``R4 2k2 from S1 common to Q1 base``, ``S1 off/on: common to a, b``, ``clip+ to S1 beep``.
"""

import re
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import BOX, NOTHING, WIPER, Board, Figure, How, Item, ItemEnd, key_of
from violet_dial.core.mapping.facts import read_fact, read_spot, read_touch
from violet_dial.core.mapping.figures import MILLIMETRE, figure_words, with_usual
from violet_dial.core.mapping.heads import Head, check_whole, read_head, read_tail
from violet_dial.core.mapping.names import Said, new_name, resolved
from violet_dial.core.quantities import parse_number, parse_with_unit

_SWITCH = re.compile(r"^(?:switch\s+)?(\S+)\s+((?:[\w+\-]+/)+[\w+\-]+)\s*:\s*(.+?)\s+to\s+(.+)$")
_OWN = re.compile(r"^(common|com|pole|[a-z]|\d+|no|nc)$", re.IGNORECASE)  # names that each switch has for itself
_BOX = re.compile(r"^(\S+)\s+pins?\s+(\S+\s+.+)$", re.IGNORECASE)
_CODE = r"(?:2N|2S[A-D]|[AB][CDFSU])\d+[A-Z]{0,2}"
_TRANSISTOR = re.compile(
    rf"^(?:transistor\s+)?(\S+)\s+(?:transistor\s+)?(?:(?:({_CODE})\s+)?(npn|pnp)\s+(?:({_CODE})\s+)?(.+)|({_CODE})\s+[ebc]\s.+)$",
    re.IGNORECASE,
)
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

    first = board.spot(match[3])
    is_of_board = first is not None and board.spot(f"{name} {match[3]}") is None  # it names spots, and not its own legs

    def terminal(word: str) -> ItemEnd:
        own, plain = f"{name} {word}", word.removeprefix("spot ")
        if plain != word or not _OWN.match(word) or (is_of_board and board.spot(word) is not None):
            spot = board.spot(own) if plain == word else None
            return ItemEnd(plain, spot.name if spot else resolved(board, plain))
        if board.spot(word) is not None and board.spot(own) is None:
            raise InvalidInput("Switch", word, f"spot {word} for the spot of that name, or {own} for the switch's own leg")
        return ItemEnd(word, own)

    bare = board.spot(name) if board.spot(f"{name} {match[3]}") is None else None
    common = ItemEnd(match[3], bare.name) if bare else terminal(match[3])
    ends = {leg: terminal(leg) for leg in legs if leg != NOTHING}
    closes = tuple(zip(positions, legs, strict=True))
    item = Item(name, "switch", (common, *ends.values()), closes=closes, line=line)
    said = ", ".join(f"{where}: {common.spot} to {ends[leg].spot if leg in ends else 'nothing'}" for where, leg in closes)
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
            raise InvalidInput("Box", clause, f"a pin and its spot, for instance 7 run; understood {len(ends)} pins before it")
        ends.append(ItemEnd(pin, resolved(board, spot)))
    if len({end.leg.lower() for end in ends}) != len(ends):
        raise InvalidInput("Box", match[2], "each pin once")
    item = Item(match[1], BOX, tuple(ends), line=line)
    return Said(f"box {item.name} with {len(ends)} pins: {', '.join(f'{end.leg} at {end.spot}' for end in ends)}", item=item)


def read_transistor(board: Board, line: str) -> Said | None:
    """A transistor and its legs; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    match = _TRANSISTOR.match(line)
    if match is None:
        return None
    if match[6]:
        raise InvalidInput("Transistor", line, f"npn or pnp beside {match[6]}")
    name, code, sub, rest = match[1], match[2] or match[4], match[3], match[5]
    found = re.split(r"\s+(?=[ebc]\s)", " " + rest)
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
    notes = (("sub", sub.lower()), *((("code", code),) if code else ()))
    item = Item(name, "transistor", tuple(ItemEnd(leg, ends[leg]) for leg in "ebc"), notes=notes, line=line)
    return Said(f"{sub.lower()} transistor {item.name}: {', '.join(f'{leg} at {ends[leg]}' for leg in 'ebc')}", item=item)


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
    return Said(f"{name}: {figure_words(figure)} from {ends[0].spot} to {ends[1].spot}, against {ends[2].spot}", item=item)


LONGEST = 300
EXAMPLES = (
    "red wire clip+ to S1; R4 2k2 from S1 common to Q1 base; Q1 npn e chassis b R4 right c coil-; S1 off/on: common to a, b; "
    "battery 1.35 clip+ to chassis; IC3 pins 1 plus, 2 chassis, 7 run; clip+ to S1 beep"
)


_LIES = re.compile(r"^((?:flex|wire|track|connector|joint)\s+(?:under|over|behind)\s+.+?)\s+at\s+(.+)$", re.IGNORECASE)


def understand_line(board: Board, text: str) -> Said:
    """What one line says, with names as the board has them.

    Raises InvalidInput: it is not understood: what was understood up to where, and what was expected there.
    """
    line = " ".join(text.replace("−", "-").split())
    if not line:
        raise InvalidInput("Line", text, f"something of the board: {EXAMPLES}")
    if len(line) > LONGEST:
        raise InvalidInput("Line", line, f"at most {LONGEST} characters")
    lies = _LIES.match(line)
    if lies is not None:  # a flex that goes under something at a spot is a place where it breaks
        return read_spot(board, f"spot {lies[2]}, {lies[1]}") or _between(board, line)
    for reader in (read_fact, read_spot, read_switch, read_box, read_touch, read_transistor, read_regulator):
        found = reader(board, line)
        if found is not None:
            return found
    return _between(board, line)


# what has two ends

_SIGNED = re.compile(r"^(.*?)\s*\+\s+(.+?)\s+-\s+(.+)$")


def _between(board: Board, line: str) -> Said:
    first, *clauses = [part.strip() for part in re.split(r"(?<!\d),|,(?!\d)", line)]
    left, middle, right = _sides(first)
    head = read_head(board, left.split())
    if head.kind is None:
        raise InvalidInput("Line", line, f"{f'understood {head.so_far}; ' if head.so_far else ''}what it is: {EXAMPLES}")
    if not middle:
        raise InvalidInput(
            "Line", line, f"understood {head.so_far}; then two spots: {head.kind.words[0]} A to B{', ' if clauses else ''}"
        )
    wiper = _WIPER.match(right) if head.kind.name == "trimmer" else None
    other = read_tail(head, (wiper[1] if wiper else right).split())
    if not head.spot or not other:
        raise InvalidInput("Line", line, f"understood {head.so_far}; then two spots: A to B")
    ends = [head.spot, other]
    if wiper:
        ends.append(read_tail(head, wiper[2].split()))
    return _made(board, line, head, ends, clauses)


_WIPER = re.compile(
    r"^(.+?)\s+(?:with\s+|and\s+)?(?:its\s+)?(?:wiper|slider)\s+(?:to\s+|at\s+)?(?!(?:to|at)$)(.+)$", re.IGNORECASE
)


def _sides(text: str) -> tuple[str, str, str]:
    """What stands left and right of "to"; ``cell selenium + in - chassis`` says the same."""
    left, middle, right = text.partition(" to ")
    if not middle and (match := _SIGNED.match(text)):
        return f"{match[1]} {match[2]}", "to", match[3]
    return left, middle, right


def _made(board: Board, line: str, head: Head, spots: list[str], clauses: list[str]) -> Said:
    kind = head.kind
    assert kind is not None
    legs = (*kind.legs[:2], WIPER)
    ends = tuple(ItemEnd(leg, resolved(board, name)) for leg, name in zip(legs, spots, strict=False))
    item = Item("", kind.name, ends, colour=head.colour, line=line)
    for clause in clauses:
        item = _clause(board, item, clause, head)
    item = replace(item, notes=head.all_notes)
    check_whole(head, line)
    bare = " ".join([*head.words, kind.words[0]]) if head.words else " ".join(filter(None, (head.colour, kind.words[0])))
    name = head.name or new_name(board, bare)
    item = replace(item, name=name, figures=with_usual(tuple(head.figures), kind))
    if key_of(item.ends[0].spot) == key_of(item.ends[1].spot):
        raise InvalidInput("Line", line, f"two different spots; both are {item.ends[0].spot}")
    return Said(item_words(item), item=item)


_HOW: dict[str, How] = {"seen": "seen", "measured": "measured", "guessed": "guessed", "?": "guessed"}


def _clause(board: Board, item: Item, clause: str, head: Head) -> Item:
    """What stands behind a comma: where it is, how it is known, which end the band is at; a figure goes to the head."""
    low = clause.lower()
    if low in _HOW:
        return replace(item, how=_HOW[low])
    if match := MILLIMETRE.match(low.removesuffix(" long").removesuffix(" wide")):
        key = "wide_mm" if low.endswith("wide") else "mm"
        head.figures.append(Figure(key, parse_number(match[1], "Length"), clause))
        return item
    if low.startswith("behind "):
        return replace(item, behind=clause[7:])
    if item.kind == "trimmer" and (match := _WIPER.match(f"its {clause}")):
        return replace(item, ends=(*item.ends[:2], ItemEnd(WIPER, resolved(board, match[2]))))
    if item.kind == "trimmer" and low.startswith(("wiper", "slider")):
        raise InvalidInput("Trimmer", clause, "where its wiper is: wiper to C")
    if low.startswith(("band to ", "cathode to ")):
        spot = resolved(board, clause.split(" to ", 1)[1])
        if key_of(spot) not in {key_of(end.spot) for end in item.ends}:
            raise InvalidInput("Band", spot, f"one of its two spots: {item.ends[0].spot} or {item.ends[1].spot}")
        other = next(end.spot for end in item.ends if key_of(end.spot) != key_of(spot))
        return replace(item, ends=(ItemEnd("a", other), ItemEnd("band", spot)))
    if clause and not clause[0].isalpha() and head.took(clause.split()):
        return item
    return replace(item, place=clause.removeprefix("at ").removeprefix("in "))


def item_words(item: Item) -> str:
    """Something on the board, said as it was understood."""
    notes = dict(item.notes)
    what = " ".join(word for word in (item.colour, notes.get("sub", ""), item.kind) if word)
    name = item.name if key_of(item.name) not in (key_of(what), key_of(item.kind)) else ""
    tolerance = f"±{100 * float(notes['tol']):g} %" if item.line and "tol" in notes else ""
    more = [word for word in (tolerance, notes.get("rating", "")) if word]
    figures = ", ".join([*map(figure_words, item.figures), *more])
    head = " ".join(word for word in (what, name, notes.get("code", "")) if word)
    ends = [f"{end.leg} at {end.spot}" for end in item.ends]
    between = " to ".join(end.spot for end in item.ends) if len(item.ends) == 2 else ", ".join(ends)
    band = f", band at {item.ends[1].spot}" if item.kind in ("diode", "led") else ""
    where = ", ".join(word for word in (item.place, f"behind {item.behind}" if item.behind else "") if word)
    how = f", {item.how}" if item.how != "seen" else ""
    return f"{head} {between}{f': {figures}' if figures else ''}{band}{f'; {where}' if where else ''}{how}"
