"""What the trade sees in a circuit: kinds of part, switches with positions, cells that answer to light, supplies."""

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.expressions import spice_number
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import CLOSED_OHM, OPEN_OHM, USUAL_LX, Setting

Array = npt.NDArray[np.float64]
LEAST_LX = 0.01
COLD_C = 5.0  # a device cooled in a bag; common practice, no source

KINDS = (
    "battery", "supply", "wire", "track", "joint", "connector", "contact", "clip", "flex", "switch", "movement", "cds",
    "photocell", "junction", "leak", "lamp", "led", "coil", "solenoid", "motor", "trimmer", "resistor", "capacitor", "diode",
    "transistor", "regulator", "block", "source", "instrument",
)  # fmt: skip
_KNOWN = frozenset(KINDS)
NOTE_KEYS = (
    "kind", "name", "colour", "place", "behind", "minutes", "tol", "switch", "closed", "positions", "r10", "gamma", "a_per_lx",
    "full_a", "on_a", "ri", "flash", "healthy_always", "chemistry", "times",
)  # fmt: skip
_BY_LETTER = {
    "R": "resistor", "C": "capacitor", "L": "coil", "D": "diode", "Q": "transistor", "V": "supply", "I": "source", "B": "block",
    "E": "block", "F": "block", "G": "block", "H": "block",
}  # fmt: skip
# What gives way behind the terminals, ohm: of a small cell, and of the output of an amplifier or a regulator that is pulled;
# common practice, no source.
CELL_OHM, OUTPUT_OHM = 2.0, 5.0
LIT = ("cds", "photocell")  # what answers to light
# Of the logarithm of the light, one standard deviation, by what said it; nothing said: a bench from 100 to 10,000 lx; common
# practice, no source. What it is off by is the same in every reading under it.
LIGHT_U: dict[str, float] = {"": 1.2, "room": 0.7, "lamp": 0.2, "lux meter": 0.1}
LIGHTS = tuple(LIGHT_U)
# Relative standard deviation of a healthy part's value; common practice, no source.
TOLERANCES = {
    "resistor": 0.05, "trimmer": 0.10, "battery": 0.03, "supply": 0.01, "movement": 0.10, "cds": 0.30, "photocell": 0.15,
    "leak": 0.30, "lamp": 0.15, "coil": 0.10, "solenoid": 0.10, "motor": 0.20, "junction": 0.30, "diode": 0.30, "led": 0.30,
    "transistor": 0.30, "regulator": 0.03, "block": 0.03, "source": 0.05,
}  # fmt: skip


@dataclass(frozen=True)
class Access:
    """What it takes to get at something: minutes, and what it is behind."""

    minutes: float = 0.0
    behind: str = ""


@dataclass(frozen=True)
class Switch:
    """A switch: its positions in order, and what each of its contacts closes in."""

    name: str
    positions: tuple[str, ...]
    contacts: tuple[tuple[str, frozenset[str]], ...] = field(default_factory=tuple)


def kind_of(circuit: Circuit, part: Part) -> str:
    """The kind of a part: as noted, or what its letter says."""
    noted = circuit.note(part.name).get("kind", "")
    return noted if noted in _KNOWN else _BY_LETTER[part.letter]


def check_notes(circuit: Circuit) -> None:
    """Refuse notes that mean nothing here.

    Raises InvalidInput: an unknown kind or key, or a note on a name the circuit has not.
    """
    names = {part.name.lower() for part in circuit.parts} | set(circuit.nodes) | {"0", "circuit"}
    for name, note in circuit.notes.items():
        if name not in names:
            raise InvalidInput(f"Note on {name}", name, "the name of a part or node of the circuit")
        unknown = next((key for key in note if key not in NOTE_KEYS), None)
        if unknown is not None:
            raise InvalidInput(f"Note on {name}", f"{unknown}={note[unknown]}", f"one of {', '.join(NOTE_KEYS)}")
        if note.get("kind", KINDS[0]) not in KINDS:
            raise InvalidInput(f"Note on {name}", note["kind"], f"kind one of {', '.join(KINDS)}")


def figure(circuit: Circuit, name: str, key: str, usual: float) -> float:
    """A figure from a part's note, with suffixes as in SPICE. ``name``: name of a part, as the circuit writes it."""
    text = circuit.note(name).get(key)
    return usual if text is None else spice_number(text, f"{name} {key}")


def inner_ohm(circuit: Circuit, part: Part) -> float:
    """What gives way behind a part's terminals, ohm: ``ri`` of its note or what such cells and outputs have; 0 where nothing."""
    if part.letter == "V" and kind_of(circuit, part) == "battery":
        return figure(circuit, part.name, "ri", CELL_OHM)
    return figure(circuit, part.name, "ri", OUTPUT_OHM) if part.output == "V" else 0.0


def with_inner(circuit: Circuit) -> Circuit:
    """The same circuit with what gives way behind terminals drawn as parts."""
    parts: list[Part] = []
    for part in circuit.parts:
        ohm = inner_ohm(circuit, part)
        inner = f"{part.name.lower()}inner#"
        parts.append(replace(part, nodes=(inner, *part.nodes[1:])) if ohm else part)
        parts += [Part(f"R{inner}", "R", (inner, part.nodes[0]), ohm)] if ohm else []
    return circuit.with_parts(tuple(parts))


def tolerance_of(circuit: Circuit, part: Part) -> float:
    """Relative standard deviation of a healthy part: ``tol`` of its note (a limit, taken as two deviations) or usual."""
    text = circuit.note(part.name).get("tol")
    if text is not None:
        value = float(text.rstrip("%")) / 100 if text.endswith("%") else spice_number(text, f"{part.name} tol")
        return value / 2
    return TOLERANCES.get(kind_of(circuit, part), 0.0)


def switches_of(circuit: Circuit) -> dict[str, Switch]:
    """The switches: parts noted ``switch=S1 closed=a|b``, gathered by switch."""
    contacts: dict[str, list[tuple[str, frozenset[str]]]] = {}
    positions: dict[str, dict[str, None]] = {}
    for part in circuit.parts:
        note = circuit.note(part.name)
        if "switch" not in note:
            continue
        name = note["switch"].lower()
        closed = frozenset(word.lower() for word in note.get("closed", "on").split("|"))
        contacts.setdefault(name, []).append((part.name, closed))
        listed = note.get("positions", "").lower().split("|") if note.get("positions") else []
        positions.setdefault(name, {}).update(dict.fromkeys([*listed, *sorted(closed)]))
    found = {}
    for name, several in contacts.items():
        order = tuple(positions[name])
        found[name] = Switch(name, order if len(order) > 1 else ("off", *order), tuple(several))
    return found


def usual_setting(circuit: Circuit) -> Setting:
    """How the device stands when nothing is said: each switch as the netlist's values have it."""
    stands = []
    for name, switch in switches_of(circuit).items():
        conducting = {contact for contact, _ in switch.contacts if circuit.part(contact).value < 1e6}
        fits = [
            position
            for position in switch.positions
            if {contact for contact, closed in switch.contacts if position in closed} == conducting
        ]
        stands.append((name, fits[0] if fits else switch.positions[-1]))
    return Setting(switches=tuple(sorted(stands)))


def set_circuit(circuit: Circuit, setting: Setting) -> Circuit:
    """The circuit as it stands in a setting. Raises InvalidInput: a switch or position that does not exist."""
    switches = switches_of(circuit)
    stands = dict(usual_setting(circuit).switches) | dict(setting.switches)
    for name, position in stands.items():
        if name not in switches or position not in switches[name].positions:
            known = "; ".join(f"{switch.name.upper()} {'|'.join(switch.positions)}" for switch in switches.values()) or "none"
            raise InvalidInput("Switch", f"{name} {position}", f"a switch and position of this circuit: {known}")
    closed = {contact: stands[name] in where for name, switch in switches.items() for contact, where in switch.contacts}
    lifted = {name.lower() for name in setting.disconnected}
    parts = [_set_part(circuit, part, setting, closed) for part in circuit.parts if part.name.lower() not in lifted]
    there = circuit.with_parts(tuple(parts))
    if setting.supply == "bench":  # it does not sag, and is as true as what is set on it
        fed = {part.name.lower() for part in parts if kind_of(circuit, part) == "battery"}
        notes = {name: {**note, "kind": "supply"} if name in fed else note for name, note in there.notes.items()}
        there = replace(there, notes=notes)
    return replace(there, temperature_c=min(there.temperature_c, COLD_C)) if "cold" in setting.state else there


def supply_volts(circuit: Circuit) -> float:
    """How far volts go in it, V: what its largest source gives, and 1 at least."""
    return max([1.0, *(abs(part.value) for part in circuit.parts if part.letter == "V")])


def sees_light(circuit: Circuit) -> bool:
    """Whether a circuit has a cell, so that the light counts."""
    return any(kind_of(circuit, part) in LIT for part in circuit.parts)


def lights_of(circuit: Circuit) -> tuple[float, ...]:
    """The standard deviations of the `LIGHTS` a circuit may be seen in; none where it minds no light."""
    return tuple(LIGHT_U.values()) if sees_light(circuit) else ()


def light_of(setting: Setting) -> tuple[int, float]:
    """By which of `LIGHTS` a light is known, and the standard deviation of its logarithm; a covered cell is in none."""
    by = setting.lit_by if setting.is_light_said else ""
    return LIGHTS.index(by), LIGHT_U[by] if setting.light_lx > 0 else 0.0


def answers_to_light(circuit: Circuit, part: Part) -> float:
    """The logarithm of a cell's figure for one of the light: its slope; 0 of a part that minds no light."""
    kind = kind_of(circuit, part)
    return -figure(circuit, part.name, "gamma", 0.7) if kind == "cds" else 1.0 if kind == "photocell" else 0.0


def _set_part(circuit: Circuit, part: Part, setting: Setting, closed: dict[str, bool]) -> Part:
    kind = kind_of(circuit, part)
    if part.name in closed:
        on = part.value if part.value < 1e6 else CLOSED_OHM
        return replace(part, value=on if closed[part.name] else OPEN_OHM)
    if kind == "battery" and setting.supply == "off":
        return Part(part.name, "R", part.nodes, OPEN_OHM, line=part.line)
    if part.letter == "C" and circuit.note(part.name).get("times"):
        return Part(part.name, "V", part.nodes, 0.0, line=part.line)  # the shutter is open: what times it is still empty
    if kind in LIT:
        return replace(part, value=float(lit_value(circuit, part, np.array(setting.light_lx))))
    return part


def lit_value(circuit: Circuit, part: Part, light_lx: Array) -> Array:
    """What a cell is in a light: ohm of a CdS cell, ampere of a photocell, shape of ``light_lx``.

    Parameters
    ----------
    part : one of its cells; the circuit's own, not one already set
    light_lx : on the cell, lx; any shape
    """
    if kind_of(circuit, part) == "cds":
        r10 = figure(circuit, part.name, "r10", part.value)
        gamma = figure(circuit, part.name, "gamma", 0.7)
        return r10 * (np.maximum(light_lx, LEAST_LX) / 10.0) ** -gamma
    return figure(circuit, part.name, "a_per_lx", part.value / USUAL_LX) * light_lx


def place_of(circuit: Circuit, name: str) -> str:
    """Where a part or node sits in the device, as noted. ``name``: name of a part, as the circuit writes it."""
    return circuit.note(name).get("place", "")


def access_to(circuit: Circuit, node: str) -> Access:
    """The easiest way to touch a node: at any part there, or as noted on the node itself."""
    ways = [circuit.note(node)] if circuit.note(node) else [circuit.note(part.name) for part in circuit.at(node)]
    found = [Access(spice_number(note.get("minutes", "0"), "minutes"), note.get("behind", "")) for note in ways]
    return min(found, key=lambda one: one.minutes, default=Access())
