"""From readings to judgement: one frozen record with everything the screen and the sheet show."""

import math
from dataclasses import dataclass, field

import numpy as np

from violet_dial.core.calibration.adjustment import Curve, Shift, apply_shift, best_shift, best_stepped_shift
from violet_dial.core.calibration.flags import (
    CHANCE_OF_ERRATIC,
    Flags,
    judge_dead,
    judge_erratic,
    judge_imbalance,
    judge_memory,
    judge_sticky,
    without_effects,
)
from violet_dial.core.calibration.models import ModelFit, average, chosen, fit_models, predict
from violet_dial.core.calibration.readings import Array, ReadingsTable, State, state_of, tabulate, tolerance_at
from violet_dial.core.light.marks import film_speed_marks, nearest_mark
from violet_dial.core.quantities import format_signed
from violet_dial.core.records.light import COVERAGE_FACTOR, Adjuster, LightReading, Tolerance
from violet_dial.core.scipy_rooms import special


@dataclass(frozen=True)
class Instruction:
    """One way to make the adjustment: the unit, what to do, and the error it leaves over in stops."""

    unit: str
    text: str
    left_stops: float


@dataclass(frozen=True)
class Travel:
    """Whether the ring reaches its hard stop before the end of the cord after the shift.

    ``safe`` is None when the adjuster was not measured; ``cord_left_mm`` after the shift.
    """

    safe: bool | None
    cord_left_mm: float | None
    text: str


@dataclass(frozen=True)
class CheckPlan:
    """What the readings are judged by: tolerance, adjuster, the meter's range in EV100 (None: as read), and the cell's
    ``gamma``, stops of current for a stop of light (1 for selenium and silicon)."""

    tolerance: Tolerance = field(default_factory=Tolerance)
    adjuster: Adjuster = field(default_factory=Adjuster)
    range_from_ev100: float | None = None
    range_to_ev100: float | None = None
    gamma: float = 1.0


@dataclass(frozen=True)
class JudgedReading:
    """One reading with its error, expanded uncertainty and state against the tolerance there (all in stops)."""

    reading: LightReading
    error_stops: float
    expanded_uncertainty_stops: float
    tolerance_stops: float
    state: State

    @property
    def arithmetic(self) -> str:
        """The sum behind the figures."""
        r = self.reading
        return (
            f"{r.indicated_ev100:.2f} − {r.reference_ev100:.2f} = {format_signed(self.error_stops)} stop; "
            f"U = 2 × √({r.u_reference:.3f}² + {r.u_reading:.3f}²) = {self.expanded_uncertainty_stops:.2f}; "
            f"tolerance ±{self.tolerance_stops:.2f}"
        )


@dataclass(frozen=True)
class LightLevel:
    """The meter's error at one light, from all readings together; ``after_stops`` with the advised shift made."""

    ev100: float
    error_stops: float
    expanded_uncertainty_stops: float
    tolerance_stops: float
    state: State
    after_stops: float
    after_state: State


@dataclass(frozen=True)
class Assessment:
    """Everything that follows from one run of readings.

    ``described`` is False when no model explains the readings; levels are then plain means. ``shift`` is the
    best one the adjuster can give, ``as_found`` what is usable without touching anything; ``unguarded`` would be the best
    if nothing were uncertain.
    """

    readings: tuple[JudgedReading, ...]
    levels: tuple[LightLevel, ...]
    fits: tuple[ModelFit, ...]
    model: ModelFit | None
    described: bool
    flags: Flags
    as_found: Shift
    shift: Shift
    free_shift: Shift
    unguarded: Shift
    half_step: Shift
    third_step: Shift
    instructions: tuple[Instruction, ...]
    travel: Travel
    span: tuple[float, float]


def judge_readings(readings: tuple[LightReading, ...], plan: CheckPlan, span: tuple[float, float]) -> tuple[JudgedReading, ...]:
    """State of each reading on its own.

    Parameters
    ----------
    readings : reference and indication in EV100, uncertainties in stops
    plan : tolerance in stops, adjuster, and range in EV100
    span : from and to, EV100
    """
    tolerances = tolerance_at(plan.tolerance, np.array([r.reference_ev100 for r in readings]), span)
    return tuple(_judged(reading, float(t)) for reading, t in zip(readings, tolerances, strict=True))


def _judged(reading: LightReading, tolerance: float) -> JudgedReading:
    error, expanded = reading.error_stops, reading.expanded_uncertainty_stops
    return JudgedReading(reading, error, expanded, tolerance, state_of(error, expanded, tolerance))


def assess(readings: tuple[LightReading, ...], plan: CheckPlan) -> Assessment:
    """Judge one run of readings.

    ``readings``: tuple of LightReading, any order, possibly empty.

    Returns
    -------
    Assessment. Nothing is guessed: models and flags with too few readings say what they need.
    """

    table = tabulate(readings)
    span = _span(table, plan)
    sticky, imbalance = judge_sticky(table, table.error), judge_imbalance(table, table.error)
    cleaned = without_effects(table, table.error, sticky, imbalance)
    fits = fit_models(table, cleaned, plan.gamma)
    model = chosen(fits)
    residual = cleaned - (predict(model, table.reference)[0] if model else 0.0)
    count = len(model.parameters) if model else 0
    erratic = judge_erratic(table, cleaned, residual, count)
    flags = Flags(sticky, imbalance, erratic, judge_dead(table), judge_memory(table, residual))
    described = model is not None and float(special.chdtrc(max(len(table) - count, 1), model.chi2)) >= CHANCE_OF_ERRATIC
    values, expanded = _level_errors(table, cleaned, fits if described else ())
    tolerance = tolerance_at(plan.tolerance, table.levels, span)
    curve = Curve(table.levels, values, tolerance, expanded)
    free = best_shift(curve)
    step = plan.adjuster.step_stops
    shift = best_stepped_shift(curve, step) if step > 0 else free
    return Assessment(
        readings=judge_readings(readings, plan, span),
        levels=_levels(curve, expanded, shift.stops),
        fits=fits,
        model=model,
        described=described,
        flags=flags,
        as_found=apply_shift(curve, 0.0),
        shift=shift,
        free_shift=free,
        unguarded=best_shift(Curve(table.levels, values, tolerance)),
        half_step=best_stepped_shift(curve, 1 / 2),
        third_step=best_stepped_shift(curve, 1 / 3),
        instructions=instructions(shift.stops, plan.adjuster),
        travel=judge_travel(shift.stops, plan.adjuster),
        span=span,
    )


def _span(table: ReadingsTable, plan: CheckPlan) -> tuple[float, float]:
    low = plan.range_from_ev100
    high = plan.range_to_ev100
    if low is None:
        low = float(table.reference.min()) if len(table) else 0.0
    if high is None:
        high = float(table.reference.max()) if len(table) else 0.0
    return (low, high)


def _level_errors(table: ReadingsTable, error: Array, fits: tuple[ModelFit, ...]) -> tuple[Array, Array]:
    """Error and expanded uncertainty per level, shape (m,): model average, or plain means without models.

    The reference is the same for all readings, so its uncertainty does not shrink by repeating: it is in there whole, once.
    """
    if len(table) == 0:
        return np.zeros(0), np.zeros(0)
    if fits:
        value, u = average(fits, table.levels)
        return value, COVERAGE_FACTOR * u
    counts = np.bincount(table.level)
    value = np.bincount(table.level, weights=error) / counts
    u = np.sqrt(np.bincount(table.level, weights=np.square(table.u_reading))) / counts
    return value, COVERAGE_FACTOR * np.hypot(u, table.u_common)


def _levels(curve: Curve, expanded: Array, shift_stops: float) -> tuple[LightLevel, ...]:
    rows = zip(curve.ev100, curve.error_stops, expanded, curve.tolerance_stops, strict=True)
    return tuple(_level((float(x), float(e), float(u), float(t)), shift_stops) for x, e, u, t in rows)


def _level(row: tuple[float, float, float, float], shift_stops: float) -> LightLevel:
    ev100, error, expanded, tolerance = row
    after = error + shift_stops
    if not math.isfinite(after):
        return LightLevel(ev100, error, expanded, tolerance, "outside", after, "outside")
    before_state, after_state = state_of(error, expanded, tolerance), state_of(after, expanded, tolerance)
    return LightLevel(ev100, error, expanded, tolerance, before_state, after, after_state)


LEAST_CORD_LEFT_MM = 1.0  # cord that must remain on the drum at the hard stop; common practice, no source


def _way(stops: float) -> str:
    return "forward (reads more)" if stops > 0 else "back (reads less)"


def instructions(stops: float, adjuster: Adjuster) -> tuple[Instruction, ...]:
    """The shift said in every unit this adjuster has, stops first."""
    found = [Instruction("stops", f"shift the indication by {format_signed(stops)} stop", 0.0)]
    if adjuster.notch_stops > 0:
        notches = round(stops / adjuster.notch_stops)
        text = f"turn the drum {abs(notches)} notch{'es' if abs(notches) != 1 else ''} {_way(stops)}"
        left = notches * adjuster.notch_stops - stops
        found.append(Instruction("notches", text if notches else "leave the drum where it is", left))
    if adjuster.degrees_per_stop > 0:
        degrees = abs(stops) * adjuster.degrees_per_stop
        found.append(Instruction("degrees", f"turn by {degrees:.1f}° {_way(stops)}", 0.0))
    if adjuster.cord_mm_per_stop > 0:
        cord = abs(stops) * adjuster.cord_mm_per_stop
        found.append(Instruction("cord", f"move the cord {cord:.1f} mm {_way(stops)}", 0.0))
    found.append(_film_speed_instruction(stops, adjuster.film_speed))
    return tuple(found)


def _film_speed_instruction(stops: float, film_speed: float) -> Instruction:
    """A meter that reads high is put right by dialling a slower film: S 2^stops."""
    wanted = film_speed * 2.0**stops
    mark, above = nearest_mark(wanted, film_speed_marks())
    text = f"or set the film-speed dial to {mark.text} for {film_speed:g} film"
    return Instruction("film speed", text, -above)


def judge_travel(stops: float, adjuster: Adjuster) -> Travel:
    """Over-travel check: cord left at the hard stop after the drum is shifted.

    Parameters
    ----------
    stops : shift of the scale, stops
    adjuster : what moves the scale, and how far: stops per notch, degrees, millimetres of cord
    """
    if adjuster.cord_left_mm == 0 or adjuster.cord_mm_per_stop == 0:
        text = "Over-travel not checked: give drum diameter, degrees per stop and the cord left at the hard stop."
        return Travel(None, None, text)
    used = stops * adjuster.cord_mm_per_stop
    left = adjuster.cord_left_mm - used
    arithmetic = f"{adjuster.cord_left_mm:.1f} mm − ({format_signed(used, 1)} mm) = {left:.1f} mm"
    if left >= LEAST_CORD_LEFT_MM:
        return Travel(True, left, f"The ring reaches its hard stop first: {arithmetic} of cord left there.")
    return Travel(
        False, left, f"The cord ends before the hard stop: {arithmetic} left. Re-lay the cord, or the next turn snaps it."
    )


@dataclass(frozen=True)
class Response:
    """Error in stops over EV100, both shape (n,), within the span of the readings; ``after`` with the shift made."""

    ev100: Array
    before: Array
    after: Array


def response(assessment: Assessment, points: int = 97) -> Response:
    """The fitted response, or straight lines between level means when no model describes the readings.

    Empty arrays when there is nothing to draw (fewer than two levels). ``assessment``: what the readings say of the meter,
    errors in stops over EV100.
    """
    if len(assessment.levels) < 2:
        return Response(np.zeros(0), np.zeros(0), np.zeros(0))
    levels = np.array([level.ev100 for level in assessment.levels])
    x = np.linspace(levels[0], levels[-1], points)
    if assessment.described and any(fit.fitted for fit in assessment.fits):
        before, _ = average(assessment.fits, x)
    else:
        before = np.interp(x, levels, [level.error_stops for level in assessment.levels])
    return Response(x, before, before + assessment.shift.stops)
