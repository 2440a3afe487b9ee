"""Which healthy parts blur a prediction, how strongly each pushes under every hypothesis, and circuits drawn from them.

A tolerance is a standard deviation of the logarithm of the part's figure: values of parts are never negative, and what
hangs on them bends less over the logarithm.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit, Model, Part
from violet_dial.core.circuit.newton import junction_mask
from violet_dial.core.circuit.system import PRE_S, System
from violet_dial.core.circuit.trade import answers_to_light, kind_of, light_of, lights_of, supply_volts, tolerance_of
from violet_dial.core.records.circuit import LEADS, OPEN_OHM, Setting

Array = npt.NDArray[Any]


@dataclass(frozen=True)
class Toleranced:
    """One part with a tolerance: where it acts, its relative standard deviation, its siemens (0 for sources)."""

    part: Part
    along: Array
    share: float
    siemens: float = 0.0
    output: int = -1


LEAD_SHARE, MADE_SHARE = 0.5, 0.05  # of the tenths of an ohm of a sound lead or contact; of one that is made to have ohms; usual
MADE_OHM, SHOWN_V = 0.3, 0.01  # from where it is made so; what a lead has to drop to be seen at all


def blurring(circuit: Circuit) -> dict[str, float]:
    """Parts that blur what is read at rest, in their order: relative standard deviation of each, by its name.

    Leads and contacts are among them where currents flow that make their tenths of an ohm show.
    """
    loads = [part.value for part in circuit.parts if part.letter == "R" and not _is_lead(circuit, part)]
    most_a = supply_volts(circuit) / max(min(loads, default=np.inf), MADE_OHM)
    found = {}
    for part in circuit.parts:
        share = tolerance_of(circuit, part) if part.letter not in "CL" else 0.0
        if not share and part.letter == "R" and _is_lead(circuit, part) and part.value * most_a > SHOWN_V:
            share = MADE_SHARE if MADE_OHM < part.value < OPEN_OHM else LEAD_SHARE
        if share:
            found[part.name] = share
    return found


def _is_lead(circuit: Circuit, part: Part) -> bool:
    return kind_of(circuit, part) in (*LEADS, "switch")


def toleranced_parts(circuit: Circuit, system: System) -> list[Toleranced]:
    """Every part of the circuit with a tolerance, in its order; one that is not there as it stands pushes nowhere."""
    outputs = {element.part.name: element.outputs[-1] for element in system.elements}  # a gain, a diode's current
    found = []
    for name, usual in blurring(circuit).items():
        part = circuit.part(name)
        there = system.circuit.part(name) if system.circuit.has(name) else None
        share = tolerance_of(system.circuit, there or part) or usual  # a supply in a battery's place is as true as supplies are
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


def widths(circuit: Circuit) -> int:
    """How many things a healthy device may be off by: its parts, and behind them each of the lights it may be seen in."""
    return len(blurring(circuit)) + len(lights_of(circuit))


def light_moves(circuit: Circuit, several: list[Toleranced], setting: Setting) -> Array:
    """By how many of its own standard deviations each part's figure moves for one of each of the lights, (lights, p); no rows
    where the circuit minds none.

    Parameters
    ----------
    several : p parts with a tolerance
    setting : how the device stands
    """
    found = np.zeros((len(lights_of(circuit)), len(several)))
    if len(found):
        row, u = light_of(setting)
        found[row] = [u * answers_to_light(circuit, one.part) / one.share if one.share else 0.0 for one in several]
    return found


def with_light(deviations: Array, moves: Array) -> Array:
    """Deviations of parts and lights as deviations of the parts alone.

    Parameters
    ----------
    deviations : shape (..., p + lights)
    moves : of `light_moves`, shape (lights, p)
    """
    count = moves.shape[1]
    found: Array = deviations[..., :count] + deviations[..., count:] @ moves
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


def blur_of(several: list[Toleranced], system: System, x: Array, value: Array) -> Array:
    """How strongly one deviation of each part pushes along it, shape (count, p).

    Parameters
    ----------
    several : p parts with a tolerance
    x : unknowns of each variant, V and A, shape (count, unknowns)
    value : currents of the elements of each variant, A, shape (count, outputs)
    """
    found = np.empty((len(x), len(several)))
    for place, one in enumerate(several):
        if one.siemens:
            found[:, place] = one.siemens * one.share * (x @ one.along)  # a value up is a conductance down
        elif one.output >= 0:
            found[:, place] = one.share * value[:, one.output]
        else:
            found[:, place] = one.share
    return found


def element_outputs(system: System, w: Array, scale: Array) -> Array:
    """What every element gives in each variant, A (V for a block that gives volts), shape (count, outputs).

    Parameters
    ----------
    w : watched voltages, V, shape (count, q)
    scale : factor on each element's output, shape (count, outputs)
    """
    true = system.currents(w) + PRE_S * (w @ junction_mask(system).T)
    return true * scale


def drawn(stands: Circuit, several: list[Toleranced], deviations: Array) -> Circuit:
    """The circuit with its parts off by so many standard deviations each; blocks stay as they are.

    Parameters
    ----------
    several : p parts with a tolerance
    deviations : shape (p,)
    """
    factor = {one.part.name: float(np.exp(one.share * z)) for one, z in zip(several, deviations, strict=True) if one.share}
    models: dict[str, Model] = dict(stands.models)
    parts = []
    for part in stands.parts:
        by = factor.get(part.name, 1.0)
        if part.letter in "RVI":
            parts.append(replace(part, value=part.value * by))
        elif part.letter == "D":
            parts.append(replace(part, area=part.area * by))
        elif part.letter == "Q":  # its base takes more for the same collector
            model = models[part.model]
            figures = {**model.figures, "bf": model.figures.get("bf", 100.0) / by}
            if "ise" in figures:
                figures["ise"] *= by
            name = f"{part.model}#{part.name.lower()}"
            models[name] = replace(model, name=name, figures=figures)
            parts.append(replace(part, model=name))
        else:
            parts.append(part)
    return replace(stands, parts=tuple(parts), models=models)
