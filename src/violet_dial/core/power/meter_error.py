"""The error a choice of cell makes, in stops, over light, charge and temperature.

Error in stops = indicated EV100 - reference EV100; positive: it reads high, pictures come out dark. At each mark of light the
meter's figure at its design voltage is the scale; the light at which it shows that figure when fed otherwise is what is really
there.

Which figure: the time a shutter takes where one is timed; a movement's current where it keeps one sign over the range; where it
changes sign the meter is a bridge read at its null, and a dial (the trimmer that can, else a shade before the cell) is turned
until the needle stands there; the light at which lamps change where there is no movement.
"""

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.calibration.readings import tolerance_at
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import FedDevice, FeedTable, Port, Watched
from violet_dial.core.power.fed import FLATTEST, Fed, feed_many, light_where, slopes, value_at
from violet_dial.core.power.feeds import BatteryChoice
from violet_dial.core.records.light import Tolerance
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Mode = Literal["time", "needle", "null", "lamps"]
ASIDE_EV = 4.0  # how far beyond the range lights are looked for
GRID = 60  # lights of the grid, about
VOLTS = 40
COARSE_GRID, COARSE_VOLTS = 24, 16  # where no needle is followed, or each point is many
LEAST_VOLTS = 0.08  # of the most
NULL_EV = np.linspace(-0.5, 0.5, 7)  # around each mark, where the null is looked for
LAMP_EV = np.linspace(-0.6, 0.6, 31)
LEAST_NEEDLE = 0.005  # of full scale, below which nobody reads
NEAR_LAMP_EV = 1.0  # a lamp says something of the lights this near to where it changes
GLIMMER = 0.3  # of the current that lights a lamp
ARM_SPAN, ARM_HALVINGS = 1000.0, 45  # how far an arm is turned, either way
LIFE_ENDS = 0.1  # the last tenth of every cell drops: it is there to be changed in; common practice, no source
STATES = 19


@dataclass(frozen=True)
class AskedLights:
    """What is judged: volts the device was made for, its range of light, temperatures, tolerance, states of charge from full
    down."""

    design_v: float
    ev_from: float = 5.0
    ev_to: float = 15.0
    temperatures_c: tuple[float, ...] = (20.0,)
    tolerance: Tolerance = field(default_factory=Tolerance)
    left: tuple[float, ...] = tuple(round(float(one), 4) for one in np.linspace(1.0, LIFE_ENDS, STATES))
    most_v: float = 0.0  # the most any choice gives; twice the design where 0

    def __post_init__(self) -> None:
        if not 0.3 <= self.design_v <= 30.0:
            raise InvalidInput("Design voltage", self.design_v, "0.3 to 30 V")
        if not (-10.0 <= self.ev_from < self.ev_to <= 25.0 and self.ev_to - self.ev_from >= 1.0):
            raise InvalidInput("Range of light", f"{self.ev_from:g} to {self.ev_to:g}", "Ev -10 to 25, the lower first")
        wrong = next((one for one in self.temperatures_c if not -10.0 <= one <= 40.0), None)
        if wrong is not None or not self.temperatures_c:
            raise InvalidInput("Temperature", wrong, "-10 to 40 °C")
        if not self.left or any(not 0.0 <= one <= 1.0 for one in self.left):
            raise InvalidInput("Charge left", self.left, "shares from 0 to 1")

    @property
    def marks(self) -> Array:
        """The lights that are judged, EV100, about one stop apart, shape (m,)."""
        return np.linspace(self.ev_from, self.ev_to, round(self.ev_to - self.ev_from) + 1)

    @property
    def allowed(self) -> Array:
        """Tolerance at each mark, stops."""
        return tolerance_at(self.tolerance, self.marks, (self.ev_from, self.ev_to))

    def grid(self, lights: int = GRID) -> Array:
        """Even lights that hold all marks, and beyond them on either side."""
        step = float(self.marks[1] - self.marks[0])
        fine = max(1, int(lights / ((self.ev_to - self.ev_from + 2 * ASIDE_EV) / step)))
        beyond = round(ASIDE_EV / step * fine)
        whole = (len(self.marks) - 1) * fine
        steps = np.arange(-beyond, whole + beyond + 1, dtype=np.float64)
        return self.ev_from + step / fine * steps

    def volts(self, count: int = VOLTS) -> Array:
        """Volts at which the device is solved, the design among them."""
        most = max(1.04 * self.most_v, 1.3 * self.design_v)
        return np.unique(np.append(np.linspace(LEAST_VOLTS * most, most, count), self.design_v))


@dataclass(frozen=True)
class Changed:
    """A lamp that changes with the light: its place among what is watched, the light at which it does so at the design."""

    place: int
    watched: Watched
    ev100: float


@dataclass(frozen=True)
class Errors:
    """What one choice does at one temperature: ``error_stops`` (q, m), NaN where the device does not follow; ``cell_v`` and
    ``clip_v`` (q,) at the middle of the range, ``amp`` (q,) there; ``holds`` (q,) whether every magnet holds in every light;
    ``threshold_ev`` (q, lamps)."""

    error_stops: Array
    cell_v: Array
    clip_v: Array
    amp: Array
    holds: npt.NDArray[np.bool_]
    threshold_ev: Array

    @property
    def follows(self) -> npt.NDArray[np.bool_]:
        """Whether it follows any light at all, shape (q,)."""
        return np.asarray(np.isfinite(self.error_stops).any(axis=1))

    @property
    def worst(self) -> float:
        """The largest error anywhere, stops; NaN where it never follows."""
        return float(np.nanmax(np.abs(self.error_stops))) if self.follows.any() else float("nan")


def at_lights(marks: Array, error_stops: Array) -> Array:
    """What is shown less what is there, at lights of the marks' figures: an error found at a mark is one in the light that moves
    the needle there. NaN where no mark is reached.

    Parameters
    ----------
    marks : EV100, rising, shape (m,)
    error_stops : at each mark, NaN where it is not followed, shape (q, m)
    """
    found = np.full(error_stops.shape, np.nan)
    for row, errors in zip(found, error_stops, strict=True):
        there = np.isfinite(errors)
        lights = marks[there] - errors[there]
        order = np.argsort(lights)
        if len(order):
            row[:] = np.interp(marks, lights[order], errors[there][order], left=np.nan, right=np.nan)
    return found


class Reader:
    """A device at one temperature and its scale at the design voltage; every choice is then judged by it. ``drawn`` has the scale
    where that was drawn at another temperature: a dial does not move when it gets warm."""

    def __init__(
        self, device: FedDevice, asked: AskedLights, temperature_c: float, task: Task | None = None, drawn: "Reader | None" = None
    ) -> None:
        self._drawn = drawn
        self.asked, self.temperature_c = asked, temperature_c
        self._task = task or SilentTask()
        self.port = Port(device.at(temperature_c))
        self.device = device
        timed = bool(device.places("time"))
        self.grid = asked.grid(COARSE_GRID if timed else GRID)
        self.volts = asked.volts(COARSE_VOLTS if timed or not device.needles else VOLTS)
        self.table = self.port.table(self.grid, self.volts, task=self._task)
        self._design = int(np.argmin(np.abs(self.volts - asked.design_v)))
        self._inner = (self.grid >= asked.ev_from - 1e-9) & (self.grid <= asked.ev_to + 1e-9)
        _ = self._lamp_tables if self.mode == "lamps" else self._null if self.mode == "null" else self._scale
        self._task = SilentTask()  # what is asked from here on is quick, and by other workers

    @cached_property
    def design_shown(self) -> Array:
        """What is shown at the design voltage over the grid, shape (n, r)."""
        return self.table.shown[:, self._design]

    @cached_property
    def mode(self) -> Mode:
        """By what the device is read. Raises InvalidInput: nothing that is shown follows the light."""
        if self._drawn is not None:
            return self._drawn.mode
        times = self.device.places("time")
        if times:
            return "time"
        needles = self.device.needles
        if needles:
            inner = self.design_shown[self._inner, needles[0]]
            if np.nanmax(np.abs(inner)) > 0 and np.ptp(inner[np.isfinite(inner)]) > 1e-3 * np.nanmax(np.abs(inner)):
                return "null" if np.nanmin(inner) < 0 < np.nanmax(inner) else "needle"
        if self.lamps:
            return "lamps"
        raise InvalidInput("Circuit", self.device.circuit.title, "something that follows the light: nothing changes over "
                           f"Ev {self.asked.ev_from:g} to {self.asked.ev_to:g} at {self.asked.design_v:g} V")  # fmt: skip

    # lamps

    @cached_property
    def lamps(self) -> tuple[Changed, ...]:
        """The lamps that change somewhere in the light."""
        if self._drawn is not None:
            return self._drawn.lamps
        found = []
        for place in self.device.places("lamp"):
            light = self._half(self.design_shown[None, :, place], self.device.watched[place], self.grid, self.asked.marks.mean())
            if np.isfinite(light[0]):
                found.append(Changed(place, self.device.watched[place], float(light[0])))
        return tuple(found)

    def _half(self, amp: Array, watched: Watched, ev100: Array, near: float) -> Array:
        """The light at which a lamp has half of its full current, shape (q,), from its currents (q, n)."""
        full = np.nanmax(amp, axis=1, keepdims=True)
        lit = full[:, 0] > GLIMMER * (watched.full_a or 1e-9)
        with np.errstate(all="ignore"):
            share = amp / full
        above = share > 0.5
        crosses = above[:, 1:] != above[:, :-1]
        away = np.where(crosses, np.abs((ev100[1:] + ev100[:-1]) / 2 - near), np.inf)
        at = away.argmin(axis=1)
        rows = np.arange(len(amp))
        low, high = share[rows, at], share[rows, at + 1]
        with np.errstate(all="ignore"):
            light = ev100[at] + (0.5 - low) / (high - low) * (ev100[at + 1] - ev100[at])
        return np.where(lit & crosses.any(axis=1), light, np.nan)

    @cached_property
    def _lamp_tables(self) -> tuple[FeedTable, ...]:
        """Each lamp's own lights, close together."""
        volts = self.asked.volts(COARSE_VOLTS)
        return tuple(self.port.table(lamp.ev100 + LAMP_EV, volts, task=self._task) for lamp in self.lamps)

    def _lamp_lights(self, choices: Sequence[BatteryChoice], left: Array) -> Array:
        """The light at which each lamp changes on each choice, shape (c q, lamps)."""
        found = np.full((len(choices) * len(left), len(self.lamps)), np.nan)
        for column, (one, table) in enumerate(zip(self.lamps, self._lamp_tables, strict=True)):
            fed = feed_many(table.of((one.place,)), choices, left, self.temperature_c)
            found[:, column] = self._half(fed.shown[:, :, 0], one.watched, one.ev100 + LAMP_EV, one.ev100)
        return found

    @cached_property
    def _lamp_design(self) -> Array:
        """The light at which each lamp changes at the design voltage, as finely as on a choice."""
        if self._drawn is not None:
            return self._drawn._lamp_design
        stiff = BatteryChoice(supply_v=self.asked.design_v)
        found: Array = self._lamp_lights([stiff], np.ones(1))[0]
        return found

    # the null of a bridge

    @cached_property
    def _null(self) -> tuple[FeedTable, Array]:
        """The device around each light at which its needle stands at null, and those lights: every mark where a dial can be
        turned there, else the one light to which a shade brings all others."""
        marks, place = self.asked.marks, self.device.needles[0]
        if self._turned is not None:
            arm, ohm = self._turned
            lights = (marks[:, None] + NULL_EV[None, :]).ravel()
            return self.port.table(lights, self.volts, (arm, np.repeat(ohm, len(NULL_EV))), self._task), marks
        light = light_where(self.design_shown[None, :, place], self.grid, np.zeros(1), marks.mean()[None])[0]
        return self.port.table(light[0] + NULL_EV, self.volts, task=self._task), light

    @cached_property
    def _turned(self) -> tuple[str, Array] | None:
        """The arm that is turned to null, and its ohms there at each mark, (m,); None where none comes there at all of them."""
        if self._drawn is not None:
            return self._drawn._turned
        found = ((arm, self._arm_at_null(arm, self.device.needles[0])) for arm in self.device.arms)
        return next(((arm, ohm) for arm, ohm in found if np.isfinite(ohm).all()), None)

    def _arm_at_null(self, arm: str, place: int) -> Array:
        """Ohms of an arm at which the needle stands at null in the light of each mark, (m,); NaN where it cannot be."""
        marks = self.asked.marks
        now = self.port.device.circuit.part(arm).value
        low, high = (np.full(len(marks), np.log(now) + sign * np.log(ARM_SPAN)) for sign in (-1, 1))
        design = np.array([self.asked.design_v])

        def needle(at: Array) -> Array:
            return self.port.table(marks, design, (arm, np.exp(at))).shown[:, 0, place]

        first, last = needle(low), needle(high)
        for _ in range(ARM_HALVINGS):
            half = (low + high) / 2
            same = np.sign(needle(half)) == np.sign(first)
            low, high = np.where(same, half, low), np.where(same, high, half)
        return np.where(np.sign(first) != np.sign(last), np.exp((low + high) / 2), np.nan)

    def _null_errors(self, choices: Sequence[BatteryChoice], left: Array) -> Array:
        table, lights = self._null
        fed = feed_many(table.of(self.device.needles[:1]), choices, left, self.temperature_c)
        rows = len(fed.shown)
        shown = fed.shown[:, :, 0].reshape(rows * len(lights), len(NULL_EV))
        shift = light_where(shown, NULL_EV, np.zeros(1), np.zeros(1)).reshape(rows, len(lights))
        return np.broadcast_to(-shift, (rows, len(self.asked.marks))).copy()

    # the judgement

    def errors(self, choice: BatteryChoice) -> Errors:
        """What a choice does. ``choice``: what feeds the device."""
        left = np.array(self.asked.left)
        fed = feed_many(self.table, [choice], left, self.temperature_c)
        found, lights = self._found([choice], left, fed)
        middle = int(np.argmin(np.abs(self.grid - self.asked.marks.mean())))
        return Errors(found, fed.cell_v[:, middle], fed.clip_v[:, middle], fed.amp[:, middle], self._holds(fed), lights)

    def worst_of(self, choices: Sequence[BatteryChoice], left: Array) -> Array:
        """The largest error of each of many choices, stops, shape (c,); infinite where the device stops following a light that it
        follows at its design voltage, or a magnet no longer holds.

        Parameters
        ----------
        choices : c of them
        left : share of the charge, shape (q,)
        """
        fed = feed_many(self.table, choices, left, self.temperature_c)
        found = self._found(choices, left, fed)[0].reshape(len(choices), len(left), -1)
        held = self._holds(fed).reshape(len(choices), -1).all(axis=1)
        lost = np.isnan(found) & self.design_follows
        worst = np.max(np.where(np.isnan(found), 0.0, np.abs(found)), axis=(1, 2))
        return np.where(lost.any(axis=(1, 2)) | ~held, np.inf, worst)

    def turned(self, arm: str, ohm: float) -> "Reader":
        """The same scale, the device with one resistor turned; for devices read by a needle or a time."""
        assert self.mode in ("needle", "time") and self._scale is not None
        other = copy(self)  # with the scale that was worked out
        other.table = self.port.table(self.grid, self.volts, (arm, np.full(len(self.grid), ohm)), self._task)
        return other

    @cached_property
    def design_follows(self) -> npt.NDArray[np.bool_]:
        """Which marks the device follows at its design voltage, shape (m,)."""
        if self.mode == "null":
            return np.ones(len(self.asked.marks), dtype=bool)
        if self.mode == "lamps":
            return self._next_lamp[1] <= NEAR_LAMP_EV
        return self._scale[0]

    def _found(self, choices: Sequence[BatteryChoice], left: Array, fed: Fed) -> tuple[Array, Array]:
        """Errors (c q, m), and the lights at which lamps change (c q, lamps)."""
        if self.mode == "lamps":
            lights = self._lamp_lights(choices, left)
            nearest = self._next_lamp[0]
            return np.where(self.design_follows, self._lamp_design[nearest] - lights[:, nearest], np.nan), lights
        found = self._null_errors(choices, left) if self.mode == "null" else self._by_figure(fed)
        return found, np.full((len(found), 0), np.nan)

    def _by_figure(self, fed: Fed) -> Array:
        """By a needle's current or a time: the logarithm is followed along the light."""
        place = (self.device.places("time") or self.device.needles)[0]
        follows, target = self._scale
        with np.errstate(all="ignore"):
            shown = np.log(np.abs(fed.shown[:, :, place]))
        marks = self.asked.marks
        found = marks - light_where(shown, self.grid, target, marks)
        return np.where(follows, found, np.nan)

    @cached_property
    def _scale(self) -> tuple[npt.NDArray[np.bool_], Array]:
        """Which marks the device follows at its design voltage, and the logarithm of what it shows there, shapes (m,)."""
        if self._drawn is not None:
            return self._drawn._scale
        place = (self.device.places("time") or self.device.needles)[0]
        with np.errstate(all="ignore"):
            u = np.log(np.abs(self.design_shown[:, place]))
        target = value_at(u, self.grid, self.asked.marks)
        steep = value_at(slopes(u, float(self.grid[1] - self.grid[0])), self.grid, self.asked.marks)
        follows = np.isfinite(target) & (np.abs(steep) >= FLATTEST)
        full = self.device.watched[place].full_a
        if self.mode == "needle" and full:
            follows &= (target <= np.log(full)) & (target >= np.log(LEAST_NEEDLE * full))
        return follows, target

    @cached_property
    def _next_lamp(self) -> tuple[npt.NDArray[np.intp], Array]:
        """The lamp that changes next to each mark, and how far from it, EV, shapes (m,)."""
        away = np.abs(self.asked.marks[:, None] - self._lamp_design[None, :])
        return away.argmin(axis=1), away.min(axis=1)

    def drop_out_v(self) -> float:
        """Volts at the clips below which a magnet that holds at the design voltage lets go in some light; NaN without one."""
        found = [float("nan")]
        for place in self.device.places("magnet"):
            least = self.device.watched[place].full_a
            held = np.nanmin(np.abs(self.table.shown[self._inner, :, place]), axis=0)
            if least and held[self._design] >= least:
                found.append(float(np.interp(least, np.maximum.accumulate(held), self.volts)))
        return float(np.nanmax(found)) if len(found) > 1 else found[0]

    def _holds(self, fed: Fed) -> npt.NDArray[np.bool_]:
        """Whether every magnet that holds at the design voltage still does, in every light, shape (q,)."""
        held = np.ones(len(fed.clip_v), dtype=bool)
        for place in self.device.places("magnet"):
            least = self.device.watched[place].full_a
            if least and np.nanmin(np.abs(self.design_shown[self._inner, place])) >= least:
                held &= np.nanmin(np.abs(fed.shown[:, self._inner, place]), axis=1) >= least
        return held
