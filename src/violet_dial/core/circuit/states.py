"""Other states in which a circuit may stand: a flip-flop, a latch, a trigger with its two thresholds.

From each node that a transistor or a block drives, held low and held high, the circuit is let go; what it comes to rest in is a
state. One that the least push would leave is none.

Source: Stability by the eigenvalues of the linearised circuit with the same capacitance at every node [memory].
"""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.operating import OperatingPoint, operating_point, stand
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.circuit.trade import set_circuit
from violet_dial.core.errors import VioletDialError
from violet_dial.core.records.circuit import Setting
from violet_dial.core.scipy_rooms import linalg
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
MOST_HELD, MOST_PARTS = 12, 80  # nodes that are held; parts from which the search would keep the bench waiting
APART_V, APART_SHARE = 0.05, 0.01  # V and share of the highest, from which two states are two
GROWS = 1e-9  # share of the fastest rate, from which a push grows


def other_states(circuit: Circuit, found: OperatingPoint, task: Task | None = None) -> tuple[OperatingPoint, ...]:
    """The stable states of a circuit beside the one that was found; nothing where there is no choice, nor of more than 80 parts.

    ``found``: an operating point of it. ``task`` is checked between the nodes that are held.
    """
    task = task or SilentTask()
    if not may_have_several(circuit):
        return ()
    driven = _driven(circuit)
    top = max((abs(volts) for volts in found.voltages.values()), default=0.0)
    levels = (min([0.0, *found.voltages.values()]), max([0.0, *found.voltages.values()]))
    states: list[OperatingPoint] = []
    for node in driven:
        for level in levels:
            task.check()
            held = replace(circuit, nodeset=((node, level),))
            try:
                one = operating_point(held)
            except VioletDialError:
                continue
            if all(_apart(one, other) > APART_V + APART_SHARE * top for other in (found, *states)) and is_stable(held):
                states.append(one)
    return tuple(states)


def may_have_several(circuit: Circuit) -> bool:
    """Whether a search for states is worth its time: one transistor has nothing that holds it."""
    driven = len(_driven(circuit)) >= 2 or any(part.letter == "B" for part in circuit.parts)
    return driven and len(circuit.parts) <= MOST_PARTS


def lasting(circuit: Circuit) -> tuple[OperatingPoint, ...]:
    """The states in which a circuit may stand, the one first that is found first; the operating point alone where none lasts.

    Raises SingularCircuit, NoConvergence: as `operating_point`.
    """
    found = operating_point(circuit)
    others = other_states(circuit, found)
    return (found, *others) if not others or is_stable(circuit) else others


@lru_cache(maxsize=16)
def _said(text: str, stands: Setting) -> str:
    circuit = set_circuit(checked_circuit(text), stands)
    if not may_have_several(circuit):
        return ""
    try:
        states = lasting(circuit)
    except VioletDialError:
        return ""
    if len(states) < 2:
        return ""
    where = "all is judged in one of them: the readings must say in which it is"
    return f"The circuit may stand in {len(states)} states; {where}."


def states_word(circuit: Circuit, stands: Setting) -> str:
    """That a circuit may stand in several states, said; empty for one. ``stands``: how its switches do."""
    return _said(circuit.text, stands) if circuit.text else ""


def _driven(circuit: Circuit) -> tuple[str, ...]:
    nodes = [node for part in circuit.parts if part.letter in "QBE" for node in part.nodes[:1] if node != GROUND]
    return tuple(dict.fromkeys(nodes))[:MOST_HELD]


def _apart(one: OperatingPoint, other: OperatingPoint) -> float:
    return max((abs(volts - other.voltages[node]) for node, volts in one.voltages.items()), default=0.0)


def is_stable(circuit: Circuit) -> bool:
    """Whether a circuit comes back to where it stands after the least push. Raises as `operating_point`."""
    system = build_system(circuit)
    return rests(system, stand(system))


def rests(system: System, x: Array) -> bool:
    """As `is_stable`, at a point that is known. ``x``: volts and branch currents as in `System`, shape (size,)."""
    _, slope = system.bend(system.watch @ x)
    jacobian = system.matrix - system.inject @ slope @ system.watch
    at_nodes = np.zeros(system.size)
    at_nodes[: system.node_count] = 1.0
    rates = linalg.eigvals(-jacobian, np.diag(at_nodes))
    rates = rates[np.isfinite(rates)]
    fastest = float(np.abs(rates).max(initial=0.0))
    return bool((rates.real <= GROWS * fastest).all())
