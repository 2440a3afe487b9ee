"""One circuit in one setting, ready to be solved with every hypothesis: inverted once, and once for each draw of its parts."""

from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Variants, no_change, solve_variants
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.states import lasting, may_have_several, rests
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.circuit.trade import figure, kind_of
from violet_dial.core.diagnosis.tolerances import drawn, light_moves, toleranced_parts
from violet_dial.core.diagnosis.variants import HypothesisVariants
from violet_dial.core.records.circuit import Setting
from violet_dial.core.task import Task

Array = npt.NDArray[Any]
LEAK_S = 1e-9  # insulation from every point to ground: a loose end floats, but not to anywhere
CELL_OHM = 2.0  # a small cell's own resistance; common practice, no source
DRAWS = 4  # each taken both ways
SEED = 20


def solvable(stands: Circuit) -> System:
    """The equations with a little insulation everywhere, and with cells that sag: ``ri`` of the note, or what small cells have.
    ``stands``: the circuit as it stands in a setting.
    """
    system = build_system(stands, LEAK_S)
    for part in stands.parts:
        if part.letter == "V" and kind_of(stands, part) == "battery":
            row = system.index[f"@{part.name.lower()}"]
            system.matrix[row, row] -= figure(stands, part.name, "ri", CELL_OHM)
    return system


class Standing:
    """One circuit in one setting: inverted once, and once for each draw of its parts."""

    def __init__(self, circuit: Circuit, stands: Circuit, draws: int, setting: Setting) -> None:
        self.stands = stands
        self.system = solvable(stands)
        self.base = Base(self.system)
        self.parts = toleranced_parts(circuit, self.system)
        size = self.system.size
        self.lights = light_moves(circuit, self.parts, setting)
        self.along = np.zeros((size + 1, len(self.parts)))
        for place, part in enumerate(self.parts):
            self.along[:size, place] = part.along
        half = np.random.default_rng(SEED).standard_normal((draws, len(self.parts)))
        half = np.concatenate([half, np.zeros((draws, len(self.lights)))], axis=1)  # a light far off is begun at instead
        self.deviations = np.concatenate([half, -half])
        self.draws = [Draw(self, row[: len(self.parts)]) for row in self.deviations]


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


def begun(standing: Standing, task: Task) -> Array:
    """Where the sound circuit stands, watched volts (q,): of several states one that lasts."""
    found = solve_variants(standing.base, no_change(), task=task)
    system = standing.system
    if may_have_several(standing.stands) and not rests(system, found.x[0]):
        x = np.zeros(system.size)
        for node, volts in lasting(standing.stands)[0].voltages.items():
            x[system.row(node)] = volts
        found = solve_variants(standing.base, no_change(), system.watch @ x, task)
    start: Array = found.w[0]
    return start
