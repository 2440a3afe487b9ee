"""Faults that are not a shape: sticky pointer, imbalance, erratic readings, dead indication.

Each flag carries the figure it rests on and that figure's expanded uncertainty, or says what is missing to tell.

Source: Paired comparisons with known uncertainties: JCGM 100:2008. Second differences as a scatter that a smooth curve does not
disturb: von Neumann, Ann. Math. Stat. 12 (1941) 367 [memory]. Limits: common practice, no source.
"""

import itertools
import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.calibration.readings import Array, ReadingsTable
from violet_dial.core.records.light import COVERAGE_FACTOR
from violet_dial.core.scipy_rooms import special

Mask = npt.NDArray[np.bool_]
Labels = npt.NDArray[np.str_]

LEAST_EFFECT_STOPS = 0.1  # smaller differences cannot be seen on a scale
LEAST_FOLLOW = 0.25  # stop per stop below which the indication does not follow the light
LEAST_SPAN_EV = 2.0  # span of light needed to tell whether it follows
LEAST_SCATTER_RATIO = 1.3  # times the stated uncertainty; below this the misfit is smooth, not scatter
LEAST_REPEATS = 2  # readings beyond the first at their lights
REPEAT_WITHIN_EV = 0.05
MOST_STEP_EV = 4.0  # a cell that came from farther remembers no more of it
CHANCE_OF_ERRATIC = 1e-3  # scatter rarer than this by chance is not chance


@dataclass(frozen=True)
class Flag:
    """One judgement: raised, not raised, or not told.

    ``raised`` is None when it cannot be told yet; ``missing`` then says which readings would tell.
    ``figure`` with ``expanded_uncertainty`` is in ``unit``; ``arithmetic`` is the sum behind it.
    """

    name: str
    raised: bool | None
    figure: float | None = None
    expanded_uncertainty: float | None = None
    unit: str = "stop"
    arithmetic: str = ""
    missing: str = ""
    at_ev100: float | None = None  # the light whose reading again would tell


@dataclass(frozen=True)
class Flags:
    """The flags of one run."""

    sticky: Flag
    imbalance: Flag
    erratic: Flag
    dead: Flag
    memory: Flag = Flag("memory", None, unit="stop per stop", missing="more readings")

    def raised(self) -> tuple[Flag, ...]:
        """The flags that are up, the gravest first."""
        return tuple(flag for flag in (self.dead, self.erratic, self.sticky, self.imbalance, self.memory) if flag.raised)


def _difference(table: ReadingsTable, error: Array, groups: tuple[Mask, Mask], same: Labels) -> tuple[float, float, int]:
    """Weighted mean of (second group - first group) over cells where both occur; its u; number of cells."""
    cells = np.unique(np.stack([table.level.astype(str), same.astype(str)]), axis=1).T
    numerator = denominator = 0.0
    count = 0
    for level, kind in cells:
        cell = (table.level == int(level)) & (same == kind)
        first, second = cell & groups[0], cell & groups[1]
        if not (first.any() and second.any()):
            continue
        means = [float(np.mean(error[part])) for part in (first, second)]
        variance = sum(float(np.mean(np.square(table.u_reading[part]))) / part.sum() for part in (first, second))
        numerator += (means[1] - means[0]) / variance
        denominator += 1.0 / variance
        count += 1
    if count == 0:
        return 0.0, math.inf, 0
    return float(numerator / denominator), math.sqrt(1.0 / denominator), count


def judge_sticky(table: ReadingsTable, error: Array) -> Flag:
    """Sticky pointer: at the same light it reads higher coming down than going up.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    error : error of each reading, stops, shape (n,)
    """
    rising, falling = table.direction == "rising", table.direction == "falling"
    mean, u, pairs = _difference(table, error, (rising, falling), table.attitude)
    if pairs == 0:
        return Flag("sticky", None, missing="the same light once rising and once falling")
    expanded = COVERAGE_FACTOR * u
    raised = mean - expanded > 0 and mean >= LEAST_EFFECT_STOPS
    levels = "light" if pairs == 1 else "lights"
    text = f"falling less rising, mean over {pairs} {levels}: {mean:+.2f} ± {expanded:.2f} stop"
    return Flag("sticky", raised, mean, expanded, arithmetic=text)


def judge_imbalance(table: ReadingsTable, error: Array) -> Flag:
    """Imbalance: the reading changes with the attitude of the meter.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    error : error of each reading, stops, shape (n,)
    """

    attitudes = sorted({str(name) for name in table.attitude if name})
    pairs = list(itertools.combinations(attitudes, 2))
    factor = max(COVERAGE_FACTOR, float(-special.ndtri(0.0455 / 2 / max(len(pairs), 1))))
    worst: Flag | None = None
    for first, second in pairs:
        groups = (table.attitude == first, table.attitude == second)
        mean, u, cells = _difference(table, error, groups, table.direction)
        if cells == 0:
            continue
        expanded = factor * u
        raised = abs(mean) - expanded > 0 and abs(mean) >= LEAST_EFFECT_STOPS
        text = f"{second} less {first}, mean over {cells} lights: {mean:+.2f} ± {expanded:.2f} stop"
        if worst is None or abs(mean) / u > abs(worst.figure or 0.0) / (worst.expanded_uncertainty or 1.0) * factor:
            worst = Flag("imbalance", raised, mean, expanded, arithmetic=text)
    if worst is not None:
        return worst
    return Flag("imbalance", None, missing="the same light with the meter held in two attitudes")


def judge_dead(table: ReadingsTable) -> Flag:
    """Dead: the indication does not follow the light (slope of indicated against reference EV100).

    ``table``: the readings as columns: EV100 and stops, each of shape (n,).
    """
    span = float(np.ptp(table.reference)) if len(table) else 0.0
    if len(table) < 3 or span < LEAST_SPAN_EV:
        return Flag("dead", None, unit="stop per stop", missing=f"three lights over at least {LEAST_SPAN_EV:g} EV")
    weight = 1.0 / np.square(table.u_reading)
    centred = table.reference - np.sum(weight * table.reference) / np.sum(weight)
    information = float(np.sum(weight * np.square(centred)))
    follow = float(np.sum(weight * centred * table.indicated) / information)
    expanded = COVERAGE_FACTOR / math.sqrt(information)
    text = f"the indication moves {follow:.2f} ± {expanded:.2f} stop for each stop of light, over {span:.1f} EV"
    return Flag("dead", follow < LEAST_FOLLOW, follow, expanded, "stop per stop", text)


def judge_erratic(table: ReadingsTable, error: Array, residual: Array, parameters: int) -> Flag:
    """Erratic: readings scatter more than their stated uncertainty allows.

    Repeats tell first, and alone where there are enough of them: no shape comes between two readings at one light. Without
    them a scatter about the best shape can be a shape that is not known; then a light is asked for again.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    error : error of each reading, effects of direction and attitude taken out, stops, shape (n,)
    residual : reading less shape, stops, shape (n,)
    parameters : free figures of the shape chosen
    """

    normal, dof = _repeats(table, error)
    if dof >= LEAST_REPEATS:
        chance = float(special.chdtrc(dof, normal))
        ratio = math.sqrt(normal / dof)
        spread = COVERAGE_FACTOR * ratio / math.sqrt(2.0 * dof)
        raised = chance < CHANCE_OF_ERRATIC and ratio >= LEAST_SCATTER_RATIO
        text = f"repeats at one light scatter {ratio:.2f} times what is stated; chance of so much {chance:.2g}"
        return Flag("erratic", raised, ratio, spread, "times stated", text)
    left = len(table) - parameters
    if left < 3:
        return Flag("erratic", None, unit="times stated", missing=f"{3 - left} more readings")
    order = np.argsort(table.reference, kind="stable")
    away = (residual / table.u_reading)[order]
    chance = float(special.chdtrc(left, float(np.sum(np.square(away)))))
    ratio = math.sqrt(float(np.mean(np.square(np.diff(away)))) / 2)
    if chance < CHANCE_OF_ERRATIC and ratio >= LEAST_SCATTER_RATIO:
        worst = float(table.reference[order][int(np.argmax(np.abs(away)))])
        missing = f"Ev {worst:.3g} twice more: they fit no shape, and repeats tell whether they scatter"
        return Flag("erratic", None, ratio, unit="times stated", missing=missing, at_ev100=worst)
    spread = COVERAGE_FACTOR * ratio / math.sqrt(2.0 * left)
    text = f"neighbours scatter {ratio:.2f} times what is stated; chance of the whole set {chance:.2g}"
    return Flag("erratic", False, ratio, spread, "times stated", text)


def _repeats(table: ReadingsTable, error: Array) -> tuple[float, int]:
    """Sum of squares of repeats at the very same light about their means, in stated uncertainties, and how many are free."""
    lights = np.round(table.reference / REPEAT_WITHIN_EV)
    total, free = 0.0, 0
    for light in np.unique(lights):
        same = lights == light
        if same.sum() > 1:
            weight = 1.0 / np.square(table.u_reading[same])
            mean = float(np.sum(weight * error[same]) / np.sum(weight))
            total += float(np.sum(weight * np.square(error[same] - mean)))
            free += int(same.sum()) - 1
    return total, free


def judge_memory(table: ReadingsTable, residual: Array) -> Flag:
    """Memory of the cell: a CdS cell that came from brighter light still reads too much, one from the dark too little.

    Parameters
    ----------
    table : the readings as columns in the order they were taken, each of shape (n,)
    residual : reading less shape, stops, shape (n,)
    """
    if len(table) < 6:
        return Flag("memory", None, unit="stop per stop", missing=f"{6 - len(table)} more readings")
    came_from = np.clip(np.diff(table.reference, prepend=table.reference[0]) * -1.0, -MOST_STEP_EV, MOST_STEP_EV)
    weight = 1.0 / np.square(table.u_reading)
    x = table.reference
    design = np.stack([np.ones_like(x), x - x.mean(), came_from], axis=1)
    information = design.T @ (weight[:, None] * design)
    if np.linalg.cond(information) > 1e6 or came_from.max() < 1.0 or came_from.min() > -1.0:
        return Flag("memory", None, unit="stop per stop", missing="one light after a bright one, and after a dim one")
    covariance = np.linalg.inv(information)
    slope = float((covariance @ (design.T @ (weight * residual)))[2])
    expanded = COVERAGE_FACTOR * math.sqrt(float(covariance[2, 2]))
    raised = slope - 1.5 * expanded > 0 and slope * MOST_STEP_EV >= LEAST_EFFECT_STOPS
    text = f"coming from light a stop brighter it reads {slope:+.3f} ± {expanded:.3f} stop more"
    return Flag("memory", raised, slope, expanded, "stop per stop", text)


def without_effects(table: ReadingsTable, error: Array, sticky: Flag, imbalance: Flag) -> Array:
    """Errors with a raised direction effect halved out and attitude effects centred, so that the shape is left.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    error : error of each reading, stops, shape (n,)
    """
    cleaned = error.copy()
    if sticky.raised and sticky.figure is not None:
        half = sticky.figure / 2
        cleaned = cleaned + np.where(table.direction == "rising", half, 0.0)
        cleaned = cleaned - np.where(table.direction == "falling", half, 0.0)
    if imbalance.raised:
        cleaned = _centred_attitudes(table, cleaned)
    return cleaned


def _centred_attitudes(table: ReadingsTable, error: Array) -> Array:
    level_mean = np.bincount(table.level, weights=error) / np.bincount(table.level)
    residual = error - level_mean[table.level]
    cleaned = error.copy()
    for name in np.unique(table.attitude):
        members = table.attitude == name
        cleaned[members] -= float(np.mean(residual[members]))
    return cleaned
