"""Devices as they lie on the bench, by a path of their own: cards of SPICE text, changed by what is wrong, solved by ngspice.

Nothing here asks the product what a fault does or what a part may be off by: spreads, supplies, lamps and leads are drawn from
what a workshop knows of them (common practice, no source). Where ngspice is not installed the product's solver reads the same
cards. Recordings alone are the product's own.
"""

import math
import re
import shutil
import subprocess
import tempfile
from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.expressions import spice_number
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import kind_of, usual_setting
from violet_dial.core.diagnosis.predict import FULL_SCALE_A, ON_A, Meter
from violet_dial.core.diagnosis.recorded import RECORDED
from violet_dial.core.practice.bench import OHM_V, RANGE_OHM, FaultyDevice
from violet_dial.core.records.circuit import LEADS, LEADS_OHM, Evidence, Fault, LitBy, Setting

SPREADS = {"resistor": 0.03, "trimmer": 0.08, "movement": 0.07, "cds": 0.25, "photocell": 0.12, "leak": 0.25, "battery": 0.02,
           "lamp": 0.12, "coil": 0.08, "solenoid": 0.08, "motor": 0.15, "capacitor": 0.08, "diode": 0.3, "led": 0.3,
           "junction": 0.3, "transistor": 0.25, **dict.fromkeys(LEADS, 0.5)}  # fmt: skip
GAMMA_U, SUPPLY_U = 0.02, 0.01  # of a cell's slope; of a bench supply's own display
# How often the light is known by each, and how well: a lux meter, the chart of a lamp, the eye that knows rooms.
LAMPS: dict[LitBy, tuple[float, float]] = {"lux meter": (0.6, 0.07), "lamp": (0.3, 0.15), "room": (0.1, 0.5)}
COVERED_LX, COLD_C = 0.03, 4.0
INSULATION_OHM, GONE_OHM = 3e9, 1e10
SOLVER = shutil.which("ngspice")
FIGURE = re.compile(r"^(\S+) = (\S+)$", re.MULTILINE)
JOINS = ("short", "base to emitter short", "collector to emitter short", "leaky", "collector to emitter leaky")
FACTORS = ("too high", "too low", "insensitive", "reads bright", "tired", "dead", "weak", "shorted turns")


@dataclass
class Card:
    """One part as a line: its points, its figure (none where the rest of the line says all), the rest."""

    nodes: list[str]
    value: float | None = None
    rest: str = ""

    def line(self, name: str) -> str:
        return " ".join([name, *self.nodes, *([f"{self.value:.9g}"] if self.value is not None else []), self.rest])


class HiddenDevice(FaultyDevice):
    """``faults`` in a device built by a netlist of ``text``; ``otherwise``: one part is not as the sketch has it.

    Answers as `FaultyDevice` does; every operating point is its own.
    """

    def __init__(self, text: str, faults: tuple[Fault, ...], rng: np.random.Generator, otherwise: bool = False) -> None:
        circuit = read_spice(text)
        super().__init__(circuit, faults, rng)
        self.apart: list[float] | None = None  # a list to be told how far the two solvers lie apart, as a share or 1 mV
        self.cards, self.verbatim = _cards_of(text)
        self.spread = {}
        for name in self.cards:
            kind = kind_of(circuit, circuit.part(name))
            tol = circuit.note(name).get("tol")
            share = float(tol.rstrip("%")) / 200 if tol and tol.endswith("%") else SPREADS.get(kind, 0.0)
            if kind in LEADS and circuit.part(name).value > 0.3:
                share = share if tol else 0.05  # a lead that has ohms is made so
            self.spread[name] = float(np.exp(share * rng.standard_normal()))
        self.gamma = float(rng.normal(0, GAMMA_U))
        self.lit_by: LitBy = tuple(LAMPS)[int(rng.choice(len(LAMPS), p=[share for share, _ in LAMPS.values()]))]
        self.lamp = float(np.exp(rng.normal(0, LAMPS[self.lit_by][1])))
        self.supply = float(1 + rng.normal(0, SUPPLY_U))
        self.behind = bool(rng.random() < 0.5)  # whether the supply is clipped on behind the battery's clip and lead
        self.cell_ohm, self.sag_ohm = float(np.exp(rng.normal(math.log(2), 0.5))), float(np.exp(rng.normal(math.log(20), 0.7)))
        self.leg = int(rng.integers(3))
        self.ohm_v = float(rng.choice(OHM_V))
        self.misdrawn = self._build_otherwise(rng) if otherwise else ""
        self.verbatim = [_given_way(line, float(np.exp(rng.normal(math.log(5), 0.4)))) for line in self.verbatim]

    def _build_otherwise(self, rng: np.random.Generator) -> str:
        """One part of another value, or one end of it at another point: its name, and then where its ends are in truth."""
        names = [name for name in self.cards if name[0] == "r" and kind_of(self.nominal, self.nominal.part(name)) in
                 ("resistor", "trimmer", "wire", "joint")]  # fmt: skip
        name = str(rng.choice(names))
        card = self.cards[name]
        if kind_of(self.nominal, self.nominal.part(name)) in ("resistor", "trimmer") and rng.random() < 0.6:
            self.spread[name] *= float(10 ** (rng.choice([-1, 1]) * rng.uniform(0.3, 1.0)))
            return name
        others = [node for node in self.nominal.nodes if node not in card.nodes and "." not in node]
        end = int(rng.integers(2))
        card.nodes[end] = str(rng.choice(others))
        return " ".join([name, *card.nodes])

    # what stands on the bench

    def deck(self, setting: Setting) -> dict[str, Card]:
        """Every card as it is in a setting, the faults in."""
        cards = {name: replace(card, nodes=[*card.nodes]) for name, card in self.cards.items()}
        stands = dict(usual_setting(self.nominal).switches) | dict(setting.switches)
        lux = COVERED_LX if setting.light_lx <= 0 else setting.light_lx * self.lamp
        for name in tuple(cards):
            self._set(cards, name, stands, lux)
        for fault in self.faults:
            if _shows(fault, setting):
                self._break(cards, fault)
        self._feed(cards, setting)
        for node in {node for card in cards.values() for node in card.nodes} - {"0"}:
            cards[f"rleak_{node}"] = Card([node, "0"], INSULATION_OHM)
        return cards

    def _set(self, cards: dict[str, Card], name: str, stands: dict[str, str], lux: float) -> None:
        card, note = cards[name], self.nominal.note(name)
        kind = kind_of(self.nominal, self.nominal.part(name))
        if "switch" in note:
            is_on = stands[note["switch"].lower()] in note.get("closed", "on").lower().split("|")
            is_on = is_on or any(one.part.lower() == name and one.mode == "stuck closed" for one in self.faults)
            card.value = 0.05 * self.spread[name] if is_on else GONE_OHM
        elif kind == "cds":
            card.value = spice_number(note["r10"], name) * (lux / 10) ** -(float(note.get("gamma", "0.7")) + self.gamma)
        elif kind == "photocell":
            card.value = spice_number(note["a_per_lx"], name) * lux
        elif name[0] == "c" and note.get("times"):
            del cards[name]  # the shutter is open: what times it is held empty
            cards["vheld_"] = Card(card.nodes, 0.0)
            return
        if card.value is not None and "switch" not in note:
            card.value *= self.spread[name]
        elif name[0] in "dq":  # a model of its own
            card.rest = f"m_{name}"

    def _models(self) -> list[str]:
        lines = []
        for name, card in self.cards.items():
            if name[0] not in "dq":
                continue
            words = card.rest.split()
            model = next(one for key, one in self.nominal.models.items() if key.lower() == words[0].lower())
            figures, by = dict(model.figures), self.spread[name]
            key = "bf" if name[0] == "q" else "is"
            figures[key] = figures.get(key, 100.0 if name[0] == "q" else 1e-14) * by * (float(words[1]) if words[1:] else 1.0)
            weak = next((one for one in self.faults if one.part.lower() == name and one.mode == "low gain"), None)
            if weak:
                figures["bf"] /= weak.figure
            lines.append(f".model m_{name} {model.kind}({' '.join(f'{key}={value:.9g}' for key, value in figures.items())})")
        return lines

    def _break(self, cards: dict[str, Card], fault: Fault) -> None:
        """A fault, as it is in the metal."""
        tag, mode = re.sub(r"\W", "_", f"{fault.part}_{fault.mode}").lower(), fault.mode
        if fault.to_node:
            first = fault.part if mode.startswith("bridged") else "0"
            cards[f"rx{tag}"] = Card([first, fault.to_node], fault.figure)
            return
        name = fault.part.lower()
        card = cards.get(name)
        if card is None:
            return
        if mode.startswith("open") or mode == "stuck open":
            self._open(card, name)
        elif mode in JOINS:
            ends = [card.nodes[1], card.nodes[2]] if mode.startswith("base") else [card.nodes[0], card.nodes[-1]]
            cards[f"rx{tag}"] = Card(ends, fault.figure if mode.endswith("leaky") else 0.06)
        elif mode == "high resistance" and card.value is not None:
            card.value += fault.figure
        elif mode == "reversed" and name[0] == "v" and card.value is not None:
            card.value = -card.value
        elif mode == "high internal resistance":
            card.rest = f"+{fault.figure}"
        elif mode in FACTORS and card.value is not None:
            card.value *= fault.figure
            card.rest = f"+{self.sag_ohm * (15 if mode == 'dead' else 1)}" if name[0] == "v" else card.rest
        elif mode not in ("stuck pointer", "leads exchanged", "low gain", "stuck closed"):
            raise ValueError(f"{fault.name}: no card knows this fault")

    def _open(self, card: Card, name: str) -> None:
        if name[0] in "dq":  # one of its legs
            card.nodes[self.leg if name[0] == "q" else 0] = f"gone_{name}"
        elif name[0] in "ci":
            card.nodes[0] = f"gone_{name}"
        else:
            card.value = GONE_OHM

    def _feed(self, cards: dict[str, Card], setting: Setting) -> None:
        """The cell with what is inside it, a bench supply, or nothing."""
        for name in [part.name.lower() for part in self.nominal.parts if kind_of(self.nominal, part) == "battery"]:
            card = cards.pop(name)
            if setting.supply == "off":
                continue
            ohm = spice_number(self.nominal.note(name).get("ri", repr(self.cell_ohm)), name) + float(card.rest or 0)
            plus, minus = card.nodes
            if setting.supply == "bench":
                plus, ohm = (self._behind(plus) if self.behind else plus), 0.05
                card.value = self.nominal.part(name).value * self.supply
            inner = f"emf_{name}"
            cards[name], cards[f"r{inner}"] = Card([inner, minus], card.value), Card([inner, plus], ohm)

    def _behind(self, node: str) -> str:
        for kinds in (("clip", "contact"), ("wire",)):
            after = [part for part in self.nominal.at(node) if kind_of(self.nominal, part) in kinds]
            if len(after) != 1:
                break
            node = next(end for end in after[0].nodes if end != node)
        return node

    # what a meter shows

    def true(self, ask: Evidence) -> float:
        """As `FaultyDevice.true`, by its own cards."""
        if ask.test in RECORDED or ask.test == "capacitance":
            return super().true(ask)
        setting = replace(ask.setting, supply="off") if ask.test in ("ohm", "continuity") else ask.setting
        cards, cold = self.deck(setting), "cold" in setting.state
        if ask.test == "volt":
            cards["rmeter_"] = Card([ask.plus, ask.minus], Meter().input_ohm)
            return self._across(cards, ask, cold)
        if ask.test in ("ohm", "continuity"):
            before = self._across(cards, ask, cold)
            cards["iohm_"] = Card([ask.minus, ask.plus], self.ohm_v / RANGE_OHM)
            cards["rohm_"] = Card([ask.plus, ask.minus], RANGE_OHM)
            volts = min(self._across(cards, ask, cold) - before, self.ohm_v * (1 - 1e-6))
            return max(volts, 0.0) * RANGE_OHM / (self.ohm_v - volts) + LEADS_OHM
        plain = self._through(cards, ask.part, 0.0, cold)
        if ask.test == "amp":
            ohm = float(Meter().burden_ohm(np.array([abs(plain)]))[0])
            return abs(self._through(cards, ask.part, ohm, cold))
        return self._shows(ask.part, plain)

    def _shows(self, name: str, amps: float) -> float:
        kind, note = kind_of(self.nominal, self.nominal.part(name)), self.nominal.note(name)
        key, usual = ("full_a", FULL_SCALE_A) if kind == "movement" else ("on_a", ON_A.get(kind, 5e-3))
        share = amps / spice_number(note.get(key, repr(usual)), name)
        modes = {fault.mode for fault in self.faults if fault.part == name}
        share = 0.0 if "stuck pointer" in modes else -share if "leads exchanged" in modes else share
        return share if kind in ("movement", "led") else abs(share)

    def _across(self, cards: dict[str, Card], ask: Evidence, cold: bool) -> float:
        volts = self._solved(cards, cold)
        return volts.get(ask.plus, 0.0) - volts.get(ask.minus, 0.0)

    def _through(self, cards: dict[str, Card], name: str, ohm: float, cold: bool) -> float:
        """The current into a part's first leg, A, with a resistance in series."""
        low = name.lower()
        cards = {key: replace(card, nodes=[*card.nodes]) for key, card in cards.items()}
        key = f"remf_{low}" if low[0] == "v" else low
        if key not in cards:
            return 0.0
        end = 1 if low[0] == "v" else 0
        node, cards[key].nodes[end] = cards[key].nodes[end], "amp_"
        cards["vamp_"], cards["ramp_"] = Card([node, "amp2_"], 0.0), Card(["amp2_", "amp_"], max(ohm, 1e-3))
        return self._solved(cards, cold, "vamp_")["vamp_#branch"]

    def _solved(self, cards: dict[str, Card], cold: bool, branch: str = "") -> dict[str, float]:
        """Volts of every point, and the current of the branch asked for. Raises CannotSolve: it comes to no rest."""
        text = "\n".join(["hidden", *(card.line(name) for name, card in cards.items()), *self.verbatim, *self._models(),
                          *([f".temp {COLD_C}"] if cold else [])]) + "\n"  # fmt: skip
        theirs = _by_ngspice(text) if SOLVER else {}
        if theirs and self.apart is None:
            return theirs
        point = operating_point(read_spice(f"{text}.end\n"))
        ours = {**point.voltages, **({f"{branch}#branch": point.currents[branch]} if branch else {})}
        if theirs and self.apart is not None:
            both = [(ours[node], theirs[node]) for node in point.voltages if node in theirs]
            self.apart.append(max(abs(one - other) / max(abs(other), 1e-3) for one, other in both))
        return theirs or ours


def _shows(fault: Fault, setting: Setting) -> bool:
    if fault.only.startswith("supply"):
        return setting.supply == fault.only.removeprefix("supply ")
    word = fault.only.removeprefix("not ")
    return not word or (word in setting.state) != fault.only.startswith("not ")


def _cards_of(text: str) -> tuple[dict[str, Card], list[str]]:
    """Cards of single parts by name, and every other line as it stands."""
    cards: dict[str, Card] = {}
    verbatim: list[str] = []
    inside = False
    for line in text.splitlines()[1:]:
        words = line.split()
        if not words or line.startswith("*") or words[0].lower() == ".end":
            continue
        inside = (inside or words[0].lower() == ".subckt") and words[0].lower() != ".ends"
        name = words[0].lower()
        if inside or name[0] not in "rvidqc":
            verbatim.append(line)
            continue
        legs = 3 if name[0] == "q" else 2
        nodes = [node.lower() for node in words[1 : 1 + legs]]
        is_plain = name[0] in "rvic"
        cards[name] = Card(nodes, spice_number(words[3], name)) if is_plain else Card(nodes, None, " ".join(words[1 + legs :]))
    return cards, verbatim


def _given_way(line: str, ohm: float) -> str:
    """The line of an output that gives way where it is pulled; every other line as it stands."""
    words = line.split()
    if not words or words[0][0].lower() != "b" or " V=" not in line:
        return line
    name, node, inner = words[0], words[1], f"o_{words[0].lower()}"
    return f"{name} {inner} {' '.join(words[2:])}\nR{inner} {inner} {node} {ohm:.6g}"


def _by_ngspice(text: str) -> dict[str, float]:
    """Volts and branch currents as ngspice finds them; nothing where it finds none."""
    with tempfile.NamedTemporaryFile("w", suffix=".cir") as file:
        file.write(f"{text}.control\nop\nset numdgt=9\nprint all\nquit\n.endc\n.end\n")
        file.flush()
        done = subprocess.run([str(SOLVER), "-b", file.name], capture_output=True, text=True, check=False, timeout=20)
    return {name.lower(): float(value) for name, value in FIGURE.findall(done.stdout)}
