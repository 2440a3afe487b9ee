"""Parts as lines to be drawn: each between two points, or from one to the chassis."""

from dataclasses import dataclass

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of

BLOCKS = ("block", "regulator")  # drawn between what they answer to and what they give
AIR_OHM = 9e8  # insulation that holds a spot nothing is joined to: not drawn


@dataclass(frozen=True)
class BoardRun:
    """A part between two points; ``end`` None for the chassis."""

    part: str
    label: str
    kind: str
    colour: str
    place: str
    start: str
    end: str | None

    @property
    def is_block(self) -> bool:
        """Whether it looks at its first point, and no current flows from there."""
        return self.kind in BLOCKS and self.end is not None


def part_label(circuit: Circuit, part: Part) -> str:
    """What stands beside a part on the drawing: its noted name, colour, or designator."""
    note = circuit.note(part.name)
    if "name" in note:
        return note["name"]
    if "colour" in note:
        return f"{note['colour']} {kind_of(circuit, part)}"
    return part.name


def runs_of(circuit: Circuit) -> tuple[BoardRun, ...]:
    """Every part that is drawn, in the order of the circuit."""
    found = []
    for part in circuit.parts:
        live = [node for node in dict.fromkeys(part.nodes) if node != GROUND]
        note = circuit.note(part.name)
        if not live or (part.letter == "R" and part.value > AIR_OHM and note.get("healthy_always")):
            continue
        start, end = _ends(circuit, part, live)
        found.append(
            BoardRun(part.name, part_label(circuit, part), kind_of(circuit, part), note.get("colour", ""),
                note.get("place", ""), start, end)
        )  # fmt: skip
    return tuple(found)


def _ends(circuit: Circuit, part: Part, live: list[str]) -> tuple[str, str | None]:
    if part.letter == "Q":
        collector, base, emitter = part.nodes
        joined = [(base, other) for other in (collector, emitter) if other != base and GROUND not in (base, other)]
        return joined[0] if joined else (live[0], None)
    looks_at = watched(circuit, part)
    if looks_at:
        return looks_at, live[0]
    return live[0], live[1] if len(live) > 1 else None


def watched(circuit: Circuit, part: Part) -> str:
    """The point a block answers to: of those it looks at the one with the fewest parts, a rail having many."""
    looked_at = list(dict.fromkeys(part.expression.nodes)) if part.expression else []
    looked_at = [node for node in looked_at if node not in part.nodes and node != GROUND]
    return min(looked_at, key=lambda node: len(circuit.at(node)), default="")


def starts_of(circuit: Circuit) -> list[str]:
    """Where the current comes in: the battery's plus, or the first source; then all others."""
    sources = sorted(circuit.parts, key=lambda part: (kind_of(circuit, part) != "battery", part.letter not in "VI"))
    first = [node for part in sources if part.letter in "VI" for node in part.nodes if node != GROUND]
    return list(dict.fromkeys([*first, *circuit.nodes]))
