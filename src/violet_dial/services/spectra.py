"""Lights, filters and cells by their names: the tables that ship, formulas, and spectra from CSV."""

import re
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from violet_dial.core.colour import spectra
from violet_dial.core.colour.cells import FAMILIES, Family
from violet_dial.core.colour.spectra import Spectrum
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.job.csv_text import Cells, Names, table_of

TABLES = Path(__file__).parent.parent / "assets" / "spectra"
LAMPS = {  # how a technician calls them: the table's column
    "FL2": "cool white fluorescent", "FL7": "daylight fluorescent", "FL11": "three-band fluorescent", "LED-B1": "LED 2700 K",
    "LED-B3": "LED 4100 K", "LED-B5": "LED 6600 K", "LED-V1": "violet-pumped LED",
}  # fmt: skip
D_KELVIN = {"D50": 5003.0, "D55": 5503.0, "D65": 6504.0}  # of the constant of Planck's law as it is now
MIRED = {"80A": -131.0, "80B": -112.0, "80C": -81.0, "82A": -21.0, "81A": 18.0, "85": 112.0, "85B": 131.0}  # from memory
CELLS: dict[str, str] = {"selenium": "selenium", "CdS": "cds", "silicon": "silicon blue"}  # of a device, to its family
LIGHTS_SAID = "A, D50, D55, D65, daylight 5500 K, 3200 K, flash, FL2, FL7, FL11, LED-B1, LED-B3, LED-B5, LED-V1"
FILTERS_SAID = "80A, 80B, 80C, 82A, 81A, 85, 85B, mired -100, density 0.9, yellowed 20 %"
MOST_BYTES = 1_000_000
Array = npt.NDArray[np.float64]


@lru_cache(maxsize=4)
def _columns(name: str) -> tuple[tuple[str, ...], Array]:
    """A table that ships: names of its columns, and them."""
    lines = (TABLES / name).read_text(encoding="utf-8").splitlines()
    head = tuple(lines[1].split(","))
    return head, np.array([[float(cell) for cell in line.split(",")] for line in lines[2:]]).T


@lru_cache(maxsize=1)
def eye() -> Spectrum:
    """V(lambda)."""
    _head, (nm, v) = _columns("photopic.csv")
    return spectra.tabled("V(lambda)", nm, v, "ISO/CIE 11664-1")


@lru_cache(maxsize=64)
def light_named(text: str) -> Spectrum:
    """A light by its name. Raises InvalidInput: no such light."""
    said = " ".join(text.strip().split())
    low = said.lower()
    components = _columns("daylight.csv")[1]
    if low in ("a", "tungsten", "incandescent", "illuminant a"):
        return spectra.illuminant_a()
    if low == "flash":
        return spectra.flash(components)
    if (name := said.upper()) in D_KELVIN:
        found = spectra.daylight(D_KELVIN[name], components)
        return Spectrum(name, found.values, found.known_nm, found.source)
    head, table = _columns("lamps.csv")
    if (name := said.upper()) in head[1:]:
        return spectra.tabled(name, table[0], table[head.index(name)], "CIE 15")
    if match := re.fullmatch(r"(?:(daylight|tungsten|planck|lamp) ?)?([\d.,]+) ?k", low):
        kelvin = parse_number(match[2], "Colour temperature")
        return spectra.daylight(kelvin, components) if match[1] == "daylight" else spectra.planck(kelvin)
    if low == "daylight":
        return light_named("D55")
    raise InvalidInput("Light", text, f"one of {LIGHTS_SAID}, or a CSV of wavelength_nm and value")


def filter_named(text: str) -> Spectrum:
    """A filter by its name. Raises InvalidInput: no such filter."""
    low = " ".join(text.strip().lower().split())
    if (name := low.upper()) in MIRED:
        found = spectra.conversion(MIRED[name])
        return Spectrum(name, found.values, found.known_nm, f"{found.source}; shift from memory")
    if match := re.fullmatch(r"mired ([+-]?[\d.]+)", low):
        return spectra.conversion(parse_number(match[1], "Mired"))
    if match := re.fullmatch(r"(?:nd|density) ?([\d.,]+)", low):
        return spectra.density(parse_number(match[1], "Density"))
    if match := re.fullmatch(r"yellowed ([\d.,]+) ?%", low):
        return spectra.yellowed(parse_number(match[1], "Yellowed") / 100)
    raise InvalidInput("Filter", text, f"one of {FILTERS_SAID}, or a CSV of wavelength_nm and value")


def cell_named(text: str) -> Spectrum | Family:
    """A cell by its name: V(lambda) as a curve, the others as families. Raises InvalidInput: no such cell."""
    low = " ".join(text.strip().lower().split())
    if low in ("v", "v(lambda)", "eye", "photopic"):
        return eye()
    found = next((family for family in FAMILIES if family.name == low), None)
    if found is None:
        raise InvalidInput("Cell", text, f"V(lambda), {', '.join(family.name for family in FAMILIES)}, or a CSV")
    return found


def spectrum_of(data: bytes, name: str) -> Spectrum:
    """A spectrum from the bytes of a CSV: ``wavelength_nm`` and ``value``.

    Raises InvalidInput: not such a table, a row that cannot be understood, or a spectrum with negative or unsorted values.
    """
    known = Names(("wavelength_nm", "value"), (), {"nm": "wavelength_nm", "wavelength": "wavelength_nm", "power": "value",
                  "response": "value", "transmittance": "value"})  # fmt: skip
    offered = table_of(data, name, known).offer(_point)
    if offered.rejected:
        first = offered.rejected[0]
        raise InvalidInput(name, f"line {first.line}", f"rows that can be understood ({first.reason})")
    points = np.array(offered.found) if offered.found else np.zeros((0, 2))
    return spectra.tabled(name.rsplit("/", 1)[-1].rsplit(".", 1)[0][:40], points[:, 0], points[:, 1], name)


def _point(cell: Cells) -> tuple[float, float]:
    return parse_number(cell("wavelength_nm"), "wavelength_nm"), parse_number(cell("value"), "value")
