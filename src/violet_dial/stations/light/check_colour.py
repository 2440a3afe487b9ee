"""The command ``colour``: what the colour of a light does to a meter's reading."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.colour.cells import Family
from violet_dial.core.colour.mismatch import Mismatch, best_temperature, choices, mismatch, through
from violet_dial.core.colour.spectra import Spectrum
from violet_dial.services.colours import error_said
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
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
from violet_dial.services.station import JSON, Command, Option


def _file(text: str) -> Spectrum | None:
    """A spectrum from a file, where a name ends in .csv."""
    if not text.lower().endswith(".csv"):
        return None
    return spectrum_of(read_given(Path(text), "Spectrum", MOST_BYTES), text)


def _light(text: str) -> Spectrum:
    return _file(text) or light_named(text)


ARGUMENTS = (
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


def _run(options: Namespace) -> int:
    cell: Spectrum | Family = _file(options.cell) or cell_named(options.cell)
    before = [_file(one) or filter_named(one) for one in options.filter]
    used, calibrated = through(_light(options.source), *before), _light(options.calibrated)
    lamps = tuple(_light(part.strip()) for part in options.lamps.split(",") if part.strip())
    filters = tuple(
        _file(part.strip()) or filter_named(part.strip()) for part in options.filters.split(",") if part.strip()
    )
    found = mismatch(cell, used, calibrated, eye())
    best_k, left = best_temperature(cell, calibrated, eye())
    best = choices(cell, calibrated, lamps, filters, eye())
    if options.json:
        print(as_json({
            "source": used.name, "cell": cell.name, "calibrated": calibrated.name, **_plain(found), "words": error_said(found),
            "best_temperature_k": best_k, "best_temperature_error_stops": left,
            "choices": [{"lamp": one.lamp, "filter": one.filter or None, "loss_stops": one.loss_stops, **_plain(one.mismatch)}
                        for one in best],
        }))  # fmt: skip
        return 0
    print(f"Under {used.name} it reads {error_said(found)}, being right under {calibrated.name}.")
    for one in best[:3]:
        print(f"{one.lamp}, {one.filter or 'bare'}: {error_said(one.mismatch)}.")
    return 0


def _plain(one: Mismatch) -> dict[str, float]:
    return {"error_stops": one.stops, "u_stops": one.u_stops, "low_stops": one.low, "high_stops": one.high}


COMMANDS = (Command("colour", "what the colour of a light does to a meter's reading", ARGUMENTS, _run),)
