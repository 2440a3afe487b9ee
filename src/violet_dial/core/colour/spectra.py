"""Spectra of light, of filters and of cells, on one grid of wavelengths; lights that follow from a formula."""

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import constants

Array = npt.NDArray[np.float64]
STEP_NM = 5.0
GRID_NM: Array = np.arange(300.0, 1100.0 + STEP_NM, STEP_NM)
LEAST_K, MOST_K = 1_000.0, 25_000.0
DAYLIGHT_K = (4_000.0, 25_000.0)  # of correlated temperature, over which CIE daylight is defined

MOST_POINTS = 5_000
DRAWS, SEED = 240, 20  # over a family, the same each time
XENON_NM = (823.0, 882.0, 895.0, 917.0, 980.0)  # its strong lines (from memory)


@cache
def second_radiation_nm_k() -> float:
    """h c / k, nm K."""
    return float(constants.h * constants.c / constants.k * 1e9)


@dataclass(frozen=True, eq=False)
class Spectrum:
    """Values over the grid: relative power of a light, transmittance of a filter, or response of a cell; ``known_nm`` the range
    its source covers, beyond which it is nothing or carried on; ``source`` whence it is; ``draws`` shape (n, grid) over a family,
    where it is known as a band only."""

    name: str
    values: Array
    known_nm: tuple[float, float] = (float(GRID_NM[0]), float(GRID_NM[-1]))
    source: str = ""
    draws: Array | None = None


def tabled(name: str, nm: Array, values: Array, source: str = "") -> Spectrum:
    """A spectrum from a table, straight between its points, nothing beyond them.

    Raises InvalidInput: fewer than three points, wavelengths that do not rise or lie outside, values below 0 or not finite,
    none above 0.

    Parameters
    ----------
    name : what it is called
    nm : float array, shape (n,); nm, rising, 200 to 2500
    values : float array, shape (n,); relative, not negative
    """
    nm, values = np.asarray(nm, float), np.asarray(values, float)
    if nm.ndim != 1 or nm.shape != values.shape or not 3 <= len(nm) <= MOST_POINTS:
        raise InvalidInput(name, f"{len(nm)} wavelengths", f"3 to {MOST_POINTS} wavelengths, a value each")
    if not np.isfinite(nm).all() or not (np.diff(nm) > 0).all():
        raise InvalidInput(f"{name}: wavelength", "not rising", "wavelengths in nm, rising, each once")
    if nm[0] < 200 or nm[-1] > 2500:
        raise InvalidInput(f"{name}: wavelength", f"{nm[0]:g} to {nm[-1]:g}", "200 to 2500 nm")
    if not np.isfinite(values).all() or (values < 0).any():
        raise InvalidInput(f"{name}: value", "negative or not finite", "values of 0 or more")
    found = np.interp(GRID_NM, nm, values, left=0.0, right=0.0)
    if not found.any():
        raise InvalidInput(name, "nothing", f"values above 0 between {GRID_NM[0]:g} and {GRID_NM[-1]:g} nm")
    return Spectrum(name, found, (float(nm[0]), float(nm[-1])), source)


def planck(temperature_k: float) -> Spectrum:
    """Light of a black body, 1 at 560 nm.

    ``temperature_k``: float, K, 1000 to 25000. Raises InvalidInput: another temperature.

    Source: Planck's law with the constants of SciPy (CODATA).

    Example
    -------
    >>> light = planck(2856.0)
    >>> round(float(np.interp(660.0, GRID_NM, light.values)), 3)
    1.719
    """
    _check_k(temperature_k, LEAST_K, MOST_K)
    return Spectrum(f"{temperature_k:g} K", _planck(temperature_k, second_radiation_nm_k()), source="Planck's law")


def _planck(temperature_k: float, c2: float) -> Array:
    at = (560.0 / GRID_NM) ** 5
    return at * math.expm1(c2 / (560.0 * temperature_k)) / np.expm1(c2 / (GRID_NM * temperature_k))


def _check_k(temperature_k: float, least: float, most: float) -> None:
    if not (math.isfinite(temperature_k) and least <= temperature_k <= most):
        raise InvalidInput("Colour temperature", temperature_k, f"{least:g} to {most:g} K")


def illuminant_a() -> Spectrum:
    """CIE standard illuminant A, 100 at 560 nm.

    Source: ISO/CIE 11664-2: 100 (560/nm)^5 (e^(1.435e7/(2848 560)) - 1)/(e^(1.435e7/(2848 nm)) - 1) (from memory; beside the
    table of the colour-science package in the tests).

    Example
    -------
    >>> round(float(np.interp(660.0, GRID_NM, illuminant_a().values)), 3)
    171.963
    """
    return Spectrum("A", 100.0 * _planck(2848.0, 1.435e7), source="ISO/CIE 11664-2")


def daylight(temperature_k: float, components: Array) -> Spectrum:
    """CIE daylight of a correlated colour temperature; beyond 830 nm carried on as a black body of that temperature.

    Raises InvalidInput: another temperature.

    Parameters
    ----------
    temperature_k : float, K, 4000 to 25000
    components : float array, shape (4, n); wavelengths in nm and S0, S1, S2 at them

    Source: CIE 15: chromaticity of daylight, and M1, M2 rounded to three places (from memory; beside the tables of the
    colour-science package in the tests). D55 is 5503 K: the constant of Planck's law was changed since.
    """
    _check_k(temperature_k, *DAYLIGHT_K)
    per = 1e3 / temperature_k
    if temperature_k <= 7000:
        x = -4.6070 * per**3 + 2.9678 * per**2 + 0.09911 * per + 0.244063
    else:
        x = -2.0064 * per**3 + 1.9018 * per**2 + 0.24748 * per + 0.237040
    y = -3.0 * x**2 + 2.870 * x - 0.275
    below = 0.0241 + 0.2562 * x - 0.7341 * y
    m1 = round((-1.3515 - 1.7703 * x + 5.9114 * y) / below, 3)
    m2 = round((0.0300 - 31.4424 * x + 30.0717 * y) / below, 3)
    nm, s0, s1, s2 = components
    table = np.interp(GRID_NM, nm, s0 + m1 * s1 + m2 * s2, left=0.0)
    tail = _planck(temperature_k, second_radiation_nm_k())
    last = float(np.interp(nm[-1], GRID_NM, tail))
    values = np.where(nm[-1] < GRID_NM, tail / last * (s0 + m1 * s1 + m2 * s2)[-1], table)
    return Spectrum(f"daylight {temperature_k:g} K", values, (float(nm[0]), float(nm[-1])), "CIE 15")


def flash(components: Array) -> Spectrum:
    """Electronic flash: a xenon arc of 5500 to 6500 K with its lines in the near infra-red, as a band.

    Parameters
    ----------
    components : float array, shape (4, n); wavelengths in nm and S0, S1, S2 of daylight at them

    Source: From memory: a continuum near daylight's, lines from 820 to 1000 nm of one to three times it. A band, not a line.
    """
    rng = np.random.default_rng(SEED)
    lines = sum(np.exp(-(((GRID_NM - at) / 6.0) ** 2)) for at in XENON_NM)
    several = []
    for kelvin, strong in zip(rng.uniform(5500, 6500, DRAWS), rng.uniform(1.0, 3.0, DRAWS), strict=True):
        base = daylight(float(kelvin), components).values
        several.append(base * (1 + strong * lines))
    draws = np.stack(several)
    return Spectrum("flash", draws.mean(axis=0), (380.0, 780.0), "from memory: a band", draws)


def conversion(mired: float) -> Spectrum:
    """A filter that shifts the colour temperature of a black body by so many mired, 0.9 at its clearest in 400 to 700 nm.

    ``mired``: float; reciprocal megakelvins, bluer is negative (80A -131, 80B -112, 82A -21, 85 +112, 85B +131, 81A +18: from
    memory). Raises InvalidInput: beyond 300 either way.

    Source: By Wien's law the ratio of two black bodies is e^(-c2 (1/T2 - 1/T1)/nm): a curve of one figure. A filter of glass or
    dyed gelatine follows it in the visible only.
    """
    if not (math.isfinite(mired) and abs(mired) <= 300):
        raise InvalidInput("Mired", mired, "-300 to 300")
    values = np.exp(-second_radiation_nm_k() * mired * 1e-6 / GRID_NM)
    seen = (GRID_NM >= 400) & (GRID_NM <= 700)
    values = 0.9 * values / values[seen].max()
    return Spectrum(f"{mired:+g} mired", np.clip(values, 0.0, 0.95), (400.0, 700.0), "a black body's ratio (Wien)")


def density(amount: float) -> Spectrum:
    """A neutral density, as even as its name. ``amount``: float; 0 to 6. Raises InvalidInput: another density."""
    if not (math.isfinite(amount) and 0 <= amount <= 6):
        raise InvalidInput("Density", amount, "0 to 6")
    return Spectrum(f"density {amount:g}", np.full(len(GRID_NM), 10.0**-amount), source="by definition")


def yellowed(loss_at_blue: float) -> Spectrum:
    """A window or a filter that has yellowed: clear in the red, so much lost at 450 nm.

    ``loss_at_blue``: float; share lost at 450 nm, 0 to 0.95. Raises InvalidInput: another share.

    Source: Absorption that falls by e each 60 nm, as aged varnish and plastic have it: common practice, no source.
    """
    if not (math.isfinite(loss_at_blue) and 0 <= loss_at_blue <= 0.95):
        raise InvalidInput("Yellowed", loss_at_blue, "0 to 0.95 lost at 450 nm")
    strength = -math.log(1 - loss_at_blue)
    values = np.exp(-strength * np.exp(-(GRID_NM - 450.0) / 60.0))
    return Spectrum(f"yellowed {loss_at_blue:.0%}", values, source="common practice, no source")
