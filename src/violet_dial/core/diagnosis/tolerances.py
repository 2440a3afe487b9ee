"""Which healthy parts blur a prediction, and how strongly each pushes under every hypothesis."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Solution, Variants
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.system import PRE_S, System
from violet_dial.core.circuit.trade import tolerance_of

Array = npt.NDArray[Any]


@dataclass(frozen=True)
class Toleranced:
    """One part with a tolerance: where it acts, its relative standard deviation, its siemens (0 for sources)."""

    part: Part
    along: Array
    share: float
    siemens: float = 0.0
    output: int = -1


def toleranced_parts(circuit: Circuit, system: System) -> list[Toleranced]:
    """Every part of the circuit with a tolerance, in its order; one that is not there as it stands pushes nowhere.

    Parameters
    ----------
    system : the equations of the circuit: conductances in S, unknowns in V and A
    """
    outputs = {element.part.name: element.outputs[-1] for element in system.elements}  # a gain, a diode's current
    found = []
    for part in circuit.parts:
        share = tolerance_of(circuit, part)
        if share <= 0 or part.letter in "CL":
            continue
        there = system.circuit.part(part.name) if system.circuit.has(part.name) else None
        if there is None or there.letter != part.letter or part.letter in "EFGH":
            found.append(Toleranced(part, np.zeros(system.size), 0.0))
        elif part.letter == "R":
            found.append(Toleranced(there, _pair(system, there), share, 1.0 / there.value))
        elif part.letter in "VI":
            found.append(Toleranced(there, _source_column(system, there), share))
        else:
            output = outputs[part.name]
            found.append(Toleranced(there, system.inject[:, output], share, 0.0, output))
    return found


def _pair(system: System, part: Part) -> Array:
    along = np.zeros(system.size)
    for node, sign in zip(part.nodes, (1.0, -1.0), strict=True):
        if system.row(node) >= 0:
            along[system.row(node)] += sign
    return along


def _source_column(system: System, part: Part) -> Array:
    along = np.zeros(system.size)
    branch = system.index.get(f"@{part.name.lower()}")
    if branch is not None:
        along[branch] = part.value
        return along
    for node, sign in zip(part.nodes, (-part.value, part.value), strict=True):
        if system.row(node) >= 0:
            along[system.row(node)] += sign
    return along


def blur_of(one: Toleranced, system: System, x: Array, solution: Solution, variants: Variants) -> Array:
    """How strongly one deviation of this part pushes, under each hypothesis, (h,).

    Parameters
    ----------
    system : the equations of the circuit: conductances in S, unknowns in V and A
    x : unknowns of the base, V and A, shape (unknowns,)
    solution : voltages in V and currents in A, shape (variants, unknowns)
    variants : what each variant changes of the base
    """
    if one.siemens:
        found: Array = -one.siemens * one.share * (x @ one.along)
        return found
    if one.output >= 0:
        value, _ = system.bend(solution.w)
        factor = variants.scale[:, one.output] if variants.scale is not None else 1.0
        pushed: Array = one.share * value[:, one.output] * factor
        return pushed
    return np.full(len(x), one.share)


def element_currents(system: System, solution: Solution, variants: Variants) -> dict[str, Array]:
    """Current of each diode and collector under each hypothesis.

    Parameters
    ----------
    system : the equations of the circuit: conductances in S, unknowns in V and A
    solution : voltages in V and currents in A, shape (variants, unknowns)
    variants : what each variant changes of the base
    """
    if not system.elements:
        return {}
    value, _ = system.bend(solution.w)
    found = {}
    for element in system.elements:
        if element.part.letter in "DQ":
            watched = solution.w[:, element.watches[-1]]
            sign = 1.0 if element.part.letter == "D" else -1.0
            true = value[:, element.outputs[0]] + sign * PRE_S * watched
            factor = variants.scale[:, element.outputs[0]] if variants.scale is not None else 1.0
            found[element.part.name.lower()] = true * factor
    return found
