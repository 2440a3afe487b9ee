"""Acts at Colour: the lamp, the cell, what lies before and over them; the correction put into the chain; spectra brought in."""

import re
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from violet_dial.core.colour.spectra import GRID_NM, tabled
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import Correction
from violet_dial.job.act import Act, ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.light import Colour, OwnSpectrum
from violet_dial.services.colours import error_said, filter_of, light_of, worked
from violet_dial.services.spectra import MOST_BYTES, cell_named, spectrum_of
from violet_dial.services.station import FileIn, Listing

EXPECTED = (
    "lamp A (or 3200 K, daylight 5500 K, flash, FL2, LED-B3) · behind 80A, density 0.9 · for D55 · cell selenium · over "
    "yellowed 20 % · "
    "at hand A, LED-B3 with 80A · correct (into the chain) · uncorrect"
)
MOST_AT_HAND, MOST_POINTS = 20, 2_000
REASON = "colour of the light"


def understand(job: Job, text: str) -> Understood:
    """A line typed at Colour. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().split())
    for pattern, read in _LINES:
        if match := re.fullmatch(pattern, low, re.IGNORECASE):
            return read(job, match)
    raise InvalidInput("Colour", low or "nothing", EXPECTED)


def _changed(words: str, **change: object) -> Understood:
    def act(job: Job, at: str) -> ActResult:
        colour = replace(job.light.colour, **change)  # type: ignore[arg-type]
        return ActResult(replace(job, light=replace(job.light, colour=colour)), "Light", words[:1].upper() + words[1:])

    return Understood(f"= {words}", act)


def _names(text: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(part.strip() for part in text.split(",") if part.strip()))


def _lamp(job: Job, match: re.Match[str]) -> Understood:
    found = light_of(job.light.colour, match[1])
    return _changed(f"checked under {found.name}", lamp=match[1].strip())


def _behind(job: Job, match: re.Match[str]) -> Understood:
    names = () if match[1].lower() == "nothing" else _names(match[1])
    for name in names:
        filter_of(job.light.colour, name)
    return _changed(f"the lamp behind {', '.join(names) or 'nothing'}", behind=names)


def _meant(job: Job, match: re.Match[str]) -> Understood:
    found = light_of(job.light.colour, match[1])
    return _changed(f"meant for {found.name}", meant_for=match[1].strip())


def _cell(job: Job, match: re.Match[str]) -> Understood:
    own = any(one.kind == "cell" and one.name.lower() == match[1].strip().lower() for one in job.light.colour.own)
    if not own:
        cell_named(match[1])
    return _changed(f"the cell: {match[1].strip()}", cell=match[1].strip())


def _over(job: Job, match: re.Match[str]) -> Understood:
    names = () if match[1].lower() == "nothing" else _names(match[1])
    for name in names:
        filter_of(job.light.colour, name)
    return _changed(f"over the cell: {', '.join(names) or 'nothing'}", over=names)


def _at_hand(job: Job, match: re.Match[str]) -> Understood:
    lamps, filters = _names(match[1]), _names(match[2] or "")
    for lamp in lamps:
        light_of(job.light.colour, lamp)
    for one in filters:
        filter_of(job.light.colour, one)
    if not lamps or len(lamps) > MOST_AT_HAND or len(filters) > MOST_AT_HAND:
        raise InvalidInput("At hand", len(lamps), f"1 to {MOST_AT_HAND} lamps, and as many filters")
    said = f"at hand: {', '.join(lamps)}" + (f" with {', '.join(filters)}" if filters else "")
    return _changed(said, lamps=lamps, filters=filters)


def _correct(job: Job, match: re.Match[str]) -> Understood:
    found = worked(job).error
    link = Correction(stops=round(found.stops, 4), u_stops=max(round(found.u_stops, 4), 0.005), reason=REASON)

    def act(job: Job, at: str) -> ActResult:
        return _with_links(job, (*_others(job), link), f"Colour of the light into the chain: {found.stops:+.2f} stop")

    return Understood(f"= into the chain: what falls counts as {error_said(found)}", act)


def _uncorrect(job: Job, match: re.Match[str]) -> Understood:
    return Understood(
        "= out of the chain", lambda job, at: _with_links(job, _others(job), "Colour of the light out of the chain")
    )


def _others(job: Job) -> tuple[object, ...]:
    links = job.light.setup.chain.links
    return tuple(link for link in links if not (isinstance(link, Correction) and link.reason == REASON))


def _with_links(job: Job, links: tuple[object, ...], words: str) -> ActResult:
    setup = job.light.setup
    chain = replace(setup.chain, links=links)  # type: ignore[arg-type]
    return ActResult(replace(job, light=replace(job.light, setup=replace(setup, chain=chain))), "Light", words)


def in_chain(job: Job) -> bool:
    """Whether the correction stands in the chain."""
    return len(_others(job)) < len(job.light.setup.chain.links)


def take_spectrum(job: Job, own: OwnSpectrum) -> ActResult:
    """A spectrum brought in, and put to use as what it is of."""
    colour = job.light.colour
    rest = tuple(one for one in colour.own if (one.kind, one.name) != (own.kind, own.name))
    if own.kind == "filter":
        put: dict[str, object] = {"behind": tuple(dict.fromkeys((*colour.behind, own.name)))}
    else:
        put = {"lamp" if own.kind == "light" else "cell": own.name}
    changed: Colour = replace(colour, own=(*rest, own), **put)  # type: ignore[arg-type]
    return ActResult(replace(job, light=replace(job.light, colour=changed)), "Light", f"Spectrum of a {own.kind}: {own.name}")


def _read(job: Job, name: str, data: bytes) -> tuple[Listing | None, Act]:
    found = spectrum_of(data, name)
    low = name.lower()
    kind = "cell" if "cell" in low or "response" in low else "filter" if "filter" in low else "light"
    used = np.flatnonzero(found.values)
    own = OwnSpectrum(found.name, kind, tuple(GRID_NM[used].tolist()), tuple(found.values[used].tolist()))  # type: ignore[arg-type]
    tabled(own.name, np.array(own.nm), np.array(own.values))
    return None, lambda one, at: take_spectrum(one, own)


Read = Callable[[Job, re.Match[str]], Understood]
_LINES: tuple[tuple[str, Read], ...] = (
    (r"lamp (.+)", _lamp),
    (r"behind (.+)", _behind),
    (r"(?:meant )?for (.+)", _meant),
    (r"cell (.+)", _cell),
    (r"over (.+)", _over),
    (r"at hand (.+?)(?: with (.+))?", _at_hand),
    (r"correct", _correct),
    (r"uncorrect", _uncorrect),
)
FILE_IN = FileIn(
    "A spectrum: wavelength_nm and value; cell or filter in its name says what it is of", "Spectra (*.csv)", _read,
    most_bytes=MOST_BYTES,
)  # fmt: skip
