"""The commands ``check``, a meter's readings from CSV to one judgement, and ``colour``, what the colour of a light does to a
reading.
"""

from argparse import Namespace
from dataclasses import dataclass, field
from pathlib import Path

from violet_dial.core.calibration.assess import Assessment, CheckPlan, assess
from violet_dial.core.calibration.flags import Flag
from violet_dial.core.calibration.models import PARAMETER_NAMES, ModelFit
from violet_dial.core.calibration.verdict import Verdict, decide
from violet_dial.core.colour.cells import Family
from violet_dial.core.colour.mismatch import Mismatch, best_temperature, choices, mismatch, through
from violet_dial.core.colour.spectra import Spectrum
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.light import Tolerance
from violet_dial.services.colours import error_said
from violet_dial.services.files import read_given
from violet_dial.services.spectra import (
    FILTERS_SAID,
    LIGHTS_SAID,
    MOST_BYTES,
    cell_named,
    eye,
    filter_named,
    light_named,
    spectrum_of,
)
from violet_dial.services.station import JSON, Command, Option, as_json, say_rejected
from violet_dial.stations.light.table import Defaults, ReadResult, read_readings


def _spectrum_file(text: str) -> Spectrum | None:
    """A spectrum from a file, where a name ends in .csv."""
    if not text.lower().endswith(".csv"):
        return None
    return spectrum_of(read_given(Path(text), "Spectrum", MOST_BYTES), text)


def _light(text: str) -> Spectrum:
    return _spectrum_file(text) or light_named(text)


COLOUR_ARGUMENTS = (
    Option("--source", f"the light it is read under: {LIGHTS_SAID}, or a .csv", "LIGHT", required=True),
    Option("--cell", "selenium, selenium filtered, cds, silicon, .. or a .csv", "CELL", required=True),
    Option("--calibrated", "the light it is right under (default D55)", "LIGHT", "D55"),
    Option(
        "--filter",
        f"before the lamp, several allowed: {FILTERS_SAID.replace('%', '%%')}, or a .csv",
        "FILTER",
        [],
        action="append",
    ),
    Option("--lamps", "lamps at hand, to choose from", "A,B,..", ""),
    Option("--filters", "filters at hand, to choose from", "A,B,..", ""),
    JSON,
)


def _colour(options: Namespace) -> int:
    cell: Spectrum | Family = _spectrum_file(options.cell) or cell_named(options.cell)
    before = [_spectrum_file(one) or filter_named(one) for one in options.filter]
    used, calibrated = through(_light(options.source), *before), _light(options.calibrated)
    lamps = tuple(_light(part.strip()) for part in options.lamps.split(",") if part.strip())
    filters = tuple(
        _spectrum_file(part.strip()) or filter_named(part.strip()) for part in options.filters.split(",") if part.strip()
    )
    found = mismatch(cell, used, calibrated, eye())
    best_k, left = best_temperature(cell, calibrated, eye())
    best = choices(cell, calibrated, lamps, filters, eye())
    if options.json:
        print(as_json({
            "source": used.name, "cell": cell.name, "calibrated": calibrated.name, **_off(found), "words": error_said(found),
            "best_temperature_k": best_k, "best_temperature_error_stops": left,
            "choices": [{"lamp": one.lamp, "filter": one.filter or None, "loss_stops": one.loss_stops, **_off(one.mismatch)}
                        for one in best],
        }))  # fmt: skip
        return 0
    print(f"Under {used.name} it reads {error_said(found)}, being right under {calibrated.name}.")
    for one in best[:3]:
        print(f"{one.lamp}, {one.filter or 'bare'}: {error_said(one.mismatch)}.")
    return 0


def _off(one: Mismatch) -> dict[str, float]:
    return {"error_stops": one.stops, "u_stops": one.u_stops, "low_stops": one.low, "high_stops": one.high}


COLOUR_COMMANDS = (Command("colour", "what the colour of a light does to a meter's reading", COLOUR_ARGUMENTS, _colour),)


PLACES = 6  # decimal places in the JSON; far below any uncertainty


@dataclass(frozen=True)
class CheckRequest:
    """What to check and by what."""

    data: bytes
    plan: CheckPlan = field(default_factory=CheckPlan)
    defaults: Defaults = field(default_factory=Defaults)


def check_readings(request: CheckRequest) -> dict[str, object]:
    """One JSON-ready object: readings, model, flags, adjustment, verdict, reason, rejected rows.

    Raises InvalidInput: the file cannot be read, or no row of it could be used.
    """
    read = read_readings(request.data, request.defaults)
    if not read.readings:
        reason = read.rejected[0].reason if read.rejected else "no rows"
        raise InvalidInput("Readings file", f"no usable row ({reason})", "at least one row with two numbers")
    assessment = assess(read.readings, request.plan)
    return _as_data(assessment, decide(assessment), read)


def _as_data(a: Assessment, verdict: Verdict, read: ReadResult) -> dict[str, object]:
    flags = a.flags
    return {
        "readings": [
            {
                "reference_ev100": one.reading.reference_ev100,
                "indicated_ev100": one.reading.indicated_ev100,
                "direction": one.reading.direction,
                "attitude": one.reading.attitude,
                "error_stops": _number(one.error_stops),
                "expanded_uncertainty_stops": _number(one.expanded_uncertainty_stops),
                "tolerance_stops": _number(one.tolerance_stops),
                "state": one.state,
            }
            for one in a.readings
        ],
        "model": _model(a.model, a.fits, a.described),
        "flags": {flag.name: _flag(flag) for flag in (flags.sticky, flags.imbalance, flags.erratic, flags.dead, flags.memory)},
        "adjustment": {
            "stops": _number(a.shift.stops),
            "usable_from_ev100": _number(a.shift.usable_from_ev100),
            "usable_to_ev100": _number(a.shift.usable_to_ev100),
            "worst_error_stops": _number(a.shift.worst_error_stops),
            "half_step_stops": _number(a.half_step.stops),
            "third_step_stops": _number(a.third_step.stops),
            "as_found_from_ev100": _number(a.as_found.usable_from_ev100),
            "as_found_to_ev100": _number(a.as_found.usable_to_ev100),
        },
        "verdict": verdict.kind,
        "reason": f"{verdict.headline}. {verdict.reason}",
        "rejected": [{"line": row.line, "reason": row.reason} for row in read.rejected],
        "rejected_count": read.rejected_count,
    }


def _number(value: float | None) -> float | None:
    return None if value is None else round(float(value), PLACES) + 0.0


def _model(model: ModelFit | None, fits: tuple[ModelFit, ...], described: bool) -> dict[str, object]:
    weights = {fit.kind: _number(fit.weight) for fit in fits}
    needs = {fit.kind: fit.need for fit in fits if not fit.fitted}
    if model is None:
        return {"kind": None, "parameters": {}, "weights": weights, "readings_needed": needs, "described": False}
    values = zip(PARAMETER_NAMES[model.kind], model.parameters, model.uncertainties, strict=True)
    parameters: dict[str, float | None] = {}
    for name, value, uncertainty in values:
        parameters[name] = _number(value)
        parameters[f"u_{name}"] = _number(uncertainty)
    if model.kind == "slope":
        parameters["centre_ev100"] = _number(model.centre_ev100)
    return {
        "kind": model.kind,
        "parameters": parameters,
        "weights": weights,
        "readings_needed": needs,
        "described": described,
        "chi_squared": _number(model.chi2),
    }


def _flag(flag: Flag) -> dict[str, object]:
    return {
        "raised": flag.raised,
        "figure": _number(flag.figure),
        "expanded_uncertainty": _number(flag.expanded_uncertainty),
        "unit": flag.unit,
        "explanation": flag.arithmetic or f"not told: needs {flag.missing}",
    }


CHECK_ARGUMENTS = (
    Option("file", "", type=Path),
    JSON,
    Option("--tolerance", "mid-range tolerance (default 1/3)", "STOPS", "1/3"),
    Option("--tolerance-ends", "tolerance at the ends (default 1/2, or --tolerance if larger)", "STOPS"),
    Option("--u-reference", "standard uncertainty of the reference", "STOPS", "0.05"),
    Option("--u-reading", "standard uncertainty of one reading", "STOPS", "0.06"),
)


def _check(options: Namespace) -> int:
    middle = parse_number(options.tolerance, "--tolerance")
    given = options.tolerance_ends
    ends = max(1 / 2, middle) if given is None else parse_number(given, "--tolerance-ends")
    u_reference = parse_number(options.u_reference, "--u-reference")
    defaults = Defaults(u_reference, parse_number(options.u_reading, "--u-reading"))
    plan = CheckPlan(tolerance=Tolerance(middle, ends))
    result = check_readings(CheckRequest(read_given(options.file, "Readings file"), plan, defaults))
    print(as_json(result) if options.json else f"{result['verdict']}: {result['reason']}")
    if not options.json:
        say_rejected(result)
    return 0


COMMANDS = (Command("check", "judge a meter from a CSV of readings", CHECK_ARGUMENTS, _check),)
