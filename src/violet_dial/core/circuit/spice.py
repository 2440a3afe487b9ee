"""SPICE text in and out. ngspice reads the same text unchanged: what the trade adds stands in comment lines ``*:``. Files that
a text names with ``.include`` are taken in where that is asked for, and only from beside it.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from violet_dial.core.circuit.expressions import evaluate, spice_number
from violet_dial.core.circuit.netlist import USUAL_C, Circuit, Model, Part, node_key
from violet_dial.core.circuit.spice_lines import check_quiet, fault, joined, pairs, read_note, words_of
from violet_dial.core.circuit.spice_parts import PARTS, Scope, value_of
from violet_dial.core.errors import InvalidInput

MOST_FILES, DEEPEST_INCLUDE, MOST_BYTES = 20, 5, 400_000
_INCLUDE = re.compile(r"^\s*\.inc(?:lude)?\s+(?:\"([^\"]+)\"|'([^']+)'|(\S+))\s*$", re.IGNORECASE)


def with_includes(text: str, beside: Callable[[str], str]) -> str:
    """The text with the lines of the files it names in their place.

    ``beside``: gives the text of a file that lies beside the circuit, by its bare name. Raises InvalidInput: a name with a
    folder in it, too many files, or files within files too deep; and what ``beside`` raises.
    """
    taken: list[str] = []
    return "\n".join(_lines(text, beside, taken, 0))


def _lines(text: str, beside: Callable[[str], str], taken: list[str], depth: int) -> list[str]:
    found: list[str] = []
    for number, line in enumerate(text.replace("\r\n", "\n").split("\n"), start=1):
        named = _INCLUDE.match(line)
        if named is None:
            found.append(line)
            continue
        name = next(group for group in named.groups() if group)
        if not re.fullmatch(r"[\w.+ -]+", name) or name.startswith("."):
            raise InvalidInput(f"Line {number}", line.strip(), "the bare name of a file beside the circuit")
        taken.append(name)
        if len(taken) > MOST_FILES or depth >= DEEPEST_INCLUDE:
            raise InvalidInput(f"Line {number}", line.strip(), f"at most {MOST_FILES} files, {DEEPEST_INCLUDE} within each other")
        inner = [line for line in _lines(beside(name), beside, taken, depth + 1) if line.strip().lower() != ".end"]
        found += [f"* {name}", *inner]
    return found


MOST_CHARACTERS = 400_000
MOST_LINES = 5_000
MOST_PARTS = 1_000  # a camera has a few hundred; dense equations of more take minutes
MOST_OPENED = 1_000  # subcircuits opened and expressions worked out, in all
DEEPEST = 12  # subcircuits within subcircuits
LETTERS = "RCLVIDQEGFHBX"
DIODE_FIGURES = ("is", "n", "rs", "bv", "ibv", "xti", "eg")
BIPOLAR_FIGURES = (
    "is", "bf", "br", "nf", "nr", "vaf", "var", "ise", "ne", "isc", "nc", "ikf", "ikr", "rb", "rc", "re", "xti", "xtb", "eg",
)  # fmt: skip
SAME_FIGURES = {"va": "vaf", "vb": "var", "ik": "ikf", "cj0": "cjo"}  # other names for the same
# Of no account for voltages that stand still; read and left out.
QUIET_FIGURES = (
    "cjo", "vj", "m", "tt", "fc", "cje", "cjc", "cjs", "vje", "vjc", "vjs", "mje", "mjc", "mjs", "tf", "tr", "xcjc", "xtf", "vtf",
    "itf", "ptf", "kf", "af", "mfg", "type", "vceo", "icrating", "iave", "vpk", "cjsw", "php", "mjsw",
)  # fmt: skip


@dataclass
class _Block:
    """A subcircuit's body, or the main circuit."""

    name: str = ""
    pins: tuple[str, ...] = ()
    defaults: dict[str, str] = field(default_factory=dict)
    lines: list[tuple[int, str]] = field(default_factory=list)
    models: dict[str, Model] = field(default_factory=dict)
    parameters: list[tuple[int, str, str]] = field(default_factory=list)

    @property
    def expressions(self) -> int:
        """How many figures are worked out each time the block is opened."""
        return len(self.parameters) + len(self.defaults) + sum(line.count("{") for _, line in self.lines)


@dataclass
class _Opened:
    """What is found while blocks are opened, and how many were."""

    blocks: dict[str, _Block]
    parts: list[Part]
    models: dict[str, Model]
    count: int = 0


def read_spice(text: str) -> Circuit:
    """A circuit from SPICE text; the first line is its title.

    Raises InvalidInput: a line that is not understood; ``field`` is its number. Nothing else is ever raised.
    """
    if len(text) > MOST_CHARACTERS:
        raise InvalidInput("Circuit", f"{len(text)} characters", f"at most {MOST_CHARACTERS}")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if len(lines) > MOST_LINES:
        raise InvalidInput("Circuit", f"{len(lines)} lines", f"at most {MOST_LINES} lines")
    main, blocks, notes = _gather(lines)
    parts: list[Part] = []
    models: dict[str, Model] = {}
    hints = _hints(lines)
    if main.expressions > MOST_OPENED:
        raise InvalidInput("Circuit", f"{main.expressions} expressions", f"at most {MOST_OPENED}")
    parameters = _parameters(main, {}, {})
    scope = Scope("", {}, parameters, {}, temperature_c=hints.temperature_c, nominal_c=hints.nominal_c)
    scope.models = _read_models(main, parameters)
    models.update(scope.models)
    _open(main, scope, _Opened(blocks, parts, models, main.expressions))
    _check_names(parts)
    title = lines[0].strip().lstrip("* ") if lines else ""
    nodeset = tuple((node, volts) for node, volts in hints.nodeset if any(node in part.nodes for part in parts))
    return Circuit(title, tuple(parts), models, notes, text, hints.temperature_c, hints.nominal_c, nodeset)


@dataclass
class _Hints:
    """Temperatures, and volts near which nodes are to stand."""

    temperature_c: float = USUAL_C
    nominal_c: float = USUAL_C
    nodeset: list[tuple[str, float]] = field(default_factory=list)


def _hints(lines: list[str]) -> _Hints:
    """.temp, .options temp= and tnom=, .nodeset."""
    found = _Hints()
    for number, line in joined(lines):
        word, _, rest = line.lower().partition(" ")
        if word == ".temp":
            found.temperature_c = _plain_number(number, line, rest)
        elif word in (".options", ".option", ".opt"):
            for name, value in (piece.split("=", 1) for piece in rest.split() if "=" in piece):
                if name == "temp":
                    found.temperature_c = _plain_number(number, line, value)
                elif name == "tnom":
                    found.nominal_c = _plain_number(number, line, value)
        elif word == ".nodeset":
            pieces = re.findall(r"v ?\( ?([^)\s]+) ?\) ?= ?(\S+)", rest)
            if not pieces:
                raise fault(number, line, ".nodeset V(node)=volts")
            found.nodeset += [(node_key(node), _plain_number(number, line, volts)) for node, volts in pieces]
    return found


def _plain_number(number: int, line: str, text: str) -> float:
    try:
        value = spice_number(text.strip(), "value")
    except InvalidInput as error:
        raise fault(number, line, error.expected) from error
    if not -MOST_C <= value <= MOST_C:
        raise fault(number, line, f"a figure within {MOST_C:g}")
    return value


MOST_C = 1000.0


def _gather(lines: list[str]) -> tuple[_Block, dict[str, _Block], dict[str, dict[str, str]]]:
    """Join continued lines and sort them into the main circuit and subcircuits; read the notes."""
    main = _Block()
    blocks: dict[str, _Block] = {}
    notes: dict[str, dict[str, str]] = {}
    open_blocks = [main]
    for number, line in joined(lines):
        low = line.lower()
        if line.startswith("*:"):
            read_note(number, line[2:], notes)
        elif low.startswith(".subckt"):
            open_blocks.append(_new_block(number, line, blocks))
        elif low.startswith(".ends"):
            if len(open_blocks) == 1:
                raise fault(number, line, "a .subckt before it")
            open_blocks.pop()
        elif low.startswith(".param"):
            for name, value in pairs(number, line[6:]).items():
                open_blocks[-1].parameters.append((number, name, value))
        elif low.startswith(".") and not low.startswith(".model"):
            check_quiet(number, low)
        else:
            open_blocks[-1].lines.append((number, line))
    if len(open_blocks) > 1:
        raise InvalidInput("Circuit", f".subckt {open_blocks[-1].name}", "its .ends line")
    return main, blocks, notes


def _new_block(number: int, line: str, blocks: dict[str, _Block]) -> _Block:
    words = words_of(line)
    pins = [word for word in words[2:] if "=" not in word and word.lower() != "params:"]
    if len(words) < 3:
        raise fault(number, line, ".subckt NAME and its pins")
    if words[1].lower() in blocks:
        raise fault(number, line, f"each .subckt once, also within others; {words[1]} was there already")
    block = _Block(words[1].lower(), tuple(node_key(pin) for pin in pins))
    block.defaults = pairs(number, " ".join(word for word in words[2:] if "=" in word))
    blocks[block.name] = block
    return block


def _parameters(block: _Block, outer: Mapping[str, float], given: Mapping[str, float]) -> dict[str, float]:
    found = dict(outer)
    for name, text in block.defaults.items():  # one that hangs on another follows what was given for that
        found[name] = given[name] if name in given else evaluate(text.strip("{}"), found)
    found.update(given)
    for number, name, text in block.parameters:
        try:
            found[name] = evaluate(text.strip("{}'"), found)
        except InvalidInput as error:
            raise fault(number, f"{name}={text}", error.expected) from error
    return found


def _read_models(block: _Block, parameters: dict[str, float]) -> dict[str, Model]:
    found: dict[str, Model] = {}
    scope = Scope("", {}, parameters, {})
    for number, line in block.lines:
        if not line.lower().startswith(".model"):
            continue
        words = line.replace("(", " ").replace(")", " ").split(None, 3)
        if len(words) < 3 or words[2].upper() not in ("D", "NPN", "PNP"):
            raise fault(number, line, ".model NAME D, NPN or PNP with figures")
        kind = words[2].upper()
        known = DIODE_FIGURES if kind == "D" else BIPOLAR_FIGURES
        figures = {}
        for given, text in pairs(number, words[3] if len(words) > 3 else "").items():
            name = SAME_FIGURES.get(given, given)
            if name in known:
                figures[name] = value_of(text, scope, number)
            elif name not in QUIET_FIGURES:
                raise fault(number, f"{name}={text}", f"one of {', '.join(known)}; leave out what is not known here")
        if words[1].lower() in found:
            raise fault(number, line, f"each model once; {words[1]} was there already")
        found[words[1].lower()] = Model(words[1], kind, figures)
    return found


def _open(block: _Block, scope: Scope, into: _Opened) -> None:
    for number, line in block.lines:
        if line.lower().startswith(".model"):
            continue
        try:
            _open_line(number, line, scope, into)
        except (ArithmeticError, ValueError, TypeError, LookupError, RecursionError, MemoryError) as error:
            if isinstance(error, InvalidInput):
                raise
            raise fault(number, line, "values that can be worked out") from error
        if len(into.parts) > MOST_PARTS:
            raise fault(number, f"{len(into.parts)} parts", f"at most {MOST_PARTS} parts in all")


def _open_line(number: int, line: str, scope: Scope, into: _Opened) -> None:
    letter = line[0].upper()
    if letter not in LETTERS:
        raise fault(number, line, f"a part whose name begins with one of {' '.join(LETTERS)}")
    if letter == "X":
        _open_instance(number, line, scope, into)
    else:
        into.parts.append(PARTS[letter](number, line, scope))


def _open_instance(number: int, line: str, scope: Scope, into: _Opened) -> None:
    blocks, models = into.blocks, into.models
    words = words_of(line)
    plain = [word for word in words if "=" not in word and word.lower() != "params:"]
    if len(plain) < 3:
        raise fault(number, line, "X name, its nodes, the name of a .subckt")
    block = blocks.get(plain[-1].lower())
    if block is None:
        raise fault(number, line, f"the name of a .subckt at the end; there are {', '.join(blocks) or 'none'}")
    into.count += 1 + block.expressions
    if into.count > MOST_OPENED:
        raise fault(number, line, f"at most {MOST_OPENED} subcircuits opened and expressions in them, in all")
    nodes = [scope.node(word) for word in plain[1:-1]]
    if len(nodes) != len(block.pins):
        raise fault(number, line, f"{len(block.pins)} nodes for {block.name}")
    if scope.depth >= DEEPEST:
        raise fault(number, line, f"subcircuits at most {DEEPEST} deep, none inside itself")
    given = {name: value_of(text, scope, number) for name, text in pairs(number, " ".join(w for w in words if "=" in w)).items()}
    both = {name for _, name, _ in block.parameters} & {*given}
    if ("m" in given and "m" not in block.defaults) or both:
        one = sorted(both or {"m"})[0]
        raise fault(number, line, f"parameters that {block.name} has on its .subckt line alone; leave {one} out")
    prefix = f"{scope.prefix}{plain[0]}."
    parameters = _parameters(block, scope.parameters, given)
    own = {f"{prefix.lower()}{name}": model for name, model in _read_models(block, parameters).items()}
    models.update(own)
    seen = {
        **scope.models,
        **{name.removeprefix(prefix.lower()): Model(name, model.kind, model.figures) for name, model in own.items()},
    }
    pins = dict(zip(block.pins, nodes, strict=True))
    inner = Scope(prefix, pins, parameters, seen, scope.depth + 1, scope.temperature_c, scope.nominal_c)
    _open(block, inner, into)


def _check_names(parts: list[Part]) -> None:
    seen: dict[str, Part] = {}
    for part in parts:
        if part.name.lower() in seen:
            raise fault(part.line, part.name, f"each name once; line {seen[part.name.lower()].line} has it already")
        seen[part.name.lower()] = part
    sources = {name for name, part in seen.items() if part.letter == "V"}
    for part in parts:
        wanted = set(part.control) if part.letter in ("F", "H") else set()
        if part.expression:
            wanted |= {first for kind, first, _ in part.expression.probes if kind == "i"}
        for name in sorted(wanted - sources):
            raise fault(part.line, part.name, f"a V source to measure the current of; {name} is none")
