"""The operating point of one circuit, node by node and part by part."""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, no_change, solve_variants
from violet_dial.core.circuit.dc import solve_dc
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.system import PRE_S, System, build_system
from violet_dial.core.errors import NoConvergence
from violet_dial.core.task import Task

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class OperatingPoint:
    """``voltages`` by node, volt; ``currents`` by part, ampere, positive from its first node into it."""

    voltages: dict[str, float]
    currents: dict[str, float]


def operating_point(circuit: Circuit, near: OperatingPoint | None = None) -> OperatingPoint:
    """The operating point.

    ``near``: where a circuit stands that differs little, to begin from; none when None. Raises SingularCircuit: nodes that
    hang in the air or contradicting sources, named; NoConvergence: no solution found; the parts that swing are named.
    """
    system = build_system(circuit)
    x = stand(system) if near is None else _from_near(system, near)
    voltages = {node: float(x[system.index[node]]) for node in circuit.nodes}
    bent, _ = system.bend(system.watch @ x)
    currents = {part.name: _current(system, part, x, bent) for part in circuit.parts}
    return OperatingPoint(voltages, currents)


def stand(system: System, task: Task | None = None) -> Array:
    """All unknowns at the operating point, shape (n,); ``task`` is checked between iterations.

    Raises SingularCircuit, NoConvergence: as `operating_point`.
    """
    near = _hinted(system) if system.circuit.nodeset or any(part.off for part in system.circuit.parts) else None
    if near is None:
        quick = solve_variants(Base(system), no_change(), task=task)
        near = (quick.x[0], quick.w[0]) if quick.solved[0] else None
    x = solve_dc(system, near)
    if x is None:
        parts = tuple(element.part.name for element in system.elements)
        raise NoConvergence(f"No operating point was found; look at {', '.join(parts[:8])}.", (), parts)
    return x


def _from_near(system: System, near: OperatingPoint) -> Array:
    """All unknowns, begun from where a circuit like it stands; as `stand`."""
    x = np.zeros(system.size)
    branches = {f"@{name.lower()}": amps for name, amps in near.currents.items()}
    for name, row in system.index.items():
        x[row] = near.voltages.get(name, branches.get(name, 0.0))
    found = solve_dc(system, (x, system.watch @ x))
    return stand(system) if found is None else found


HOLD_S = 10.0  # what holds a node to the voltage it is to stand near, siemens


def _hinted(system: System) -> tuple[Array, Array] | None:
    """Where the circuit stands while nodes are held where they are to be and junctions said to be off are out of it."""
    circuit = system.circuit
    kept = tuple(part for part in circuit.parts if not part.off)
    held = build_system(replace(circuit, parts=kept))
    matrix, source = held.matrix.copy(), held.source.copy()
    for row in range(held.node_count):
        matrix[row, row] += OFF_LEAK_S
    for node, volts in circuit.nodeset:
        if node in held.index:
            matrix[held.index[node], held.index[node]] += HOLD_S
            source[held.index[node]] += HOLD_S * volts
    found = solve_dc(replace(held, matrix=matrix, source=source), None)
    if found is None:
        return None
    x = np.zeros(system.size)
    for name, row in system.index.items():
        at = held.index.get(name, held.index.get(name.rstrip("#")))
        x[row] = found[at] if at is not None else 0.0
    return x, system.watch @ x


OFF_LEAK_S = 1e-12  # what a junction that is out of it leaves between its ends: nothing hangs in the air


def _current(system: System, part: Part, x: np.ndarray, bent: np.ndarray) -> float:
    def volts(node: str) -> float:
        row = system.row(node)
        return float(x[row]) if row >= 0 else 0.0

    branch = system.index.get(f"@{part.name.lower()}")
    if branch is not None:
        return float(x[branch])
    if part.letter == "R":
        return (volts(part.nodes[0]) - volts(part.nodes[1])) / part.value
    if part.letter == "I":
        return part.value
    if part.letter == "G":
        return part.value * (volts(part.control[0]) - volts(part.control[1]))
    if part.letter == "F":
        return part.value * float(x[system.index[f"@{part.control[0]}"]])
    if part.letter == "C":
        return 0.0
    element = next(one for one in system.elements if one.part is part)
    watched = np.array([system.watch[place] @ x for place in element.watches])
    found = float(bent[element.outputs[0]])
    if part.letter == "D":
        return found + PRE_S * float(watched[0])
    if part.letter == "Q":
        return found - PRE_S * float(watched[1])
    return found
