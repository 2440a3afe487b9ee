"""Which reading to take next: the one expected to tell most.

Worth of a reading = expected drop in entropy over the response models, plus the expected drop in doubt whether
that light is within tolerance, in bits.

Source: Lindley, Ann. Math. Stat. 27 (1956) 986 (information of an experiment) [memory].
"""

import math
from dataclasses import dataclass

import numpy as np

from violet_dial.core.calibration.assess import Assessment, CheckPlan
from violet_dial.core.calibration.models import average, predict
from violet_dial.core.calibration.readings import Array, tolerance_at
from violet_dial.core.calibration.verdict import SHAPE_WORDS
from violet_dial.core.records.light import Direction
from violet_dial.core.scipy_rooms import special

DEFAULT_RANGE_EV100 = (5.0, 15.0)  # indoors to full sun, where hand meters are used; common practice, no source
ENOUGH_BITS = 0.08  # below this another reading tells too little to be worth a minute
MINUTES_PER_READING = 1.0
_GRID = 161  # points of the outcome axis; the sum is smooth, more points change the fourth digit


@dataclass(frozen=True)
class NextReading:
    """The next light to set and why; ``ev100`` None when enough is known. ``bits`` is what it should tell."""

    ev100: float | None
    direction: Direction
    reason: str
    bits: float
    minutes: float = MINUTES_PER_READING
    arithmetic: str = ""


def suggest_next(assessment: Assessment, plan: CheckPlan, u_stops: float) -> NextReading:
    """The reading that tells most, for a reading with standard uncertainty ``u_stops``.

    Parameters
    ----------
    assessment : what the readings say of the meter, errors in stops over EV100
    plan : tolerance in stops, adjuster, and range in EV100
    """
    low, high = _wanted_range(assessment, plan)
    return (
        _spread_first(assessment, low, high)
        or _repeat(assessment)
        or _other_direction(assessment)
        or _most_telling(assessment, plan, (low, high), u_stops)
    )


def _wanted_range(a: Assessment, plan: CheckPlan) -> tuple[float, float]:
    low = plan.range_from_ev100 if plan.range_from_ev100 is not None else DEFAULT_RANGE_EV100[0]
    high = plan.range_to_ev100 if plan.range_to_ev100 is not None else DEFAULT_RANGE_EV100[1]
    return (low, high)


def _near(a: Assessment, ev100: float, within: float = 0.75) -> bool:
    return any(abs(one.reading.reference_ev100 - ev100) <= within for one in a.readings)


def _spread_first(a: Assessment, low: float, high: float) -> NextReading | None:
    """Middle, both ends, then between: shapes can only be told apart over the whole range."""
    reasons = (
        ((low + high) / 2, "Start mid-scale, where the meter should be at its best."),
        (high, "The bright end tells an even error from one that grows."),
        (low, "The dim end shows first when a cell is tired or leaks."),
        ((low * 3 + high) / 4, "Between the middle and the dim end: where a fall-off begins."),
        ((low + high * 3) / 4, "Between the middle and the bright end: the last of five, then shapes can be told apart."),
    )
    for ev100, reason in reasons:
        if not _near(a, ev100):
            return NextReading(float(round(ev100)), "", reason, 1.0)
    return None


def _repeat(a: Assessment) -> NextReading | None:
    """A light twice more, where the readings fit no shape: repeats tell whether they scatter or the shape is not known."""
    erratic = a.flags.erratic
    if a.described or erratic.raised is not None or erratic.at_ev100 is None:
        return None
    reason = "The readings fit no shape that is known. The same light again tells whether they scatter: take it twice more."
    return NextReading(erratic.at_ev100, "", reason, 1.0)


def _other_direction(a: Assessment) -> NextReading | None:
    """One light taken again from the other side, so that a sticky pointer shows."""
    if a.flags.sticky.raised is not None or not a.levels:
        return None
    directions = {one.reading.direction for one in a.readings}
    wanted: Direction = "falling" if "rising" in directions else "rising"
    middle_ev100 = (a.levels[0].ev100 + a.levels[-1].ev100) / 2
    for one in sorted(a.readings, key=lambda judged: abs(judged.reading.reference_ev100 - middle_ev100)):
        if one.reading.direction not in ("", wanted):
            ev100 = one.reading.reference_ev100
            seen = f"{one.reading.direction.capitalize()}, it read {one.reading.indicated_ev100:.1f}."
            reason = f"{seen} A second pass tells a sticky pointer from an even error."
            return NextReading(ev100, wanted, reason, 1.0)
    return None


def _most_telling(a: Assessment, plan: CheckPlan, span: tuple[float, float], u_stops: float) -> NextReading:
    if not any(fit.fitted for fit in a.fits):
        return NextReading(None, "", "Nothing can be fitted yet.", 0.0)
    candidates = np.arange(math.ceil(span[0]), math.floor(span[1]) + 0.5)
    about_models, about_doubt = _information(a, plan, candidates, u_stops)
    best = int(np.argmax(about_models + about_doubt))
    models, doubt = float(about_models[best]), float(about_doubt[best])
    ev100, bits = float(candidates[best]), models + doubt
    arithmetic = f"{models:.2f} bit between shapes + {doubt:.2f} bit on within or not, at Ev {ev100:g}"
    if bits < ENOUGH_BITS:
        return NextReading(None, "", f"No further reading would tell more than {bits:.2f} bit.", bits, 0.0, arithmetic)
    reason = _telling_reason(a, ev100, models, doubt)
    return NextReading(ev100, "", reason, bits, MINUTES_PER_READING, arithmetic)


def _telling_reason(a: Assessment, ev100: float, models: float, doubt: float) -> str:
    if doubt > models:
        return f"It is not yet sure whether Ev {ev100:g} is within tolerance; one more reading there decides it best."
    ranked = sorted((fit for fit in a.fits if fit.fitted), key=lambda fit: -fit.weight)[:2]
    at = np.array([ev100])
    said = [f"“{SHAPE_WORDS[fit.kind]}” predicts {float(predict(fit, at)[0][0]):+.2f}" for fit in ranked]
    return f"{' and '.join(said)} here: this light separates them best."


def _information(a: Assessment, plan: CheckPlan, at: Array, u_stops: float) -> tuple[Array, Array]:
    """Expected bits about the model, and about within-or-not, from one reading at each light; shapes (c,)."""
    fits = [fit for fit in a.fits if fit.fitted and fit.weight > 1e-3]
    weights = np.array([fit.weight for fit in fits])
    predictions = [predict(fit, at) for fit in fits]
    means = np.maximum(np.stack([value for value, _ in predictions]), -10.0)
    spreads = np.hypot(np.stack([u for _, u in predictions]), u_stops)
    mean, u = average(a.fits, at)
    tolerance = tolerance_at(plan.tolerance, at, a.span)
    return _mixture_information(weights / weights.sum(), means, spreads), _doubt_information(mean, u, tolerance, u_stops)


def _entropy(probability: Array) -> Array:
    """Entropy in bits over the first axis."""
    clipped = np.clip(probability, 1e-12, 1.0)
    value: Array = -np.sum(clipped * np.log2(clipped), axis=0)
    return value


def _mixture_information(weights: Array, means: Array, spreads: Array) -> Array:
    """Mutual information of which model holds and the reading, summed over the outcome axis.

    ``weights`` shape (m,), ``means`` and ``spreads`` shape (m, c); returns shape (c,).
    """
    low, high = (means - 5 * spreads).min(axis=0), (means + 5 * spreads).max(axis=0)
    outcome = low[:, None] + (high - low)[:, None] * np.linspace(0.0, 1.0, _GRID)
    z = (outcome - means[:, :, None]) / spreads[:, :, None]
    joint = weights[:, None, None] * np.exp(-0.5 * np.square(z)) / spreads[:, :, None]
    total = np.maximum(joint.sum(axis=0), 1e-300)
    share = total / total.sum(axis=1, keepdims=True)
    told: Array = np.maximum(_entropy(weights) - np.sum(share * _entropy(joint / total), axis=1), 0.0)
    return told


def _doubt_information(mean: Array, u: Array, tolerance: Array, u_stops: float) -> Array:
    """Expected drop of entropy of "within tolerance" when a reading with ``u_stops`` is added (Gaussian update)."""
    known = np.maximum(u, 1e-9)
    left = known * u_stops / np.hypot(known, u_stops)
    moved = np.sqrt(np.square(known) - np.square(left))
    step = np.linspace(-4.0, 4.0, _GRID)
    share = np.exp(-0.5 * np.square(step))
    share = share / share.sum()
    outcome = mean[:, None] + moved[:, None] * step
    after = _entropy(_within(outcome, left[:, None], tolerance[:, None]))
    before = _entropy(_within(mean, known, tolerance))
    told: Array = np.maximum(before - after @ share, 0.0)
    return told


def _within(mean: Array, u: Array, tolerance: Array) -> Array:

    inside = special.ndtr((tolerance - mean) / u) - special.ndtr((-tolerance - mean) / u)
    return np.stack([inside, 1.0 - inside])
