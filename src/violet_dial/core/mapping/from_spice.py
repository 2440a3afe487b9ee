"""SPICE text as a map: each line an item that keeps its text, so that the circuit made of the map is the same again."""

import re
from dataclasses import replace

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import BOX, CHASSIS, MOST_ITEMS, Board, Figure, Item, ItemEnd, SolderPoint

LEGS = {"Q": ("c", "b", "e"), "D": ("a", "band"), "V": ("+", "-"), "I": ("-", "+")}
FIGURE_OF = {"R": "ohm", "C": "farad", "V": "volt"}
OWN_KEYS = ("kind", "colour", "place", "behind", "minutes")


def board_from_spice(text: str) -> Board:
    """The map of a circuit.

    Raises InvalidInput: a line that is not understood, by its number; more parts than a map has room for.
    """
    circuit = checked_circuit(text)
    lines, notes, preface = _parted(text)
    if len(lines) > MOST_ITEMS:
        raise InvalidInput("Map", f"{len(lines)} parts", f"at most {MOST_ITEMS}")
    items = tuple(_item(circuit, line, notes) for line in lines)
    names = dict.fromkeys(spot for item in items for spot in item.spots)
    spots = tuple(_spot(circuit, name) for name in names)
    return Board(spots=spots, items=items, preface="\n".join(preface))


def _parted(text: str) -> tuple[list[str], dict[str, list[str]], list[str]]:
    """Lines of parts, notes by name, and the rest, which stands before them: models, subcircuits, parameters."""
    parts: list[str] = []
    notes: dict[str, list[str]] = {}
    preface: list[str] = []
    into, inside = parts, False
    for raw in text.split("\n")[1:]:
        line = raw.rstrip()
        low = line.strip().lower()
        if low == ".end":
            break
        if low.startswith("*:"):
            name = line.strip()[2:].split()[0].lower() if line.strip()[2:].split() else ""
            (preface if inside else notes.setdefault(name, [])).append(line.strip())
        elif low.startswith("+"):
            if into:
                into[-1] += "\n" + line
        elif low.startswith(".") or inside:
            inside = (inside or low.startswith(".subckt")) and not low.startswith(".ends")
            into = preface
            preface.append(line)
        elif low and not low.startswith("*"):
            into = parts
            parts.append(line.strip())
    return parts, notes, preface


def _item(circuit: Circuit, line: str, notes: dict[str, list[str]]) -> Item:
    name = line.split(maxsplit=1)[0]
    spice = "\n".join([line, *notes.get(name.lower(), [])])
    if not circuit.has(name):  # an instance of a subcircuit: a box whose inside is in the preface
        nodes = [word for word in line.split()[1:] if "=" not in word][:-1]
        return Item(name, BOX, tuple(ItemEnd(str(n), _spot_name(node)) for n, node in enumerate(nodes, 1)), spice=spice)
    part = circuit.part(name)
    note = circuit.note(name)
    more = tuple((key, value) for key, value in note.items() if key not in OWN_KEYS)
    return Item(
        name, kind_of(circuit, part), _ends(part), _figures(part), colour=note.get("colour", ""), place=note.get("place", ""),
        behind=note.get("behind", ""), minutes=_minutes(note.get("minutes", "0")), spice=spice, notes=more,
    )  # fmt: skip


def _minutes(text: str) -> float:
    try:
        return max(float(text), 0.0)
    except ValueError:
        return 0.0


def _ends(part: Part) -> tuple[ItemEnd, ...]:
    legs = LEGS.get(part.letter, ("a", "b", "c", "d"))
    return tuple(ItemEnd(leg, _spot_name(node)) for leg, node in zip(legs, part.nodes, strict=False))


def _figures(part: Part) -> tuple[Figure, ...]:
    key = FIGURE_OF.get(part.letter)
    return (Figure(key, part.value),) if key and part.expression is None else ()


def _spot_name(node: str) -> str:
    return CHASSIS if node.lower() in (GROUND, "gnd") else node.lower()


def _spot(circuit: Circuit, name: str) -> SolderPoint:
    note = circuit.note(name)
    return SolderPoint(name, note.get("place", ""), note.get("behind", ""), _minutes(note.get("minutes", "0")))


def laid_over(new: Board, old: Board) -> Board:
    """A map with what another knew of the same spots: where they are on which photos, and the touches between them."""
    spots = tuple(
        replace(spot, pins=before.pins, place=spot.place or before.place, behind=spot.behind or before.behind)
        if (before := old.spot(spot.name)) is not None
        else spot
        for spot in new.spots
    )
    touches = tuple(touch for touch in old.touches if new.spot(touch.a) is not None and new.spot(touch.b) is not None)
    return replace(new, spots=spots, grounds=old.grounds, touches=touches)


def with_node(item: Item, old: str, new: str) -> Item:
    """An item that keeps its text, with a node under another name there too."""
    if not item.spice or old == GROUND:
        return item
    name, _, rest = item.spice.partition(" ")
    pattern = re.compile(rf"(?<![\w+\-]){re.escape(old)}(?![\w+\-])", re.IGNORECASE)
    lines = rest.split("\n")
    changed = [line if line.startswith("*:") else pattern.sub(new, line) for line in lines]
    return replace(item, spice=f"{name} " + "\n".join(changed))
