"""Which tests may be asked for, in which settings, what each costs and what to mind."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import access_to, figure, kind_of, sees_light, switches_of
from violet_dial.core.diagnosis.evidence import SEEN_KINDS
from violet_dial.core.diagnosis.faults import before_supply
from violet_dial.core.diagnosis.predict import FULL_SCALE_A, Predictor
from violet_dial.core.records.circuit import USUAL_LX, Evidence, Prefer, Setting

# Minutes of each test without strip-down, with thinking and noting it down; common practice, no source.
MINUTES = {
    "volt": 1.0, "ohm": 1.1, "seen": 0.8, "continuity": 0.9, "amp": 3.0, "capacitance": 4.5, "ripple": 1.5, "clock": 1.5,
    "dip": 2.0, "time": 1.5, "wakes": 0.5,
}  # fmt: skip
FROM_OUTSIDE = ("seen", "time", "wakes")  # tests that need nothing laid bare
RISKS = {
    "amp": "The loop is opened: ammeter in series, never across a supply.",
    "capacitance": "A leg is unsoldered: discharge it first, mind the heat.",
}
MINUTES_PER_CHANGE = 0.2  # turning a switch, setting a light
MINUTES_CELLS = 0.3  # cells out or in
MINUTES_COLD = 6.0  # cooled in a bag or warmed through; common practice, no source
MINUTES_CAPPED = 0.1  # a cap or a finger over the cell
CAPPED_LX = 0.0
OHMMETER_A = 1e-3  # what an ohmmeter may send on its lowest range; common practice, no source
LOOP_KINDS = ("battery", "movement", "lamp", "led", "solenoid", "motor")  # whose current is worth opening a loop for
CAPPED_KINDS = ("photocell",)


@dataclass(frozen=True)
class Reach:
    """What is open already, and minutes to what is not: by the name a part's note says it is behind.

    ``taken`` was measured since the last repair and is not asked for again; ``prefer`` says what is to be saved.
    """

    opened: frozenset[str] = frozenset()
    minutes: Mapping[str, float] = field(default_factory=dict)
    taken: tuple[Evidence, ...] = ()
    prefer: Prefer = "least minutes"


def useful_settings(circuit: Circuit, now: Setting) -> tuple[Setting, ...]:
    """The setting as it is, then each that differs by one thing worth trying. ``now``: how the device stands."""
    kinds = {kind_of(circuit, part) for part in circuit.parts}
    if sees_light(circuit) and not now.is_light_said:
        now = now.lit(USUAL_LX)  # a light that is not known tells little: with the first test it is set, and said
    found = [now]
    base = replace(now, supply="battery") if now.supply == "off" else now
    found.append(base)
    for name, switch in switches_of(circuit).items():
        found += [base.with_switch(name, position) for position in switch.positions]
    if sees_light(circuit):
        found += [base.lit(light) for light in (10.0, USUAL_LX, 10_000.0)]
    if kinds & {"joint", "flex"}:
        found += [replace(base, state=tuple(sorted({*base.state} ^ {word}))) for word in ("bent", "cold")]
    if "battery" in kinds and "clip" in kinds:
        found.append(replace(base, supply="bench"))
    return tuple(dict.fromkeys(found))


def candidates(circuit: Circuit, setting: Setting, with_ohms: bool) -> tuple[Evidence, ...]:
    """Tests in one setting: every point against ground, across every part, what can be seen, currents of what drives and shows;
    ohms, beeps and capacitances with the supply out. ``setting``: how the device is to stand.
    """
    touch = [node for node in circuit.nodes if not circuit.note(node).get("flash") and not node.endswith("#")]
    touch = [node for node in touch if "." not in node or circuit.note(node)]
    there = {*touch, GROUND}
    if setting.supply == "bench":
        untold = before_supply(circuit)
        touch = [node for node in touch if node not in untold]
    lifted = {name.lower() for name in setting.disconnected}
    parts = [part for part in circuit.parts if part.letter in "RCLVDI" and part.name.lower() not in lifted]
    across = [part.nodes[:2] for part in parts if GROUND not in part.nodes and set(part.nodes[:2]) <= set(touch)]
    pairs = dict.fromkeys([*((node, GROUND) for node in touch), *((plus, minus) for plus, minus in across if plus != minus)])
    found = []
    if setting.supply != "off":
        found += [Evidence("volt", 0.0, plus, minus, setting=setting) for plus, minus in pairs]
        found += [Evidence("seen", 0.0, part=part.name, setting=setting) for part in circuit.parts if _can_be_seen(circuit, part)]
        loops = [part for part in parts if kind_of(circuit, part) in LOOP_KINDS and {*part.nodes[:2]} <= there]
        found += [Evidence("amp", 0.0, part=part.name, setting=setting) for part in loops]
    if with_ohms:
        off = replace(setting, supply="off")
        if any(kind_of(circuit, part) in CAPPED_KINDS for part in circuit.parts):
            off = replace(off, light_lx=CAPPED_LX)
        found += [Evidence("ohm", 0.0, plus, minus, setting=off) for plus, minus in pairs]
        leads = [part for part in parts if part.letter == "R" and part.value < 1.0]
        found += [
            Evidence("continuity", 0.0, part.nodes[0], part.nodes[1], setting=off)
            for part in leads if {*part.nodes[:2]} <= {*touch, GROUND}
        ]  # fmt: skip
        found += [Evidence("capacitance", 0.0, part=part.name, setting=off) for part in parts if part.letter == "C"]
    return tuple(found)


def _can_be_seen(circuit: Circuit, part: Part) -> bool:
    return kind_of(circuit, part) in SEEN_KINDS and part.letter in "RDL"


def is_safe(predictor: Predictor, ask: Evidence) -> bool:
    """Whether a test may be suggested: no flash circuit, no ohmmeter that would drive the movement past its scale, none across a
    lit cell. ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    circuit = predictor.circuit
    nodes = circuit.part(ask.part).nodes if ask.part else (ask.plus, ask.minus)
    if any(node and circuit.note(node).get("flash") for node in nodes):
        return False
    if ask.test not in ("ohm", "continuity"):
        return True
    block = predictor.block(replace(ask.setting, supply="off"))
    if not predictor.is_quiet(ask.plus, ask.minus, ask.setting):
        return False
    for part in circuit.parts:
        if kind_of(circuit, part) != "movement" or not block.circuit.has(part.name):
            continue
        if set(part.nodes[:2]) == {ask.plus, ask.minus}:
            return False
        between = block.transfer_ohm((ask.plus, ask.minus), (part.nodes[0], part.nodes[1]))
        if abs(between) * OHMMETER_A / part.value > figure(circuit, part.name, "full_a", FULL_SCALE_A):
            return False
    return True


def cost_of(circuit: Circuit, ask: Evidence, now: Setting, reach: Reach) -> tuple[float, tuple[str, ...]]:
    """Minutes of a test from how the device stands now, and what must be opened for it.

    ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    minutes = MINUTES[ask.test]
    stands, wanted = dict(now.switches), dict(ask.setting.switches)
    minutes += MINUTES_PER_CHANGE * sum(stands.get(name) != position for name, position in wanted.items())
    changed = {*ask.setting.state} ^ {*now.state}
    light = MINUTES_CAPPED if ask.setting.light_lx == CAPPED_LX else MINUTES_PER_CHANGE
    minutes += light * (ask.setting.light_lx != now.light_lx) + MINUTES_COLD * ("cold" in changed)
    minutes += MINUTES_PER_CHANGE * len(changed - {"cold"})
    minutes += MINUTES_CELLS * (ask.setting.supply != now.supply)
    opens: dict[str, float] = {}
    for node in _touched(circuit, ask):
        if node and node != GROUND:
            access = access_to(circuit, node)
            if access.behind and access.behind.lower() not in reach.opened:
                opens[access.behind] = reach.minutes.get(access.behind.lower(), access.minutes)
            elif not access.behind:
                minutes += access.minutes
    return float(minutes + sum(opens.values())), tuple(opens)


def _touched(circuit: Circuit, ask: Evidence) -> tuple[str, ...]:
    """The points that the test needs laid bare."""
    if not ask.part:
        return ask.plus, ask.minus
    return () if ask.test in FROM_OUTSIDE else circuit.part(ask.part).nodes[:2]
