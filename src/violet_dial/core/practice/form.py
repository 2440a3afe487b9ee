"""Devices that are judged by readings alone: a needle under known lights, a shutter at its marks. Their faults, what each shows,
and what readings say of them.

Source: Faults and figures: common practice, no source. Bayes over faults with their figures on grids, one of twenty readings
being anything; the next test by mutual information with the fault's name (Lindley 1956 [memory]).
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Fault

Array = npt.NDArray[Any]
NEEDLE, SPEEDS = "needle", "speeds"
PART = {NEEDLE: "needle", SPEEDS: "shutter"}
LIGHTS = tuple(range(4, 17))  # Ev
_SAID = ("1", "1/2", "1/4", "1/8", "1/15", "1/30", "1/60", "1/125", "1/250", "1/500")
MARKS: dict[str, float] = {said: 2.0**-n for n, said in enumerate(_SAID)}  # s
SLOW_FROM_S = 0.06  # marks as long hang on the escapement
NEEDLE_U, SPEED_U = 0.08, 0.06  # stops: needle and reference; scatter of a shutter and its own marks
ANYTHING = 2.0  # stops over which a wrong reading or an unlisted fault lies
WRONG = 0.05  # how often a reading is thought wrong
SOUND_PRIOR, UNLISTED_PRIOR = 0.05, 0.05
GRID = 14  # figures a fault may have
READING_MIN, TURN_MIN, FIRING_MIN = 1.2, 0.5, 0.6
UNLISTED = "not on the list"


@dataclass(frozen=True)
class FormReading:
    """A reading in such an exercise: the test by its name, and by how many stops it is off (positive: high, or long)."""

    test: str
    value: float


@dataclass(frozen=True)
class FormKind:
    """A kind of fault: its name among the skills, its mode, the least and the greatest figure, chance beforehand."""

    name: str
    mode: str
    low: float
    high: float
    prior: float = 1.0


KINDS: dict[str, tuple[FormKind, ...]] = {
    NEEDLE: (
        FormKind("slipped cord", "reads high", 0.4, 1.6), FormKind("slipped cord", "reads low", 0.4, 1.6),
        FormKind("scale", "reads too wide", 0.07, 0.2, 0.5), FormKind("scale", "reads too narrow", 0.07, 0.2, 0.5),
        FormKind("sticky pointer", "sticks", 0.4, 1.3), FormKind("tired cell", "falls off in dim light", 7.0, 10.0),
    ),
    SPEEDS: (
        FormKind("main spring", "all slow", 0.35, 1.2), FormKind("main spring", "all fast", 0.35, 1.0),
        FormKind("late magnet", "a time is added", 0.4e-3, 3e-3), FormKind("escapement", "slow speeds hang", 0.4, 1.5),
        *(FormKind("bad selector position", f"long at {said}", 0.5, 1.5, 0.15) for said in MARKS),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Form:
    """One such device: its tests by name, its hypotheses (None: sound; the last is none of these), and what each test shows under
    each: ``mean`` (tests, hypotheses) in stops, ``u`` (tests,), ``minutes`` (tests,)."""

    name: str
    tests: tuple[str, ...]
    hypotheses: tuple[Fault | None, ...]
    log_prior: Array
    mean: Array
    u: float
    minutes: Array

    @property
    def names(self) -> tuple[str, ...]:
        """The hypotheses by name."""
        return tuple("no fault" if hypothesis is None else hypothesis.name for hypothesis in self.hypotheses)

    def place(self, test: str) -> int:
        """Where a test stands. Raises InvalidInput: no such test."""
        if test not in self.tests:
            raise InvalidInput("Test", test, f"one of {', '.join(self.tests[:4])} … {self.tests[-1]}")
        return self.tests.index(test)


def off_by(name: str, test: str, fault: Fault | None) -> float:
    """By how many stops a device with a fault is off at a test, at last and without noise.

    ``fault``: None for a sound device.
    """
    if fault is None:
        return 0.0
    return _needle_off(test, fault) if name == NEEDLE else _speed_off(MARKS[test], fault)


def _needle_off(test: str, fault: Fault) -> float:
    ev100, rises = float(test.partition(" ")[0]), test.endswith("rising")
    figure = fault.figure
    return {
        "reads high": figure, "reads low": -figure, "reads too wide": figure * (ev100 - 10.0),
        "reads too narrow": -figure * (ev100 - 10.0), "sticks": -figure / 2 if rises else figure / 2,
        "falls off in dim light": -0.5 * max(figure - ev100, 0.0),
    }[fault.mode]  # fmt: skip


def _speed_off(marked_s: float, fault: Fault) -> float:
    figure = fault.figure
    if fault.mode.startswith("long at "):
        return figure if MARKS[fault.mode.removeprefix("long at ")] == marked_s else 0.0
    return {
        "all slow": figure, "all fast": -figure, "a time is added": math.log2(1.0 + figure / marked_s),
        "slow speeds hang": figure if marked_s >= SLOW_FROM_S else 0.0,
    }[fault.mode]  # fmt: skip


@lru_cache(maxsize=2)
def form_of(name: str) -> Form:
    """A form by its name, `NEEDLE` or `SPEEDS`."""
    if name == NEEDLE:
        tests = tuple(f"{ev100} Ev {way}" for way in ("rising", "falling") for ev100 in LIGHTS)
        minutes, u = np.full(len(tests), READING_MIN), NEEDLE_U
    else:
        tests = tuple(MARKS)
        minutes, u = np.full(len(tests), FIRING_MIN), SPEED_U
    hypotheses: list[Fault | None] = [None]
    prior = [SOUND_PRIOR]
    whole = sum(one.prior for one in KINDS[name])
    for kind in KINDS[name]:
        for figure in np.geomspace(kind.low, kind.high, GRID):
            hypotheses.append(Fault(PART[name], kind.mode, float(figure)))
            prior.append((1.0 - SOUND_PRIOR - UNLISTED_PRIOR) * kind.prior / whole / GRID)
    mean = np.array([[off_by(name, test, hypothesis) for hypothesis in hypotheses] for test in tests])
    hypotheses.append(Fault(PART[name], UNLISTED))
    prior.append(UNLISTED_PRIOR)
    mean = np.column_stack([mean, np.zeros(len(tests))])
    return Form(name, tests, tuple(hypotheses), np.log(prior), mean, u, minutes)


def posterior(form: Form, readings: tuple[FormReading, ...]) -> Array:
    """Chances of the hypotheses, shape (h,). ``form``: the device."""
    log = form.log_prior.copy()
    for reading in readings:
        log += np.log(_density(form, form.place(reading.test), np.array([reading.value]))[:, 0])
    chance = np.exp(log - log.max())
    found: Array = chance / chance.sum()
    return found


def _density(form: Form, place: int, values: Array) -> Array:
    """Densities of values under each hypothesis, (h, values): mostly near what it predicts, now and then anything."""
    u = np.full(len(form.hypotheses), form.u)
    u[-1] = ANYTHING / 2
    z = (values[None, :] - form.mean[place][:, None]) / u[:, None]
    near = np.exp(-0.5 * z**2) / (u[:, None] * math.sqrt(2.0 * math.pi))
    wide = np.exp(-0.5 * (values[None, :] / ANYTHING) ** 2) / (ANYTHING * math.sqrt(2.0 * math.pi))
    found: Array = (1.0 - WRONG) * near + WRONG * wide
    return found


def by_name(form: Form, chance: Array) -> dict[str, float]:
    """Chances gathered by the faults' names, likeliest first.

    Parameters
    ----------
    form : the device
    chance : of its hypotheses, shape (h,)
    """
    found: dict[str, float] = {}
    for name, one in zip(form.names, chance, strict=True):
        found[name] = found.get(name, 0.0) + float(one)
    return dict(sorted(found.items(), key=lambda pair: -pair[1]))


VALUES = np.linspace(-5.0, 5.0, 401)


def bits(form: Form, chance: Array) -> Array:
    """What each test tells of the fault's name, bits, shape (tests,).

    Parameters
    ----------
    form : the device
    chance : of its hypotheses, shape (h,)
    """
    names = list(dict.fromkeys(form.names))
    of_name = np.array([[one == name for one in form.names] for name in names]) * chance[None, :]
    weight = np.maximum(of_name.sum(axis=1), 1e-300)
    width = VALUES[1] - VALUES[0]
    found = []
    for place in range(len(form.tests)):
        joint = of_name @ _density(form, place, VALUES) * width
        joint = np.maximum(joint / joint.sum(), 1e-300)
        apart = joint / np.maximum(joint.sum(axis=0, keepdims=True) * weight[:, None], 1e-300)
        found.append(float((joint * np.log2(np.maximum(apart, 1e-300))).sum()))
    worth: Array = np.maximum(np.array(found), 0.0)
    return worth


def minutes_of(form: Form, test: str, before: str) -> float:
    """Minutes of a test after another; a light that has to be come to from the other side costs more.

    Parameters
    ----------
    form : the device
    test, before : by name; empty for none before
    """
    turned = form.name == NEEDLE and before and before.endswith("rising") != test.endswith("rising")
    return float(form.minutes[form.place(test)]) + (TURN_MIN if turned else 0.0)


def drawn_form(name: str, count: int, rng: np.random.Generator) -> tuple[tuple[Fault, ...], tuple[str, ...]]:
    """Hidden faults of a form with the names of their kinds."""
    kinds = KINDS[name]
    weight = np.array([one.prior for one in kinds])
    places = rng.choice(len(kinds), size=min(count, 2), replace=False, p=weight / weight.sum())
    faults, said = [], []
    for place in places:
        kind = kinds[int(place)]
        if kind.name in said:
            continue  # two of one kind are one
        figure = float(np.exp(rng.uniform(math.log(kind.low), math.log(kind.high))))
        faults.append(Fault(PART[name], kind.mode, figure))
        said.append(kind.name)
    return tuple(faults), tuple(said)
