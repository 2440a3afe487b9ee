"""Candidates made when nothing on the list fits: bridges between neighbouring points, parts fitted wrongly, leads exchanged,
opens that show in one state only, and such that come and go. They share the chance of what is on no list."""

import math
from collections.abc import Iterator
from dataclasses import replace

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.faults import TOUCH_OHM, WEIGHTS, changes_of, faults_of, ladder, prior_weight
from violet_dial.core.diagnosis.hypotheses import Hypothesis, Priors
from violet_dial.core.records.circuit import LEADS, Fault, Setting

# Of the chance of what is on no list: how much goes to each kind of candidate; common practice, no source.
BRIDGES, IN_A_STATE, COMES_AND_GOES, EXCHANGED, FITTED_WRONG, LEAKS = 0.5, 0.1, 0.1, 0.05, 0.05, 0.05
LEFT = 1.0 - (BRIDGES + IN_A_STATE + COMES_AND_GOES + EXCHANGED)  # while the rare ones are not made
LEFT_BESIDE_RARE = LEFT - FITTED_WRONG - LEAKS
FEW_POINTS = 24  # up to here any two points may lie side by side; beyond, those that share a part, or parts at one place
MOST_BRIDGES = 1500
STATES = (("open unless bent", "not bent"), ("open when bent", "bent"), ("open when cold", "cold"),
          ("open when warm", "not cold"), ("open unless pressed", "not pressed"))  # fmt: skip
LOOSE = (*LEADS, "switch", "trimmer")


def extended_of(circuit: Circuit, belief: Priors, unlisted_log_prior: float) -> tuple[Hypothesis, ...]:
    """What may be wrong that is not on the list, each with its share of the list's rest.

    Parameters
    ----------
    belief : what raises chances beforehand
    unlisted_log_prior : chance beforehand of what is on no list, nat
    """
    found = _shared([(bridge, 0.0, 1.0) for bridge in _bridges(circuit)], unlisted_log_prior + math.log(BRIDGES))
    loose = [part.name for part in circuit.parts if kind_of(circuit, part) in LOOSE]
    listed = {fault.name for fault, _ in faults_of(circuit)}
    states = [
        (Fault(name, mode, only=only), 0.0, _weight(circuit, name, belief))
        for name in loose for mode, only in STATES if f"{name} {mode}" not in listed
    ]  # fmt: skip
    found += _shared(states, unlisted_log_prior + math.log(IN_A_STATE))
    goes = [(Fault(name, "open at times"), 0.0, _weight(circuit, name, belief)) for name in loose]
    found += [replace(one, law="at times") for one in _shared(goes, unlisted_log_prior + math.log(COMES_AND_GOES))]
    return (*found, *_shared(list(_exchanged(circuit)), unlisted_log_prior + math.log(EXCHANGED)))


def _weight(circuit: Circuit, name: str, belief: Priors) -> float:
    fault = Fault(name, "open")
    return prior_weight(circuit, fault, dict(belief.raised), dict(belief.weights)) or WEIGHTS["resistor"]


def _shared(several: list[tuple[Fault, float, float]], log_total: float) -> list[Hypothesis]:
    """Faults with their spans and weights, sharing one chance."""
    total = sum(weight for _, _, weight in several)
    return [Hypothesis((fault,), log_total + math.log(weight / total), (span,)) for fault, span, weight in several if weight > 0]


def _bridges(circuit: Circuit) -> list[Fault]:
    """A blob of solder between two neighbouring points."""
    listed = {
        frozenset(change.nodes)
        for fault, _ in faults_of(circuit) for change in changes_of(circuit, fault, Setting())
        if fault.mode in ("short", "touches chassis") and change.siemens > 1.0
    }  # fmt: skip
    found = [Fault(one, f"bridged to {other}", TOUCH_OHM, to_node=other) for one, other in neighbours(circuit)
             if frozenset((one, other)) not in listed]  # fmt: skip
    return found[:MOST_BRIDGES]


def rare_of(circuit: Circuit, unlisted_log_prior: float) -> tuple[Hypothesis, ...]:
    """Parts fitted wrongly; moisture, flux or crust between points where a bridge may lie, over its figures, where points are not
    too many. They cost most to work out, and are made when nothing else explains the readings. ``unlisted_log_prior``: chance
    beforehand of what is on no list, nat.
    """
    wrong = _shared(list(_fitted_wrong(circuit)), unlisted_log_prior + math.log(FITTED_WRONG))
    if len(circuit.nodes) > FEW_POINTS:
        return tuple(wrong)
    leaks = [
        (replace(bridge, figure=rung.figure, mode=f"{bridge.mode} leakily"), rung.span, rung.share)
        for bridge in _bridges(circuit) for rung in ladder("", 1.0, 50.0, 200e3, 2.0)
    ]  # fmt: skip
    return (*wrong, *_shared(leaks, unlisted_log_prior + math.log(LEAKS)))


def neighbours(circuit: Circuit) -> Iterator[tuple[str, str]]:
    """Pairs of points that may touch and are not joined anyway."""
    joined = {
        frozenset(p.nodes[:2]) for p in circuit.parts if p.letter == "R" and p.value < 1.0 and kind_of(circuit, p) != "switch"
    }
    nodes = [node for node in circuit.nodes if not node.endswith("#")]
    inner = {node for node in nodes if "." in node and not circuit.note(node)}
    at = {node: {circuit.note(p.name).get("place", "") for p in circuit.at(node)} - {""} for node in nodes}
    beside = {node: {other for part in circuit.at(node) for other in part.nodes} for node in nodes}
    points = [GROUND, *(node for node in nodes if node not in inner)]
    for place, point in enumerate(points):
        for other in points[place + 1 :]:
            near = len(points) <= FEW_POINTS or point in beside[other] or (point != GROUND and bool(at[point] & at[other]))
            if near and frozenset((point, other)) not in joined:
                yield (other, point) if point == GROUND else (point, other)


def _exchanged(circuit: Circuit) -> Iterator[tuple[Fault, float, float]]:
    """Two loose leads at one place whose ends were exchanged."""
    wires = [part for part in circuit.parts if part.letter == "R" and kind_of(circuit, part) in ("wire", "flex", "connector")]
    for place, wire in enumerate(wires):
        for other in wires[place + 1 :]:
            same = circuit.note(wire.name).get("place", "") == circuit.note(other.name).get("place", "")
            if (same or len(wires) <= 6) and not set(wire.nodes) & set(other.nodes):
                yield Fault(wire.name, f"exchanged with {other.name}", to_node=other.name), 0.0, 1.0


def _fitted_wrong(circuit: Circuit) -> Iterator[tuple[Fault, float, float]]:
    """A transistor the wrong way round or of the other polarity, a diode of another kind."""
    for part in circuit.parts:
        if circuit.note(part.name).get("healthy_always"):
            continue
        if part.letter == "Q":
            yield Fault(part.name, "turned round"), 0.0, 1.0
            yield Fault(part.name, "of the other polarity"), 0.0, 1.0
        if part.letter == "D":
            yield Fault(part.name, "of another kind"), 0.0, 1.0
