"""Evidence in and out as CSV: test, plus, minus, value, unit, setting; uncertainty and sister unit where there are any."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass, replace

from violet_dial.core.circuit.netlist import Circuit, node_key
from violet_dial.core.circuit.trade import Setting, switches_of, usual_setting
from violet_dial.core.diagnosis.evidence import LOOKS, OVERLOAD_OHM, Evidence
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.job.csv_text import Cells, Names, RejectedRow, defused, table_of

REQUIRED = ("test", "plus", "value")
OPTIONAL = ("minus", "unit", "setting", "uncertainty", "sister")
_WRITTEN_UNITS = {"volt": "V", "ohm": "ohm", "amp": "A", "capacitance": "F"}
_TESTS = ("volt", "ohm", "amp", "continuity", "seen", "capacitance")
_UNITS = {
    "volt": {"v": 1.0, "": 1.0}, "ohm": {"ohm": 1.0, "ω": 1.0, "": 1.0}, "amp": {"a": 1.0, "": 1.0},
    "capacitance": {"f": 1.0, "": 1.0}, "continuity": {"": 1.0}, "seen": {"": 1.0},
}  # fmt: skip
_PREFIXES = {"g": 1e9, "meg": 1e6, "m": 1e-3, "k": 1e3, "u": 1e-6, "µ": 1e-6, "n": 1e-9, "p": 1e-12}


@dataclass(frozen=True)
class EvidenceResult:
    """What a CSV holds: evidence offered, rows rejected with reasons (all counted)."""

    evidence: tuple[Evidence, ...]
    rejected: tuple[RejectedRow, ...]
    rejected_count: int


def read_evidence(data: bytes, circuit: Circuit) -> EvidenceResult:
    """Evidence from the bytes of a CSV file; names are the circuit's own.

    Raises
    ------
    InvalidInput
        Not text, too large, no header row, or a required column missing.
    """
    table = table_of(data, "Evidence file", Names(REQUIRED, OPTIONAL))
    offered = table.offer(lambda cell: _evidence(cell, circuit))
    return EvidenceResult(offered.found, offered.rejected, offered.rejected_count)


def _evidence(cell: Cells, circuit: Circuit) -> Evidence:
    test = cell("test").lower()
    if test not in _TESTS:
        raise InvalidInput("test", cell("test"), f"one of {', '.join(_TESTS)}")
    setting = setting_from(cell("setting"), circuit)
    value = _value(test, cell("value"), cell("unit"))
    u = abs(_value(test, cell("uncertainty"), cell("unit"))) if cell("uncertainty") else 0.0
    sister = cell("sister").lower() in ("yes", "y", "1", "true")
    if test in ("seen", "amp", "capacitance"):
        part = circuit.part(cell("plus")).name
        return Evidence(test, value, part=part, setting=setting, sister=sister, u=u)  # type: ignore[arg-type]
    plus, minus = node_key(cell("plus")), node_key(cell("minus") or "0")
    for node in (plus, minus):
        if node not in {*circuit.nodes, "0"}:
            raise InvalidInput("point", node, f"one of gnd, {', '.join(circuit.nodes[:30])}")
    if test in ("ohm", "continuity"):
        setting = replace(setting, supply="off")
    return Evidence(test, value, plus, minus, setting=setting, sister=sister, u=u)  # type: ignore[arg-type]


def write_evidence(evidence: Iterable[Evidence]) -> str:
    """Evidence as CSV text with the columns `read_evidence` knows, figures in plain units."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("test", "plus", "minus", "value", "unit", "setting", "uncertainty", "sister"))
    for one in evidence:
        minus = "" if one.part else "gnd" if one.minus == "0" else one.minus
        value = "OL" if one.test == "ohm" and one.value >= OVERLOAD_OHM else repr(one.value)
        texts = (one.test, defused(one.part or one.plus), defused(minus), value, _WRITTEN_UNITS.get(one.test, ""))
        more = (repr(one.u) if one.u else "", "yes" if one.sister else "")
        writer.writerow((*texts, defused(setting_text(one.setting)), *more))
    return out.getvalue()


def setting_text(setting: Setting) -> str:
    """How the device stood, as `setting_from` reads it."""
    pairs = [f"{name}={position}" for name, position in setting.switches]
    pairs += [f"supply={setting.supply}", f"light={setting.light_lx!r}"]
    if setting.disconnected:
        pairs.append(f"disconnected={'|'.join(setting.disconnected)}")
    return ";".join((*pairs, *(f"{name}=yes" for name in setting.state)))


def _value(test: str, text: str, unit: str) -> float:
    low = text.lower()
    if test == "seen" and low in LOOKS:
        return LOOKS[low]
    if test == "continuity" and low in ("yes", "no", "beeps", "no beep"):
        return 1.0 if low in ("yes", "beeps") else 0.0
    if test == "ohm" and low in ("ol", "inf", "open"):
        return OVERLOAD_OHM
    units = _UNITS[test]
    said = unit.strip()
    for prefix, factor in {"": 1.0, **_PREFIXES}.items():
        for name in units:
            if said.lower() == f"{prefix}{name}" and (prefix or name or not said):
                big = factor if said[:1] != "M" or prefix != "m" else 1e6  # M is mega, m is milli
                return parse_number(text, "value") * big
    raise InvalidInput(
        "unit", unit, f"a unit for {test}: {', '.join(name or 'nothing' for name in units)}, with k, M, m, µ before it"
    )


def setting_from(text: str, circuit: Circuit) -> Setting:
    """How the device stood: ``S1=on;supply=off;light=1000;disconnected=R1|R2;bent=yes``.

    Raises
    ------
    InvalidInput
        A name that is no switch, or a value it cannot have.
    """
    setting = usual_setting(circuit)
    switches = switches_of(circuit)
    for pair in (one for one in text.split(";") if one.strip()):
        name, sign, value = (part.strip().lower() for part in pair.partition("="))
        if name == "supply" and value in ("battery", "bench", "off"):
            setting = replace(setting, supply=value)  # type: ignore[arg-type]
        elif name == "light":
            setting = replace(setting, light_lx=parse_number(value.removesuffix("lx").strip(), "light"))
        elif name == "disconnected":
            setting = replace(setting, disconnected=tuple(circuit.part(one).name for one in value.split("|")))
        elif name in ("bent", "cold", "pressed"):
            setting = replace(setting, state=tuple(sorted({*setting.state, name})))
        elif sign and name in switches and value in switches[name].positions:
            setting = setting.with_switch(name, value)
        else:
            known = "; ".join(f"{one.name}={'|'.join(one.positions)}" for one in switches.values())
            raise InvalidInput(
                "setting", pair, f"{known or 'no switch here'}; supply=battery|bench|off; light=LX; disconnected=PART"
            )
    return setting
