"""SPICE text in and out. ngspice reads the same text unchanged: what the trade adds stands in comment lines ``*:``."""

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from violet_dial.core.circuit.expressions import evaluate, parse_expression, spice_number
from violet_dial.core.circuit.netlist import USUAL_C, Circuit, Model, Part, Waveform, node_key
from violet_dial.core.circuit.spice_lines import check_quiet, fault, joined, pairs, read_note, words_of
from violet_dial.core.errors import InvalidInput

MOST_CHARACTERS = 400_000
MOST_LINES = 5_000
MOST_PARTS = 1_000  # a camera has a few hundred; dense equations of more take minutes
MOST_OPENED = 1_000  # subcircuits opened and expressions worked out, in all
DEEPEST = 12  # subcircuits within subcircuits
LEAST_MOST = {"R": (1e-9, 1e18), "C": (1e-21, 1e6), "L": (1e-15, 1e9)}
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
_WAVE = re.compile(r"\b(pulse|sin|pwl)\s*\(?([^()]*)\)?", re.IGNORECASE)


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


@dataclass
class _Scope:
    """Where a block is being opened: prefix of names, nodes of its pins, parameters and models it sees."""

    prefix: str
    pins: dict[str, str]
    parameters: dict[str, float]
    models: dict[str, Model]
    depth: int = 0
    temperature_c: float = USUAL_C
    nominal_c: float = USUAL_C

    def node(self, name: str) -> str:
        key = node_key(name)
        if key == "0":
            return key
        return self.pins.get(key, f"{self.prefix.lower()}{key}")

    def part(self, name: str) -> str:
        return f"{self.prefix}{name}"


def read_spice(text: str) -> Circuit:
    """A circuit from SPICE text; the first line is its title.

    Raises
    ------
    InvalidInput
        A line that is not understood; ``field`` is its number. Nothing else is ever raised.
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
    scope = _Scope("", {}, parameters, {}, temperature_c=hints.temperature_c, nominal_c=hints.nominal_c)
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
    for name, text in block.defaults.items():
        found[name] = evaluate(text.strip("{}"), found)
    found.update(given)
    for number, name, text in block.parameters:
        try:
            found[name] = evaluate(text.strip("{}'"), found)
        except InvalidInput as error:
            raise fault(number, f"{name}={text}", error.expected) from error
    return found


def _value(text: str, scope: _Scope, number: int) -> float:
    try:
        if text.startswith("{"):
            return evaluate(text.strip("{}"), scope.parameters)
        return spice_number(text, "value")
    except InvalidInput as error:
        raise fault(number, text, error.expected) from error


def _read_models(block: _Block, parameters: dict[str, float]) -> dict[str, Model]:
    found: dict[str, Model] = {}
    scope = _Scope("", {}, parameters, {})
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
                figures[name] = _value(text, scope, number)
            elif name not in QUIET_FIGURES:
                raise fault(number, f"{name}={text}", f"one of {', '.join(known)}; leave out what is not known here")
        if words[1].lower() in found:
            raise fault(number, line, f"each model once; {words[1]} was there already")
        found[words[1].lower()] = Model(words[1], kind, figures)
    return found


def _open(block: _Block, scope: _Scope, into: _Opened) -> None:
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


def _open_line(number: int, line: str, scope: _Scope, into: _Opened) -> None:
    letter = line[0].upper()
    if letter not in LETTERS:
        raise fault(number, line, f"a part whose name begins with one of {' '.join(LETTERS)}")
    if letter == "X":
        _open_instance(number, line, scope, into)
    else:
        into.parts.append(_PARTS[letter](number, line, scope))


def _open_instance(number: int, line: str, scope: _Scope, into: _Opened) -> None:
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
    given = {
        name: _value(text, scope, number)
        for name, text in pairs(number, " ".join(w for w in words if "=" in w)).items()
    }
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
    inner = _Scope(prefix, pins, parameters, seen, scope.depth + 1, scope.temperature_c, scope.nominal_c)
    _open(block, inner, into)


def _words(number: int, line: str, least: int, expected: str) -> list[str]:
    words = words_of(line)
    if len(words) < least:
        raise fault(number, line, expected)
    return words


def _two_ended(number: int, line: str, scope: _Scope) -> Part:
    words = _words(number, line, 4, f"{line[0].upper()}name node node value")
    text = re.sub(r"^([rcl]|value)=", "", words[3], flags=re.IGNORECASE)
    named = {word.partition("=")[0].lower(): word.partition("=")[2] for word in words[4:]}
    extra = [name for name in named if name not in ("ic", *(("tc1", "tc2", "temp") if line[0] in "Rr" else ()))]
    if extra:
        raise fault(number, line, f"nothing after the value; {extra[0]} is not understood")
    value = _value(text, scope, number)
    if {"tc1", "tc2"} & {*named}:
        first, second = (_value(named.get(name, "0"), scope, number) for name in ("tc1", "tc2"))
        away = (_value(named["temp"], scope, number) if "temp" in named else scope.temperature_c) - scope.nominal_c
        value *= 1.0 + first * away + second * away * away
    least, most = LEAST_MOST[line[0].upper()]
    if not least <= value <= most:
        raise fault(number, text, f"a value above 0, from {least:g} to {most:g}")
    return Part(
        scope.part(words[0]), words[0][0].upper(), (scope.node(words[1]), scope.node(words[2])), value, line=number
    )


def _source(number: int, line: str, scope: _Scope) -> Part:
    words = _words(number, line, 4, f"{line[0].upper()}name node node value")
    rest = " ".join(words[3:])
    wave = _WAVE.search(rest)
    waveform = None
    if wave:
        figures = tuple(_value(word, scope, number) for word in wave.group(2).replace(",", " ").split())
        waveform = Waveform(wave.group(1).lower(), figures)
        if len(figures) > MOST_FIGURES[waveform.kind]:
            raise fault(number, line, f"at most {MOST_FIGURES[waveform.kind]} figures of {waveform.kind.upper()}")
        rest = rest[: wave.start()]
    plain = _steady(number, line, words_of(rest))
    value = _value(plain, scope, number) if plain else (_start_of(waveform) if waveform else 0.0)
    nodes = (scope.node(words[1]), scope.node(words[2]))
    return Part(scope.part(words[0]), words[0][0].upper(), nodes, value, waveform=waveform, line=number)


def _steady(number: int, line: str, words: list[str]) -> str:
    """The steady value among the words of a source; what it does at other frequencies is passed over."""
    found, place = "", 0
    while place < len(words):
        low = words[place].lower()
        if low in ("ac", "ac="):
            place += 1
            skipped = 0
            while place < len(words) and skipped < 2 and _is_figure(words[place]):
                place, skipped = place + 1, skipped + 1
            continue
        if low.startswith("ac="):
            place += 1
            continue
        if low == "dc" and place + 1 < len(words):
            place += 1
            low = words[place]
        elif low.startswith("dc="):
            low = words[place][3:]
        else:
            low = words[place]
        if found:
            raise fault(number, line, "one value, DC value, PULSE(), SIN() or PWL()")
        found, place = low, place + 1
    return found


def _is_figure(word: str) -> bool:
    try:
        spice_number(word, "value")
    except InvalidInput:
        return word.startswith("{")
    return True


MOST_FIGURES = {"sin": 6, "pulse": 7, "pwl": 10_000}


def _start_of(waveform: Waveform) -> float:
    """The value of a changing source before anything changes."""
    if waveform.kind == "pwl":
        return waveform.figures[1] if len(waveform.figures) > 1 else 0.0
    if waveform.kind == "sin":
        offset, amplitude, _, _, _, phase = (*waveform.figures, *[0.0] * 6)[:6]
        return offset + amplitude * math.sin(math.radians(phase))
    return waveform.figures[0] if waveform.figures else 0.0


def _device(number: int, line: str, scope: _Scope) -> Part:
    letter, count = line[0].upper(), 2 if line[0].upper() == "D" else 3
    words = _words(number, line, count + 2, f"{letter}name, {count} nodes and a model")
    off = any(word.lower() == "off" for word in words)
    temperature = next((_value(word[5:], scope, number) for word in words if word.lower().startswith("temp=")), None)
    words = [word for word in words if word.lower() != "off" and not word.lower().startswith("temp=")]
    words = [re.sub(r"^area=", "", word, flags=re.IGNORECASE) for word in words]
    if letter == "Q" and len(words) > 5 and words[5].lower() in scope.models:
        del words[4]  # the substrate: nothing of it is modelled where no junction to it is
    model = scope.models.get(words[count + 1].lower())
    kinds = ("D",) if letter == "D" else ("NPN", "PNP")
    if model is None or model.kind not in kinds:
        raise fault(number, line, f"{count} nodes and the name of a .model of kind {' or '.join(kinds)}")
    if len(words) > count + 3:
        raise fault(number, line, f"nothing after the area; {words[count + 3]} is not understood")
    area = _value(words[count + 2], scope, number) if len(words) > count + 2 else 1.0
    nodes = tuple(scope.node(word) for word in words[1 : count + 1])
    name = scope.part(words[0])
    return Part(
        name, letter, nodes, model=model.name.lower(), area=area, line=number, temperature_c=temperature, off=off
    )


def _controlled(number: int, line: str, scope: _Scope) -> Part:
    letter = line[0].upper()
    poly = re.match(r"^(\S+ \S+ \S+) poly ?\( ?(\d+) ?\) ?(.*)$", line, re.IGNORECASE)
    if poly:
        return _polynomial(number, line, scope, (poly.group(1), poly.group(2), poly.group(3)))
    count = 6 if letter in ("E", "G") else 5
    expected = "two nodes, two controlling nodes, gain" if count == 6 else "two nodes, the controlling V source, gain"
    words = _words(number, line, count, expected)
    if len(words) > count:
        raise fault(number, line, expected)
    control = tuple(scope.node(word) for word in words[3:5]) if count == 6 else (scope.part(words[3]).lower(),)
    nodes = (scope.node(words[1]), scope.node(words[2]))
    return Part(scope.part(words[0]), letter, nodes, _value(words[-1], scope, number), control=control, line=number)


def _polynomial(number: int, line: str, scope: _Scope, pieces: tuple[str, str, str]) -> Part:
    """POLY of one controlling voltage or current, as a source that follows an expression."""
    head, order, rest = pieces
    letter, words = line[0].upper(), rest.replace("(", " ").replace(")", " ").replace(",", " ").split()
    taken = 2 if letter in "EG" else 1
    if order != "1" or len(words) <= taken:
        raise fault(number, line, "POLY(1) with what it depends on and its coefficients")
    probe = f"v({words[0]},{words[1]})" if letter in "EG" else f"i({words[0]})"
    figures = [_value(word, scope, number) for word in words[taken:]]
    if len(figures) == 1:
        figures = [0.0, figures[0]]  # one coefficient alone is a gain
    terms = [
        repr(figures[0]),
        *(f"{figure!r}*{'*'.join([probe] * power)}" for power, figure in enumerate(figures[1:], 1)),
    ]
    name, plus, minus = head.split()
    output = "V" if letter in "EH" else "I"
    return _behavioural(number, f"{name} {plus} {minus} {output}={'+'.join(terms)}", scope)


def _behavioural(number: int, line: str, scope: _Scope) -> Part:
    found = re.match(r"^(\S+)\s+(\S+)\s+(\S+)\s+([vi])\s*=\s*(.+)$", line, re.IGNORECASE)
    if found is None:
        raise fault(number, line, "B name, two nodes, then V={...} or I={...}")
    name, plus, minus, output, text = found.groups()
    sources = _names_of_sources(text)
    try:
        expression = parse_expression(
            text.strip().strip("{}'"),
            scope.parameters,
            lambda one: scope.part(one).lower() if one.lower() in sources else scope.node(one),
        )
    except InvalidInput as error:
        raise fault(number, text, error.expected) from error
    nodes = (scope.node(plus), scope.node(minus))
    return Part(scope.part(name), "B", nodes, expression=expression, output=output.upper(), line=number)


def _names_of_sources(text: str) -> set[str]:
    return {name.lower() for name in re.findall(r"\bi\s*\(\s*([\w.]+)\s*\)", text, re.IGNORECASE)}


_PARTS = {
    "R": _two_ended, "C": _two_ended, "L": _two_ended, "V": _source, "I": _source, "D": _device, "Q": _device, "E": _controlled,
    "G": _controlled, "F": _controlled, "H": _controlled, "B": _behavioural,
}  # fmt: skip


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
