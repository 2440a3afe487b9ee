"""How voltages run in time: companion models, trapezoidal, in steps as short as the error asks for.

Each step is made once whole and once in two halves; what the two are apart is the error, and the step is halved until that
is small, and grows again. What is given out stands at even times.

Source: Trapezoidal companion models: any textbook of circuit simulation; checked against ngspice. Step doubling: Press et al.,
Numerical Recipes (2007), chapter 17 [memory]. One implicit Euler step is made wherever a source jumps, so that a jump does not
ring on.
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
MOST_HALVED, MOST_MADE = 14, 2_000_000
ALLOWED, GROWS_BELOW = 5e-4, 0.1  # of the largest voltage a node has had, for each step
LEAST_SPAN_V = 1e-3


@dataclass(frozen=True)
class TransientRun:
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


def run_transient(circuit: Circuit, stop_s: float, step_s: float, task: Task | None = None) -> TransientRun:
    """Voltages from the operating point at time 0 to ``stop_s``.

    Raises InvalidInput: no time, or more steps than `MOST_STEPS`; NoConvergence: a step found no solution; the time is said.

    Parameters
    ----------
    step_s : time step, s
    task : told how far it is, and asked whether to go on; none when None
    """
    task = task or SilentTask()
    if not (0 < step_s < stop_s) or stop_s / step_s > MOST_STEPS:
        raise InvalidInput("Time", f"{stop_s:g} s in steps of {step_s:g} s", f"a step below the end, at most {MOST_STEPS} steps")
    walk = _Walk(build_system(circuit), step_s, task)
    count = round(stop_s / step_s) + 1
    x = np.zeros((count, walk.system.size))
    x[0] = walk.x
    for place in range(1, count):
        walk.go_to(place * step_s)
        x[place] = walk.x
    return TransientRun(np.arange(count) * step_s, {node: x[:, walk.system.index[node]] for node in circuit.nodes})


class _Walk:
    """Where the circuit stands in time, and how long a step it bears."""

    def __init__(self, system: System, step_s: float, task: Task) -> None:
        self.system, self.task = system, task
        self.now_s, self.halved, self._step_s = 0.0, 0, step_s
        self.x = stand(system, task)
        self.w = system.watch @ self.x
        self._companions: dict[tuple[int, bool], _Companions] = {}
        self.currents = [0.0 for part in system.circuit.parts if part.letter in "CL"]
        self._changing = [part for part in system.circuit.parts if part.waveform is not None]
        self._span = np.maximum(np.abs(self.x[: system.node_count]), LEAST_SPAN_V)
        self._made = 0

    def go_to(self, then_s: float) -> None:
        """On to a time, in steps the error allows."""
        begun_s, done = self.now_s, 0.0
        while done < 1.0:
            self.task.check()
            share = 0.5**self.halved
            before_s, after_s = begun_s + done * self._step_s, begun_s + (done + share) * self._step_s
            whole = self._step(self._state(), before_s, after_s, self.halved)
            middle_s = (before_s + after_s) / 2
            half = self._step(self._state(), before_s, middle_s, self.halved + 1)
            twice = self._step(half, middle_s, after_s, self.halved + 1) if half is not None else None
            error = self._error(whole, twice)
            if error > 1.0 and self.halved < MOST_HALVED:
                self.halved += 1
                continue
            if twice is None:
                raise NoConvergence(f"No solution at {after_s:g} s; a shorter step may find one.")
            self._made += 1
            if self._made > MOST_MADE:
                raise NoConvergence(f"More than {MOST_MADE} steps up to {after_s:g} s; end earlier.")
            self.x, self.w, self.currents = twice
            self._span = np.maximum(self._span, np.abs(self.x[: self.system.node_count]))
            done += share
            if error < GROWS_BELOW and self.halved and (done / (2 * share)).is_integer():
                self.halved -= 1
        self.now_s = then_s

    def _state(self) -> "_State":
        return self.x, self.w, self.currents

    def _error(self, whole: "_State | None", twice: "_State | None") -> float:
        """What the two ways are apart, in what is allowed."""
        if whole is None or twice is None:
            return np.inf
        nodes = slice(0, self.system.node_count)
        return float(np.max(np.abs(whole[0][nodes] - twice[0][nodes]) / (ALLOWED * self._span), initial=0.0))

    def _step(self, state: "_State", before_s: float, after_s: float, halved: int) -> "_State | None":
        """One step; None where nothing is found."""
        x, w, currents = state
        jump = before_s == 0.0 or any(_jumps(part.waveform, before_s, after_s) for part in self._changing if part.waveform)
        key = (halved, not jump)
        if key not in self._companions:
            self._companions[key] = _Companions(self.system, self._step_s * 0.5**halved, trapezoidal=not jump)
        companions = self._companions[key]
        source = _source(self.system, self._changing, after_s) + _memory(self.system, companions, x, currents)
        step = solve_variants(companions.base, no_change_with(source), w)
        if not step.solved[0]:
            return None
        return step.x[0], step.w[0], _store_currents(self.system, companions, step.x[0], x, currents)


_State = tuple[Array, Array, list[float]]


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


def _store_currents(system: System, companions: _Companions, x: Array, before: Array, currents: list[float]) -> list[float]:
    """Capacitor currents after a step; inductors keep theirs among the unknowns."""
    found = []
    for part, strength, current in zip(companions.stores, companions.strength, currents, strict=True):
        change = strength * float(_pair(system, part) @ (x - before))
        found.append(change - (current if companions.trapezoidal else 0.0) if part.letter == "C" else 0.0)
    return found
