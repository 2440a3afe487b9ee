"""A circuit as records: parts between named nodes, models, and what the trade adds in notes."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from violet_dial.core.circuit.expressions import Expression
from violet_dial.core.errors import InvalidInput

GROUND = "0"
USUAL_C = 27.0  # as SPICE takes it when nothing is said
GROUND_NAMES = ("0", "gnd")


@dataclass(frozen=True)
class Waveform:
    """A source that changes: PULSE, SIN or PWL with its figures in SPICE's order."""

    kind: str
    figures: tuple[float, ...]


@dataclass(frozen=True)
class Part:
    """One part. ``letter`` is SPICE's first letter; ``nodes`` in SPICE's order, ground as ``0``.

    ``value`` is ohm (as it is at the part's temperature), farad, henry, volt, ampere or gain by letter; ``control`` holds
    the controlling nodes (E, G) or the name of the controlling source (F, H); ``expression`` is what a B source gives, as
    ``output`` V or I.
    """

    name: str
    letter: str
    nodes: tuple[str, ...]
    value: float = 0.0
    model: str = ""
    area: float = 1.0
    control: tuple[str, ...] = ()
    expression: Expression | None = None
    output: str = ""
    waveform: Waveform | None = None
    line: int = 0
    temperature_c: float | None = None  # its own, where it is not the circuit's
    off: bool = False  # a junction that is to be without current where there is a choice


@dataclass(frozen=True)
class Model:
    """A .model line: ``kind`` D, NPN or PNP; figures by lower-case name."""

    name: str
    kind: str
    figures: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Circuit:
    """A flat circuit: subcircuits are opened, their names joined with dots. ``text`` is the SPICE text it came from."""

    title: str
    parts: tuple[Part, ...]
    models: dict[str, Model]
    notes: dict[str, dict[str, str]]
    text: str = ""
    temperature_c: float = USUAL_C
    nominal_c: float = USUAL_C  # at which the figures of its models were taken
    nodeset: tuple[tuple[str, float], ...] = ()  # volts near which nodes are to stand where there is a choice

    def part(self, name: str) -> Part:
        """The part of this name, upper or lower case. Raises InvalidInput: no such part; the names there are, are said."""
        found = self._by_name.get(name.lower())
        if found is not None:
            return found
        names = ", ".join(one.name for one in self.parts[:40])
        raise InvalidInput("Part", name, f"one of {names}")

    def has(self, name: str) -> bool:
        """Whether a part of this name is in it, case aside."""
        return name.lower() in self._by_name

    @cached_property
    def _by_name(self) -> dict[str, Part]:
        return {part.name.lower(): part for part in self.parts}

    def note(self, name: str) -> dict[str, str]:
        """What the trade notes of a part or a node; empty when nothing."""
        return self.notes.get(name.lower(), {})

    @cached_property
    def nodes(self) -> tuple[str, ...]:
        """Every node but ground, in the order of first use."""
        found = dict.fromkeys(node for part in self.parts for node in (*part.nodes, *_control_nodes(part)))
        return tuple(node for node in found if node != GROUND)

    def with_parts(self, parts: tuple[Part, ...]) -> "Circuit":
        """The same circuit with other parts."""
        return replace(self, parts=parts)

    def at(self, node: str) -> tuple[Part, ...]:
        """The parts that touch a node."""
        return self._by_node.get(node, ())

    @cached_property
    def _by_node(self) -> dict[str, tuple[Part, ...]]:
        found: dict[str, list[Part]] = {}
        for part in self.parts:
            for node in dict.fromkeys(part.nodes):
                found.setdefault(node, []).append(part)
        return {node: tuple(parts) for node, parts in found.items()}


def _control_nodes(part: Part) -> tuple[str, ...]:
    if part.letter in ("E", "G"):
        return part.control
    return part.expression.nodes if part.expression else ()


def node_key(text: str) -> str:
    """A node name as kept: lower case, ground always ``0``."""
    low = text.lower()
    return GROUND if low in GROUND_NAMES else low
