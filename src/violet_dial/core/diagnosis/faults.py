"""How parts fail: modes by kind, how often beforehand, and what each does to the circuit.

Source
------
Weights: common practice, no source: battery, its compartment and leads first, then contacts, then everything else.
Values off by a decade are the classic misread of a part code (IEC 60062 [memory] codes the digits).
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import CLOSED_OHM, LEADS, OPEN_OHM, Setting, kind_of
from violet_dial.core.quantities import format_engineering

# Rungs over which an unknown resistance is spread, six to the decade; between rungs the prediction is blurred, and the
# blur of two readings is taken as independent though the resistance is one: narrow rungs keep that harmless.
RUNGS_OHM = tuple(round(10 ** (rung / 6), 4) for rung in range(4, 33))  # 4.6 ohm to 215 kohm
# Chance beforehand that one part of this kind is at fault in a device that came in faulty, before anything is known.
WEIGHTS: dict[str, float] = {
    "battery": 0.06, "clip": 0.05, "contact": 0.04, "switch": 0.04, "wire": 0.03, "joint": 0.03, "flex": 0.04, "connector": 0.03,
    "track": 0.02, "movement": 0.015, "photocell": 0.03, "leak": 0.02, "cds": 0.02, "trimmer": 0.015, "capacitor": 0.012,
    "lamp": 0.01, "led": 0.006, "coil": 0.008, "solenoid": 0.01, "motor": 0.015, "transistor": 0.01, "diode": 0.006,
    "junction": 0.002, "regulator": 0.01, "block": 0.008, "resistor": 0.004,
}  # fmt: skip

_OHM_MODES = ("high resistance", "leaks to chassis", "leaky", "high internal resistance", "collector to emitter leaky")


def round_rung(value: float) -> float:
    """A rung as said: two figures are all it stands for.

    Parameters
    ----------
    value : resistance, Ω
    """
    return float(f"{value:.2g}")


@dataclass(frozen=True)
class Fault:
    """One way one part can fail.

    ``figure`` is ohm or a factor, by ``mode``; ``share`` is its part of the kind's weight; ``only`` names what must
    hold for it to show (``supply battery``, ``not bent``); ``to_node`` is the other end of a bridge.
    """

    part: str
    mode: str
    figure: float = 0.0
    share: float = 1.0
    only: str = ""
    to_node: str = ""

    @property
    def name(self) -> str:
        """Part and mode, by which variants with other figures are gathered."""
        return f"{self.part} {self.mode}"

    @property
    def words(self) -> str:
        """The fault said with its figure."""
        if self.mode in _OHM_MODES:
            return f"{self.name}, about {format_engineering(round_rung(self.figure), 3)}Ω"
        return self.name


@dataclass(frozen=True)
class Change:
    """What a fault changes: siemens between two rows, a source by a factor, or an element's output by a factor.

    ``series_ohm`` goes in series with a source's branch.
    """

    nodes: tuple[str, str] = ("", "")
    siemens: float = 0.0
    source: str = ""
    source_factor: float = 1.0
    series_ohm: float = 0.0
    element: str = ""
    element_factors: tuple[float, ...] = ()


def _spread(mode: str, share: float, figures: tuple[float, ...] = RUNGS_OHM) -> tuple[tuple[str, float, float], ...]:
    return tuple((mode, figure, share / len(figures)) for figure in figures)


_LEAD_MODES = (("open", 0.0, 0.4), *_spread("high resistance", 0.6))
_DIODE_MODES = (
    ("open", 0.0, 0.4),
    ("short", 0.0, 0.35),
    *_spread("leaky", 0.15, RUNGS_OHM[10:26:4]),
    ("reversed", 0.0, 0.1),
)
_HIGH, _LOW = (1.4, 2.0, 2.8, 4.0), (0.35, 0.5, 0.7)
MODES: dict[str, tuple[tuple[str, float, float], ...]] = {
    **dict.fromkeys(LEADS, _LEAD_MODES),
    "switch": (("stuck open", 0.0, 0.35), ("stuck closed", 0.0, 0.1), *_spread("high resistance", 0.55)),
    "resistor": (
        ("open", 0.0, 0.3), *_spread("drifted high", 0.25, _HIGH), *_spread("drifted low", 0.1, _LOW),
        ("ten times too large", 10.0, 0.15),
        ("ten times too small", 0.1, 0.15), ("short", 0.0, 0.05),
    ),
    "trimmer": (("open", 0.0, 0.6), *_spread("drifted high", 0.2, _HIGH), *_spread("drifted low", 0.2, _LOW)),
    "movement": (("open coil", 0.0, 0.5), ("stuck pointer", 0.0, 0.35), ("shorted turns", 0.3, 0.15)),
    "cds": (
        ("open", 0.0, 0.3), *_spread("insensitive", 0.4, (3.0, 6.0, 12.0, 25.0)),
        *_spread("reads bright", 0.3, (0.04, 0.08, 0.16, 0.33)),
    ),
    "photocell": (*_spread("tired", 0.6, (0.15, 0.25, 0.4, 0.6)), ("dead", 0.01, 0.4)),
    "leak": _spread("leaky", 1.0, (100.0, 215.0, 460.0, 1000.0, 2150.0, 4600.0)),
    "battery": (
        *_spread("weak", 0.4, (0.5, 0.62, 0.74, 0.86)), ("dead", 0.05, 0.25), ("reversed", 0.0, 0.1),
        *_spread("high internal resistance", 0.25, (10.0, 21.5, 46.0, 100.0, 215.0, 460.0, 1000.0)),
    ),
    "lamp": (("open", 0.0, 0.9), ("short", 0.0, 0.1)),
    **dict.fromkeys(("coil", "solenoid", "motor"), (("open", 0.0, 0.7), ("shorted turns", 0.2, 0.3))),
    **dict.fromkeys(("diode", "led"), _DIODE_MODES),
    "junction": (("short", 0.0, 1.0),),
    "transistor": (
        ("open", 0.0, 0.35), ("collector to emitter short", 0.0, 0.25),
        *_spread("collector to emitter leaky", 0.1, RUNGS_OHM[10:26:4]),
        ("base to emitter short", 0.0, 0.15), ("low gain", 5.0, 0.15),
    ),
    "capacitor": (
        *_spread("leaky", 0.55, RUNGS_OHM[8:28:4]), ("short", 0.0, 0.15), ("open", 0.0, 0.15),
        ("wrong by a decade", 10.0, 0.15),
    ),
    "regulator": (("no output", 0.0, 0.6), ("low output", 0.7, 0.4)),
    "block": (("no output", 0.0, 0.7), ("low output", 0.7, 0.3)),
}  # fmt: skip
_SAGS_OHM = {"weak": 20.0, "dead": 300.0}  # a tired cell's own resistance; common practice, no source
_BATTERY_MODES = tuple(mode for mode, _, _ in MODES["battery"])
_TO_CHASSIS = ("wire", "track", "joint", "connector", "clip", "flex")
TOUCH_OHM = 0.05
CHASSIS_WEIGHT = 0.004
BLOB_WEIGHT = 0.004


def faults_of(circuit: Circuit) -> tuple[Fault, ...]:
    """Every single fault of a circuit, with its share of the part's weight; bridges to chassis included."""
    found: list[Fault] = []
    for part in circuit.parts:
        kind = kind_of(circuit, part)
        if circuit.note(part.name).get("healthy_always") or kind in ("supply", "source", "instrument"):
            continue
        found += [Fault(part.name, mode, figure, share) for mode, figure, share in MODES.get(kind, ())]
        if kind in ("joint", "flex"):
            found.append(Fault(part.name, "open unless bent", 0.0, 0.3, "not bent"))
            found.append(Fault(part.name, "open when cold", 0.0, 0.1, "cold"))
    return (*found, *_bridges(circuit))


def _bridges(circuit: Circuit) -> list[Fault]:
    """Shorts and leaks from leads to chassis, and blobs that touch only when the cells press."""
    found = []
    seen: set[str] = set()
    for part in circuit.parts:
        kind = kind_of(circuit, part)
        if kind not in _TO_CHASSIS:
            continue
        for node in part.nodes[:1] if part.nodes[1] == GROUND else part.nodes[1:2]:
            if node == GROUND or node in seen:
                continue
            seen.add(node)
            found.append(Fault(part.name, "touches chassis", TOUCH_OHM, 1.0, to_node=node))
            rungs = RUNGS_OHM[12:26:2]
            found += [Fault(part.name, "leaks to chassis", ohm, 1.0 / len(rungs), to_node=node) for ohm in rungs]
            if kind == "clip":
                found.append(
                    Fault(
                        part.name, "blob touches chassis when the cells press", TOUCH_OHM, 1.0, "supply battery", node
                    )
                )
    return found


def prior_weight(circuit: Circuit, fault: Fault, raised: Mapping[str, float], edited: Mapping[str, float]) -> float:
    """Chance beforehand of one fault.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    fault : the part and how it fails
    raised : factor by part (lower case), from what was found near it
    edited : weight by kind where the technician set another
    """
    part = circuit.part(fault.part)
    kind = kind_of(circuit, part)
    if fault.mode.endswith("chassis") or fault.mode.startswith("blob"):
        weight = (BLOB_WEIGHT if fault.mode.startswith("blob") else CHASSIS_WEIGHT) * fault.share
    else:
        weight = edited.get(kind, WEIGHTS.get(kind, 0.005)) * fault.share
    return min(weight * raised.get(part.name.lower(), 1.0), 0.5)


def shows(fault: Fault, setting: Setting) -> bool:
    """Whether a fault that shows only sometimes shows in this setting."""
    return {
        "": True,
        "not bent": "bent" not in setting.state,
        "cold": "cold" in setting.state,
        "supply battery": setting.supply == "battery",
    }[fault.only]


def changes_of(circuit: Circuit, fault: Fault, setting: Setting) -> tuple[Change, ...]:
    """What a fault changes in a circuit that stands in a setting; nothing when its part is not there or it hides."""
    if not shows(fault, setting) or not circuit.has(fault.part):
        return ()
    part = circuit.part(fault.part)
    if fault.to_node:
        return (Change((fault.to_node, GROUND), 1.0 / fault.figure),)
    if part.letter == "R":
        return () if fault.mode in _BATTERY_MODES else _resistive(part, fault)  # its place is empty with the cells out
    if part.letter == "V":
        return _of_battery(part, fault)
    if part.letter == "I":
        return (Change(source=part.name, source_factor=fault.figure),)
    if part.letter == "C":
        return _across(part.nodes, fault)
    if part.letter == "L":
        return (Change(source=part.name, series_ohm=OPEN_OHM),) if fault.mode == "open" else ()
    return _of_device(part, fault)


def _resistive(part: Part, fault: Fault) -> tuple[Change, ...]:
    now = 1.0 / part.value
    pair = (part.nodes[0], part.nodes[1])
    target = {
        "open": 1.0 / OPEN_OHM, "open coil": 1.0 / OPEN_OHM, "stuck open": 1.0 / OPEN_OHM, "open unless bent": 1.0 / OPEN_OHM,
        "open when cold": 1.0 / OPEN_OHM, "short": 1.0 / CLOSED_OHM, "stuck closed": 1.0 / CLOSED_OHM,
        "high resistance": 1.0 / (part.value + fault.figure), "stuck pointer": now,
        "leaky": now + 1.0 / (fault.figure or 1.0),
    }.get(fault.mode)  # fmt: skip
    if target is None:  # the rest are factors on the resistance
        target = now / fault.figure
    return (Change(pair, target - now),) if target != now else ()


def _of_battery(part: Part, fault: Fault) -> tuple[Change, ...]:
    if fault.mode == "high internal resistance":
        return (Change(source=part.name, series_ohm=fault.figure),)
    factor = -1.0 if fault.mode == "reversed" else fault.figure
    return (Change(source=part.name, source_factor=factor, series_ohm=_SAGS_OHM.get(fault.mode, 0.0)),)


def _across(nodes: tuple[str, ...], fault: Fault) -> tuple[Change, ...]:
    pair = (nodes[0], nodes[1])
    if fault.mode == "short":
        return (Change(pair, 1.0 / CLOSED_OHM),)
    return (Change(pair, 1.0 / fault.figure),) if fault.mode == "leaky" else ()


def _of_device(part: Part, fault: Fault) -> tuple[Change, ...]:
    if part.letter == "Q":
        collector, base, emitter = part.nodes
        return {
            "open": (Change(element=part.name, element_factors=(0.0, 0.0)),),
            "collector to emitter short": (Change((collector, emitter), 1.0 / CLOSED_OHM),),
            "collector to emitter leaky": (Change((collector, emitter), 1.0 / (fault.figure or 1.0)),),
            "base to emitter short": (Change((base, emitter), 1.0 / CLOSED_OHM),),
            "low gain": (Change(element=part.name, element_factors=(1.0, fault.figure)),),
        }[fault.mode]
    if fault.mode in ("open", "no output"):
        return (Change(element=part.name, element_factors=(0.0,)),)
    if fault.mode == "low output":
        return (Change(element=part.name, element_factors=(fault.figure,)),)
    return _across(part.nodes, fault)


def rebuilt(circuit: Circuit, fault: Fault) -> Circuit | None:
    """The circuit with a fault that cannot be put in as a change: a diode the wrong way round. None for others."""
    if fault.mode != "reversed" or circuit.part(fault.part).letter != "D":
        return None
    parts = [
        replace(part, nodes=(part.nodes[1], part.nodes[0])) if part.name == fault.part else part
        for part in circuit.parts
    ]
    return circuit.with_parts(tuple(parts))
