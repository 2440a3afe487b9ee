"""A device as its battery sees it: what it draws and what it shows, over light and the volts at its clips.

The battery and all that is put into its lead meet the device at two points alone. So the device is solved once over a grid of
lights and volts, and every choice of cell afterwards is a sum along that grid: exact where the circuit is straight, and as fine
as the grid elsewhere.

Source: Substitution at a port: any textbook of circuits. The light on the cell is taken as that on a flat receptor, E = 2.5 lx
2^EV100 (ISO 2720:1974 with C 250 [memory]).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Variants, solve_variants
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.system import System, build_system
from violet_dial.core.circuit.trade import LIT, figure, kind_of, lit_value, set_circuit, usual_setting
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Setting
from violet_dial.core.records.light import DEFAULT_C_FLAT
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Shows = Literal["needle", "lamp", "magnet", "time"]
SHOWS: dict[str, Shows] = {"movement": "needle", "lamp": "lamp", "led": "lamp", "solenoid": "magnet", "coil": "magnet"}
LEAK_S = 1e-12  # insulation everywhere: a node behind an open switch does not hang in the air
MIDDLE_EV100 = 9.0  # the light about which the circuit is inverted
AT_ONCE = 20_000  # operating points solved in one go
SOLVED = ("amp", "shown", "into_a", "near")
TIMER_HALVINGS, TIMER_NODES = 13, 5


def lux_of(ev100: Array) -> Array:
    """The light on a flat receptor, lx, shape of ``ev100``. ``ev100``: any shape."""
    return DEFAULT_C_FLAT / 100.0 * np.exp2(ev100)


@dataclass(frozen=True)
class Watched:
    """A part that shows something: ``full_a`` is what moves a needle to its end, lights a lamp or holds a magnet; 0 when it is
    not known."""

    name: str
    words: str
    shows: Shows
    full_a: float


@dataclass(frozen=True)
class FedDevice:
    """A circuit as it stands in use, the name of its battery, and the parts that show something."""

    circuit: Circuit
    setting: Setting
    battery: str
    watched: tuple[Watched, ...]
    arms: tuple[str, ...] = ()  # what a dial turns: trimmers

    def at(self, temperature_c: float) -> "FedDevice":
        """The same at another temperature; resistances keep what their lines say."""
        return replace(self, circuit=replace(self.circuit, temperature_c=temperature_c))

    @property
    def needles(self) -> tuple[int, ...]:
        """Places of the movements among what is watched."""
        return self.places("needle")

    def places(self, shows: Shows) -> tuple[int, ...]:
        """Places of one kind among what is watched."""
        return tuple(place for place, one in enumerate(self.watched) if one.shows == shows)


def device_of(circuit: Circuit, setting: Setting | None = None, battery: str = "") -> FedDevice:
    """What a circuit is to its battery.

    Raises InvalidInput: no battery, or nothing that follows light.

    Parameters
    ----------
    setting : how it stands; as usual when None
    battery : name of the battery, where there are several; the first when empty
    """
    found = [part.name for part in circuit.parts if part.letter == "V" and kind_of(circuit, part) == "battery"]
    if not found:
        raise InvalidInput(
            "Circuit", circuit.title, "a battery: a V part noted kind=battery; a cell of selenium alone needs none"
        )
    chosen = next((name for name in found if name.lower() == battery.lower()), None) if battery else found[0]
    if chosen is None:
        raise InvalidInput("Battery", battery, f"one of {', '.join(found)}")
    lit = [part for part in circuit.parts if kind_of(circuit, part) in LIT]
    watched = tuple(_watched(circuit, part) for part in circuit.parts if _shows(circuit, part))
    if not lit or not watched:
        missing = "a cell that answers to light (kind=cds or kind=photocell)" if not lit else "a movement, lamp or magnet"
        raise InvalidInput("Circuit", circuit.title, f"something that follows the light: {missing} is missing")
    arms = tuple(part.name for part in circuit.parts if kind_of(circuit, part) == "trimmer" and part.letter == "R")
    return FedDevice(circuit, setting or usual_setting(circuit), chosen, watched, arms)


def _shows(circuit: Circuit, part: Part) -> Shows | None:
    """What a part shows: a capacitor that times a magnet (``times=Rmag``) shows the time."""
    if part.letter == "C" and circuit.note(part.name).get("times"):
        return "time"
    return SHOWS.get(kind_of(circuit, part))


def _watched(circuit: Circuit, part: Part) -> Watched:
    shows = _shows(circuit, part) or "magnet"
    key = "full_a" if shows == "needle" else "on_a"
    words = circuit.note(part.name).get("name", part.name)
    return Watched(part.name, words, shows, figure(circuit, part.name, key, 0.0))


@dataclass(frozen=True)
class FeedTable:
    """A device solved over n lights and v volts: ``volts`` (v,) at its clips, ``amp`` (n, v) it draws, ``shown`` (n, v, r) the
    currents of what is watched, A. What has no operating point is NaN."""

    volts: Array
    amp: Array
    shown: Array

    def of(self, places: Sequence[int]) -> "FeedTable":
        """With some of what is watched."""
        return replace(self, shown=self.shown[:, :, list(places)])


@dataclass(frozen=True)
class Points:
    """Operating points wanted, k of each: ``ev100`` and ``clip_v`` (k,); an arm with its ohms (k,); ``held_v`` (k,) at what is
    held."""

    ev100: Array
    clip_v: Array
    arm: tuple[str, Array] | None = None
    held_v: Array | None = None

    def share(self, some: slice) -> "Points":
        """Some of them."""
        arm = None if self.arm is None else (self.arm[0], self.arm[1][some])
        return Points(self.ev100[some], self.clip_v[some], arm, None if self.held_v is None else self.held_v[some])


@dataclass(frozen=True)
class Solved:
    """Operating points found, k of each: ``amp`` (k,) drawn, ``shown`` (k, r), ``into_a`` (k,) what flows into what is held,
    ``near`` (k, q) the watched voltages there."""

    amp: Array
    shown: Array
    into_a: Array
    near: Array


class Timer:
    """How long a shutter is held open: its timing capacitor filled from empty, slowly enough that all else stands still, until
    the magnet lets go.

    Source: t = integral of C dV / I: any textbook; by Gauss and Legendre's rule.
    """

    def __init__(self, device: FedDevice, capacitor: str) -> None:
        circuit = device.circuit
        part = circuit.part(capacitor)
        self._farad = part.value
        held = tuple(replace(one, letter="V", value=0.0) if one is part else one for one in circuit.parts)
        watched = (_watched(circuit, circuit.part(circuit.note(capacitor)["times"])),)
        self._hold_a = watched[0].full_a
        self.port = Port(replace(device, circuit=circuit.with_parts(held), watched=watched), part.name)

    def per_second(self, at: Points, task: Task) -> Array:
        """One over the time at each point, 1/s, shape (k,); NaN where the magnet never holds or never lets go.

        ``at``: lights and volts at the clips.
        """
        low, high = np.zeros_like(at.clip_v), at.clip_v.copy()
        first, near = self._holds(at, low, task, None)
        last, _ = self._holds(at, high, task, near)
        for _ in range(TIMER_HALVINGS):
            half = (low + high) / 2
            holds, near = self._holds(at, half, task, near)
            low, high = np.where(holds, half, low), np.where(holds, high, half)
        end_v = (low + high) / 2
        nodes, weights = np.polynomial.legendre.leggauss(TIMER_NODES)
        time_s = np.zeros_like(end_v)
        for node, weight in zip(nodes, weights, strict=True):
            into = self.port.points(replace(at, held_v=end_v * (1 + node) / 2), task, near).into_a
            with np.errstate(all="ignore"):
                time_s += np.where(into > 0, self._farad * weight * end_v / 2 / into, np.nan)
        return np.where(first & ~last, 1.0 / time_s, np.nan)

    def _holds(self, at: Points, held_v: Array, task: Task, near: Array | None) -> tuple[npt.NDArray[np.bool_], Array]:
        """Whether the magnet holds with the capacitor at so many volts, and where the circuit then stands."""
        found = self.port.points(replace(at, held_v=held_v), task, near)
        holds: npt.NDArray[np.bool_] = np.abs(found.shown[:, 0]) >= self._hold_a
        return holds, np.nan_to_num(found.near)


class Port:
    """One device at one temperature, inverted once; ``held`` a V part whose volts each point sets."""

    def __init__(self, device: FedDevice, held: str = "") -> None:
        self.device = device
        self.held = held
        self._timers: dict[int, Timer] = {}
        self._first: tuple[Array, Array, Array] | None = None  # where the circuit stood over the first table
        self._stands = set_circuit(device.circuit, replace(device.setting, light_lx=float(lux_of(np.array(MIDDLE_EV100)))))
        self.system: System = build_system(self._stands, LEAK_S)
        self.base = Base(self.system)
        self._row = self.system.index[f"@{device.battery.lower()}"]

    @cached_property
    def _lit(self) -> list[Part]:
        return [part for part in self.device.circuit.parts if kind_of(self.device.circuit, part) in LIT]

    def table(self, ev100: Array, volts: Array, arm: tuple[str, Array] | None = None, task: Task | None = None) -> FeedTable:
        """What the device draws and shows.

        Parameters
        ----------
        ev100 : the lights, shape (n,)
        volts : at its clips, V, shape (v,)
        arm : a resistor that is turned, and its ohms at each light, shape (n,)

        Returns
        -------
        Table over (n, v).
        """
        light, supply = np.repeat(ev100, len(volts)), np.tile(volts, len(ev100))
        turned = None if arm is None else (arm[0], np.repeat(arm[1], len(volts)))
        found = self.points(Points(light, supply, turned), task, self._near(light, supply))
        shape = (len(ev100), len(volts))
        if self._first is None and self.system.elements:
            self._first = (ev100, volts, np.nan_to_num(found.near.reshape(*shape, -1)))
        return FeedTable(volts, found.amp.reshape(shape), found.shown.reshape(*shape, -1))

    def _near(self, ev100: Array, clip_v: Array) -> Array | None:
        """Watched voltages to begin from, shape (k, q): those of the next point of the first table; None before there is one."""
        if self._first is None:
            return None
        lights, volts, near = self._first
        at = np.abs(ev100[:, None] - lights[None, :]).argmin(axis=1)
        found: Array = near[at, np.abs(clip_v[:, None] - volts[None, :]).argmin(axis=1)]
        return found

    def points(self, at: "Points", task: Task | None = None, near: Array | None = None) -> "Solved":
        """Operating points one by one.

        Parameters
        ----------
        at : lights, volts and what is turned or held, k of each
        near : watched voltages to begin from, V, shape (k, q); as usual when None
        """
        task = task or SilentTask()
        parts = []
        for first in range(0, len(at.ev100), AT_ONCE):
            task.check()
            here = slice(first, first + AT_ONCE)
            some = at.share(here)
            found = solve_variants(self.base, self._variants(some), None if near is None else near[here], task)
            lost = ~found.solved
            amp, shown = -found.x[:, self._row], self._currents(found.x, found.w)
            amp[lost], shown[lost] = np.nan, np.nan
            into = found.x[:, self._held_row] if at.held_v is not None else np.zeros(len(amp))
            parts.append(Solved(amp, shown, into, found.w))
        whole = Solved(*(np.concatenate([getattr(part, name) for part in parts]) for name in SOLVED))
        for place in self.device.places("time"):
            whole.shown[:, place] = self._timer(place).per_second(at, task)
        return whole

    @cached_property
    def _held_row(self) -> int:
        return self.system.index[f"@{self.held.lower()}"]

    def _timer(self, place: int) -> "Timer":
        if place not in self._timers:
            self._timers[place] = Timer(self.device, self.device.watched[place].name)
        return self._timers[place]

    def _variants(self, at: "Points") -> Variants:
        """What each point changes of the circuit: conductances of CdS cells and of the arm, currents of photocells, sources."""
        circuit, system = self.device.circuit, self.system
        lux, n = lux_of(at.ev100), len(at.ev100)
        source = np.repeat(system.source[None, :], n, axis=0)
        source[:, self._row] = at.clip_v
        if at.held_v is not None:
            source[:, self._held_row] = at.held_v
        changes: list[tuple[Part, Array]] = []
        for part in self._lit:
            now, then = self._stands.part(part.name).value, lit_value(circuit, part, lux)
            if part.letter == "R":
                changes.append((part, 1.0 / then - 1.0 / now))
            else:
                source -= (then - now)[:, None] * self._pair(part)[None, :]
        if at.arm is not None:
            changes.append((circuit.part(at.arm[0]), 1.0 / at.arm[1] - 1.0 / self._stands.part(at.arm[0]).value))
        rows = [[system.row(node) for node in part.nodes] for part, _ in changes] or [[-1, -1]]
        ends = np.array(rows, dtype=np.intp)
        siemens = np.stack([change for _, change in changes], axis=1) if changes else np.zeros((n, 1))
        return Variants(np.broadcast_to(ends[:, 0], (n, len(ends))), np.broadcast_to(ends[:, 1], (n, len(ends))), siemens, source)

    def _pair(self, part: Part) -> Array:
        found = np.zeros(self.system.size)
        for node, sign in zip(part.nodes, (1.0, -1.0), strict=True):
            if self.system.row(node) >= 0:
                found[self.system.row(node)] += sign
        return found

    def _currents(self, x: Array, w: Array) -> Array:
        """Of what is watched, (count, r)."""
        padded = np.concatenate([x, np.zeros((len(x), 1))], axis=1)
        found = np.empty((len(x), len(self.device.watched)))
        bent = {one.part.name: one for one in self.system.elements}
        for place, one in enumerate(self.device.watched):
            part = self._stands.part(one.name)
            if one.shows == "time":
                found[:, place] = np.nan  # its timer fills it in
            elif part.name in bent:
                element = bent[part.name]
                found[:, place] = element.figures.flow(w[:, element.watches[0]])  # type: ignore[union-attr]
            elif part.letter == "L":
                found[:, place] = x[:, self.system.index[f"@{part.name.lower()}"]]
            else:
                plus, minus = (self.system.row(node) for node in part.nodes)
                found[:, place] = (padded[:, plus] - padded[:, minus]) / part.value
        return found
