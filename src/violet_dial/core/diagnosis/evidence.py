"""What was measured and seen, each with how the device stood; and how it is typed. Points and parts go by the words they are
known by at the bench.
"""

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from violet_dial.core.circuit.netlist import Circuit, Part, node_key
from violet_dial.core.circuit.trade import kind_of, switches_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, parse_number
from violet_dial.core.records.circuit import BOARD_GROUND, OVERLOAD_OHM, Evidence, LitBy, Setting, SupplyState, TestKind
from violet_dial.core.units import Unit, is_overload, parted

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
    if pair and BOARD_GROUND in nodes and "gnd" in [point.lower() for point in pair.groups()]:
        raise InvalidInput("Point", "gnd", f"{BOARD_GROUND}, or 0 for the chassis: here they are two")
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


def timing(circuit: Circuit) -> tuple[Part, str]:
    """The timing capacitor and the magnet it times. Raises InvalidInput: none is noted."""
    for part in circuit.parts:
        magnet = circuit.note(part.name).get("times", "")
        if part.letter == "C" and magnet:
            return part, circuit.part(magnet).name
    raise InvalidInput("Time", "no timing capacitor", "a capacitor noted with the magnet it times (times=PART) in the circuit")


Look = Literal["off", "dim", "on"]
LOOKS: dict[str, float] = {"off": 0.0, "dark": 0.0, "dead": 0.0, "out": 0.0, "dim": 0.5, "weak": 0.5, "on": 1.0, "lit": 1.0,
                           "bright": 1.0, "pulls": 1.0, "runs": 1.0, "moves": 1.0}  # fmt: skip
BEEPS: dict[str, float] = {
    "beep": 1.0, "beeps": 1.0, "yes": 1.0, "1": 1.0, "1.0": 1.0, "no beep": 0.0, "no": 0.0, "0": 0.0, "0.0": 0.0,
}  # fmt: skip
SEEN_KINDS = ("lamp", "led", "movement", "solenoid", "motor", "coil")
THIRD = "third unit"  # note of a figure of another working unit than the sister
CAPACITANCE_FACTOR_MODES = ("too high", "too low")
CONTINUITY_OHM = 30.0  # a meter beeps below; common practice, no source


# What a figure is, and the test it answers, by its unit.
TEST_UNITS: dict[TestKind, Unit] = {
    "volt": "V",
    "ohm": "Ω",
    "amp": "A",
    "capacitance": "F",
    "ripple": "V",
    "time": "s",
    "dip": "V",
}
_TESTS: dict[Unit, TestKind] = {
    unit: test for test, unit in TEST_UNITS.items() if test not in ("ripple", "time", "dip")
}  # that is said in words
_SWINGS = re.compile(
    r"^(?P<where>.+?)\s+(?:(?P<flat>flat)|(?P<how>sawtooth|square|sine|bursts|spikes|ripple|oscillates|dips)\s+(?P<value>.+))$"
)
_READING = re.compile(
    r"^(?P<where>.+?)\s+(?P<value>[-+−]?[\d.,½]+\s?[a-zA-ZµμΩΩ]*\d*\s?[a-zA-ZµμΩΩ]*|OL|ol|O\.L\.?|open|inf|∞|beeps?|no beep)$"
)
_SAYS_OHMS = re.compile(r"[kKMGrR]")  # a figure in thousands is ohms: no such volts or amperes are at this bench


@dataclass(frozen=True)
class Typed:
    """What a typed line means: evidence, or a change of how the device stands."""

    evidence: Evidence | None
    setting: Setting
    words: str


def understand_evidence(circuit: Circuit, text: str, now: Setting, meter: str = "") -> Typed:
    """Evidence as said: ``clip+ to gnd 1.52 V``, ``red wire 38k``, ``lamp dark``, ``S1 on``, ``cells out``.

    Raises InvalidInput: a name the circuit has not, a figure without a meaning, or one with two.

    Parameters
    ----------
    now : Setting; how the device stands
    meter : str; what the connected meter is on (volt, ohm, amp, capacitance): a figure without a unit is that, and it is
        said; empty or anything else: such a figure is refused
    """
    line = " ".join(text.strip().split())
    first, _, rest = line.partition(" ")
    sister, third = first.lower() in ("sister", "third"), first.lower() == "third"
    line = rest if sister else line
    changed = _setting_change(circuit, line, now)
    if changed is not None:
        return Typed(None, changed, f"now: {changed.words or 'as usual'}")
    seen = _clocked(circuit, line, now) or _timed(circuit, line, now)
    seen = seen or _seen(circuit, line, now) or _swings(circuit, line, now)
    evidence, by_meter = (seen, False) if seen is not None else _measured(circuit, line, now, meter)
    evidence = replace(evidence, sister=sister, note=THIRD if third else evidence.note)
    aside = " (as the connected meter is set)" if by_meter else ""
    return Typed(evidence, now, f"{evidence_words(evidence)}{aside}")


WAKES = {"wakes by itself": 1.0, "stays asleep": 0.0}
NEVER_HOLDS_S, NEVER_LETS_GO_S = 1e-4, 100.0  # what stands for a magnet that does so
END_DECADES = 0.05  # from what stands for an end, within which it is meant
LIT_BY: dict[str, LitBy] = {"lux meter": "lux meter", "meter": "lux meter", "lamp": "lamp", "room": "room"}
_LIGHT = re.compile(rf"^(?:light\s+)?(?P<lx>\S+)\s*lx(?:\s+(?:by\s+)?(?:the\s+|a\s+)?(?P<by>{'|'.join(LIT_BY)}))?$")
TIMES = {"never holds": NEVER_HOLDS_S, "never lets go": NEVER_LETS_GO_S}
SAYABLE = (
    "points and a figure (clip+ to gnd 1.52 V), a part and a look (needle at 40 %, lamp dark), a trace (vreg sawtooth 1.1 V, "
    "no clock at clkin), or how it stands (S1 on, 1000 lx, 300 lx by the room, cells out, cells in, on bench supply, lift PART, "
    "refit PART, bent, straight, cold, warm, pressed, released)"
)
_SUPPLY: dict[str, SupplyState] = {
    "cells out": "off", "battery out": "off", "supply out": "off", "cells in": "battery", "battery in": "battery",
    "on bench supply": "bench", "bench supply": "bench",
}  # fmt: skip
_STATES = {"bent": ("bent", True), "straight": ("bent", False), "cold": ("cold", True), "warm": ("cold", False),
           "pressed": ("pressed", True), "released": ("pressed", False)}  # fmt: skip


def with_supply_off(now: Setting, is_said: bool) -> Setting:
    """How the device stands while ohms are read. Raises InvalidInput: that a supply was in it then ``is_said``."""
    if is_said and now.supply != "off":
        inside = "the bench supply on it" if now.supply == "bench" else "the cells in"
        wanted = "ohms read with the supply out (with it in a meter shows its volts): take it out, say cells out, read again"
        raise InvalidInput("Ohms", f"read with {inside}", wanted)
    return replace(now, supply="off")


def said_light(text: str, now: Setting) -> Setting | None:
    """The device in a light as said: ``300 lx``, ``300 lx by the room``; None where no light is said.

    Raises InvalidInput: what stands before the unit is no figure, or one below nothing.

    Parameters
    ----------
    text : the light alone
    now : how the device stands
    """
    found = _LIGHT.match(text.strip().lower())
    if found is None:
        return None
    lux = parse_number(found["lx"], "Light")
    if lux < 0:
        raise InvalidInput("Light", f"{lux:g} lx", "0 lx (the cell covered) or more")
    return now.lit(lux, LIT_BY[found["by"] or "lux meter"])


def _setting_change(circuit: Circuit, line: str, now: Setting) -> Setting | None:
    low = line.lower()
    if low in _SUPPLY:
        return replace(now, supply=_SUPPLY[low])
    if low in _STATES:
        word, holds = _STATES[low]
        others = {one for one in now.state if one != word}
        return replace(now, state=tuple(sorted({*others, word} if holds else others)))
    light = said_light(low, now)
    if light is not None:
        return light
    lifted = re.match(r"^(lift|refit)\s+(\S+)$", low)
    if lifted:
        part = circuit.part(lifted.group(2)).name
        rest = tuple(one for one in now.disconnected if one != part)
        return replace(now, disconnected=(*rest, part) if lifted.group(1) == "lift" else rest)
    words = low.split()
    switches = switches_of(circuit)
    if len(words) == 2 and words[0] in switches:
        if words[1] not in switches[words[0]].positions:
            raise InvalidInput(words[0].upper(), words[1], f"one of {', '.join(switches[words[0]].positions)}")
        return now.with_switch(words[0], words[1])
    return None


def _seen(circuit: Circuit, line: str, now: Setting) -> Evidence | None:
    name, _, look = line.rpartition(" ")
    if look.lower() in LOOKS and name:
        part = part_named(circuit, name)
        if kind_of(circuit, circuit.part(part)) not in SEEN_KINDS:
            raise InvalidInput(name, look, "something that can be seen: a lamp, needle, solenoid or motor")
        return Evidence("seen", LOOKS[look.lower()], part=part, setting=now)
    needle = re.match(r"^(.+?)\s+at\s+(\S+?)\s*(%|of full scale)?$", line)
    if needle:
        part = part_named(circuit, needle.group(1))
        if kind_of(circuit, circuit.part(part)) == "movement":
            value = parse_number(needle.group(2), "Needle")
            return Evidence("seen", value / 100 if needle.group(3) == "%" else value, part=part, setting=now)
    return None


def _swings(circuit: Circuit, line: str, now: Setting) -> Evidence | None:
    """``vreg to gnd sawtooth 1.1 V``, ``vreg flat``, ``vraw dips 0.8 V`` (each time the lamp or the magnet draws)."""
    found = _SWINGS.match(line)
    if found is None:
        return None
    plus, minus, _ = points_named(circuit, found["where"])
    test: TestKind = "dip" if found["how"] == "dips" else "ripple"
    value = 0.0 if found["flat"] else read_figure(test, found["value"])
    return Evidence(test, value, plus, minus, setting=now)


def _timed(circuit: Circuit, line: str, now: Setting) -> Evidence | None:
    """``time 41 ms``: how long the shutter was held open, in the light and the positions the device stands in; ``time at 1/30
    41 ms`` where a switch has such a position."""
    found = re.match(r"^time\s+(?:at\s+(?P<at>\S+)\s+)?(?P<value>.+)$", line, re.IGNORECASE)
    if found is None:
        return None
    return time_evidence(circuit, read_figure("time", found["value"]), now, found["at"] or "")


def time_evidence(circuit: Circuit, time_s: float, now: Setting, position: str = "", u_s: float = 0.0) -> Evidence:
    """How long the shutter was held open, s, with its standard uncertainty; ``position`` of a switch it was timed in, where that
    is another than it stands in now. Raises InvalidInput: no switch has such a position, or nothing in the circuit times.
    """
    if position:
        named = [name for name, switch in switches_of(circuit).items() if position.lower() in switch.positions]
        if not named:
            raise InvalidInput("Time", f"at {position}", "a position of a switch of this circuit; or time 41 ms, as it stands")
        now = now.with_switch(named[0], position.lower())
    capacitor, _ = timing(circuit)
    return Evidence("time", time_s, part=capacitor.name, setting=now, u=u_s)


def _clocked(circuit: Circuit, line: str, now: Setting) -> Evidence | None:
    """``wakes by itself``, ``stays asleep``; ``no clock at clkin``, ``clock at clkin 64 Hz``, ``no clock between clk and
    clkin``."""
    if line.lower() in WAKES:
        return Evidence("wakes", WAKES[line.lower()], setting=now)
    found = re.match(r"^(?P<no>no )?clock (?:at|between) (?P<where>.+?)(?: (?P<hz>\S+ ?k?Hz))?$", line, re.IGNORECASE)
    if found is None or (found["no"] and found["hz"]):
        return None
    plus, minus, _ = points_named(circuit, found["where"].replace(" and ", " to "))
    return Evidence("clock", 0.0 if found["no"] else 1.0, plus, minus, setting=now, note=found["hz"] or "")


def _words_here(circuit: Circuit) -> str:
    """Switches, points and parts by the words they are known by, as many as one reads."""
    switches = [f"{name.upper()} {'|'.join(switch.positions)}" for name, switch in switches_of(circuit).items()]
    points = [spoken for spoken in circuit.nodes if spoken != "0"][:MOST_NAMED]
    parts = words_known(circuit, tuple(part.name for part in circuit.parts))[:MOST_NAMED]
    return "; ".join(", ".join(one) for one in (switches, points, parts) if one)


def _measured(circuit: Circuit, line: str, now: Setting, meter: str) -> tuple[Evidence, bool]:
    found = _READING.match(line)
    if found is None:
        raise InvalidInput("Evidence", line, f"{SAYABLE}. Here there are {_words_here(circuit)}")
    where, said = found.group("where"), found.group("value").strip()
    plus, minus, part = points_named(circuit, where)
    test, value, by_meter = figure_of(said, meter)
    if test in ("amp", "capacitance"):
        if not part:
            raise InvalidInput("Evidence", line, "the part the current goes through or the capacitor, not two points")
        return Evidence(test, value, part=part, setting=now), by_meter
    setting = with_supply_off(now, now.supply == "bench") if test in ("ohm", "continuity") else now
    return Evidence(test, value, plus, minus, setting=setting), by_meter


def figure_of(said: str, meter: str = "") -> tuple[TestKind, float, bool]:
    """A figure as said: the test it answers, its value in base units, and whether the connected meter told the unit.

    Raises InvalidInput: not a figure, or one that could be volts or ohms; both are named.
    """
    low = said.strip().lower()
    if low in ("beep", "beeps", "no beep"):
        return "continuity", 0.0 if low == "no beep" else 1.0, False
    if is_overload(low):
        return "ohm", OVERLOAD_OHM, False
    number, unit = parted(said, tuple(TEST_UNITS.values()))
    value = parse_number(number, "Reading")
    if unit is not None:
        return _TESTS[unit], value, False
    if _SAYS_OHMS.search(number):
        return "ohm", value, False
    for test in TEST_UNITS:
        if test == meter:
            return test, value, True
    raise InvalidInput("Reading", said, f"its unit: it could be {said} V or {said} ohm; type one of these")


def read_figure(test: TestKind, text: str) -> float:
    """A figure typed for a known test, in base units: the unit may be left out, and another one is refused.

    Raises InvalidInput: not a figure, another unit than the test has, or a look that is not known.
    """
    said = text.strip()
    low = said.lower()
    if test == "seen":
        return _look(said)
    if test == "wakes":
        if low not in WAKES and low not in BEEPS:
            raise InvalidInput("Reading", text, "wakes or stays asleep")
        return WAKES.get(low, BEEPS.get(low, 0.0))
    if test in ("continuity", "clock"):
        if low.replace("clock", "beep") in BEEPS:
            return BEEPS[low.replace("clock", "beep")]
        raise InvalidInput("Reading", text, "beeps or no beep" if test == "continuity" else "clock or no clock")
    if test == "ohm" and is_overload(low):
        return OVERLOAD_OHM
    if test == "time" and low in TIMES:
        return TIMES[low]
    number, unit = parted(said, tuple(TEST_UNITS.values()))
    if unit not in (None, TEST_UNITS[test]):
        raise InvalidInput("Reading", text, f"{TEST_UNITS[test]}: that is what this test asks for")
    return parse_number(number, "Reading")


def _look(said: str) -> float:
    low = said.lower()
    if low in LOOKS:
        return LOOKS[low]
    value = parse_number(low.removesuffix("%").strip(), "What is seen")
    value = value / 100 if low.endswith("%") else value
    if not 0 <= value <= 1:
        raise InvalidInput("What is seen", said, "on, dim, off, or 0 to 100 %")
    return value


def how_long(time_s: float, digits: int = 4) -> str:
    """How long a shutter was held open, said; beyond what can be told, that its magnet never held or never lets go."""
    for words, end in TIMES.items():
        if abs(math.log10(max(time_s, 1e-9) / end)) < END_DECADES:
            return words
    return f"{format_engineering(time_s, digits)}s"


def evidence_words(evidence: Evidence) -> str:
    """One piece of evidence, said with how the device stood."""
    if evidence.test == "seen":
        figure = {0.0: "off", 0.5: "dim", 1.0: "on"}.get(evidence.value, f"at {evidence.value:.0%}")
    elif evidence.test == "wakes":
        return "it wakes by itself" if evidence.value else "it stays asleep"
    elif evidence.test == "clock":
        figure = f"clock {evidence.note}".strip() if evidence.value else "no clock"
    elif evidence.test == "continuity":
        figure = "beeps" if evidence.value else "no beep"
    elif evidence.test == "time":
        figure = how_long(evidence.value)
    elif evidence.test == "ohm" and evidence.value >= OVERLOAD_OHM:
        figure = "open (OL)"
    else:
        swings = {"ripple": "swings ", "dip": "dips "}.get(evidence.test, "")
        figure = f"{swings}{format_engineering(evidence.value)}{TEST_UNITS[evidence.test]}"
    whose = f"{evidence.note if evidence.note == THIRD else 'sister unit'}, " if evidence.sister else ""
    held = evidence.setting.words if evidence.test not in ("ohm", "continuity") else ""
    setting = f" ({held})" if held else ""
    return f"{whose}{evidence.where} {figure}{setting}"
