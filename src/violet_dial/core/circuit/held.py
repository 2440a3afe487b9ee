"""What ideal sources hold: voltages no element can move, and currents the sources swallow whole.

Between such nodes the reach of an element is exactly zero. An inverse gives it as rounding dust, which a junction
driven hard (a diode straight across a battery) would blow up to any figure.
"""

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.system import System
from violet_dial.core.scipy_rooms import scipy_room

Flags = npt.NDArray[np.bool_]
Groups = npt.NDArray[np.intp]


def held(system: System) -> tuple[Flags, Flags]:
    """Which watched voltages stand still whatever the elements do, and which element outputs move no node.

    Returns
    -------
    still : shape (q,); the watch looks between nodes joined by independent sources alone
    swallowed : shape (m,); the output flows between nodes joined by ideal branches whose currents nothing looks at
    """
    free, ideal = _branches(system)
    fixed = _groups(system, free)
    joined = _groups(system, ideal)
    sensed = {int(joined[one[1]]) for one in ideal if _looked_at(system, *one)}
    still = np.array([_balances(system, watch, fixed, set()) for watch in system.watch], dtype=bool)
    swallowed = np.array([_balances(system, output, joined, sensed) for output in system.inject.T], dtype=bool)
    return still, swallowed


def _branches(system: System) -> tuple[list[tuple[int, int, int]], list[tuple[int, int, int]]]:
    """Branches as (row, plus, minus), ground as -1: the independent ones, and all that are ideal."""
    free, ideal = [], []
    for part in system.circuit.parts:
        row = system.row(f"@{part.name.lower()}")
        if row < 0 or system.matrix[row, row] != 0.0:
            continue
        plus, minus = (system.row(node) for node in part.nodes[:2])
        ideal.append((row, plus, minus))
        if part.letter in "VL":
            free.append((row, plus, minus))
    return free, ideal


def _groups(system: System, branches: list[tuple[int, int, int]]) -> Groups:
    """The group of each node, the last being ground's."""
    coo_array = scipy_room("sparse").coo_array
    connected_components = scipy_room("sparse.csgraph").connected_components

    count = system.node_count + 1
    plus, minus = ([one[place] % count for one in branches] for place in (1, 2))
    _, groups = connected_components(
        coo_array((np.ones(len(plus)), (plus, minus)), shape=(count, count)), directed=False
    )
    found: Groups = groups.astype(np.intp)
    return found


def _looked_at(system: System, row: int, plus: int, minus: int) -> bool:
    """Whether a source or a probe depends on this branch's current beyond what flows at its own two nodes."""
    column = np.append(system.matrix[:, row], 0.0)  # the last place is ground's
    column[plus] -= 1.0
    column[minus] += 1.0
    return bool(column[:-1].any() or system.watch[:, row].any())


def _balances(system: System, vector: npt.NDArray[np.float64], groups: Groups, but: set[int]) -> bool:
    """Whether a vector over nodes sums to nothing within every group other than ground's."""
    if vector[system.node_count :].any():
        return False
    touched = np.flatnonzero(vector)
    found = {int(groups[row]) for row in touched}
    if found & but:
        return False
    sums = np.bincount(groups[:-1], weights=vector[: system.node_count], minlength=int(groups.max()) + 1)
    sums[groups[-1]] = 0.0
    return not sums.any()
