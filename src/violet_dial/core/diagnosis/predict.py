"""What every hypothesis says a test should show, with how far a healthy spread of values blurs it.

One batch per setting gives all node voltages under all hypotheses and the small-signal inverse there; from these come
every voltage (with the meter's own load), every resistance with the supply out, and every current. Tolerances are
linearised through the same inverse; `bench` states how far that is from sampling them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Variants, linearised, no_change, solve_variants
from violet_dial.core.circuit.devices import Junction
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.circuit.trade import Setting, figure, kind_of, set_circuit, tolerance_of
from violet_dial.core.diagnosis.faults import Change, changes_of, rebuilt
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.tolerances import blur_of, element_currents, toleranced_parts
from violet_dial.core.errors import InvalidInput
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
LEAK_S = 1e-9  # insulation from every point to ground: a loose end floats, but not to anywhere
FLOATING = 20.0  # a point this many times weaker than the meter hangs in the air: the meter pulls it to its other probe
LOG10_E = 0.4343
UNSOLVED = 1e3  # standard deviation that stands for: no solution was found, any reading will do
LEAST_A = 1e-9  # below it a current is none
CELL_OHM = 2.0  # a small cell's own resistance; common practice, no source
LEAD_OHM = 0.1  # the meter's own leads
RANGES_A = np.array([200e-6, 2e-3, 20e-3, 200e-3, 10.0])  # of an ordinary pocket meter; common practice, no source
ON_A = {"lamp": 10e-3, "led": 1e-3, "solenoid": 5e-3, "motor": 20e-3, "coil": 5e-3}  # where it is said to be on; usual
FULL_SCALE_A = 200e-6  # of a movement when nothing is noted; common practice, no source


@dataclass(frozen=True)
class Meter:
    """The meter in the hand: input resistance on volts, accuracy as a share, least steps, and what its ammeter takes for
    itself at full scale."""

    input_ohm: float = 10e6
    accuracy: float = 0.01
    floor_v: float = 0.003
    burden_v: float = 0.2  # the shunt's drop of a meter that shows 200 mV full scale; common practice, no source

    def burden_ohm(self, size_a: Array) -> Array:
        """The ammeter's own resistance on the range that fits each current, ohm."""
        place = np.minimum(np.searchsorted(RANGES_A, size_a), len(RANGES_A) - 1)
        found: Array = self.burden_v / RANGES_A[place]
        return found


@dataclass(frozen=True)
class Prediction:
    """A reading under each hypothesis: ``mean`` (h,), ohms as log10; ``sigma`` (h,) of the reading alone.

    ``load`` (h, p): how far one standard deviation of each toleranced part moves it, and in the last two columns how far
    the unknown figures of the faults do. These are the same parts in every reading, so they are kept apart.
    """

    mean: Array
    sigma: Array
    load: Array

    @property
    def total(self) -> Array:
        """Standard deviation before anything was read, (h,)."""
        found: Array = np.sqrt(np.square(self.sigma) + np.square(self.load).sum(axis=1))
        return found


@dataclass(frozen=True)
class Block:
    """All hypotheses solved in one setting."""

    setting: Setting
    circuit: Circuit
    system: System
    x: Array  # (h, n)
    resist: Array  # (h, N + 1, N + 1): small-signal resistance pieces, last row and column ground
    spread: Array  # (h, N + 1, p): the inverse at each toleranced part
    blur: Array  # (h, p): how much each toleranced part moves x, as a source along `spread`
    shares: Array  # (p,): relative tolerance times siemens, for resistances
    current: dict[str, Array]  # element currents by part (lower case), (h,)
    branch_s: dict[str, Array]  # how a source's or coil's current answers a voltage put in series, siemens, (h,)
    solved: Array

    def row(self, node: str) -> int:
        """Row of a node, the last for ground.

        Raises
        ------
        InvalidInput
            The circuit, as it stands, has no such node.
        """
        if node == "0":
            return self.system.node_count
        row = self.system.index.get(node)
        if row is None:
            raise InvalidInput("Point", node, "a point of the circuit as it stands")
        return row

    def between(self, plus: str, minus: str) -> Array:
        """Voltage between two nodes with nothing connected, (h,)."""
        padded = np.concatenate([self.x[:, : self.system.node_count], np.zeros((len(self.x), 1))], axis=1)
        found: Array = padded[:, self.row(plus)] - padded[:, self.row(minus)]
        return found

    def source_ohm(self, plus: str, minus: str) -> Array:
        """Small-signal resistance between two nodes, (h,)."""
        a, b, r = self.row(plus), self.row(minus), self.resist
        found: Array = np.maximum(r[:, a, a] + r[:, b, b] - r[:, a, b] - r[:, b, a], 0.0)
        return found


class Predictor:
    """Predictions of a set of hypotheses; each setting is solved once and kept."""

    def __init__(
        self,
        circuit: Circuit,
        hypotheses: tuple[Hypothesis, ...],
        meter: Meter | None = None,
        parent: Predictor | None = None,
        stride: int = 1,
    ) -> None:
        self.circuit = circuit
        self.hypotheses = hypotheses
        self.meter = meter or Meter()
        self.parent = parent or self  # has every rung of every figure, which a choice of hypotheses may lack
        self._blocks: dict[Setting, Block] = {}
        self._rungs = _rungs(hypotheses)
        self._stride = stride  # how many rungs apart the figures of these hypotheses are
        self._origins = _origins(hypotheses, self.parent.hypotheses)

    @property
    def toleranced(self) -> int:
        """How many parts have a tolerance."""
        return sum(tolerance_of(self.circuit, part) > 0 and part.letter not in "CL" for part in self.circuit.parts)

    def figure_load(self, parent_mean: Array) -> Array:
        """How far a reading moves over one standard deviation of each unknown figure within its rung, (h, 2)."""
        below, above, rungs = self.parent._rungs
        change = np.zeros(len(parent_mean) + 1)
        change[:-1] = (parent_mean[above] - parent_mean[below]) / rungs / np.sqrt(12.0)
        found: Array = self._stride * change[self._origins]
        return found

    def block(self, setting: Setting, task: Task | None = None) -> Block:
        """All hypotheses solved in a setting."""
        if setting not in self._blocks:
            self._blocks[setting] = _solve_block(self.circuit, self.hypotheses, setting, task or SilentTask())
        return self._blocks[setting]

    def volts(self, plus: str, minus: str, setting: Setting) -> Prediction:
        """A voltmeter between two points."""
        block = self.block(setting)
        load = 1.0 + block.source_ohm(plus, minus) / self.meter.input_ohm
        mean = block.between(plus, minus) / load
        moved = (block.spread[:, block.row(plus)] - block.spread[:, block.row(minus)]) * block.blur
        moved = np.where((load > FLOATING)[:, None], 0.0, moved / load[:, None])
        own = self.meter.accuracy * np.abs(mean) + self.meter.floor_v
        return Prediction(mean, _widened(block, own), moved)

    def ohms(self, plus: str, minus: str, setting: Setting) -> Prediction:
        """An ohmmeter between two points, supply out, as log10 of ohm: it tests below what a junction needs."""
        block = self.block(replace(setting, supply="off"))
        value = block.source_ohm(plus, minus) + LEAD_OHM
        through = block.spread[:, block.row(plus)] - block.spread[:, block.row(minus)]
        moved = -LOG10_E * np.clip(np.square(through) * block.shares / value[:, None], 0.0, 1.0)
        own = LOG10_E * np.minimum(self.meter.accuracy + 0.1 / value, 1.0) + 0.004
        return Prediction(np.log10(np.minimum(value, 5e7)), _widened(block, own), moved)

    def amps(self, name: str, setting: Setting) -> Prediction:
        """Size of the current through a part with the ammeter in series, as log10 of ampere.

        The ammeter's own resistance takes its share of the loop, by the small-signal resistance there; as meters differ
        and junctions bend, half of what it takes is left open.
        """
        block = self.block(setting)
        size = np.maximum(np.abs(self._through(block, name)), LEAST_A)
        taken = np.log10(1.0 + self.meter.burden_ohm(size) * self._loop_s(block, name))
        own = 0.05 + LOG10_E * 1e-7 / size + 0.5 * taken
        mean = np.maximum(np.log10(size) - taken, np.log10(LEAST_A))
        return Prediction(mean, _widened(block, own), np.zeros_like(block.blur))

    def _loop_s(self, block: Block, name: str) -> Array:
        """How the current through a part answers a voltage put in series with it, siemens, (h,)."""
        key = name.lower()
        if key in block.branch_s:
            return block.branch_s[key]
        part = block.circuit.part(name)
        if part.letter == "R":
            own = self._siemens(block, part)
        elif part.letter == "D":
            junction = next(one.figures for one in block.system.elements if one.part.name == part.name)
            assert isinstance(junction, Junction)
            own = np.abs(block.current[key]) / junction.emission_v
        else:  # collectors and current sources do not mind what is in series
            return np.zeros(len(self.hypotheses))
        found: Array = np.maximum(own * (1.0 - own * block.source_ohm(*part.nodes[:2])), 0.0)
        return found

    def look(self, name: str, setting: Setting) -> Prediction:
        """What is seen of a part: 0 off to 1 on, or the share of full scale of a needle."""
        block = self.block(setting)
        part = self.circuit.part(name)
        kind = kind_of(self.circuit, part)
        full = figure(self.circuit, name, "full_a", FULL_SCALE_A) if kind == "movement" else figure(
            self.circuit, name, "on_a", ON_A.get(kind, 5e-3)
        )  # fmt: skip
        share = self._through(block, name) / full
        share = np.clip(share if kind in ("movement", "led") else np.abs(share), 0.0, 1.0)
        stuck = [
            place
            for place, one in enumerate(self.hypotheses)
            if any(f.part == part.name and f.mode == "stuck pointer" for f in one.faults)
        ]
        share[stuck] = 0.0
        sigma = 0.05 + 0.1 * share if kind == "movement" else np.full_like(share, 0.18)
        return Prediction(share, _widened(block, sigma), np.zeros_like(block.blur))

    def _through(self, block: Block, name: str) -> Array:
        """Current through a part under each hypothesis, (h,)."""
        key = name.lower()
        branch = block.system.index.get(f"@{key}")
        if branch is not None:
            found: Array = block.x[:, branch]
            return found
        if key in block.current:
            return block.current[key]
        part = block.circuit.part(name)
        if part.letter != "R":
            raise InvalidInput("Part", name, "a part whose current can be told: a resistance, source or junction")
        through: Array = block.between(*part.nodes[:2]) * self._siemens(block, part)
        return through

    def _siemens(self, block: Block, part: Part) -> Array:
        """Conductance of a resistance under each hypothesis, (h,)."""
        siemens = np.full(len(self.hypotheses), 1.0 / part.value)
        for place, hypothesis in enumerate(self.hypotheses):
            for fault in hypothesis.faults:
                if fault.part == part.name:
                    changes = changes_of(block.circuit, fault, block.setting)
                    siemens[place] += sum(one.siemens for one in changes if set(one.nodes) == set(part.nodes[:2]))
        return siemens


@dataclass(frozen=True)
class JointPredictor:
    """Predictors side by side, as one: what was solved for the one is not solved again with the other."""

    parts: tuple[Predictor, ...]

    @property
    def circuit(self) -> Circuit:
        return self.parts[0].circuit

    @property
    def hypotheses(self) -> tuple[Hypothesis, ...]:
        return tuple(one for part in self.parts for one in part.hypotheses)


def _rungs(hypotheses: tuple[Hypothesis, ...]) -> tuple[Array, Array, Array]:
    """For each hypothesis the places of the next figures below and above on its ladder, and how many rungs apart, (h,) each."""
    ladders: dict[str, list[int]] = {}
    for place, one in enumerate(hypotheses):
        if len(one.faults) == 1:
            ladders.setdefault(one.name, []).append(place)
    below, above = np.arange(len(hypotheses)), np.arange(len(hypotheses))
    rungs = np.ones(len(hypotheses))
    for several in ladders.values():
        ordered = sorted(several, key=lambda place: hypotheses[place].faults[0].figure)
        for rung, place in enumerate(ordered):
            low, high = max(rung - 1, 0), min(rung + 1, len(ordered) - 1)
            below[place], above[place], rungs[place] = ordered[low], ordered[high], max(high - low, 1)
    return below, above, rungs


def _origins(hypotheses: tuple[Hypothesis, ...], parents: tuple[Hypothesis, ...]) -> Array:
    """For each hypothesis the places of its faults among the parent's single ones, (h, 2); the last place for none."""
    places = {one.faults[0]: place for place, one in enumerate(parents) if len(one.faults) == 1}
    none = len(parents)
    found = np.full((len(hypotheses), 2), none)
    for place, one in enumerate(hypotheses):
        for slot, fault in enumerate(one.faults[:2]):
            found[place, slot] = places.get(fault, none)
    return found


def _widened(block: Block, sigma: Array) -> Array:
    """Where no solution was found nothing is predicted: any reading will do."""
    found: Array = np.where(block.solved, sigma, UNSOLVED)
    return found


def _solve_block(circuit: Circuit, hypotheses: tuple[Hypothesis, ...], setting: Setting, task: Task) -> Block:
    stands = set_circuit(circuit, setting)
    system = build_system(stands, LEAK_S)
    _give_cells_resistance(stands, system)
    base = Base(system)
    variants = _variants(system, stands, hypotheses, setting)
    start = solve_variants(base, no_change(), task=task)
    solution = solve_variants(base, variants, start.w[0], task)
    inverse = linearised(base, variants, solution)
    x, solved = solution.x, solution.solved.copy()
    _put_rebuilt(stands, hypotheses, (x, inverse, solved))
    rows = system.node_count
    toleranced = toleranced_parts(circuit, system)
    along = np.stack([one.along for one in toleranced], axis=1) if toleranced else np.zeros((system.size, 0))
    spread = np.zeros((len(x), rows + 1, along.shape[1]))
    spread[:, :rows] = inverse[:, :rows] @ along
    for place, hypothesis in enumerate(
        hypotheses
    ):  # a part at fault has no healthy spread: its figure has its own blur
        at_fault = {fault.part for fault in hypothesis.faults if not fault.to_node}
        spread[place, :, [one.part.name in at_fault for one in toleranced]] = 0.0
    blur = (
        np.stack([blur_of(one, system, x, solution, variants) for one in toleranced], axis=1)
        if toleranced
        else np.zeros((len(x), 0))
    )
    resist = np.zeros((len(x), rows + 1, rows + 1))
    resist[:, :rows, :rows] = inverse[:, :rows, :rows]
    shares = np.array([one.siemens * one.share for one in toleranced])
    current = element_currents(system, solution, variants)
    branches = {name[1:]: np.abs(inverse[:, row, row]) for name, row in system.index.items() if row >= rows}
    return Block(setting, stands, system, x, resist, spread, blur, shares, current, branches, solved)


def _give_cells_resistance(stands: Circuit, system: System) -> None:
    """Batteries sag under load: ``ri`` of the note, or what small cells have."""
    for part in stands.parts:
        if part.letter == "V" and kind_of(stands, part) == "battery":
            row = system.index[f"@{part.name.lower()}"]
            system.matrix[row, row] -= figure(stands, part.name, "ri", CELL_OHM)


def _variants(system: System, stands: Circuit, hypotheses: tuple[Hypothesis, ...], setting: Setting) -> Variants:
    """The hypotheses as changes of the base."""
    listed = [[change for fault in one.faults for change in changes_of(stands, fault, setting)] for one in hypotheses]
    width = max([1, *(sum(2 if change.series_ohm else 1 for change in changes) for changes in listed)])
    count = len(hypotheses)
    plus, minus = np.full((count, width), -1), np.full((count, width), -1)
    siemens = np.zeros((count, width))
    source = np.tile(system.source, (count, 1))
    scale = np.ones((count, system.inject.shape[1]))
    outputs = {element.part.name: element.outputs for element in system.elements}
    for place, changes in enumerate(listed):
        slot = 0
        for change in changes:
            if change.siemens:
                plus[place, slot], minus[place, slot] = (system.row(node) for node in change.nodes)
                siemens[place, slot] = change.siemens
                slot += 1
            if change.source:
                slot = _change_source(system, stands, change, (place, slot, plus, siemens, source))
            for output, factor in zip(outputs.get(change.element, ()), change.element_factors, strict=False):
                scale[place, output] *= factor
    return Variants(plus, minus, siemens, source, scale)


def _change_source(system: System, stands: Circuit, change: Change, into: tuple[int, int, Array, Array, Array]) -> int:
    place, slot, plus, siemens, source = into
    part = stands.part(change.source)
    branch = system.index.get(f"@{part.name.lower()}")
    if branch is None:  # a current source: its share is taken off
        for node, sign in zip(part.nodes, (1.0, -1.0), strict=True):
            if system.row(node) >= 0:
                source[place, system.row(node)] += sign * part.value * (1.0 - change.source_factor)
        return slot
    source[place, branch] *= change.source_factor
    if change.series_ohm:
        plus[place, slot], siemens[place, slot] = branch, -change.series_ohm
        slot += 1
    return slot


def _put_rebuilt(stands: Circuit, hypotheses: tuple[Hypothesis, ...], into: tuple[Array, Array, Array]) -> None:
    """Hypotheses that need another circuit are solved one by one."""
    x, inverse, solved = into
    for place, hypothesis in enumerate(hypotheses):
        for fault in hypothesis.faults:
            other = rebuilt(stands, fault) if stands.has(fault.part) else None
            if other is not None:
                system = build_system(other, LEAK_S)
                _give_cells_resistance(other, system)
                base = Base(system)
                found = solve_variants(base, no_change())
                x[place], solved[place] = found.x[0], found.solved[0]
                inverse[place] = linearised(base, no_change(), found)[0]
