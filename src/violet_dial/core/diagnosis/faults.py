"""How parts fail: modes by kind, how often beforehand, over which figures, and what each does to the circuit.

Source: Weights: common practice, no source: battery, its compartment and leads first, then contacts, then everything else.
Values off by a decade are the classic misread of a part code (IEC 60062 [memory] codes the digits).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import NamedTuple

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.records.circuit import CLOSED_OHM, LEADS, OPEN_OHM, Fault, Setting

# Chance beforehand that one part of this kind is at fault in a device that came in faulty, before anything is known.
WEIGHTS: dict[str, float] = {
    "battery": 0.05, "clip": 0.04, "contact": 0.035, "switch": 0.035, "wire": 0.03, "joint": 0.03, "flex": 0.035,
    "connector": 0.03, "track": 0.02, "movement": 0.02, "photocell": 0.03, "leak": 0.02, "cds": 0.025, "trimmer": 0.02,
    "capacitor": 0.018,
    "lamp": 0.012, "led": 0.010, "coil": 0.010, "solenoid": 0.012, "motor": 0.015, "transistor": 0.015, "diode": 0.010,
    "junction": 0.002, "regulator": 0.012, "block": 0.010, "resistor": 0.012,
}  # fmt: skip
REBUILDS = ("reversed", "turned round", "of the other polarity", "of another kind")
SILICON_A, GERMANIUM_A = (5e-15, 2e-7)  # saturation currents; a Schottky diode lies near the second; common practice, no source
TOUCH_OHM = 0.05
OFF_BENCH = "not on a bench supply"  # what a fault shows under that a bench supply may be clipped on behind of
CHASSIS_WEIGHT = 0.004
BLOB_WEIGHT = 0.004


class Mode(NamedTuple):
    """One way a kind of part fails at one figure; ``span`` is how far the figure may lie from it in all, as a natural
    logarithm: the rung of a ladder. 0 where there is no figure, or just this one."""

    mode: str
    figure: float = 0.0
    share: float = 1.0
    span: float = 0.0


@dataclass(frozen=True)
class CircuitChange:
    """What a fault changes: siemens between two rows, a source by a factor, or an element's output by a factor.

    ``series_ohm`` goes in series with a source's branch. ``own`` names the part whose conductance the siemens take the
    place of.
    """

    nodes: tuple[str, str] = ("", "")
    siemens: float = 0.0
    source: str = ""
    source_factor: float = 1.0
    series_ohm: float = 0.0
    element: str = ""
    element_factors: tuple[float, ...] = ()
    own: str = ""


def ladder(mode: str, share: float, low: float, high: float, a_decade: float = 4.0) -> tuple[Mode, ...]:
    """A fault of unknown figure, evenly likely over its logarithm, as rungs that touch.

    ``low``, ``high``: ends of the figures, ohm or a factor.
    """
    width = math.log(high / low)
    count = max(1, round(width / math.log(10.0) * a_decade))
    span = width / count
    return tuple(Mode(mode, low * math.exp((n + 0.5) * span), share / count, span) for n in range(count))


LOW_OHM, HIGH_OHM = 4.0, 2e6  # of a corroded lead: below it nothing shows, above it is as good as open
LEAK_LOW_OHM, LEAK_HIGH_OHM = 100.0, 1e6
MOST_OFF, LEAST_OFF = 20.0, 1.2  # a value off by more, or by no more than a tolerance, is another fault, or none
_LEAD = (Mode("open", share=0.4), *ladder("high resistance", 0.6, LOW_OHM, HIGH_OHM))


def _off(high: float, low: float, decade: float = 0.0) -> tuple[Mode, ...]:
    """A value too high or too low by any factor; ``decade`` is the share of a misread code, each way."""
    modes = (*ladder("too high", high, LEAST_OFF, MOST_OFF, 6.0), *ladder("too low", low, 1.0 / MOST_OFF, 1.0 / LEAST_OFF, 6.0))
    return (*modes, Mode("too high", 10.0, decade), Mode("too low", 0.1, decade)) if decade else modes


def _leaky(mode: str, share: float) -> tuple[Mode, ...]:
    return ladder(mode, share, LEAK_LOW_OHM, LEAK_HIGH_OHM)


_DIODE = (Mode("open", share=0.4), Mode("short", share=0.35), *_leaky("leaky", 0.15), Mode("reversed", share=0.1))
MODES: dict[str, tuple[Mode, ...]] = {
    **dict.fromkeys(LEADS, _LEAD),
    "switch": (
        Mode("stuck open", share=0.35), Mode("stuck closed", share=0.1), *ladder("high resistance", 0.55, LOW_OHM, HIGH_OHM)
    ),
    "resistor": (Mode("open", share=0.25), *_off(0.20, 0.16, 0.17), Mode("short", share=0.05)),
    "trimmer": (Mode("open", share=0.6), *_off(0.2, 0.2)),
    "movement": (
        Mode("open coil", share=0.45), Mode("stuck pointer", share=0.35), *ladder("shorted turns", 0.15, 0.1, 0.8),
        Mode("leads exchanged", share=0.05),
    ),
    "cds": (
        Mode("open", share=0.3), *ladder("insensitive", 0.4, 2.0, 30.0), *ladder("reads bright", 0.3, 1 / 30.0, 0.5)
    ),
    "photocell": (*ladder("tired", 0.55, 0.05, 0.72, 6.0), Mode("dead", 0.01, 0.4), Mode("reversed", -1.0, 0.05)),
    "leak": ladder("leaky", 1.0, 80.0, 5e3),
    "battery": (
        *ladder("weak", 0.38, 0.4, 0.92, 14.0), Mode("dead", 0.05, 0.24), Mode("reversed", share=0.08),
        *ladder("high internal resistance", 0.24, 8.0, 2000.0),
        *ladder("overvoltage", 0.06, 1.07, 2.1, 20.0),  # fresh cells of 1.55 V for 1.35 V, one cell too many
    ),
    "lamp": (Mode("open", share=0.9), Mode("short", share=0.1)),
    **dict.fromkeys(
        ("coil", "solenoid", "motor"), (Mode("open", share=0.7), *ladder("shorted turns", 0.3, 0.05, 0.6))
    ),
    **dict.fromkeys(("diode", "led"), _DIODE),
    "junction": (Mode("short"),),
    "transistor": (
        Mode("open", share=0.35), Mode("collector to emitter short", share=0.25),
        *_leaky("collector to emitter leaky", 0.1), Mode("base to emitter short", share=0.15),
        *ladder("low gain", 0.15, 2.0, 40.0),
    ),
    "capacitor": (
        *_leaky("leaky", 0.5), Mode("short", share=0.15), Mode("open", share=0.15), *_off(0.04, 0.06, 0.05)
    ),
    "regulator": (Mode("no output", share=0.6), *ladder("low output", 0.4, 0.3, 0.9, 8.0)),
    "block": (Mode("no output", share=0.7), *ladder("low output", 0.3, 0.3, 0.9, 8.0)),
}  # fmt: skip
_SAGS_OHM = {"weak": 20.0, "dead": 300.0}  # a tired cell's own resistance; common practice, no source
_BATTERY_MODES = tuple({mode.mode for mode in MODES["battery"]})
_TO_CHASSIS = ("wire", "track", "joint", "connector", "clip", "flex")


def faults_of(circuit: Circuit, on_bench: bool = False) -> tuple[tuple[Fault, float], ...]:
    """Every single fault of a circuit with the span of its rung; shorts and leaks to chassis included.

    ``on_bench``: a bench supply stood in for the battery. Nobody said where it was clipped on: before the clip and the lead, or
    behind them, and then what is wrong with these does not show either.
    """
    found: list[tuple[Fault, float]] = []
    behind = {name for chain in _behind_battery(circuit) for name, _ in chain} if on_bench else set()
    for part in circuit.parts:
        kind = kind_of(circuit, part)
        if circuit.note(part.name).get("healthy_always") or kind in ("supply", "source", "instrument"):
            continue
        for mode in MODES.get(kind, ()):
            fault = Fault(part.name, mode.mode, mode.figure, mode.share)
            ways = (
                (fault,)
                if part.name not in behind
                else tuple(replace(fault, share=mode.share / 2, only=o) for o in ("", OFF_BENCH))
            )
            found += [(way, mode.span) for way in ways]
        if kind in ("joint", "flex"):
            found.append((Fault(part.name, "open unless bent", 0.0, 0.3, "not bent"), 0.0))
            found.append((Fault(part.name, "open when cold", 0.0, 0.1, "cold"), 0.0))
    return (*found, *_to_chassis(circuit))


def _behind_battery(circuit: Circuit) -> list[list[tuple[str, str]]]:
    """The clip or contact at each end of a battery, and the lead that goes on from there, each with its end to the battery."""
    chains = []
    for battery in circuit.parts:
        for node in battery.nodes if kind_of(circuit, battery) == "battery" else ():
            chain: list[tuple[str, str]] = []
            before, here = battery.name, node
            for kinds in (("clip", "contact"), ("wire",)):
                after = [part for part in circuit.at(here) if part.name != before]
                if here == GROUND or len(after) != 1 or kind_of(circuit, after[0]) not in kinds:
                    break
                chain.append((after[0].name, here))
                before, here = after[0].name, next((end for end in after[0].nodes if end != here), GROUND)
            chains.append(chain)
    return chains


def before_supply(circuit: Circuit) -> frozenset[str]:
    """Points that a bench supply may be clipped on behind of: between them and the rest it then sends no current, and what is
    measured there says where it was clipped on and nothing else."""
    return frozenset(node for chain in _behind_battery(circuit) for _, node in chain)


def _to_chassis(circuit: Circuit) -> list[tuple[Fault, float]]:
    """Shorts and leaks from leads to chassis, and blobs that touch only when the cells press."""
    found: list[tuple[Fault, float]] = []
    seen: set[str] = set()
    for part in circuit.parts:
        kind = kind_of(circuit, part)
        if kind not in _TO_CHASSIS:
            continue
        for node in part.nodes[:1] if part.nodes[1] == GROUND else part.nodes[1:2]:
            if node == GROUND or node in seen:
                continue
            seen.add(node)
            found.append((Fault(part.name, "touches chassis", TOUCH_OHM, 1.0, to_node=node), 0.0))
            for rung in ladder("leaks to chassis", 1.0, 50.0, 200e3):
                found.append((Fault(part.name, rung.mode, rung.figure, rung.share, to_node=node), rung.span))
            if kind == "clip":
                mode = "blob touches chassis when the cells press"
                found.append((Fault(part.name, mode, TOUCH_OHM, 1.0, "supply battery", node), 0.0))
    return found


def prior_weight(circuit: Circuit, fault: Fault, raised: Mapping[str, float], edited: Mapping[str, float]) -> float:
    """Chance beforehand of one fault."""
    part = circuit.part(fault.part)
    kind = kind_of(circuit, part)
    if fault.mode.endswith("chassis") or fault.mode.startswith("blob"):
        weight = (BLOB_WEIGHT if fault.mode.startswith("blob") else CHASSIS_WEIGHT) * fault.share
    else:
        weight = edited.get(kind, WEIGHTS.get(kind, 0.005)) * fault.share
    return min(weight * raised.get(part.name.lower(), 1.0), 0.5)


def shows(fault: Fault, setting: Setting) -> bool:
    """Whether a fault that shows only sometimes shows in this setting.

    Parameters
    ----------
    fault : what ``only`` names must hold; a word of the state, or ``not`` and that word
    setting : how the device stands
    """
    if fault.only == "supply battery":
        return setting.supply == "battery"
    if fault.only == OFF_BENCH:
        return setting.supply != "bench"
    word = fault.only.removeprefix("not ")
    return not word or (word in setting.state) is not fault.only.startswith("not ")


def changes_of(circuit: Circuit, fault: Fault, setting: Setting) -> tuple[CircuitChange, ...]:
    """What a fault changes in a circuit that stands in a setting; nothing when its part is not there or it hides.

    ``setting``: how the device stands.
    """
    if not shows(fault, setting):
        return ()
    if fault.mode.startswith("exchanged with"):
        return _exchanged(circuit, fault)
    if fault.mode.startswith("bridged to"):
        there = {fault.part, fault.to_node} <= {*circuit.nodes, GROUND}
        return (CircuitChange((fault.part, fault.to_node), 1.0 / fault.figure),) if there else ()
    if not circuit.has(fault.part):
        return ()
    part = circuit.part(fault.part)
    if fault.to_node:
        return (CircuitChange((fault.to_node, GROUND), 1.0 / fault.figure),)
    if part.letter == "R":
        return () if fault.mode in _BATTERY_MODES else _resistive(part, fault)  # its place is empty with the cells out
    if part.letter == "V":  # with a bench supply in its place nothing of the battery shows
        return () if fault.mode in _BATTERY_MODES and setting.supply == "bench" else _of_battery(part, fault)
    if part.letter == "I":
        return (CircuitChange(source=part.name, source_factor=fault.figure),)
    if part.letter == "C":
        return _across(part.nodes, fault)
    if part.letter == "L":
        return (CircuitChange(source=part.name, series_ohm=OPEN_OHM),) if fault.mode.startswith("open") else ()
    return _of_device(part, fault)


def _resistive(part: Part, fault: Fault) -> tuple[CircuitChange, ...]:
    now = 1.0 / part.value
    pair = (part.nodes[0], part.nodes[1])
    if fault.mode in ("stuck pointer", "leads exchanged"):
        return ()
    if fault.mode == "leaky":
        return (CircuitChange(pair, 1.0 / (fault.figure or 1.0)),)
    if fault.mode.startswith("open") or fault.mode == "stuck open":
        target = 1.0 / OPEN_OHM
    else:
        target = {
            "short": 1.0 / CLOSED_OHM, "stuck closed": 1.0 / CLOSED_OHM, "high resistance": 1.0 / (part.value + fault.figure),
        }.get(fault.mode) or now / fault.figure  # the rest are factors on the resistance  # fmt: skip
    return (CircuitChange(pair, target - now, own=part.name),) if target != now else ()


def _of_battery(part: Part, fault: Fault) -> tuple[CircuitChange, ...]:
    if fault.mode == "high internal resistance":
        return (CircuitChange(source=part.name, series_ohm=fault.figure),)
    factor = -1.0 if fault.mode == "reversed" else fault.figure
    return (CircuitChange(source=part.name, source_factor=factor, series_ohm=_SAGS_OHM.get(fault.mode, 0.0)),)


def _across(nodes: tuple[str, ...], fault: Fault) -> tuple[CircuitChange, ...]:
    pair = (nodes[0], nodes[1])
    if fault.mode == "short":
        return (CircuitChange(pair, 1.0 / CLOSED_OHM),)
    return (CircuitChange(pair, 1.0 / fault.figure),) if fault.mode == "leaky" else ()


def _of_device(part: Part, fault: Fault) -> tuple[CircuitChange, ...]:
    if part.letter == "Q":
        collector, base, emitter = part.nodes
        return {
            "open": (CircuitChange(element=part.name, element_factors=(0.0, 0.0)),),
            "collector to emitter short": (CircuitChange((collector, emitter), 1.0 / CLOSED_OHM),),
            "collector to emitter leaky": (CircuitChange((collector, emitter), 1.0 / (fault.figure or 1.0)),),
            "base to emitter short": (CircuitChange((base, emitter), 1.0 / CLOSED_OHM),),
            "low gain": (CircuitChange(element=part.name, element_factors=(1.0, fault.figure)),),
        }.get(fault.mode, ())
    if fault.mode.startswith("open") or fault.mode == "no output":
        return (CircuitChange(element=part.name, element_factors=(0.0,)),)
    if fault.mode == "low output":
        return (CircuitChange(element=part.name, element_factors=(fault.figure,)),)
    return _across(part.nodes, fault)


def _exchanged(circuit: Circuit, fault: Fault) -> tuple[CircuitChange, ...]:
    """Two leads whose far ends are exchanged: each goes where the other went."""
    if not (circuit.has(fault.part) and circuit.has(fault.to_node)):
        return ()
    one, other = circuit.part(fault.part), circuit.part(fault.to_node)
    a, b = 1.0 / one.value, 1.0 / other.value
    ends = ((one.nodes[0], one.nodes[1], -a), (other.nodes[0], other.nodes[1], -b),
            (one.nodes[0], other.nodes[1], a), (other.nodes[0], one.nodes[1], b))  # fmt: skip
    return tuple(CircuitChange((plus, minus), siemens) for plus, minus, siemens in ends if plus != minus)


def rebuilt(circuit: Circuit, fault: Fault) -> Circuit | None:
    """The circuit with a fault that cannot be put in as a change: a junction the wrong way round, or of the other kind.
    None for others.
    """
    if fault.mode not in REBUILDS or not circuit.has(fault.part):
        return None
    part = circuit.part(fault.part)
    models = circuit.models
    if fault.mode == "reversed" and part.letter == "D":
        other = replace(part, nodes=(part.nodes[1], part.nodes[0]))
    elif fault.mode == "turned round" and part.letter == "Q":
        other = replace(part, nodes=(part.nodes[2], part.nodes[1], part.nodes[0]))
    elif fault.mode == "of the other polarity" and part.letter == "Q":
        name = f"{part.model}#other"
        model = circuit.models[part.model]
        models = {**models, name: replace(model, name=name, kind="PNP" if model.kind == "NPN" else "NPN")}
        other = replace(part, model=name)
    elif fault.mode == "of another kind" and part.letter == "D":
        name = f"{part.model}#other"
        model = circuit.models[part.model]
        other_a = GERMANIUM_A if model.figures.get("is", 1e-14) < 1e-10 else SILICON_A
        models = {**models, name: replace(model, name=name, figures={**model.figures, "is": other_a})}
        other = replace(part, model=name)
    else:
        return None
    parts = tuple(other if one.name == part.name else one for one in circuit.parts)
    return replace(circuit, parts=parts, models=models)
