"""What changes a board: a line said, said better, spots renamed, joined, parted, taken out, pinned on a photo."""

import re
from collections.abc import Callable
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import (
    BOX,
    CHASSIS,
    MOST_ITEMS,
    MOST_SPOTS,
    NOTHING,
    Board,
    Fact,
    Ground,
    How,
    Item,
    ItemEnd,
    Pin,
    SolderPoint,
    Touch,
    key_of,
    node_of,
)
from violet_dial.core.mapping.from_spice import with_node
from violet_dial.core.mapping.lines import item_words, understand_line
from violet_dial.core.mapping.names import Said, new_name, resolved
from violet_dial.core.mapping.taken import joined, taken_in

JOINED = "joint"  # what is guessed between a part's own leg and the spot it was said to be at


def say(board: Board, line: str) -> tuple[Board, str]:
    """The board with what a line says, and that in words.

    Raises InvalidInput: the line is not understood, or does not fit what was said before.
    """
    return kept(board, understand_line(board, line))


def kept(board: Board, said: Said) -> tuple[Board, str]:
    """The board with what was understood.

    ``said``: what a line says. Raises InvalidInput: it does not fit what was said before, or there is no more room.
    """
    if said.spot is not None:
        return _with_spot(board, said.spot), said.words
    if said.fact is not None:
        return _with_fact(board, said.fact), said.words
    if said.touches:
        found, more = touched(board, said.touches)
        return found, f"{said.words}{more}"
    assert said.item is not None
    found, item = _with_item(board, said.item)
    return found, item_words(item) if item.kind not in ("switch", BOX, "regulator", "transistor") else said.words


def touched(board: Board, touches: tuple[Touch, ...], asked: bool = False) -> tuple[Board, str]:
    """The board with touches of one go, and what they did beside being kept.

    Parameters
    ----------
    touches : of the meter on ohms
    asked : whether Next asked for them
    """
    found = with_spots(board, tuple(spot for touch in touches for spot in (touch.a, touch.b)))
    words = []
    for touch in touches:
        found, more = taken_in(found, touch, asked)
        words.append(more)
    return found, "".join(dict.fromkeys(words))


def with_spots(board: Board, names: tuple[str, ...]) -> Board:
    """The board with spots of these names; those it has stay. Raises InvalidInput: there is no room for more."""
    new = tuple(SolderPoint(name) for name in dict.fromkeys(names) if name != NOTHING and board.spot(name) is None)
    there = {node_of(spot.name): spot.name for spot in board.spots}
    for one in new:
        other = there.setdefault(node_of(one.name), one.name)
        if other != one.name:
            raise InvalidInput("Spot", one.name, f"a name that differs from {other} in more than spaces and signs")
    if len(board.spots) + len(new) > MOST_SPOTS:
        raise InvalidInput("Map", f"{len(board.spots) + len(new)} spots", f"at most {MOST_SPOTS}")
    return replace(board, spots=(*board.spots, *new)) if new else board


def _with_spot(board: Board, spot: SolderPoint) -> Board:
    if board.item(spot.name) is not None and board.spot(spot.name) is None:
        raise InvalidInput("Spot", spot.name, "a name that no part has; say which leg, for instance R4 left")
    rest = with_spots(board, (spot.name,))
    return replace(rest, spots=tuple(spot if key_of(one.name) == key_of(spot.name) else one for one in rest.spots))


def _with_fact(board: Board, fact: Fact) -> Board:
    rest = tuple(one for one in board.facts if (one.box, one.kind, one.pin) != (fact.box, fact.kind, fact.pin))
    return replace(board, facts=(*rest, fact))


def _with_item(board: Board, item: Item) -> tuple[Board, Item]:
    before = board.item(item.name)
    if before is not None and before.kind != item.kind:
        raise InvalidInput("Part", f"{item.name}, a {item.kind}", f"another name: {item.name} is a {before.kind} already")
    alike = next((one for one in board.items if one is not before and _plain(one.name) == _plain(item.name)), None)
    if alike is not None:
        raise InvalidInput("Part", item.name, f"a name that differs from {alike.name} in more than spaces and signs")
    if before is None and len(board.items) >= MOST_ITEMS:
        raise InvalidInput("Map", f"{len(board.items) + 1} parts", f"at most {MOST_ITEMS}")
    if before is not None:
        item = replace(
            item, place=item.place or before.place, behind=item.behind or before.behind, colour=item.colour or before.colour
        )
        board = replace(board, items=tuple(one for one in board.items if one is not before))
    item, joints = _own_legs(board, item)
    there = with_spots(board, tuple(spot for joint in (item, *joints) for spot in joint.spots))
    return replace(there, items=(*there.items, item, *joints)), item


def _plain(name: str) -> str:
    """A name as the circuit has it."""
    return re.sub(r"[^a-z0-9]", "_", name.lower())


def _own_legs(board: Board, item: Item) -> tuple[Item, list[Item]]:
    """A part whose own leg is a spot already (``R4 left``) stays at it; that leg is then joined to where it was said to be."""
    ends: list[ItemEnd] = []
    joints: list[Item] = []
    taken = board
    for end in item.ends:
        own = board.spot(f"{item.name} {end.leg}") or (
            board.spot(f"{item.name} {('left', 'right')[item.ends.index(end)]}") if len(item.ends) == 2 else None
        )
        if own is None or key_of(own.name) == key_of(end.spot) or end.spot == NOTHING:
            ends.append(end)
            continue
        ends.append(ItemEnd(end.leg, own.name))
        if not joined(board, own.name, end.spot):
            name = new_name(taken, f"{own.name} joint")
            joint = Item(name, JOINED, (ItemEnd("a", own.name), ItemEnd("b", end.spot)), how="guessed", line=item.line)
            joints.append(joint)
            taken = replace(taken, items=(*taken.items, joint))
    bare = board.spot(item.name)
    if bare is not None and item.kind == "switch" and not joined(board, bare.name, ends[0].spot):
        name = new_name(taken, f"{bare.name} joint")
        joints.append(Item(name, JOINED, (ItemEnd("a", bare.name), ItemEnd("b", ends[0].spot)), how="guessed", line=item.line))
    return replace(item, ends=tuple(ends)), joints


def rename(board: Board, old: str, new: str) -> tuple[Board, str]:
    """A spot or an item under another name.

    Raises InvalidInput: nothing is called so, or the new name is taken: two spots of one name are one; join them instead.
    """
    new = " ".join(new.split())
    if not new or len(new) > 80:
        raise InvalidInput("Name", new, "a name of 1 to 80 characters")
    spot, item = board.spot(old), board.item(old)
    if spot is None and item is None:
        raise InvalidInput("Name", old, "the name of a spot or a part of the board")
    taken = board.spot(new) or board.item(new)
    if taken is not None and key_of(new) != key_of(old):
        raise InvalidInput("Name", new, "a name that is free; two spots that are one are joined: join A and B")
    if spot is not None and any(node_of(one.name) == node_of(new) for one in board.spots if one is not spot):
        raise InvalidInput("Name", new, "a name that differs from the other spots' in more than spaces and signs")
    if item is not None and any(_plain(one.name) == _plain(new) for one in board.items if one is not item):
        raise InvalidInput("Name", new, "a name that differs from the other parts' in more than spaces and signs")
    if spot is not None and key_of(spot.name) == CHASSIS:
        raise InvalidInput("Name", old, "another spot: the chassis keeps its name")
    if spot is not None:
        found = _moved(board, spot.name, new)
        spots = tuple(replace(one, name=new) if one is spot else one for one in board.spots)
        return replace(found, spots=spots), f"{spot.name} is called {new} now"
    assert item is not None
    facts = tuple(replace(fact, box=new) if fact.box == item.name else fact for fact in board.facts)
    items = tuple(replace(one, name=new) if one is item else one for one in board.items)
    return replace(board, items=items, facts=facts), f"{item.name} is called {new} now"


def _moved(board: Board, old: str, new: str) -> Board:
    """All that was at a spot is at another; the list of spots is left."""
    is_old: Callable[[str], bool] = lambda name: key_of(name) == key_of(old)  # noqa: E731
    items = tuple(
        replace(
            with_node(item, node_of(old), node_of(new)),
            ends=tuple(replace(end, spot=new) if is_old(end.spot) else end for end in item.ends),
        )
        for item in board.items
    )
    touches = tuple(
        replace(touch, a=new if is_old(touch.a) else touch.a, b=new if is_old(touch.b) else touch.b) for touch in board.touches
    )
    return replace(board, items=items, touches=touches)


def join(board: Board, one: str, other: str) -> tuple[Board, str]:
    """Two spots that are one: the first keeps its name.

    Raises InvalidInput: there is no such spot, or a part would have both its legs at the same.
    """
    first, second = board.found_spot(resolved(board, one)), board.found_spot(resolved(board, other))
    if first is second:
        raise InvalidInput("Join", f"{one} and {other}", "two different spots")
    if key_of(second.name) == CHASSIS:
        first, second = second, first
    between = [item for item in board.items if {key_of(s) for s in item.spots} == {key_of(first.name), key_of(second.name)}]
    whole = next((item for item in between if not item.is_lead), None)
    if whole is not None:
        raise InvalidInput("Join", f"{one} and {other}", f"spots with no part between them: {whole.name} is; take it out first")
    moved = _moved(board, second.name, first.name)
    merged = replace(first, place=first.place or second.place, behind=first.behind or second.behind,
                     pins=(*first.pins, *second.pins))  # fmt: skip
    spots = tuple(merged if spot is first else spot for spot in board.spots if spot is not second)
    gone = {item.name for item in between}
    touches = tuple(touch for touch in moved.touches if key_of(touch.a) != key_of(touch.b))
    items = tuple(item for item in moved.items if item.name not in gone)
    return replace(moved, spots=spots, items=items, touches=touches), f"{second.name} is the same spot as {first.name}"


def part(board: Board, spot: str, item: str, leg: str, new: str) -> tuple[Board, str]:
    """A leg moved from a spot to one of its own: what was taken for one spot is two.

    Raises InvalidInput: no such leg is at the spot, or the name is taken.
    """
    there, moving = board.found_spot(spot), board.found_item(item)
    end = next((one for one in moving.ends if key_of(one.spot) == key_of(there.name) and leg in ("", one.leg)), None)
    if end is None:
        raise InvalidInput("Leg", f"{item} {leg}".strip(), f"a leg at {there.name}")
    if board.spot(new) is not None:
        raise InvalidInput("Spot", new, "a name that no spot has")
    ends = tuple(ItemEnd(one.leg, new) if one is end else one for one in moving.ends)
    items = tuple(replace(one, ends=ends) if one is moving else one for one in board.items)
    return with_spots(replace(board, items=items), (new,)), f"{moving.name} {end.leg} is at {new}, apart from {there.name}"


def take_out(board: Board, name: str) -> Board:
    """The board without an item, or without a spot that nothing is at.

    ``name``: of an item or a spot. Raises InvalidInput: there is no such thing, or something is at the spot still.
    """
    item, spot = board.item(name), board.spot(name)
    if item is not None:
        facts = tuple(fact for fact in board.facts if fact.box != item.name)
        return replace(board, items=tuple(one for one in board.items if one is not item), facts=facts)
    if spot is None:
        raise InvalidInput("Name", name, "the name of a spot or a part of the board")
    there = board.at(spot.name)
    if there:
        raise InvalidInput("Spot", name, f"a spot that nothing is at; {there[0].name} is: take it out or part it first")
    touches = tuple(touch for touch in board.touches if key_of(spot.name) not in (key_of(touch.a), key_of(touch.b)))
    return replace(board, spots=tuple(one for one in board.spots if one is not spot), touches=touches)


def mark(board: Board, name: str, how: How) -> Board:
    """A join or part known in another way."""
    item = board.found_item(name)
    return replace(board, items=tuple(replace(one, how=how) if one is item else one for one in board.items))


def pin(board: Board, name: str, at: Pin | None, photo: str) -> Board:
    """A spot put on a photo, or taken off it.

    Parameters
    ----------
    name : of a spot; a new one is made
    at : where; None takes it off
    """
    there = with_spots(board, (resolved(board, name),))
    spot = there.found_spot(resolved(there, name))
    rest = tuple(one for one in spot.pins if one.photo != photo)
    pinned = replace(spot, pins=(*rest, at) if at is not None else rest)
    return replace(there, spots=tuple(pinned if one is spot else one for one in there.spots))


def of_model(board: Board) -> Board:
    """What a board has of its model: without the touches and faults of this very device; what was measured counts as seen.

    ``board``: of one device.
    """
    items = tuple(replace(item, measured_ohm=None, how="seen" if item.how == "measured" else item.how) for item in board.items)
    return replace(board, items=items, touches=())


def lay(board: Board, ground: Ground) -> Board:
    """A photo laid down, or laid otherwise."""
    rest = tuple(one for one in board.grounds if one.photo != ground.photo)
    if board.grounds and len(rest) != len(board.grounds):
        return replace(board, grounds=tuple(ground if one.photo == ground.photo else one for one in board.grounds))
    return replace(board, grounds=(*rest, ground))
