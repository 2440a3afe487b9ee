"""The command ``compare``: two pictures of the same scene, in stops."""

from argparse import Namespace
from dataclasses import asdict
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.core.pictures.compare import Array, compare, grey_stops, slope_of
from violet_dial.core.quantities import parse_number
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.prints import MOST_BYTES, compared_said, picture_of
from violet_dial.services.station import JSON, Command, Option

ARGUMENTS = (
    Option("first", "JPEG, PNG or WebP", type=Path),
    Option("second", "another of the same scene", type=Path),
    Option("--slope", "stops of the print for a stop of light, where it is known", "N", ""),
    Option("--bracket", "two takes that tell the slope", ("DARKER", "BRIGHTER", "STOPS"), nargs=3),
    Option("--grey", "where an 18 %% card is in both, as shares of the picture", "X,Y,W,H", ""),
    Option("--width", "of the print: lengths are then said in mm", "MM", ""),
    JSON,
)


def _picture(path: Path) -> Array:
    return picture_of(read_given(path, "Picture", MOST_BYTES), path.name)


def _bracketed(given: list[str] | None) -> float | None:
    """The slope that a bracketed pair tells; None without one."""
    if given is None:
        return None
    return slope_of(_picture(Path(given[0])), _picture(Path(given[1])), parse_number(given[2], "--bracket"))


def _grey(text: str, first: Array, second: Array) -> dict[str, float]:
    """By how much a card comes out too bright in each; nothing where none was said."""
    if not text:
        return {}
    part = tuple(parse_number(one, "--grey") for one in text.split(","))
    if len(part) != 4:
        raise InvalidInput("--grey", text, "four shares: left, top, width, height")
    return {"first": grey_stops(first, part), "second": grey_stops(second, part)}


def _run(options: Namespace) -> int:
    slope = parse_number(options.slope, "--slope") if options.slope else _bracketed(options.bracket)
    width = parse_number(options.width, "--width") if options.width else None
    if width is not None and not 5 <= width <= 2000:
        raise InvalidInput("--width", f"{width:g} mm", "5 to 2000 mm")
    first, second = _picture(options.first), _picture(options.second)
    grey = _grey(options.grey, first, second)
    found = compare(first, second, slope)
    said = (
        *compared_said(found, width),
        *(f"The card of the {name} comes out at {stops:+.2f} stop." for name, stops in grey.items()),
    )
    if options.json:
        plain = asdict(found)
        for name in ("shake", "double"):
            seen = plain.pop(name)
            mm = None if seen is None or width is None else seen[0] / found.width_px * width
            plain[name] = None if seen is None else {"px": seen[0], "mm": mm, "direction_deg": seen[1]}
        print(as_json({**plain, "slope": slope, "grey_stops": grey, "words": list(said)}))
        return 0
    for line in said:
        print(line)
    return 0


COMMANDS = (Command("compare", "two pictures of the same scene, in stops", ARGUMENTS, _run),)
