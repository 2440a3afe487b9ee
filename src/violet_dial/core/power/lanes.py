"""Choices of battery side by side: the error each makes over its life, how long it keeps to the tolerance, and which is best.

Source: Charge is what flows times how long; a cell loses some by itself each year, and one that needs air is spent some weeks
after it was opened. What is preferred of several that serve: common practice, no source (see docs/science.md).
"""

import math
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.calibration.adjustment import Curve, best_shift
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import HOURS_A_WEEK, HOURS_A_YEAR
from violet_dial.core.power.cells import AT_C, MERCURY, SIZES, Size, stack_of
from violet_dial.core.power.device import FedDevice
from violet_dial.core.power.feeds import GERMANIUM, SCHOTTKY, SILICON, BatteryChoice
from violet_dial.core.power.meter_error import AskedLights, Errors, Mode, Reader
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
PLAIN_IS_ENOUGH = 0.4  # a choice without any fitting is taken when it lasts this share of the longest
MOST_OFF = 1.0  # stops, beyond which nobody would take it; common practice, no source
ADAPTER_V = 0.2
FRESH_V = 1.65  # the most a single cell of the small ones gives, for how many belong in a stack


@dataclass(frozen=True)
class BatteryResult:
    """One choice over its life: ``errors`` one for each temperature asked, ``hours`` (q,) switched on until each state of
    charge, ``inside`` (q,) whether every light that the device follows is within tolerance then, at every temperature;
    ``shift_stops`` by which the scale is moved along with it."""

    choice: BatteryChoice
    errors: tuple[Errors, ...]
    hours: Array
    inside: Flags
    works: Flags
    shift_stops: float = 0.0

    @property
    def error_stops(self) -> Array:
        """Over temperatures, charge and light, shape (t, q, m)."""
        return np.stack([error.error_stops for error in self.errors])

    @property
    def worst(self) -> float:
        """The largest error anywhere in its life, stops; NaN where the device never follows."""
        found = np.abs(self.error_stops)
        return float(np.nanmax(found)) if np.isfinite(found).any() else math.nan

    @property
    def ends(self) -> int:
        """The first state of charge in which the device gives up; the number of states where it never does."""
        off = np.flatnonzero(~self.works)
        return int(off[0]) if len(off) else len(self.works)

    @property
    def leaves(self) -> int:
        """The first state after which it is never within tolerance again; 0 where it never is."""
        good = np.flatnonzero(self.inside)
        return int(good[-1]) + 1 if len(good) else 0

    @property
    def hours_to_cutoff(self) -> float:
        """Switched on until the device gives up or a tenth is left; infinite for a supply."""
        return float(self.hours[min(self.ends, len(self.hours) - 1)])

    @property
    def hours_in_tolerance(self) -> float:
        """Switched on and within tolerance over the whole range, hours; each step of charge counts when both its ends do."""
        good = self.inside & self.works
        if math.isinf(self.hours[-1]):
            return math.inf if good.all() else 0.0
        return float(np.diff(self.hours)[good[1:] & good[:-1]].sum())

    @property
    def serves(self) -> bool:
        """Whether it keeps to the tolerance all its life."""
        return bool((self.inside & self.works).all())


@dataclass(frozen=True)
class BatteryResults:
    """All choices of one device; ``best`` is the place of the one to take, -1 where none can be bought that it follows."""

    device: FedDevice
    asked: AskedLights
    mode: Mode
    lanes: tuple[BatteryResult, ...]
    best: int


def usual_choices(design_v: float) -> tuple[BatteryChoice, ...]:
    """The schools: cells as they are, a diode in the lead, an adapter, the scale moved; those that come near the voltage.

    ``design_v``: volts the device was made for.
    """
    count = max(1, min(6, math.ceil(design_v / FRESH_V - 1e-9)))

    def cell(name: str) -> Size:
        return stack_of(SIZES[name], count)

    alkaline, silver, air, mercury = (cell(name) for name in ("LR44", "SR44", "PR44", "MR9"))
    found = [BatteryChoice(silver), BatteryChoice(alkaline)]
    if design_v < 1.45 * count:  # made for mercury: there is a voltage to be taken away
        found = [BatteryChoice(air), *found, *(BatteryChoice(silver, (one,)) for one in (SCHOTTKY, GERMANIUM, SILICON))]
        found += [BatteryChoice(silver, adapter_v=ADAPTER_V * count), BatteryChoice(silver, moved=True), BatteryChoice(mercury)]
    lithium = round(design_v / 3.0)
    if lithium and abs(design_v - 3.0 * lithium) < 0.4 * lithium and lithium <= 6:
        found.append(BatteryChoice(stack_of(SIZES["CR11108"], lithium)))
    return tuple(found)


def most_v(choices: Sequence[BatteryChoice]) -> float:
    """The most volts any of the choices gives."""
    full = np.ones(1)
    return max(
        (float(choice.emf_v(full, warm)[0]) + choice.adapter_v for choice in choices for warm in (-10.0, 40.0)), default=0.0
    )


class Judge:
    """A device read at every temperature asked; choices are then judged one by one."""

    def __init__(self, device: FedDevice, asked: AskedLights, choices: Sequence[BatteryChoice], task: Task | None = None) -> None:
        task = task or SilentTask()
        self.device = device
        self.asked = replace(asked, most_v=max(asked.most_v, most_v(choices)))
        task.report(0.0, "The device is solved over light and volts")
        warm = self.asked.temperatures_c
        drawn = Reader(device, self.asked, AT_C, task)  # its scale was drawn once, at the usual temperature
        threads = min(len(os.sched_getaffinity(0)), len(warm))  # NumPy lets go of the interpreter while it works
        with ThreadPoolExecutor(threads) as pool:
            others = pool.map(lambda at_c: drawn if at_c == AT_C else Reader(device, self.asked, at_c, task, drawn), warm)
            self.readers = list(others)
        self.mode: Mode = self.readers[0].mode

    def covers(self, choices: Sequence[BatteryChoice]) -> bool:
        """Whether the device was solved up to the volts of these choices."""
        return most_v(choices) <= self.asked.most_v

    def lane(self, choice: BatteryChoice) -> BatteryResult:
        """One choice over its life. ``choice``: what feeds the device."""
        errors = tuple(reader.errors(choice) for reader in self.readers)
        shift = 0.0
        if choice.moved:
            shift = self._shift(errors)
            errors = tuple(replace(error, error_stops=error.error_stops + shift) for error in errors)
        works = np.all([error.follows & error.holds for error in errors], axis=0)
        inside = np.all([self._inside(error.error_stops) for error in errors], axis=0)
        return BatteryResult(choice, errors, hours_of(choice, np.array(self.asked.left), errors[0].amp), inside, works, shift)

    def _inside(self, error_stops: Array) -> Flags:
        with np.errstate(all="ignore"):
            beyond = np.abs(error_stops) > self.asked.allowed + 1e-9
        return np.asarray(~beyond.any(axis=1) & np.isfinite(error_stops).any(axis=1))

    def _shift(self, errors: tuple[Errors, ...]) -> float:
        """By how much the scale is best moved: the band over life and temperature counts as the uncertainty."""
        every = np.concatenate([error.error_stops for error in errors])
        there = np.isfinite(every).any(axis=0)
        if not there.any():
            return 0.0
        high, low = np.nanmax(every[:, there], axis=0), np.nanmin(every[:, there], axis=0)
        curve = Curve(self.asked.marks[there], (high + low) / 2, self.asked.allowed[there], (high - low) / 2)
        found = best_shift(curve)
        return found.stops if found.levels else -float(high.max() + low.min()) / 2

    def judge(self, choices: Sequence[BatteryChoice], task: Task | None = None) -> BatteryResults:
        """All choices, and the best of them.

        ``choices``: in the order they are shown, at least one. Raises InvalidInput: no choice at all.
        """
        if not choices:
            raise InvalidInput("Choices", "none", "at least one way to feed the device, for instance SR44")
        task = task or SilentTask()
        lanes = []
        for place, choice in enumerate(choices):
            task.check()
            task.report(place / len(choices), choice.name)
            lanes.append(self.lane(choice))
        return BatteryResults(self.device, self.asked, self.mode, tuple(lanes), best_of(lanes))


def hours_of(choice: BatteryChoice, left: Array, amp: Array) -> Array:
    """Hours switched on until each state of charge, shape (q,), from the first one.

    Parameters
    ----------
    choice : what feeds the device
    left : share of the charge, falling, shape (q,)
    amp : current drawn in each state, A, shape (q,); NaN counts as none
    """
    if choice.size is None:
        return np.where(np.arange(len(left)) == 0, 0.0, math.inf)
    kind = choice.size.chemistry
    a_share = np.nan_to_num(amp) / choice.size.ah + kind.yearly_loss / HOURS_A_YEAR  # of the charge, in an hour
    between = (a_share[1:] + a_share[:-1]) / 2
    hours = np.concatenate([[0.0], np.cumsum(-np.diff(left) / np.maximum(between, 1e-12))])
    return np.minimum(hours, kind.opened_weeks * HOURS_A_WEEK) if kind.opened_weeks else hours


def _can_be_had(choice: BatteryChoice) -> bool:
    return choice.size is not None and choice.size.chemistry.letter != MERCURY.letter


def best_of(lanes: Sequence[BatteryResult]) -> int:
    """The place of the choice to take: of those within tolerance all their life the longest, but one that needs no fitting where
    it lasts nearly as long; else the one with the smallest worst error. What can no longer be had, a supply, and what is off by
    more than `MOST_OFF` never are.
    """
    can = [place for place, lane in enumerate(lanes) if _can_be_had(lane.choice) and not math.isnan(lane.worst)]
    serve = [place for place in can if lanes[place].serves]
    if not serve:
        alive = [place for place in can if lanes[place].works[0] and lanes[place].worst <= MOST_OFF]
        return min(alive, key=lambda place: (lanes[place].worst, place), default=-1)
    longest = max(lanes[place].hours_in_tolerance for place in serve)
    plain = [place for place in serve if lanes[place].choice.is_plain
             and lanes[place].hours_in_tolerance >= PLAIN_IS_ENOUGH * longest]  # fmt: skip
    return max(plain or serve, key=lambda place: lanes[place].hours_in_tolerance)
