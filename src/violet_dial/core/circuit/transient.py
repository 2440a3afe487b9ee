"""How voltages run in time: companion models, trapezoidal, in steps of one length.

Source
------
Trapezoidal companion models: any textbook of circuit simulation; checked against ngspice. One implicit Euler step is
made wherever a source jumps, so that a jump does not ring on.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Variants, no_change, solve_variants
from violet_dial.core.circuit.netlist import Circuit, Part, Waveform
from violet_dial.core.circuit.operating import stand
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.errors import InvalidInput, NoConvergence
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
MOST_STEPS = 200_000


@dataclass(frozen=True)
class Run:
    """``time_s`` shape (t,); ``voltages`` by node, shape (t,)."""

    time_s: Array
    voltages: dict[str, Array]


def waveform_at(waveform: Waveform, time_s: float) -> float:
    """The value of a changing source at a time, as SPICE defines PULSE, SIN and PWL.

    Parameters
    ----------
    waveform : volts or amperes over seconds
    time_s : since the start, s
    """
    figures = list(waveform.figures)
    if waveform.kind == "pwl":
        return float(np.interp(time_s, figures[0::2], figures[1::2]))
    if waveform.kind == "sin":
        offset, amplitude, hertz, delay, damping, degrees = (figures + [0.0] * 6)[:6]
        since, phase = max(time_s - delay, 0.0), math.radians(degrees)
        return offset + amplitude * math.exp(-damping * since) * math.sin(2 * math.pi * hertz * since + phase)
    low, high, delay, rise, fall, width, period = (figures + [0.0] * 7)[:7]
    if time_s <= delay:
        return low
    since = (time_s - delay) % period if period > 0 else time_s - delay
    if since < rise:
        return low + (high - low) * since / rise
    if since <= rise + (width or math.inf):
        return high
    if since < rise + width + fall:
        return high + (low - high) * (since - rise - width) / fall
    return low


def _jumps(waveform: Waveform, before_s: float, after_s: float) -> bool:
    """Whether a source bends sharply between two times."""
    if waveform.kind == "pwl":
        return any(before_s < corner <= after_s for corner in waveform.figures[0::2])
    if waveform.kind == "sin":
        return False
    step = abs(waveform_at(waveform, after_s) - waveform_at(waveform, before_s))
    return step > 0.02 * abs(waveform.figures[1] - waveform.figures[0])


class _Companions:
    """Capacitors and inductors as conductances with a memory."""

    def __init__(self, system: System, step_s: float, trapezoidal: bool) -> None:
        factor = 2.0 if trapezoidal else 1.0
        matrix = system.matrix.copy()
        self.stores = [part for part in system.circuit.parts if part.letter in "CL"]
        self.strength = []
        for part in self.stores:
            strength = factor * part.value / step_s
            self.strength.append(strength)
            if part.letter == "C":
                pair = _pair(system, part)
                matrix += strength * np.outer(pair, pair)
            else:
                row = system.index[f"@{part.name.lower()}"]
                matrix[row, row] -= strength
        self.trapezoidal = trapezoidal
        self.base = Base(
            System(
                system.circuit,
                system.index,
                matrix,
                system.source,
                system.inject,
                system.watch,
                system.elements,
                system.node_count,
            )
        )


def _pair(system: System, part: Part) -> Array:
    found = np.zeros(system.size)
    for node, sign in zip(part.nodes, (1.0, -1.0), strict=False):
        if system.row(node) >= 0:
            found[system.row(node)] += sign
    return found


def run_transient(circuit: Circuit, stop_s: float, step_s: float, task: Task | None = None) -> Run:
    """Voltages from the operating point at time 0 to ``stop_s``.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    step_s : time step, s
    task : told how far it is, and asked whether to go on; none when None

    Raises
    ------
    InvalidInput
        No time, or more steps than `MOST_STEPS`.
    NoConvergence
        A step found no solution; the time is said.
    """
    task = task or SilentTask()
    if not (0 < step_s < stop_s) or stop_s / step_s > MOST_STEPS:
        raise InvalidInput(
            "Time", f"{stop_s:g} s in steps of {step_s:g} s", f"a step below the end, at most {MOST_STEPS} steps"
        )
    system = build_system(circuit)
    first = stand(system, task)
    euler, trapezoid = _Companions(system, step_s, False), _Companions(system, step_s, True)
    count = round(stop_s / step_s) + 1
    x = np.zeros((count, system.size))
    x[0], w = first, system.watch @ first
    currents = [0.0] * len(euler.stores)
    changing = [part for part in circuit.parts if part.waveform is not None]
    for place in range(1, count):
        task.check()
        now, before = place * step_s, (place - 1) * step_s
        jump = place == 1 or any(_jumps(part.waveform, before, now) for part in changing if part.waveform)
        companions = euler if jump else trapezoid
        source = _source(system, changing, now) + _memory(system, companions, x[place - 1], currents)
        step = solve_variants(companions.base, no_change_with(source), w)
        if not step.solved[0]:
            raise NoConvergence(f"No solution at {now:g} s; a shorter step may find one.")
        x[place], w = step.x[0], step.w[0]
        currents = _store_currents(system, companions, x[place], x[place - 1], currents)
    time = np.arange(count) * step_s
    return Run(time, {node: x[:, system.index[node]] for node in circuit.nodes})


def no_change_with(source: Array) -> Variants:
    """The base with another source vector."""
    plain = no_change()
    return Variants(plain.plus, plain.minus, plain.siemens, source[None, :])


def _source(system: System, changing: list[Part], now_s: float) -> Array:
    source = system.source.copy()
    for part in changing:
        assert part.waveform is not None
        change = waveform_at(part.waveform, now_s) - part.value
        if part.letter == "V":
            source[system.index[f"@{part.name.lower()}"]] += change
        else:
            source -= change * _pair(system, part)
    return source


def _memory(system: System, companions: _Companions, x: Array, currents: list[float]) -> Array:
    """What the stores hold from the step before, as sources."""
    found = np.zeros(system.size)
    for part, strength, current in zip(companions.stores, companions.strength, currents, strict=True):
        pair = _pair(system, part)
        if part.letter == "C":
            found += pair * (strength * float(pair @ x) + (current if companions.trapezoidal else 0.0))
        else:
            row = system.index[f"@{part.name.lower()}"]
            found[row] -= strength * x[row] + (float(pair @ x) if companions.trapezoidal else 0.0)
    return found


def _store_currents(
    system: System, companions: _Companions, x: Array, before: Array, currents: list[float]
) -> list[float]:
    """Capacitor currents after a step; inductors keep theirs among the unknowns."""
    found = []
    for part, strength, current in zip(companions.stores, companions.strength, currents, strict=True):
        change = strength * float(_pair(system, part) @ (x - before))
        found.append(change - (current if companions.trapezoidal else 0.0) if part.letter == "C" else 0.0)
    return found
