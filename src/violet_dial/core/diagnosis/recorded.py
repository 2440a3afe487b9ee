"""What only a recording shows, under each hypothesis: how far a supply swings, whether a clock runs, how long a shutter is open.

Each function gives mean and one standard deviation, shape (h,) each; where nothing can be said any reading will do.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of, supply_volts
from violet_dial.core.diagnosis.evidence import NEVER_HOLDS_S, NEVER_LETS_GO_S, timing
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.records.circuit import LEADS, Evidence, TestKind

Array = npt.NDArray[np.float64]


Found = tuple[Array, Array]


STEPS = np.array([0.0, 0.5, 0.8, 0.95, 1.05, 1.3, 1.8, 3.0])  # of the volts at which the magnet of a sound one lets go


HALVINGS = 14
SPREAD = 0.09  # of log10 s: a capacitor's 20 % and a cell's; without end where it never lets go
NO_TIME_U = 0.5


def held_at(circuit: Circuit, capacitor: Part, volts: float) -> Circuit:
    """The circuit with its timing capacitor held at so many volts."""
    return circuit.with_parts(
        tuple(replace(part, letter="V", value=volts) if part is capacitor else part for part in circuit.parts)
    )


def lets_go_v(holds: Callable[[float], bool], most_v: float) -> float:
    """The volts on the capacitor at which the magnet lets go, by halving; ``most_v`` where it never does.

    ``holds``: whether it holds with so many volts there.
    """
    low, high = 0.0, most_v
    if holds(high):
        return most_v
    for _ in range(HALVINGS):
        half = (low + high) / 2
        low, high = (half, high) if holds(half) else (low, half)
    return (low + high) / 2


def times(farads: Array, volts: Array, into_a: Array, holds: npt.NDArray[np.bool_], exact: float) -> tuple[Array, Array]:
    """Log10 of the time under each hypothesis, and one standard deviation.

    Parameters
    ----------
    farads : of the timing capacitor under each, shape (h,)
    volts : at which it was held, shape (k,)
    into_a : current into it, shape (k, h)
    holds : whether the magnet holds, shape (k, h)
    exact : volts at which that of a sound one lets go
    """
    mean, sigma = np.full(len(farads), np.nan), np.full(len(farads), SPREAD)
    for place in range(len(farads)):
        if not holds[0, place]:
            mean[place], sigma[place] = np.log10(NEVER_HOLDS_S), NO_TIME_U
            continue
        gone = np.flatnonzero(~holds[:, place])
        if not len(gone) or (into_a[: gone[0], place] <= 0).any():
            mean[place], sigma[place] = np.log10(NEVER_LETS_GO_S), NO_TIME_U
            continue
        last = int(gone[0])
        end = exact if volts[last - 1] < exact <= volts[last] else (volts[last - 1] + volts[last]) / 2
        at = np.append(volts[:last], end)
        slow = 1.0 / np.append(into_a[:last, place], into_a[last - 1, place])
        time_s = farads[place] * float(np.trapezoid(slow, at))
        mean[place] = np.log10(np.clip(time_s, NEVER_HOLDS_S, NEVER_LETS_GO_S))
    return mean, sigma


def farads_of(capacitor: Part, hypotheses: tuple[Hypothesis, ...]) -> Array:
    """What the timing capacitor is under each hypothesis."""
    found = np.full(len(hypotheses), capacitor.value)
    for place, hypothesis in enumerate(hypotheses):
        for fault in hypothesis.faults:
            if fault.part == capacitor.name and fault.mode.startswith("open"):
                found[place] *= 1e-3
            elif fault.part == capacitor.name and fault.mode in ("too high", "too low"):
                found[place] *= fault.figure
    return found


def without_value(capacitor: Part, hypotheses: tuple[Hypothesis, ...]) -> tuple[Hypothesis, ...]:
    """The hypotheses without what changes nothing but the capacitor's own value: while it is held that is of no account."""
    return tuple(
        replace(
            hypothesis, faults=tuple(f for f in hypothesis.faults if f.part != capacitor.name or f.mode in ("leaky", "short"))
        )
        for hypothesis in hypotheses
    )


SWINGS, SWINGS_U = 0.4, 0.25  # of the output, peak to peak, and one standard deviation


STILL_U = 0.02  # V: what an ordinary oscilloscope shows of a still line
TOO_SMALL = 0.25  # of its value, below which a capacitor no longer steadies


def regulated(circuit: Circuit, node: str) -> tuple[str, ...]:
    """The capacitors that steady a point, where a regulator feeds it; none where none does."""
    group = _group(circuit, node)
    if not any(kind_of(circuit, part) == "regulator" and part.nodes[0] in group for part in circuit.parts):
        return ()
    return tuple(
        part.name for part in circuit.parts if part.letter == "C" and GROUND in part.nodes and group & {*part.nodes} - {GROUND}
    )


def _group(circuit: Circuit, node: str) -> set[str]:
    """Points joined to one by leads alone."""
    group, grown = {node}, True
    while grown:
        grown = False
        for part in circuit.parts:
            ends = {*part.nodes[:2]}
            if kind_of(circuit, part) in LEADS and ends & group and not ends <= group and GROUND not in ends:
                group, grown = group | ends, True
    return group


def ripple(capacitors: tuple[str, ...], hypotheses: tuple[Hypothesis, ...], level: Array) -> tuple[Array, Array]:
    """Peak to peak under each hypothesis and one standard deviation, V, shape (h,) each.

    ``level``: V at the point under each, shape (h,).
    """
    mean, sigma = np.zeros(len(hypotheses)), np.full(len(hypotheses), STILL_U)
    for place, hypothesis in enumerate(hypotheses):
        gone = any(
            fault.part in capacitors
            and (fault.mode.startswith("open") or (fault.mode == "too low" and fault.figure <= TOO_SMALL))
            for fault in hypothesis.faults
        )
        if gone:
            mean[place] = SWINGS * abs(level[place])
            sigma[place] = np.hypot(STILL_U, SWINGS_U * abs(level[place]))
    return mean, sigma


if TYPE_CHECKING:
    from violet_dial.core.diagnosis.predict import Predictor

UNSOLVED = 1e3  # standard deviation that stands for: no solution was found, any reading will do
DIP_U, DIP_SHARE = 0.03, 0.15  # V, and of the dip
LOADS, LEAST_LOAD_A = ("lamp", "led", "solenoid", "motor", "coil"), 1e-4
WAKES_U = 0.25
CLOCK_U, LEAST_CLOCK_V = (
    0.12,
    0.2,
)  # of a clock that runs or does not; V of its level in a sound device, below which none is told


def swings(predictor: "Predictor", ask: Evidence) -> Found:
    """How far a point swings, peak to peak, V: what steadies it may have gone; where no regulator feeds it anything will do.

    ``ask``: the test, with its points or part and how the device stands.
    """
    level = predictor.volts(ask.plus, ask.minus, ask.setting)
    steadying = regulated(predictor.circuit, ask.plus)
    mean, sigma = ripple(steadying, predictor.hypotheses, level.mean)
    if not steadying:
        return mean, np.full(len(mean), UNSOLVED)
    return mean, np.where(level.sigma < UNSOLVED, sigma, UNSOLVED)


def runs(predictor: "Predictor", ask: Evidence) -> Found:
    """Whether a clock is there, 1 or 0: its mean level is what a sound device has, or it has gone.

    ``ask``: the test, with its points or part and how the device stands.

    Source: A clock that is there stands at a level of its own on a meter, one that stopped for want of supply or of a way at
    none: common practice, no source. One that stopped high is not told from one that runs.
    """
    level = predictor.volts(ask.plus, ask.minus, ask.setting)
    sound = type(predictor)(predictor.circuit, (Hypothesis((), 0.0),), predictor.meter, draws=0)
    usual = abs(float(sound.volts(ask.plus, ask.minus, ask.setting).mean[0]))
    if usual < LEAST_CLOCK_V:
        return np.ones(len(level.mean)), np.full(len(level.mean), UNSOLVED)
    share = np.clip(np.abs(level.mean) / usual, 0.0, 1.0)
    mean = np.where(share > 0.6, 1.0, np.where(share < 0.3, 0.0, share))
    sigma = np.where((share > 0.6) | (share < 0.3), CLOCK_U, 0.5)
    return mean, np.where(level.sigma < UNSOLVED, sigma, UNSOLVED)


def dips(predictor: "Predictor", ask: Evidence) -> Found:
    """By how much a supply falls each time the largest load draws (lamp, magnet, motor), V: with it and without.

    ``ask``: the test, with its points and how the device stands.

    Source: Two operating points, with the load and with it lifted: any textbook of circuits. How well a dip is read off a
    trace: common practice, no source.
    """
    load = _largest_load(predictor, ask)
    if not load:
        return np.zeros(len(predictor.hypotheses)), np.full(len(predictor.hypotheses), UNSOLVED)
    without = replace(ask.setting, disconnected=(*ask.setting.disconnected, load))
    there, gone = (predictor.volts(ask.plus, ask.minus, one) for one in (ask.setting, without))
    mean = np.abs(gone.mean - there.mean)
    solved = (there.sigma < UNSOLVED) & (gone.sigma < UNSOLVED)
    return mean, np.where(solved, np.hypot(DIP_U, DIP_SHARE * mean), UNSOLVED)


def _largest_load(predictor: "Predictor", ask: Evidence) -> str:
    """What draws most in a sound device as it stands; empty where nothing does."""
    circuit = predictor.circuit
    sound = type(predictor)(circuit, (Hypothesis((), 0.0),), predictor.meter, draws=0)
    loads = [part.name for part in circuit.parts if kind_of(circuit, part) in LOADS and part.letter in "RD"]
    drawn = {name: abs(float(sound.through(name, ask.setting)[0])) for name in loads if name not in ask.setting.disconnected}
    best = max(drawn, key=lambda name: drawn[name], default="")
    return best if best and drawn[best] > LEAST_LOAD_A else ""


def wakes(predictor: "Predictor", ask: Evidence) -> Found:
    """Whether a device wakes by itself, 1 or 0: something leaks into what switches it on, or what holds that off has gone.

    Source: A transistor that leaks or has lost the resistor that holds its base down, a switch that never opens: common
    practice, no source.
    """
    circuit = predictor.circuit
    bases = {one.nodes[1] for one in circuit.parts if one.letter == "Q"}
    held = {one.name for one in circuit.parts if one.letter == "R" and GROUND in one.nodes and bases & {*one.nodes}}
    parts = {one.name: one for one in circuit.parts}
    mean = np.zeros(len(predictor.hypotheses))
    for place, hypothesis in enumerate(predictor.hypotheses):
        for fault in hypothesis.faults:
            part = parts.get(fault.part)
            if part is None:  # a bridge between points
                continue
            leaks = "leak" in fault.mode and (kind_of(circuit, part) == "transistor" or bool(bases & {*part.nodes}))
            if leaks or fault.mode == "stuck closed" or (fault.part in held and fault.mode in ("open", "too high")):
                mean[place] = 1.0
    return mean, np.full(len(mean), WAKES_U)


def stays_open(predictor: "Predictor", ask: Evidence) -> Found:
    """How long the shutter is held open, as log10 of seconds.

    ``ask``: the test, with its points or part and how the device stands.
    """
    circuit, setting = predictor.circuit, ask.setting
    capacitor, magnet = timing(circuit)
    most = supply_volts(circuit)
    sound = (Hypothesis((), 0.0),)
    exact = lets_go_v(lambda volts: bool(_held(predictor, capacitor, volts, sound).look(magnet, setting).mean[0] >= 1.0), most)
    several = without_value(capacitor, predictor.hypotheses)
    held = [_held(predictor, capacitor, float(step), several) for step in STEPS * exact]
    into = np.stack([one.through(capacitor.name, setting) for one in held])
    holds = np.stack([one.look(magnet, setting).mean >= 1.0 for one in held])
    mean, sigma = times(farads_of(capacitor, predictor.hypotheses), STEPS * exact, into, holds, exact)
    solved = np.all([one.block(setting).solved for one in held], axis=0)
    return mean, np.where(solved, sigma, UNSOLVED)


def _held(predictor: "Predictor", capacitor: Part, volts: float, hypotheses: tuple[Hypothesis, ...]) -> "Predictor":
    return type(predictor)(held_at(predictor.circuit, capacitor, volts), hypotheses, predictor.meter, draws=0)


RECORDED: dict[TestKind, Callable[["Predictor", Evidence], Found]] = {
    "ripple": swings,
    "clock": runs,
    "time": stays_open,
    "dip": dips,
    "wakes": wakes,
}
