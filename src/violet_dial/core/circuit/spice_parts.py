"""One line of SPICE text as one part."""

import math
import re
from collections.abc import Callable
from dataclasses import dataclass

from violet_dial.core.circuit.expressions import evaluate, parse_expression, spice_number
from violet_dial.core.circuit.netlist import USUAL_C, Model, Part, Waveform, node_key
from violet_dial.core.circuit.spice_lines import fault, words_of
from violet_dial.core.errors import InvalidInput

LEAST_MOST = {"R": (1e-9, 1e18), "C": (1e-21, 1e6), "L": (1e-15, 1e9)}
_WAVE = re.compile(r"\b(pulse|sin|pwl)\s*\(?([^()]*)\)?", re.IGNORECASE)


@dataclass
class Scope:
    """Where a block is being opened: prefix of names, nodes of its pins, parameters and models it sees."""

    prefix: str
    pins: dict[str, str]
    parameters: dict[str, float]
    models: dict[str, Model]
    depth: int = 0
    temperature_c: float = USUAL_C
    nominal_c: float = USUAL_C

    def node(self, name: str) -> str:
        """A node's name in the flat circuit."""
        key = node_key(name)
        if key == "0":
            return key
        return self.pins.get(key, f"{self.prefix.lower()}{key}")

    def part(self, name: str) -> str:
        """A part's name in the flat circuit."""
        return f"{self.prefix}{name}"


def value_of(text: str, scope: Scope, number: int) -> float:
    """A figure, or an expression in braces. ``number``: line number, from 1."""
    try:
        if text.startswith("{"):
            return evaluate(text.strip("{}"), scope.parameters)
        return spice_number(text, "value")
    except InvalidInput as error:
        raise fault(number, text, error.expected) from error


def _words(number: int, line: str, least: int, expected: str) -> list[str]:
    words = words_of(line)
    if len(words) < least:
        raise fault(number, line, expected)
    return words


def _two_ended(number: int, line: str, scope: Scope) -> Part:
    words = _words(number, line, 4, f"{line[0].upper()}name node node value")
    text = re.sub(r"^([rcl]|value)=", "", words[3], flags=re.IGNORECASE)
    named = {word.partition("=")[0].lower(): word.partition("=")[2] for word in words[4:]}
    extra = [name for name in named if name not in ("ic", *(("tc1", "tc2", "temp") if line[0] in "Rr" else ()))]
    if extra:
        raise fault(number, line, f"nothing after the value; {extra[0]} is not understood")
    value = value_of(text, scope, number)
    if {"tc1", "tc2"} & {*named}:
        first, second = (value_of(named.get(name, "0"), scope, number) for name in ("tc1", "tc2"))
        away = (value_of(named["temp"], scope, number) if "temp" in named else scope.temperature_c) - scope.nominal_c
        value *= 1.0 + first * away + second * away * away
    least, most = LEAST_MOST[line[0].upper()]
    if not least <= value <= most:
        raise fault(number, text, f"a value above 0, from {least:g} to {most:g}")
    return Part(scope.part(words[0]), words[0][0].upper(), (scope.node(words[1]), scope.node(words[2])), value, line=number)


def _source(number: int, line: str, scope: Scope) -> Part:
    words = _words(number, line, 4, f"{line[0].upper()}name node node value")
    rest = " ".join(words[3:])
    wave = _WAVE.search(rest)
    waveform = None
    if wave:
        figures = tuple(value_of(word, scope, number) for word in wave.group(2).replace(",", " ").split())
        waveform = Waveform(wave.group(1).lower(), figures)
        if len(figures) > MOST_FIGURES[waveform.kind]:
            raise fault(number, line, f"at most {MOST_FIGURES[waveform.kind]} figures of {waveform.kind.upper()}")
        rest = rest[: wave.start()]
    plain = _steady(number, line, words_of(rest))
    value = value_of(plain, scope, number) if plain else (_start_of(waveform) if waveform else 0.0)
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


def _device(number: int, line: str, scope: Scope) -> Part:
    letter, count = line[0].upper(), 2 if line[0].upper() == "D" else 3
    words = _words(number, line, count + 2, f"{letter}name, {count} nodes and a model")
    off = any(word.lower() == "off" for word in words)
    temperature = next((value_of(word[5:], scope, number) for word in words if word.lower().startswith("temp=")), None)
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
    area = value_of(words[count + 2], scope, number) if len(words) > count + 2 else 1.0
    nodes = tuple(scope.node(word) for word in words[1 : count + 1])
    name = scope.part(words[0])
    return Part(name, letter, nodes, model=model.name.lower(), area=area, line=number, temperature_c=temperature, off=off)


def _controlled(number: int, line: str, scope: Scope) -> Part:
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
    return Part(scope.part(words[0]), letter, nodes, value_of(words[-1], scope, number), control=control, line=number)


def _polynomial(number: int, line: str, scope: Scope, pieces: tuple[str, str, str]) -> Part:
    """POLY of one controlling voltage or current, as a source that follows an expression."""
    head, order, rest = pieces
    letter, words = line[0].upper(), rest.replace("(", " ").replace(")", " ").replace(",", " ").split()
    taken = 2 if letter in "EG" else 1
    if order != "1" or len(words) <= taken:
        raise fault(number, line, "POLY(1) with what it depends on and its coefficients")
    probe = f"v({words[0]},{words[1]})" if letter in "EG" else f"i({words[0]})"
    figures = [value_of(word, scope, number) for word in words[taken:]]
    if len(figures) == 1:
        figures = [0.0, figures[0]]  # one coefficient alone is a gain
    terms = [repr(figures[0]), *(f"{figure!r}*{'*'.join([probe] * power)}" for power, figure in enumerate(figures[1:], 1))]
    name, plus, minus = head.split()
    output = "V" if letter in "EH" else "I"
    return _behavioural(number, f"{name} {plus} {minus} {output}={'+'.join(terms)}", scope)


def _behavioural(number: int, line: str, scope: Scope) -> Part:
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


PARTS: dict[str, Callable[[int, str, Scope], Part]] = {
    "R": _two_ended, "C": _two_ended, "L": _two_ended, "V": _source, "I": _source, "D": _device, "Q": _device, "E": _controlled,
    "G": _controlled, "F": _controlled, "H": _controlled, "B": _behavioural,
}  # fmt: skip
