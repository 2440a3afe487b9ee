"""Points and parts of a circuit by the words they are known by at the bench."""

import re

from violet_dial.core.circuit.netlist import Circuit, node_key
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.errors import InvalidInput

MOST_NAMED = 14
_POINTS = re.compile(r"^(\S+)\s+(?:to\s+)?(\S+)$", re.IGNORECASE)


def part_named(circuit: Circuit, text: str) -> str:
    """The part meant by a name, a kind alone in the circuit, or a wire colour.

    Raises InvalidInput: none or several are meant; they are named.
    """
    low = text.strip().lower()
    words = {"needle": "movement", "meter": "movement", "magnet": "solenoid"}
    found = [part.name for part in circuit.parts if part.name.lower() == low]
    found = found or [part.name for part in circuit.parts if circuit.note(part.name).get("name", "").lower() == low]
    found = found or [part.name for part in circuit.parts if low in (kind_of(circuit, part), words.get(low, "?"))
                      or words.get(low) == kind_of(circuit, part)]  # fmt: skip
    found = found or [
        part.name for part in circuit.parts
        if low in (circuit.note(part.name).get("colour", "?"), f"{circuit.note(part.name).get('colour', '?')} wire")
    ]  # fmt: skip
    if len(found) == 1:
        return found[0]
    if found:
        raise InvalidInput("Part", text, f"one of these alone: {', '.join(words_known(circuit, tuple(found)))}")
    names = ", ".join(words_known(circuit, tuple(part.name for part in circuit.parts))[:MOST_NAMED])
    raise InvalidInput("Part", text, f"one of: {names}")


def words_known(circuit: Circuit, parts: tuple[str, ...]) -> tuple[str, ...]:
    """What parts are called at the bench: the name noted, the colour of a wire, the kind where there is one of it, and
    behind it the part's code; those without such a word come last, by their codes.
    """
    kinds = [kind_of(circuit, part) for part in circuit.parts]
    said: list[str] = []
    codes: list[str] = []
    for name in parts:
        part = circuit.part(name)
        note, kind = circuit.note(part.name), kind_of(circuit, part)
        colour = note.get("colour", "")
        word = note.get("name") or (f"{colour} wire" if colour else kind if kinds.count(kind) == 1 else "")
        (said if word else codes).append(f"{word} ({part.name})" if word else part.name)
    return (*said, *codes)


def points_named(circuit: Circuit, text: str) -> tuple[str, str, str]:
    """Two nodes, and the part when the points are its ends. Raises InvalidInput: a point the circuit has not."""
    pair = _POINTS.match(text.strip())
    nodes = {*circuit.nodes, "0"}
    if pair and node_key(pair.group(1)) in nodes and node_key(pair.group(2)) in nodes:
        return node_key(pair.group(1)), node_key(pair.group(2)), ""
    if node_key(text.strip()) in nodes:
        return node_key(text.strip()), "0", ""
    if pair and " to " in f" {text.lower()} ":
        for point in pair.groups():
            if node_key(point) not in nodes:
                raise InvalidInput("Point", point, f"one of gnd, {', '.join(circuit.nodes[:30])}")
    part = circuit.part(part_named(circuit, text))
    return part.nodes[0], part.nodes[1], part.name
