"""The verdict on a meter, with one plain sentence of reason."""

from dataclasses import dataclass
from typing import Literal

from violet_dial.core.calibration.assess import Assessment
from violet_dial.core.calibration.models import PARAMETER_NAMES, ModelFit
from violet_dial.core.quantities import format_signed

VerdictKind = Literal["good", "adjust", "limited to a range", "renew the cell", "take again"]

FEWEST_LEVELS = 3
USEFUL_SPAN_EV = 2.0  # "good for two or three stops counts as a good one today": common practice, no source
WORTH_ADJUSTING_EV = 0.5  # an adjustment that gains less usable range than this is not worth opening for

HINTED, HARDLY_STOPS = 0.9, 0.12  # standard deviations of a slope, and stops over the range, from which it is not called even

SHAPE_WORDS = {
    "true": "true",
    "even": "evenly off",
    "slope": "error grows steadily with the light",
    "low_falloff": "falls off in dim light",
    "low_lift": "reads too much in dim light",
    "high_compression": "falls behind in bright light",
    "falloff_and_compression": "falls off in dim light and behind in bright",
    "lift_and_compression": "too much in dim light, falls behind in bright",
}
FALLS, LIFTS = "loses dim light, nothing left at Ev", "reads too much below about Ev"
# What such a shape comes from, and the look that tells; common practice, no source.
CAUSES = {
    "low_falloff": "Cap the cell and look: a zero set low does this, a leak beside a movement of high resistance too.",
    "low_lift": "Cap the cell and look: a needle that stands above zero does this.",
    "falloff_and_compression": "Cap the cell and look at the zero; then the contacts of the cell.",
    "lift_and_compression": "Cap the cell and look at the zero; then the contacts of the cell.",
    "high_compression": "Look at the contacts of the cell: a resistance in series does this.",
}


@dataclass(frozen=True)
class Verdict:
    """What to do with the meter; ``headline`` is said large, ``reason`` is the sentence under it.

    ``shift_helps``: the advised shift is worth making. ``repair`` names what must be put right before any judging
    or adjusting; empty when nothing must.
    """

    kind: VerdictKind
    headline: str
    reason: str
    shift_helps: bool = False
    repair: str = ""


def decide(assessment: Assessment) -> Verdict:
    """The verdict: first whether the readings can be judged at all, then what is usable with and without a shift.

    ``assessment``: what the readings say of the meter, errors in stops over EV100.
    """
    return _cannot_judge(assessment) or _as_found(assessment) or _with_shift(assessment)


def _ev(value: float | None) -> str:
    return f"{value:.3g}" if value is not None and abs(value - round(value)) > 0.05 else f"{round(value or 0):d}"


def _range(low: float | None, high: float | None) -> str:
    return f"Ev {_ev(low)} to {_ev(high)}"


def _cannot_judge(a: Assessment) -> Verdict | None:
    flags = a.flags
    if flags.dead.raised:
        reason = (
            f"The indication does not follow the light: {flags.dead.arithmetic}. "
            "Trace leads and movement first; if they are sound, the cell is finished."
        )
        return Verdict("renew the cell", "Does not follow the light", reason, repair="trace leads and movement, then the cell")
    if len(a.levels) < FEWEST_LEVELS:
        missing = FEWEST_LEVELS - len(a.levels)
        reason = f"{len(a.levels)} of the {FEWEST_LEVELS} different lights a judgement needs; take {missing} more."
        return Verdict("take again", "Too few readings to judge", reason)
    if flags.erratic.raised:
        reason = f"The readings do not repeat: {flags.erratic.arithmetic}. Look for a bad contact, then take it again."
        return Verdict("take again", "Readings do not repeat", reason, repair="find the bad contact")
    if not a.described and flags.erratic.raised is None and flags.erratic.figure is not None:
        reason = f"The readings fit no shape that is known. Take {flags.erratic.missing}."
        return Verdict("take again", "Fits no known shape", reason)
    if flags.memory.raised:
        reason = (
            f"The cell remembers the light it came from: {flags.memory.arithmetic}. Let it rest some minutes in the light to "
            "be read, dim before bright, and take it again."
        )
        return Verdict("take again", "The cell remembers", reason)
    inside = all(reading.state == "inside" for reading in a.readings)
    if flags.sticky.raised and not inside:
        reason = f"The pointer sticks: {flags.sticky.arithmetic}. Free the movement before anything is adjusted."
        return Verdict("take again", "The pointer sticks", reason, repair="free the pointer")
    if flags.imbalance.raised and not inside:
        reason = f"The reading depends on how the meter is held: {flags.imbalance.arithmetic}. Balance the movement first."
        return Verdict("take again", "Out of balance", reason, repair="balance the movement")
    return None


def _worst(a: Assessment) -> str:
    level = max(a.levels, key=lambda one: abs(one.error_stops))
    return f"{format_signed(level.error_stops)} ± {level.expanded_uncertainty_stops:.2f} stop at Ev {_ev(level.ev100)}"


def _as_found(a: Assessment) -> Verdict | None:
    outside = [reading for reading in a.readings if reading.state == "outside"]
    if all(level.state == "inside" for level in a.levels) and not outside:
        reason = f"Every light is within tolerance; the largest error is {_worst(a)}."
        whole = _range(a.levels[0].ev100, a.levels[-1].ev100)
        return Verdict("good", f"Right from {whole}", reason)
    if all(level.state != "outside" for level in a.levels) and a.as_found.levels == len(a.levels):
        doubtful = [level for level in a.levels if level.state == "undecided"]
        if doubtful or outside:
            at = _ev(doubtful[0].ev100 if doubtful else outside[0].reading.reference_ev100)
            reason = f"The largest error is {_worst(a)}: too near the tolerance to call. Read at Ev {at} again."
            return Verdict("take again", f"Undecided at Ev {at}", reason)
    return None


def _with_shift(a: Assessment) -> Verdict:
    shift, found = a.shift, a.as_found
    whole = shift.levels == len(a.levels)
    if shift.levels == 0 or (not whole and max(shift.span_ev, found.span_ev) < USEFUL_SPAN_EV):
        if a.unguarded.span_ev >= USEFUL_SPAN_EV:
            return _too_uncertain(a)
        reason = (
            f"No single shift keeps even {USEFUL_SPAN_EV:g} stops within tolerance ({shape_figures(a)}). "
            "Check the lead and its contacts; if they are sound, renew the cell."
        )
        return Verdict("renew the cell", f"Off everywhere: {_shape_words(a)}", reason, repair="renew the cell")
    widest = max(level.expanded_uncertainty_stops for level in a.levels)
    left = f"at most {shift.worst_error_stops:.2f} ± {widest:.2f} stop off"
    after = f"{_range(shift.usable_from_ev100, shift.usable_to_ev100)} {left}"
    if whole:
        reason = f"{shape_figures(a)}. A shift of {format_signed(shift.stops)} stop leaves {after}."
        return Verdict("adjust", _off_by(a), reason, shift_helps=True)
    if found.levels and shift.span_ev - found.span_ev < WORTH_ADJUSTING_EV:
        span = _range(found.usable_from_ev100, found.usable_to_ev100)
        reason = f"{shape_figures(a)}. No shift gains more than the {span} it has now."
        return Verdict("limited to a range", f"Trust it from {span} only", reason)
    reason = f"{shape_figures(a)}. A shift of {format_signed(shift.stops)} stop leaves {after}; mark the rest of the scale."
    return Verdict("limited to a range", _off_by(a), reason, shift_helps=True)


def _too_uncertain(a: Assessment) -> Verdict:
    """A span would do by the figures alone, and cannot be promised with what is uncertain about them."""
    widest = max(level.expanded_uncertainty_stops for level in a.levels)
    span = _range(a.unguarded.usable_from_ev100, a.unguarded.usable_to_ev100)
    reason = (
        f"{shape_figures(a)}. {span} may do with a shift of {format_signed(a.unguarded.stops)} stop, but ±{widest:.2f} stop is "
        "too uncertain to promise it: more readings, or a better known reference."
    )
    return Verdict("take again", f"Undecided: {_shape_words(a)}", reason)


def _shape_words(a: Assessment) -> str:
    return SHAPE_WORDS[a.model.kind] if a.model and a.described else "no simple shape"


def _off_by(a: Assessment) -> str:
    if a.model is None or not a.described or a.model.kind == "slope" or not a.model.parameters:
        return f"Off: {_shape_words(a)}"
    offset, u = a.model.parameters[0], a.model.uncertainties[0]
    if abs(offset) < 2 * u or abs(offset) < 0.05:
        return _shape_words(a).capitalize()
    way = "high" if offset > 0 else "low"
    text = f"Reads {abs(offset):.2f} stop {way}"
    return text if a.model.kind == "even" else f"{text}, {_shape_words(a)}"


def shape_figures(a: Assessment) -> str:
    """The shape of the error in one line, with its figures; and what would tell where that is open."""
    if a.model is None or not a.described:
        return "The readings follow no simple shape"
    return _open_slope(a) or describe_model(a.model)


def _open_slope(a: Assessment) -> str:
    """Where an even error is the simplest shape and one that grows with the light is about as near: that it is open, and what
    would tell; empty elsewhere."""
    slope = next((fit for fit in a.fits if fit.kind == "slope" and fit.fitted), None)
    if a.model is None or not a.described or a.model.kind != "even" or slope is None:
        return ""
    (offset, a_stop), (_, u) = slope.parameters, slope.uncertainties
    low, high = a.span
    if abs(a_stop) < HINTED * u or abs(a_stop) * (high - low) < HARDLY_STOPS:
        return ""
    return (
        f"It is off by {format_signed(offset)} stop, and whether that grows with the light is open ({format_signed(a_stop)} ± "
        f"{2 * u:.2f} per stop): read at Ev {_ev(low)} and {_ev(high)} again"
    )


def describe_model(model: ModelFit) -> str:
    """The model in one line with its parameters and their expanded uncertainties."""
    expanded = [2 * u for u in model.uncertainties]
    values = model.parameters
    if model.kind == "true":
        return "No error of its own can be seen"
    offset = f"{format_signed(values[0])} ± {expanded[0]:.2f} stop"
    if model.kind == "even":
        return f"It is off evenly by {offset}"
    if model.kind == "slope":
        return f"It is off by {offset} at Ev {model.centre_ev100:.1f}, {format_signed(values[1])} ± {expanded[1]:.2f} per stop"
    said = []
    for name, value, wide in zip(PARAMETER_NAMES[model.kind][1:], values[1:], expanded[1:], strict=True):
        what = {
            "low_falloff": FALLS, "falloff_and_compression": FALLS, "low_lift": LIFTS, "lift_and_compression": LIFTS,
        }.get(model.kind, "") if name == "dark_ev100" else "falls behind above about Ev"  # fmt: skip
        said.append(f"{what} {value:.1f} ± {min(wide, 99):.1f}")
    cause = f". {CAUSES[model.kind].removesuffix('.')}" if model.kind in CAUSES else ""
    return f"It is off by {offset} and {' and '.join(said)}{cause}"
