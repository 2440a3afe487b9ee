"""A judgement opened to its arithmetic, section by section, with the values put in. Also what the eye says: the dial from its
marks, and what the needle did.
"""

import math

from violet_dial.core.calibration.assess import Assessment
from violet_dial.core.calibration.flags import Flag
from violet_dial.core.calibration.models import PARAMETER_NAMES, ModelFit
from violet_dial.core.calibration.verdict import SHAPE_WORDS, describe_model, shape_figures
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.job.practising import HIDDEN
from violet_dial.services.evidence import capture_lines
from violet_dial.services.light_judgement import LightJudgement
from violet_dial.services.station import Section
from violet_dial.stations.light.eye_state import face_or_why

TITLE = "How the needle is read"


def eye_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """The marks with what each is missed by, the dial they make, trials of the needle."""
    face, why = face_or_why(job.light.dial)
    if face is None:
        return TITLE, (("Nothing yet", (why or "three marks of the scale are needed",)),)
    marks = tuple(
        f"{mark.value:g}\tat {mark.x:.1f}, {mark.y:.1f} px; {format_signed(math.degrees(angle))}°"
        + (f"; left out, it is missed by {format_signed(100 * miss)} % of the scale" if math.isfinite(miss) else "")
        for mark, angle, miss in zip(face.marks, face.angles, face.check, strict=True)
    )
    law = "straight in the logarithm of the value" if face.is_log else "straight in the value"
    dial = (
        f"pivot\t{face.pivot[0]:.1f}, {face.pivot[1]:.1f} px by least squares",
        f"scale\tradius {face.radius_px:.1f} px; marks miss it by {face.residual_px:.2f} px (root mean square)",
        f"law\t{law} between marks, monotone cubic",
        "reading\ta line through the needle's middle at 40 radii, taken to the scale; u from its scatter, the marks, the check",
    )
    notes = tuple(
        (f"{one.taken_at[:16].replace('T', ' ')}: {one.words}", one.rows or ("no figures",)) for one in reversed(job.light.needle)
    )
    return TITLE, (("Marks", marks), ("Dial", dial), *notes[:12])


PARAMETER_WORDS = {
    "offset_stops": "offset, stop", "slope_stops_per_ev": "slope, stop per Ev", "dark_ev100": "dark end, Ev",
    "bright_ev100": "bright end, Ev",
}  # fmt: skip


def explain(job: Job, run: Run, judgement: LightJudgement, reading: int = -1) -> tuple[Section, ...]:
    """Every step from the readings to the verdict; ``reading`` is the one under the cursor, -1 for none."""
    a = judgement.assessment
    sections: list[Section] = []
    if 0 <= reading < len(a.readings):
        taken = run.readings[reading]
        behind = capture_lines(taken.capture) if taken.capture else ()
        sections.append(("This reading", (*taken.reference_sum, a.readings[reading].arithmetic, *behind)))
    if job.practising.hides:
        return *sections, ("Verdict", (HIDDEN,))
    sections.append(("Verdict", (judgement.verdict.headline, judgement.verdict.reason)))
    sections.append(("Shapes compared (AIC = χ² + 2k weighs them; one figure more must gain 6.5 in χ² to be said)", _models(a)))
    sections.append(("Flags", tuple(_flag(flag) for flag in _flags(a))))
    sections.append(("Best single shift", _shift(a)))
    sections.append(("Each light, from all readings together", _levels(a)))
    asked = judgement.next_reading
    sections.append(("Next reading", tuple(line for line in (asked.reason, asked.arithmetic) if line)))
    return tuple(sections)


def _models(a: Assessment) -> tuple[str, ...]:
    lines = [_model(fit) for fit in a.fits]
    if a.model is not None:
        lines.append(f"Chosen: {shape_figures(a) if a.described else describe_model(a.model)}.")
        if not a.described:
            lines.append("It does not describe the readings (chance below 0.001); plain means of each light are used.")
    return tuple(lines)


def _model(fit: ModelFit) -> str:
    name = SHAPE_WORDS[fit.kind]
    if fit.aic is None:
        return f"{name}: too few readings, needs {fit.need}"
    values = zip(PARAMETER_NAMES[fit.kind], fit.parameters, fit.uncertainties, strict=True)
    said = ", ".join(
        f"{PARAMETER_WORDS[one]} {round(value, 2) + 0.0:.2f} (u {u:.2f})".replace("-", "−") for one, value, u in values
    )
    return f"{name}: χ² {fit.chi2:.1f}, AIC {fit.aic:.1f}, weight {fit.weight:.2f}{'; ' + said if said else ''}"


def _flags(a: Assessment) -> tuple[Flag, ...]:
    return (a.flags.sticky, a.flags.imbalance, a.flags.erratic, a.flags.dead, a.flags.memory)


def _flag(flag: Flag) -> str:
    if flag.raised is None:
        return f"{flag.name}: not told, needs {flag.missing}"
    return f"{flag.name}: {'yes' if flag.raised else 'no'}. {flag.arithmetic}"


def flag_line(a: Assessment) -> str:
    """The flags in one short line; memory only where it was found."""
    names = {"sticky": "sticking", "imbalance": "balance", "erratic": "scatter", "dead": "follows the light", "memory": "memory"}
    good = {"sticky": "none", "imbalance": "good", "erratic": "as stated", "dead": "yes", "memory": "none"}
    bad = {"sticky": "sticks", "imbalance": "off", "erratic": "too large", "dead": "no", "memory": "remembers"}
    words = []
    for flag in _flags(a):
        if flag.name == "memory" and not flag.raised:
            continue
        state = "not tested" if flag.raised is None else bad[flag.name] if flag.raised else good[flag.name]
        words.append(f"{names[flag.name]}: {state}")
    return "  ·  ".join(words)


def _shift(a: Assessment) -> tuple[str, ...]:
    lines = []
    for name, shift in (
        ("as found", a.as_found), ("advised", a.shift), ("free", a.free_shift),
        ("in half stops", a.half_step), ("in third stops", a.third_step),
    ):  # fmt: skip
        if shift.usable_from_ev100 is None or shift.usable_to_ev100 is None:
            lines.append(f"{name} ({format_signed(shift.stops)} stop): no light within tolerance")
            continue
        span = f"Ev {shift.usable_from_ev100:.1f} to {shift.usable_to_ev100:.1f}"
        lines.append(f"{name} ({format_signed(shift.stops)} stop): {span}, worst {shift.worst_error_stops:.2f} stop")
    for way in a.instructions:
        left = f", leaves {format_signed(way.left_stops)} stop" if abs(way.left_stops) > 0.005 else ""
        lines.append(f"in {way.unit}: {way.text}{left}")
    lines.append(a.travel.text)
    return tuple(lines)


def _levels(a: Assessment) -> tuple[str, ...]:
    return tuple(
        f"Ev {level.ev100:.1f}: {format_signed(level.error_stops)} ± {level.expanded_uncertainty_stops:.2f}, tolerance "
        f"±{level.tolerance_stops:.2f}: {level.state}; after the shift {format_signed(level.after_stops)}: {level.after_state}"
        for level in a.levels
    )
