"""One circuit in one setting, ready to be solved with every hypothesis: inverted once, and once for each draw of its parts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Variants, no_change, solve_variants
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.states import lasting, may_have_several, rests
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.circuit.trade import inner_ohm, set_circuit
from violet_dial.core.diagnosis.faults import rebuilt
from violet_dial.core.diagnosis.tolerances import drawn, light_moves, toleranced_parts, with_light
from violet_dial.core.diagnosis.variants import HypothesisVariants
from violet_dial.core.records.circuit import Fault, Setting
from violet_dial.core.task import Task

Array = npt.NDArray[Any]
LEAK_S = 1e-9  # insulation from every point to ground: a loose end floats, but not to anywhere
DRAWS = 4  # each taken both ways
SEED = 20
FAR = 1.6  # standard deviations of the light: evenly up to here they have its spread
MOST_KEPT = 16  # circuits in a setting that are kept: of the largest some megabytes each


def solvable(stands: Circuit) -> System:
    """The equations with a little insulation everywhere, with cells that sag and outputs that give way.
    ``stands``: the circuit as it stands in a setting.
    """
    system = build_system(stands, LEAK_S)
    for part in stands.parts:
        ohm = inner_ohm(stands, part)
        if ohm:
            row = system.index[f"@{part.name.lower()}"]
            system.matrix[row, row] -= ohm
    return system


class Draws(NamedTuple):
    """Circuits drawn, and by how many standard deviations each part and light is off in each, (draws, p)."""

    each: tuple[Draw, ...]
    deviations: Array


class Standing:
    """One circuit in one setting, inverted."""

    def __init__(self, circuit: Circuit, stands: Circuit, setting: Setting) -> None:
        self.stands = stands
        self.system = solvable(stands)
        self.base = Base(self.system)
        self.parts = toleranced_parts(circuit, self.system)
        size = self.system.size
        self.lights = light_moves(circuit, self.parts, setting)
        self.along = np.zeros((size + 1, len(self.parts)))
        for place, part in enumerate(self.parts):
            self.along[:size, place] = part.along
        self._start: Array | None = None

    def draws(self, count: int) -> Draws:
        """So many circuits with every part off by its own deviation, each taken both ways."""
        half = np.random.default_rng(SEED).standard_normal((count, len(self.parts)))
        # Without a threshold all follows the light, and one far off is begun at; a threshold is met somewhere.
        has_threshold = any(part.letter in "QB" for part in self.stands.parts)
        far = np.linspace(FAR / max(count, 1), FAR, count) * has_threshold
        half = np.concatenate([half, np.tile(far[:, None], len(self.lights))], axis=1)
        deviations = np.concatenate([half, -half])
        return Draws(tuple(Draw(self, row) for row in with_light(deviations, self.lights)), deviations)

    def start(self, task: Task) -> Array:
        """Where the sound circuit stands, watched volts (q,): of several states one that lasts."""
        if self._start is None:
            found = solve_variants(self.base, no_change(), task=task)
            if may_have_several(self.stands) and not rests(self.system, found.x[0]):
                x = np.zeros(self.system.size)
                for node, volts in lasting(self.stands)[0].voltages.items():
                    x[self.system.row(node)] = volts
                found = solve_variants(self.base, no_change(), self.system.watch @ x, task)
            self._start = found.w[0]
        return self._start


@dataclass(frozen=True, eq=False)
class _Same:
    """A circuit by its identity: to compare all of one takes longer than to invert it."""

    circuit: Circuit

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.circuit is self.circuit

    def __hash__(self) -> int:
        return id(self.circuit)


def standing_of(circuit: Circuit, setting: Setting, around: Array | None = None, rebuilds: Fault | None = None) -> Standing:
    """The circuit in a setting, made once for all that is asked of it there.

    Parameters
    ----------
    around : by how many standard deviations each part and light is taken to be off, shape (p,)
    rebuilds : a fault with which it is built anew
    """
    return _kept(_Same(circuit), setting, None if around is None else tuple(around), rebuilds)


@lru_cache(maxsize=MOST_KEPT)
def _kept(same: _Same, setting: Setting, around: tuple[float, ...] | None, rebuilds: Fault | None) -> Standing:
    circuit = same.circuit
    stands = set_circuit(circuit, setting)
    if around is not None:  # every part off by so much from the start
        parts = toleranced_parts(circuit, solvable(stands))
        stands = drawn(stands, parts, with_light(np.array(around), light_moves(circuit, parts, setting)))
    other = stands if rebuilds is None else rebuilt(stands, rebuilds)
    assert other is not None
    return Standing(circuit, other, setting)


class Draw:
    """The circuit with every part off by its own deviation."""

    def __init__(self, standing: Standing, deviations: Array) -> None:
        parts = standing.parts
        self.base = Base(solvable(drawn(standing.stands, parts, deviations)))
        factor = np.exp(np.array([part.share for part in parts]) * deviations) if parts else np.ones(0)
        # A part at fault has the figure of its fault, whatever a healthy one would have been off.
        self.siemens = np.array([part.siemens for part in parts]) * (1.0 - 1.0 / factor)
        is_source = np.array([not part.siemens and part.output < 0 for part in parts], dtype=bool)
        self.source = np.where(is_source, 1.0 - factor, 0.0)

    def changed(self, standing: Standing, one: HypothesisVariants) -> Variants:
        """The variants as changes of this draw."""
        plain = one.variants
        assert plain.source is not None
        back = self.siemens[one.own] if len(self.siemens) else np.zeros(one.own.shape)
        back = np.where(one.own >= 0, back, 0.0)
        size = self.base.system.size
        source = plain.source - standing.system.source + self.base.system.source
        source = source + (one.at_fault * self.source) @ standing.along[:size].T
        return Variants(plain.plus, plain.minus, plain.siemens + back, source, plain.scale)
