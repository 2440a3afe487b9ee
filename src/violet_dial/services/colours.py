"""The colour of the light of a job: its lamp, its cell, what lies before and over them, and the error that follows."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from violet_dial.core.colour import spectra
from violet_dial.core.colour.cells import Family, drawn, middle
from violet_dial.core.colour.mismatch import LightChoice, Mismatch, best_temperature, choices, mismatch, through
from violet_dial.core.colour.spectra import Spectrum
from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Job
from violet_dial.job.light import Colour
from violet_dial.services.spectra import CELLS, cell_named, eye, filter_named, light_named

NONE_KNOWN = "not known"


@dataclass(frozen=True)
class ColourWorked:
    """All that follows: lights with their filters, the cell with what lies over it (``family`` where it is a band), the error,
    the best at hand, the black body that errs least and what it leaves."""

    lamp: Spectrum
    meant_for: Spectrum
    response: Spectrum
    family: Family | None
    error: Mismatch
    choices: tuple[LightChoice, ...]
    best_k: float
    best_left: float


def cell_of(job: Job) -> str:
    """The cell's name: as said, else by the kind of device; empty where neither is known."""
    return job.light.colour.cell or CELLS.get(job.device.cell, "")


def _own(colour: Colour, name: str, kind: str) -> Spectrum | None:
    found = next((one for one in colour.own if one.kind == kind and one.name.lower() == name.strip().lower()), None)
    return None if found is None else spectra.tabled(found.name, np.array(found.nm), np.array(found.values), "brought in")


def light_of(colour: Colour, name: str) -> Spectrum:
    """A light by its name, those brought in first. Raises InvalidInput: no such light."""
    return _own(colour, name, "light") or light_named(name)


def filter_of(colour: Colour, name: str) -> Spectrum:
    """A filter by its name, those brought in first. Raises InvalidInput: no such filter."""
    return _own(colour, name, "filter") or filter_named(name)


def worked(job: Job) -> ColourWorked:
    """What the colour of the light does to this job's readings; worked out once for the same.

    Raises InvalidInput: the cell is not known, or a name that means nothing.
    """
    name = cell_of(job)
    if not name:
        raise InvalidInput("Cell", NONE_KNOWN, "the cell first, for instance: cell selenium")
    return _worked(job.light.colour, name)


@lru_cache(maxsize=32)
def _worked(colour: Colour, name: str) -> ColourWorked:
    cell = _own(colour, name, "cell") or cell_named(name)
    over = tuple(filter_of(colour, one) for one in colour.over)
    lamp = through(light_of(colour, colour.lamp), *(filter_of(colour, one) for one in colour.behind))
    meant_for = light_of(colour, colour.meant_for)
    family = cell if isinstance(cell, Family) else None
    bare = middle(cell) if isinstance(cell, Family) else cell
    response = through(bare, *over)
    if family is not None and over:  # the band goes through what lies over it as well
        response = Spectrum(response.name, response.values, source=family.source, draws=through_all(drawn(family), over))
    judged: Spectrum | Family = response if over or family is None else family
    lamps = tuple(light_of(colour, one) for one in colour.lamps)
    filters = tuple(filter_of(colour, one) for one in colour.filters)
    best_k, left = best_temperature(judged, meant_for, eye())
    return ColourWorked(
        lamp, meant_for, response, family, mismatch(judged, lamp, meant_for, eye()),
        choices(judged, meant_for, lamps, filters, eye()), best_k, left,
    )  # fmt: skip


def through_all(responses: spectra.Array, over: tuple[Spectrum, ...]) -> spectra.Array:
    """Responses, shape (n, grid), behind filters."""
    found = responses
    for one in over:
        found = found * one.values
    return found


def error_said(error: Mismatch) -> str:
    """An error in words: 0.21 stop high, within a band."""
    way = "high" if error.stops > 0 else "low"
    if abs(error.stops) < 0.005 and error.u_stops < 0.005:
        return "as in the light it is meant for"
    band = f" ({error.low:+.2f} to {error.high:+.2f})".replace("-", "−") if error.u_stops >= 0.005 else ""
    return f"{abs(error.stops):.2f} stop {way}{band}" if abs(error.stops) >= 0.005 else f"right{band}"


def reads(job: Job, light: str) -> Mismatch | None:
    """What a job's cell reads under a light, against the one it is meant for; None where its cell is not known.

    Raises InvalidInput: no such light.
    """
    name = cell_of(job)
    return _reads(job.light.colour, name, light) if name else None


@lru_cache(maxsize=64)
def _reads(colour: Colour, name: str, light: str) -> Mismatch:
    found = _worked(colour, name)
    judged: Spectrum | Family = found.response if colour.over or found.family is None else found.family
    return mismatch(judged, light_of(colour, light), found.meant_for, eye())
