"""A cell from a discharge that was measured, or from points of its curve.

Source: Charge is the integral of the current, which the load gives by Ohm's law; volts at rest and internal resistance by least
squares on straight pieces (SciPy's bounded linear solver).
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.power.cells import Chemistry, Size
from violet_dial.core.scipy_rooms import optimize

Array = npt.NDArray[np.float64]
REST_KNOTS = np.array([0.0, 0.03, 0.08, 0.2, 0.35, 0.5, 0.7, 0.85, 1.0])
OHM_KNOTS = np.array([0.0, 0.1, 0.4, 1.0])
LEAST_POINTS = 12
TOLD_APART = 1.3  # the largest load over the smallest, from which resistance can be told from volts at rest
LEAST_OHM = 1e-3
HOUR_S = 3600.0
OWN_SPREAD_V = 0.015
RISE_V = 0.02  # by which volts may rise while charge is taken: noise; beyond it the cell would charge itself


@dataclass(frozen=True)
class MeasuredCell:
    """A cell made from a measured discharge: ``rms_v`` how far the points lie from its curve; ``has_ohm`` whether the load
    changed enough to tell its resistance."""

    size: Size
    rms_v: float
    points: int
    has_ohm: bool

    @property
    def words(self) -> str:
        """How good it is, in one sentence."""
        ohm = f"{self.size.ohm:.3g} Ω fresh" if self.has_ohm else "its resistance cannot be told: the load never changed"
        fit = f"the {self.points} points lie {1000 * self.rms_v:.2g} mV from its curve (root of the mean square)"
        return f"{self.size.name}: {1000 * self.size.ah:.3g} mAh, {ohm}; {fit}"


def cell_from_points(
    name: str, left: Array, volts: Array, ohm: Array, ah: float, figures: dict[str, float] | None = None
) -> Size:
    """A cell from points of its curve.

    Raises InvalidInput: a figure no cell can have.

    Parameters
    ----------
    name : how it is called
    left : share of the charge, 0 to 1, shape (n,), any order
    volts : at rest, one cell, V, shape (n,)
    ohm : internal resistance, shape (n,)
    figures : others by name: cells, v_per_c, colder, yearly_loss, opened_weeks, nominal_v
    """
    more = figures or {}
    _check_points(name, left, volts, ohm, ah)
    order = np.argsort(left)
    left, volts, ohm = left[order], volts[order], ohm[order]
    full = float(ohm[-1])
    chemistry = Chemistry(
        "", name, more.get("nominal_v") or float(np.interp(0.5, left, volts)),
        tuple(zip(left.tolist(), volts.tolist(), strict=True)), tuple(zip(left.tolist(), (ohm / full).tolist(), strict=True)),
        OWN_SPREAD_V, v_per_c=more.get("v_per_c", 0.0), colder=more.get("colder", 0.02),
        yearly_loss=more.get("yearly_loss", 0.03), opened_weeks=more.get("opened_weeks", 0.0),
    )  # fmt: skip
    cells = int(more.get("cells", 1))
    if not 1 <= cells <= 6:
        raise InvalidInput(f"{name}: cells", cells, "1 to 6 in series")
    return Size(name, chemistry, cells, ah, full)


def _check_points(name: str, left: Array, volts: Array, ohm: Array, ah: float) -> None:
    if len(left) < 2:
        raise NotEnoughData(f"Points of {name}", len(left), 2)
    for field, figures, low, high, unit in (
        ("charge left", left, 0.0, 1.0, "a share from 0 to 1"), ("volts", volts, 0.0, 12.0, "0 to 12 V"),
        ("ohm", ohm, LEAST_OHM, 1e5, "0.001 Ω to 100 kΩ"), ("ah", np.array([ah]), 1e-4, 1e3, "0.0001 to 1000 Ah"),
    ):  # fmt: skip
        wrong = figures[~(np.isfinite(figures) & (figures >= low) & (figures <= high))]
        if len(wrong):
            raise InvalidInput(f"{name}: {field}", f"{wrong[0]:g}", unit)
    order = np.argsort(left)
    falls = np.flatnonzero(np.diff(volts[order]) < -RISE_V)
    if len(falls):
        at = left[order][falls[0]]
        raise InvalidInput(
            f"{name}: volts",
            f"more at {at:g} of the charge than with more left",
            "volts that fall as charge is taken: no cell charges itself",
        )
    if len(np.unique(left)) < len(left):
        raise InvalidInput(f"{name}: charge left", "the same share twice", "each share once")


def fit_discharge(name: str, time_s: Array, volts: Array, load_ohm: Array) -> MeasuredCell:
    """A cell from a discharge, from fresh until it was spent.

    Raises InvalidInput: times that do not rise, figures no cell has, or volts that rise while charge is taken; NotEnoughData:
    fewer than a dozen points, or no charge taken at all.

    Parameters
    ----------
    name : how it is called
    time_s : rising, s, shape (n,)
    volts : at the cell, V, shape (n,)
    load_ohm : the load then, shape (n,); infinite at rest
    """
    _check_discharge(time_s, volts, load_ohm)
    amp = volts / load_ohm
    taken_c = np.concatenate([[0.0], np.cumsum((amp[1:] + amp[:-1]) / 2 * np.diff(time_s))])
    if taken_c[-1] <= 0:
        raise NotEnoughData("Charge taken by the load", 0, 1)
    left = 1.0 - taken_c / taken_c[-1]
    put = load_ohm[np.isfinite(load_ohm)]
    has_ohm = bool(len(put) < len(load_ohm) or put.max() > TOLD_APART * put.min())
    rest, ohm, rms_v = _fitted(left, volts, amp, has_ohm)
    knots = REST_KNOTS
    at = np.interp(knots, OHM_KNOTS, ohm)
    size = cell_from_points(name, knots, rest, np.maximum(at, LEAST_OHM), float(taken_c[-1]) / HOUR_S)
    return MeasuredCell(size, rms_v, len(volts), has_ohm)


def _check_discharge(time_s: Array, volts: Array, load_ohm: Array) -> None:
    if len(volts) < LEAST_POINTS:
        raise NotEnoughData("Points of the discharge", len(volts), LEAST_POINTS)
    if not (np.isfinite(time_s).all() and (np.diff(time_s) > 0).all()):
        raise InvalidInput("Time", "times that do not rise", "each point later than the one before")
    for field, figures, high in (("Volts", volts, 40.0), ("Load", load_ohm, math.inf)):
        wrong = figures[~((figures > 0) & (figures <= high))]
        if len(wrong):
            raise InvalidInput(field, f"{wrong[0]:g}", "a figure above 0")


def _fitted(left: Array, volts: Array, amp: Array, has_ohm: bool) -> tuple[Array, Array, float]:
    """Volts at rest and ohms at their knots, and how far the points lie off."""
    rest = _hats(left, REST_KNOTS)
    ohm = -amp[:, None] * _hats(left, OHM_KNOTS)
    whole = np.concatenate([rest, ohm], axis=1) if has_ohm else rest
    # a knot no point is near stays close to its neighbours
    smooth = np.diff(np.eye(whole.shape[1]), 2, axis=0)[: len(REST_KNOTS) - 2] * 1e-3
    found = optimize.lsq_linear(
        np.concatenate([whole, smooth]), np.concatenate([volts, np.zeros(len(smooth))]), bounds=(0.0, np.inf)
    )
    off = whole @ found.x - volts
    ohms = found.x[len(REST_KNOTS) :] if has_ohm else np.full(len(OHM_KNOTS), LEAST_OHM)
    return np.maximum.accumulate(found.x[: len(REST_KNOTS)]), ohms, float(np.sqrt(np.mean(off * off)))


def _hats(x: Array, knots: Array) -> Array:
    """Weights of straight pieces between knots, shape (n, knots)."""
    return np.stack([np.interp(x, knots, row) for row in np.eye(len(knots))], axis=1)
