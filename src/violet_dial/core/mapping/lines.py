"""One line in bench words: what it says of the board, and how far it was understood where it is not.

``red wire clip+ to S1``, ``R4 2k2 from S1 common to Q1 base``, ``S1 off/on: common to a, b``, ``clip+ to S1 beep``.
"""

import re
from dataclasses import dataclass, field, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import BOX, NOTHING, Board, Figure, How, Item, ItemEnd, key_of
from violet_dial.core.mapping.facts import read_fact, read_spot, read_touch
from violet_dial.core.mapping.kinds import (
    BY_NAME,
    BY_WORD,
    COLOURS,
    DESIGNATOR,
    MILLIMETRE,
    UNITS,
    PartKind,
    figure_of,
    figure_words,
    kind_of_designator,
    with_usual,
)
from violet_dial.core.mapping.names import Said, new_name, resolved
from violet_dial.core.quantities import parse_number, parse_with_unit
from violet_dial.core.units import parted

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
        match[1], "transistor", tuple(ItemEnd(leg, ends[leg]) for leg in "ebc"), notes=(("sub", match[2].lower()),), line=line
    )
    return Said(f"{match[2].lower()} transistor {item.name}: {', '.join(f'{leg} at {ends[leg]}' for leg in 'ebc')}", item=item)


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


@dataclass
class _Head:
    """What stands before the two ends, as it is being read."""

    name: str = ""
    colour: str = ""
    kind: PartKind | None = None
    sub: str = ""
    words: list[str] = field(default_factory=list)
    figures: list[Figure] = field(default_factory=list)

    @property
    def so_far(self) -> str:
        """What was understood, for whoever wrote something else behind it."""
        what = " ".join(word for word in (self.colour, self.sub, self.kind.name if self.kind else "") if word)
        figures = ", ".join(figure_words(figure) for figure in self.figures)
        return ", ".join(word for word in (self.name, what, figures) if word)


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
    first, *clauses = [part.strip() for part in line.split(",")]
    left, middle, right = _sides(first)
    head, spot = _head(left.split())
    if head.kind is None:
        raise InvalidInput("Line", line, f"{f'understood {head.so_far}; ' if head.so_far else ''}what it is: {EXAMPLES}")
    if not middle:
        raise InvalidInput(
            "Line", line, f"understood {head.so_far}; then two spots: {head.kind.words[0]} A to B{', ' if clauses else ''}"
        )
    other, tail = _tail(right.split(), head.kind)
    if not spot or not other:
        raise InvalidInput("Line", line, f"understood {head.so_far}; then two spots: A to B")
    return _made(board, line, head, (" ".join(spot), other), (tail, clauses))


def _sides(text: str) -> tuple[str, str, str]:
    """What stands left and right of "to"; ``cell selenium + in - chassis`` says the same."""
    left, middle, right = text.partition(" to ")
    if not middle and (match := _SIGNED.match(text)):
        return f"{match[1]} {match[2]}", "to", match[3]
    return left, middle, right


def _head(words: list[str]) -> tuple[_Head, list[str]]:
    """What it is, and the words of its first spot."""
    head, left = _Head(), list(words)
    at = next((n for n, word in enumerate(left) if word.lower() == "from"), None)
    before, spot = (left[:at], left[at + 1 :]) if at is not None else (left, [])
    if before and before[0].lower() == "cell" and len(before) > 1:
        before = before[1:]
        if before[0].lower() == "silicon":
            before[0] = "photodiode"
    while before:
        if not _took(head, before, at is not None):
            break
    if at is None:
        spot = before
    elif before:
        head.words += before
    return head, spot


def _took(head: _Head, words: list[str], is_head: bool) -> bool:
    """Take one or two words off the front, where they say what it is."""
    word = words[0].lower()
    if head.kind is None and not head.name and DESIGNATOR.match(words[0]) and (len(words) > 1 or is_head):
        kind = kind_of_designator(words[0])
        head.name, head.kind = words.pop(0), kind
        return True
    if word in COLOURS and not head.colour:
        head.colour = words.pop(0).lower()
        return True
    if word in BY_WORD and (head.kind is None or head.kind.name == "resistor" or BY_WORD[word].name == head.kind.name):
        head.kind = BY_WORD[word]
        words.pop(0)
        return True
    if head.kind is None:
        return False
    if word in head.kind.subs and not head.sub:
        head.sub = words.pop(0).lower()
        return True
    for count in (2, 1):
        said = " ".join(words[:count])
        if len(words) >= count and (is_head or len(words) > count) and (found := _figure(said, head.kind, count)):
            head.figures.append(found)
            del words[:count]
            return True
    return False


def _figure(text: str, kind: PartKind, count: int) -> Figure | None:
    if count == 2 and parted(text, UNITS)[1] is None:
        return None
    if match := MILLIMETRE.match(text):
        return Figure("mm", parse_number(match[1], "Length"), text)
    return figure_of(text, kind) if text[0].isdigit() else None


def _tail(words: list[str], kind: PartKind) -> tuple[str, list[Figure]]:
    """The second spot, and figures said behind it."""
    figures: list[Figure] = []
    left = [word for word in words if word.lower() not in ("full",) or word is words[0]]
    while len(left) > 1:
        taken = next((n for n in (2, 1) if len(left) > n and (one := _figure(" ".join(left[-n:]), kind, n))), 0)
        if not taken:
            break
        one = _figure(" ".join(left[-taken:]), kind, taken)
        assert one is not None
        figures.append(one)
        del left[-taken:]
    return " ".join(left), figures


def _made(board: Board, line: str, head: _Head, ends: tuple[str, str], rest: tuple[list[Figure], list[str]]) -> Said:
    kind = head.kind
    assert kind is not None
    one, two = (resolved(board, name) for name in ends)
    item = Item("", kind.name, (ItemEnd(kind.legs[0], one), ItemEnd(kind.legs[1], two)), colour=head.colour, line=line)
    if head.sub and kind.name == "diode":
        item = replace(item, notes=(("sub", head.sub),))
    said = (*head.figures, *rest[0])
    for clause in rest[1]:
        item, more = _clause(board, item, clause)
        said = (*said, *more)
    keys = [one.key for one in said]
    if len(set(keys)) != len(keys):
        raise InvalidInput("Line", line, f"each figure once; understood {', '.join(figure_words(one) for one in said)}")
    bare = " ".join([*head.words, kind.words[0]]) if head.words else " ".join(filter(None, (head.colour, kind.words[0])))
    name = head.name or new_name(board, bare)
    item = replace(item, name=name, figures=with_usual(said, kind))
    if key_of(item.ends[0].spot) == key_of(item.ends[1].spot):
        raise InvalidInput("Line", line, f"two different spots; both are {one}")
    return Said(item_words(item), item=item)


_HOW: dict[str, How] = {"seen": "seen", "measured": "measured", "guessed": "guessed", "?": "guessed"}


def _clause(board: Board, item: Item, clause: str) -> tuple[Item, tuple[Figure, ...]]:
    """What stands behind a comma: where it is, how it is known, which end the band is at."""
    low = clause.lower()
    if low in _HOW:
        return replace(item, how=_HOW[low]), ()
    if match := MILLIMETRE.match(low.removesuffix(" long").removesuffix(" wide")):
        key = "wide_mm" if low.endswith("wide") else "mm"
        return item, (Figure(key, parse_number(match[1], "Length"), clause),)
    if low.startswith("behind "):
        return replace(item, behind=clause[7:]), ()
    if low.startswith(("band to ", "cathode to ")):
        spot = resolved(board, clause.split(" to ", 1)[1])
        if key_of(spot) not in {key_of(end.spot) for end in item.ends}:
            raise InvalidInput("Band", spot, f"one of its two spots: {item.ends[0].spot} or {item.ends[1].spot}")
        other = next(end.spot for end in item.ends if key_of(end.spot) != key_of(spot))
        return replace(item, ends=(ItemEnd("a", other), ItemEnd("band", spot))), ()
    figure = _figure(clause, BY_NAME[item.kind], 1) if clause and clause[0].isdigit() else None
    if figure is not None:
        return item, (figure,)
    return replace(item, place=clause.removeprefix("at ").removeprefix("in ")), ()


def item_words(item: Item) -> str:
    """Something on the board, said as it was understood."""
    what = " ".join(word for word in (item.colour, dict(item.notes).get("sub", ""), item.kind) if word)
    name = item.name if key_of(item.name) != key_of(what) else ""
    figures = ", ".join(figure_words(figure) for figure in item.figures)
    head = " ".join(word for word in (what, name) if word)
    ends = [f"{end.leg} at {end.spot}" for end in item.ends]
    between = " to ".join(end.spot for end in item.ends) if len(item.ends) == 2 else ", ".join(ends)
    band = f", band at {item.ends[1].spot}" if item.kind in ("diode", "led") else ""
    where = ", ".join(word for word in (item.place, f"behind {item.behind}" if item.behind else "") if word)
    how = f", {item.how}" if item.how != "seen" else ""
    return f"{head} {between}{f': {figures}' if figures else ''}{band}{f'; {where}' if where else ''}{how}"
