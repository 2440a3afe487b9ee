"""Hidden faults drawn at random, of kinds that happen; which tests there are; whether a fault that is said is the true one."""

from dataclasses import replace

import numpy as np

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.allowed import candidates, is_safe, useful_settings
from violet_dial.core.diagnosis.extended import STATES, neighbours
from violet_dial.core.diagnosis.faults import TOUCH_OHM, changes_of, faults_of, shows
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import LEADS, Evidence, Fault, Setting

SEEN = 4.0  # standard deviations by which some allowed test must differ from a healthy device
KINDS = ("open", "corroded", "switch", "wrong value", "decade", "trimmer", "capacitor", "junction", "cell", "battery",
         "load", "chassis", "bridge", "in a state")  # fmt: skip


def _figure(rng: np.random.Generator, low: float, high: float) -> float:
    return float(np.exp(rng.uniform(np.log(low), np.log(high))))


def _of_kind(circuit: Circuit, kinds: tuple[str, ...], rng: np.random.Generator) -> str | None:
    found = [
        part.name
        for part in circuit.parts
        if kind_of(circuit, part) in kinds and not circuit.note(part.name).get("healthy_always")
    ]
    return str(rng.choice(found)) if found else None


def drawn_fault(circuit: Circuit, kind: str, rng: np.random.Generator) -> Fault | None:
    """A fault of a kind, its part and figure at random; None where the circuit has no such part."""
    if kind == "bridge":
        pairs = [pair for pair in neighbours(circuit) if GROUND not in pair]
        one, other = pairs[int(rng.integers(len(pairs)))]
        return Fault(one, f"bridged to {other}", TOUCH_OHM, to_node=other)
    if kind == "chassis":
        found = [fault for fault, _ in faults_of(circuit) if fault.mode.endswith("chassis")]
        fault = found[int(rng.integers(len(found)))] if found else None
        return fault if fault is None or fault.mode != "leaks to chassis" else replace(fault, figure=_figure(rng, 50, 200e3))
    parts, modes = {
        "open": (LEADS, (("open", 0, 0),)),
        "corroded": (LEADS, (("high resistance", 20, 1e6),)),
        "switch": (("switch",), (("stuck open", 0, 0), ("stuck closed", 0, 0), ("high resistance", 20, 1e6))),
        "wrong value": (("resistor",), (("too high", 1.6, 20), ("too low", 0.05, 0.6), ("open", 0, 0))),
        "decade": (("resistor",), (("too high", 10, 10), ("too low", 0.1, 0.1))),
        "trimmer": (("trimmer",), (("too high", 1.6, 20), ("too low", 0.05, 0.6), ("open", 0, 0))),
        "capacitor": (
            ("capacitor",), (("leaky", 100, 1e6), ("short", 0, 0), ("open", 0, 0), ("too high", 10, 10), ("too low", 0.1, 0.1))
        ),
        "junction": (
            ("diode", "led", "transistor"),
            (("open", 0, 0), ("short", 0, 0), ("leaky", 100, 1e6), ("collector to emitter short", 0, 0),
             ("collector to emitter leaky", 100, 1e6), ("base to emitter short", 0, 0), ("low gain", 2, 40)),
        ),
        "cell": (
            ("cds", "photocell", "leak"),
            (("open", 0, 0), ("insensitive", 2, 30), ("reads bright", 0.033, 0.5), ("tired", 0.05, 0.7), ("dead", 0.01, 0.01),
             ("leaky", 80, 5e3)),
        ),
        "battery": (
            ("battery",),
            (("weak", 0.4, 0.9), ("dead", 0.05, 0.05), ("reversed", 0, 0), ("high internal resistance", 10, 2000)),
        ),
        "load": (
            ("movement", "lamp", "solenoid", "motor"),
            (("open coil", 0, 0), ("open", 0, 0), ("stuck pointer", 0, 0), ("shorted turns", 0.05, 0.6), ("short", 0, 0)),
        ),
        "in a state": ((*LEADS, "switch", "trimmer"), tuple((mode, 0, 0) for mode, _ in STATES)),
    }[kind]  # fmt: skip
    name = _of_kind(circuit, parts, rng)
    if name is None:
        return None
    mode, low, high = modes[int(rng.integers(len(modes)))]
    listed = {fault.mode for fault, _ in faults_of(circuit) if fault.part == name} | {one for one, _ in STATES}
    if mode not in listed:
        return None
    return Fault(name, mode, _figure(rng, low, high) if high else 0.0, only=dict(STATES).get(mode, ""))


def all_asks(circuit: Circuit, now: Setting) -> list[Evidence]:
    """Every test that is allowed. ``now``: how the device stands."""
    predictor = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)
    asks = [
        ask for place, setting in enumerate(useful_settings(circuit, now)) for ask in candidates(circuit, setting, place == 0)
    ]
    return [ask for ask in asks if is_safe(predictor, ask)]


def same(circuit: Circuit, said: tuple[Fault, ...], true: Fault, tried: tuple[Setting, ...] = (Setting(),)) -> bool:
    """Whether one of the faults said is the true one: the same part in the same way, or the same two points joined.

    What is open in one state only is simply open as long as no other state was ``tried``.
    """
    for one in said:
        if one.name == true.name:
            return True
        if one.part == true.part and _is_open(one, tried) and _is_open(true, tried):
            return True
        if _joins(circuit, one) and _joins(circuit, one) == _joins(circuit, true) and one.only == true.only:
            return True
    return False


def _joins(circuit: Circuit, fault: Fault) -> frozenset[str]:
    """The two nets that a short or a leak joins; points joined by sound leads are one. Empty for other faults."""
    whole = fault.mode in ("short", "stuck closed")
    nodes = [change.nodes for change in changes_of(circuit, fault, Setting()) if change.siemens > 0 and (whole or not change.own)]
    net = {node: node for node in (*circuit.nodes, GROUND)}
    for part in circuit.parts:
        if part.letter == "R" and part.value < 1.0 and (part.name != fault.part or fault.to_node):
            one, other = (net[node] for node in part.nodes)
            net = {node: one if root == other else root for node, root in net.items()}
    kind = "short" if fault.figure < 1.0 else "leak"
    return frozenset({net[node] for node in nodes[0]} | {f"a {kind}"}) if len(nodes) == 1 else frozenset()


def _is_open(fault: Fault, tried: tuple[Setting, ...]) -> bool:
    if fault.mode == "high resistance":
        return fault.figure > 3e5
    return fault.mode in ("open", "stuck open", "open coil") or (
        fault.mode.startswith("open ") and all(shows(fault, setting) for setting in tried)
    )
