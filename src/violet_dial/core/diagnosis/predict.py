"""What every hypothesis says a test should show, with how far a healthy spread of values and unknown figures blur it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.devices import Junction
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.trade import figure, kind_of, supply_volts
from violet_dial.core.diagnosis.block import Block, BlockReadings, Look
from violet_dial.core.diagnosis.evidence import CAPACITANCE_FACTOR_MODES
from violet_dial.core.diagnosis.faults import before_supply, changes_of
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.recorded import RECORDED, UNSOLVED
from violet_dial.core.diagnosis.standing import DRAWS
from violet_dial.core.diagnosis.tolerances import widths
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM, Evidence, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
LOG10_E = 0.4343
LEAST_A = 1e-9  # below it a current is none
MOST_FOUND = 12_000_000  # figures of predictions kept, about 100 MB
ANYTHING = 3.0  # of log10 ohm: what an ohmmeter shows across a lit cell
UNTOLD = 0.4  # of a supply's volts: what a point shows of which it is not known on which side of the supply's clip it is
INSULATION_OHM, INSULATION_U = 1e8, 1.5  # from where a point hangs on insulation; its logarithm, a deviation; usual
QUIET_V = 3e-3  # an ohmmeter is no good across more: what lies there is taken for its own test voltage
RANGES_A = np.array([200e-6, 2e-3, 20e-3, 200e-3, 10.0])  # of an ordinary pocket meter; common practice, no source
EDGES = (0.8, 1.3)  # a meter may go to its next range so much later or earlier
ON_A = {"lamp": 10e-3, "led": 1e-3, "solenoid": 5e-3, "motor": 20e-3, "coil": 5e-3}  # where it is said to be on; usual
FULL_SCALE_A = 200e-6  # of a movement when nothing is noted; common practice, no source
CAPACITANCE_TOL = 0.08  # of log10 farad: a capacitor's 20 %; common practice, no source
OPEN_F = 10**-11.5


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
        return self.burden_v / RANGES_A[place]


@dataclass(frozen=True)
class Prediction:
    """A reading under each hypothesis: ``mean`` (h,), ohms and farads as log10, a needle's share of full scale also below
    nothing; ``sigma`` (h,) of the reading alone; ``bend`` (h,) of what ``load`` misses while the parts may be off by their
    tolerances; ``doubt`` (h,) of what no knowledge of the parts makes surer.

    ``load`` (h, p): how far one standard deviation of each toleranced part moves it, and in the last two columns how far
    the unknown figures of the faults do. These are the same parts in every reading, so they are kept apart.
    """

    mean: Array
    sigma: Array
    load: Array
    bend: Array
    doubt: Array

    @property
    def total(self) -> Array:
        """Standard deviation before anything was read, (h,)."""
        found: Array = np.sqrt(
            sum(np.square(one) for one in (self.sigma, self.bend, self.doubt)) + np.square(self.load).sum(axis=1)
        )
        return found

    def part(self, places: Array | list[int]) -> Prediction:
        """Some of the hypotheses."""
        return Prediction(self.mean[places], self.sigma[places], self.load[places], self.bend[places], self.doubt[places])


def identity(ask: Evidence) -> tuple[object, ...]:
    """What makes two pieces of evidence the same question.

    ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    return ask.test, frozenset((ask.plus, ask.minus)), ask.part, ask.setting


def question(ask: Evidence) -> tuple[object, ...]:
    """All that decides what a test shows; unlike `identity` with its points in their order.

    ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    return ask.test, ask.plus, ask.minus, ask.part, ask.setting


class Predictor:
    """Predictions of a set of hypotheses; each setting is solved once and kept, and so is each prediction.

    Parameters
    ----------
    meter : the one in the hand; a usual one when None
    draws : how often the spread of all parts is solved in full, both ways; 0 trusts the straight lines
    around : by how many standard deviations each part is taken to be off, shape (p,); the lines begin there
    """

    def __init__(
        self,
        circuit: Circuit,
        hypotheses: tuple[Hypothesis, ...],
        meter: Meter | None = None,
        draws: int = DRAWS,
        around: Array | None = None,
    ) -> None:
        self.circuit = circuit
        self.hypotheses = hypotheses
        self.meter = meter or Meter()
        self._draws, self._around = draws, around
        self._blocks: dict[Setting, Block] = {}
        self._found: dict[object, Prediction] = {}

    @property
    def toleranced(self) -> int:
        """How many parts have a tolerance, with the lights they may be seen in."""
        return widths(self.circuit)

    def block(self, setting: Setting, task: Task | None = None) -> Block:
        """All hypotheses solved in a setting."""
        if setting not in self._blocks:
            task = task or SilentTask()
            self._blocks[setting] = Block(self.circuit, self.hypotheses, setting, task, self._draws, self._around)
        return self._blocks[setting]

    def of(self, ask: Evidence) -> Prediction:
        """What each hypothesis says of one test."""
        return self.all_of([ask])[0]

    def all_of(self, asks: Sequence[Evidence], task: Task | None = None) -> list[Prediction]:
        """What each hypothesis says of many tests; those of one setting and kind are worked out together.

        Raises InvalidInput: a point or part the circuit, as it stands, has not, or one whose current cannot be told.
        """
        if len(self._found) * len(self.hypotheses) * (self.toleranced + 2) > MOST_FOUND:
            self._found.clear()
        keys = [question(ask) for ask in asks]
        between: dict[tuple[bool, Setting], list[int]] = {}
        for place, ask in enumerate(asks):
            if keys[place] in self._found:
                continue
            if ask.test in RECORDED:
                self._found[keys[place]] = self._recorded(ask)
            elif ask.part:
                if task:
                    task.check()
                self._found[keys[place]] = self._one(ask)
            else:
                between.setdefault((ask.test == "volt", ask.setting), []).append(place)
        for (is_volt, setting), places in between.items():
            if task:
                task.check()
            looks = [(asks[place].plus, asks[place].minus) for place in places]
            several = self._volts(looks, setting, task) if is_volt else self._ohms(looks, setting, task)
            for place, one in zip(places, several, strict=True):
                self._found[keys[place]] = one
        return [self._found[key] for key in keys]

    def knows(self, asks: Sequence[Evidence]) -> bool:
        """Whether what each hypothesis says of these was worked out already."""
        return all(question(ask) in self._found for ask in asks)

    def forget_blocks(self) -> None:
        """Let go of what was solved; predictions already made are kept."""
        self._blocks.clear()

    def _one(self, ask: Evidence) -> Prediction:
        if ask.test == "amp":
            return self.amps(ask.part, ask.setting)
        return self.look(ask.part, ask.setting) if ask.test == "seen" else self._capacitance(ask)

    def volts(self, plus: str, minus: str, setting: Setting) -> Prediction:
        """A voltmeter between two points."""
        return self._volts([(plus, minus)], setting, None)[0]

    def _volts(self, looks: list[Look], setting: Setting, task: Task | None) -> list[Prediction]:
        block = self.block(setting, task)
        seen = block.see(looks, self.meter.input_ohm)
        untold = before_supply(self.circuit) if setting.supply == "bench" else frozenset()
        found = []
        for place, look in enumerate(looks):
            mean = seen.value[:, place]
            own = self.meter.accuracy * np.abs(mean) + self.meter.floor_v
            own += UNTOLD * supply_volts(self.circuit) * bool(untold & {*look})
            doubt = self._by_insulation(mean, seen.ohm[:, place])
            found.append(Prediction(mean, _widened(block, own), seen.load[:, place], seen.bend[:, place], doubt))
        return found

    def _by_insulation(self, volts: Array, ohm: Array) -> Array:
        """How far a voltage may be off where the meter hangs on a point that only insulation holds, V: of what the meter leaves
        there by as much as insulation differs, (h,)."""
        pull = ohm / self.meter.input_ohm
        found: Array = INSULATION_U * np.abs(volts) * pull / (1.0 + pull) * ohm / (ohm + INSULATION_OHM)
        return found

    def ohms(self, plus: str, minus: str, setting: Setting) -> Prediction:
        """An ohmmeter between two points, supply out, as log10 of ohm: it tests below what a junction needs.

        Where a lit cell or anything else leaves volts between the points, the figure means nothing.
        """
        return self._ohms([(plus, minus)], setting, None)[0]

    def _ohms(self, looks: list[Look], setting: Setting, task: Task | None) -> list[Prediction]:
        block = self.block(replace(setting, supply="off"), task)
        seen = block.see(looks)
        driven = block.driven_ohm(looks) if block.system.elements else seen.ohm
        found = []
        for place in range(len(looks)):
            value = seen.ohm[:, place] + LEADS_OHM
            low = np.log10(np.clip(driven[:, place] + LEADS_OHM, LEADS_OHM, OVERLOAD_OHM))
            load = np.clip(seen.ohm_load[:, place] * (LOG10_E / value)[:, None], -1, 1)
            own = LOG10_E * np.minimum(self.meter.accuracy + 0.1 / value, 1.0) + 0.004
            silent = not block.driven & {*looks[place]}
            own = np.where((np.abs(seen.value[:, place]) <= QUIET_V) & silent, own, ANYTHING)
            mean = np.log10(np.minimum(value, OVERLOAD_OHM))
            apart = np.maximum(mean - low, 0.0)  # how much depends on the meter
            bend = 0.25 * np.square(load).sum(axis=1)
            found.append(Prediction(mean - apart / 2, _widened(block, own), load, bend, apart / 2))
        return found

    def is_quiet(self, plus: str, minus: str, setting: Setting) -> bool:
        """Whether an ohmmeter may be put there: nothing is left between the points of a sound device, cells out, and neither
        is the output of an amplifier, which without its supply is nobody knows what."""
        block = self.block(replace(setting, supply="off"))
        return not block.driven & {plus, minus} and bool(np.abs(block.across(plus, minus)[0]) <= QUIET_V)

    def amps(self, name: str, setting: Setting) -> Prediction:
        """The current through a part with the ammeter in series, A, either way round.

        The ammeter's own resistance takes its share of the loop, by the small-signal resistance there; as meters differ
        and junctions bend, half of what it takes is left open.
        """
        block = self.block(setting)
        through, load, bend = self._through(block, name)
        size = np.maximum(np.abs(through), LEAST_A)
        loop = self._loop_s(block, name)
        low, high = (1.0 / (1.0 + self.meter.burden_ohm(size * edge) * loop) for edge in EDGES)
        taken = (low + high) / 2.0  # near the end of a range it may be this one or the next
        own = (0.03 + 0.5 * (1.0 - taken) + np.abs(high - low) / 2.0) * np.abs(through) + 2e-7
        return Prediction(through * taken, _widened(block, own), load * taken[:, None], bend * taken, np.zeros_like(bend))

    def _loop_s(self, block: Block, name: str) -> Array:
        """How the current through a part answers a voltage put in series with it, siemens, (h,)."""
        key = name.lower()
        if f"@{key}" in block.system.index:
            return block.see([(f"@{key}", "0")]).ohm[:, 0]  # ampere a volt: the branch's own entry
        part = block.circuit.part(name)
        if part.letter == "R":
            own = self._siemens(block, part)
        elif part.letter == "D":
            junction = next(element.figures for element in block.system.elements if element.part.name == part.name)
            assert isinstance(junction, Junction)
            own = np.abs(block.element_values(key)) / junction.emission_v
        else:  # collectors and current sources do not mind what is in series
            return np.zeros(len(self.hypotheses))
        ohm = block.see([(part.nodes[0], part.nodes[1])]).ohm[:, 0]
        return np.maximum(own * (1.0 - own * ohm), 0.0)

    def look(self, name: str, setting: Setting) -> Prediction:
        """What is seen of a part: its current as a share of what turns it full on, or of a needle's full scale; a needle
        may stand below nothing."""
        block = self.block(setting)
        part = self.circuit.part(name)
        kind = kind_of(self.circuit, part)
        full = figure(self.circuit, name, "full_a", FULL_SCALE_A) if kind == "movement" else figure(
            self.circuit, name, "on_a", ON_A.get(kind, 5e-3)
        )  # fmt: skip
        through, load, bend = (one / full for one in self._through(block, name))
        if kind not in ("movement", "led"):
            sign = np.where(through < 0, -1.0, 1.0)
            through, load = through * sign, load * sign[:, None]
        for mode, factor in (("stuck pointer", 0.0), ("leads exchanged", -1.0)):
            hit = [
                n
                for n, hypothesis in enumerate(self.hypotheses)
                if any(f.part == part.name and f.mode == mode for f in hypothesis.faults)
            ]
            through[hit], load[hit], bend[hit] = through[hit] * factor, load[hit] * factor, bend[hit] * abs(factor)
        sigma = 0.03 + 0.05 * np.clip(np.abs(through), 0, 1) if kind == "movement" else 0.08 + 0.1 * np.clip(through, 0, 2)
        return Prediction(through, _widened(block, sigma), load, bend, np.zeros_like(bend))

    def _through(self, block: Block, name: str) -> tuple[Array, Array, Array]:
        """Current through a part under each hypothesis, how tolerances and figures move it, and what that misses."""
        key = name.lower()
        if f"@{key}" in block.system.index:
            seen = block.see([(f"@{key}", "0")])
            return seen.value[:, 0], seen.load[:, 0], seen.bend[:, 0]
        part = block.circuit.part(name)
        if part.letter == "R":
            return self._through_resistance(block, part, block.see([(part.nodes[0], part.nodes[1])]))
        if part.letter not in "DQ":
            raise InvalidInput("Part", name, "a part whose current can be told: a resistance, source or junction")
        through = block.element_values(key)
        if part.letter == "Q":
            return through, np.zeros((len(through), self.toleranced + 2)), 0.3 * np.abs(through)
        return self._through_diode(block, part, through)

    def _through_resistance(self, block: Block, part: Part, seen: BlockReadings) -> tuple[Array, Array, Array]:
        siemens = self._siemens(block, part)
        through, load = siemens * seen.value[:, 0], siemens[:, None] * seen.load[:, 0]
        place = next((n for n, one in enumerate(block.parts) if one.part.name == part.name), None)
        if place is not None:
            sound = [not any(fault.part == part.name for fault in hypothesis.faults) for hypothesis in self.hypotheses]
            load[:, place] -= np.where(sound, block.parts[place].share * through, 0.0)
        return through, load, siemens * seen.bend[:, 0]

    def _through_diode(self, block: Block, part: Part, through: Array) -> tuple[Array, Array, Array]:
        """Through a junction: what its neighbours do to the voltage across it, by its slope."""
        junction = next(element.figures for element in block.system.elements if element.part.name == part.name)
        assert isinstance(junction, Junction)
        anode = f"{part.name.lower()}#" if f"{part.name.lower()}#" in block.system.index else part.nodes[0]
        seen = block.see([(anode, part.nodes[1])])
        slope = np.abs(through) / float(junction.emission_v)
        load = slope[:, None] * seen.load[:, 0]
        place = next((n for n, one in enumerate(block.parts) if one.part.name == part.name), None)
        if place is not None:
            load[:, place] += block.parts[place].share * through
        return through, load, slope * seen.bend[:, 0]

    def _siemens(self, block: Block, part: Part) -> Array:
        """Conductance of a resistance under each hypothesis, (h,)."""
        siemens = np.full(len(self.hypotheses), 1.0 / part.value)
        for place, hypothesis in enumerate(self.hypotheses):
            for fault in hypothesis.faults:
                if fault.part == part.name:
                    changes = changes_of(block.circuit, fault, block.setting)
                    siemens[place] += sum(change.siemens for change in changes if change.own == part.name)
        return siemens

    def _recorded(self, ask: Evidence) -> Prediction:
        """What only a recording shows: a swing, a clock, a time."""
        mean, sigma = RECORDED[ask.test](self, ask)
        count = len(self.hypotheses)
        return Prediction(mean, sigma, np.zeros((count, self.toleranced + 2)), np.zeros(count), np.zeros(count))

    def through(self, name: str, setting: Setting) -> Array:
        """Current through a part under each hypothesis, A; UNSOLVED where there is no solution is not told here."""
        return self._through(self.block(setting), name)[0]

    def _capacitance(self, ask: Evidence) -> Prediction:
        """A capacitor measured with a leg lifted, as log10 of farad."""
        nominal = float(np.log10(self.circuit.part(ask.part).value))
        mean = np.full(len(self.hypotheses), nominal)
        sigma = np.full(len(mean), CAPACITANCE_TOL)
        load = np.zeros((len(mean), self.toleranced + 2))
        for place, hypothesis in enumerate(self.hypotheses):
            for slot, fault in enumerate(hypothesis.faults):
                if fault.part != ask.part:
                    continue
                if fault.mode.startswith("open"):
                    mean[place] = np.log10(OPEN_F)
                elif fault.mode in CAPACITANCE_FACTOR_MODES:
                    mean[place] += np.log10(fault.figure)
                    load[place, self.toleranced + slot] = LOG10_E * (hypothesis.spans or (0.0, 0.0))[slot] / np.sqrt(12.0)
                elif fault.mode in ("short", "leaky"):
                    sigma[place] = 1.0
        return Prediction(mean, sigma, load, np.zeros(len(mean)), np.zeros(len(mean)))


def _widened(block: Block, sigma: Array) -> Array:
    """Where no solution was found nothing is predicted: any reading will do."""
    return np.where(block.solved, sigma, UNSOLVED)
