"""The operating point of one circuit, node by node and part by part."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, no_change, solve_variants
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.system import PRE_S, System, build_system
from violet_dial.core.circuit.whole import settle
from violet_dial.core.errors import NoConvergence
from violet_dial.core.task import Task

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class OperatingPoint:
    """``voltages`` by node, volt; ``currents`` by part, ampere, positive from its first node into it."""

    voltages: dict[str, float]
    currents: dict[str, float]


def operating_point(circuit: Circuit) -> OperatingPoint:
    """The operating point.

    Parameters
    ----------
    circuit : the circuit, values in SI units

    Raises
    ------
    SingularCircuit
        Nodes that hang in the air or contradicting sources, named.
    NoConvergence
        No solution found; the parts that swing are named.
    """
    system = build_system(circuit)
    x = stand(system)
    voltages = {node: float(x[system.index[node]]) for node in circuit.nodes}
    bent, _ = system.bend(system.watch @ x)
    currents = {part.name: _current(system, part, x, bent) for part in circuit.parts}
    return OperatingPoint(voltages, currents)


def stand(system: System, task: Task | None = None) -> Array:
    """All unknowns at the operating point, shape (n,); ``task`` is checked between iterations.

    Parameters
    ----------
    system : the equations of the circuit: conductances in S, unknowns in V and A

    Raises
    ------
    SingularCircuit, NoConvergence
        As `operating_point`.
    """
    quick = solve_variants(Base(system), no_change(), task=task)
    x = settle(system, (quick.x[0], quick.w[0]) if quick.solved[0] else None)
    if x is None:
        parts = tuple(element.part.name for element in system.elements)
        raise NoConvergence(f"No operating point was found; look at {', '.join(parts[:8])}.", (), parts)
    return x


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
