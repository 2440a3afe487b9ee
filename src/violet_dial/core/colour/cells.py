"""Responses of cells as families: from a published table a line, from memory and family lore a band."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.colour.spectra import DRAWS, GRID_NM, SEED, Spectrum

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Bell:
    """A response with its peak and its half widths at half of it, nm, each with its standard deviation over the family."""

    peak_nm: float
    left_nm: float
    right_nm: float
    u_peak_nm: float
    u_left_nm: float
    u_right_nm: float


@dataclass(frozen=True)
class Family:
    """A kind of cell. ``bell`` None where it is a curve from a table; ``source`` whence it is."""

    name: str
    words: str
    bell: Bell | None
    source: str


# Peaks and widths: from memory of data sheets and handbooks, as bands; common practice, no source.
MEMORY = "family lore, from memory: a band"
FAMILIES: tuple[Family, ...] = (
    Family("selenium", "selenium, bare", Bell(570.0, 120.0, 78.0, 10.0, 15.0, 8.0), MEMORY),
    Family("selenium filtered", "selenium behind a green filter", Bell(556.0, 58.0, 54.0, 5.0, 6.0, 5.0), MEMORY),
    Family("cds 515", "CdS, green", Bell(515.0, 55.0, 45.0, 10.0, 8.0, 8.0), MEMORY),
    Family("cds", "CdS, as in most meters", Bell(560.0, 65.0, 60.0, 15.0, 10.0, 10.0), MEMORY),
    Family("cds 620", "CdSSe, red", Bell(620.0, 75.0, 60.0, 15.0, 12.0, 10.0), MEMORY),
    Family("silicon", "silicon, bare", Bell(880.0, 260.0, 110.0, 30.0, 30.0, 15.0), MEMORY),
    Family("silicon blue", "silicon, blue-corrected", Bell(560.0, 62.0, 62.0, 8.0, 8.0, 8.0), MEMORY),
)


def bell_curve(peak_nm: float, left_nm: float, right_nm: float) -> Array:
    """A response over the grid: half of its peak at its half widths, each side by itself.

    ``peak_nm``, ``left_nm``, ``right_nm``: float, nm, above 0.

    Returns
    -------
    float array, shape of the grid; 1 at the peak
    """
    off = GRID_NM - peak_nm
    wide = np.where(off < 0, left_nm, right_nm)
    found: Array = np.exp(-np.log(2.0) * (off / wide) ** 2)
    return found


def middle(family: Family) -> Spectrum:
    """The response in the middle of a family. ``family``: Family with a bell."""
    bell = family.bell
    if bell is None:
        raise ValueError(f"{family.name} is a table")
    return Spectrum(family.name, bell_curve(bell.peak_nm, bell.left_nm, bell.right_nm), source=family.source)


def drawn(family: Family) -> Array:
    """Responses over a family, drawn with a fixed seed: the same band each time.

    ``family``: Family with a bell.

    Returns
    -------
    float array, shape (240, grid)
    """
    bell = family.bell
    if bell is None:
        raise ValueError(f"{family.name} is a table")
    rng = np.random.default_rng(SEED + 1)
    middle_of = np.array([bell.peak_nm, bell.left_nm, bell.right_nm])
    spread = np.array([bell.u_peak_nm, bell.u_left_nm, bell.u_right_nm])
    several = middle_of + spread * rng.standard_normal((DRAWS, 3))
    several[:, 1:] = np.maximum(several[:, 1:], 10.0)
    return np.stack([bell_curve(*one) for one in several.tolist()])
