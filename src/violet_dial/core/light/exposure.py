"""Exposure quantities both ways: EV, EV100, luminance, illuminance, aperture, time, film speed.

All functions work on scalars and arrays alike (NumPy broadcasting) and keep exposure in EV (base-2 logarithm).

Source: ISO 2720:1974 [memory] for N^2/t = L S / K and N^2/t = E S / C and the ranges of K and C; ISO 6 and ISO 5800 [memory]
for film-speed degrees.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import DEFAULT_C_FLAT, DEFAULT_K

Number = float | npt.NDArray[np.float64]

K_RANGE = (10.6, 14.0)  # ISO 2720:1974 gives 10.6 to 13.4 [memory]; 14 is also in use [practice]
C_FLAT_RANGE = (240.0, 400.0)  # flat receptor, ISO 2720:1974 [memory]
C_DOME_RANGE = (320.0, 540.0)  # domed receptor, ISO 2720:1974 [memory]
STOPS_PER_DENSITY = math.log2(10.0)


@dataclass(frozen=True)
class Constants:
    """The meter constants a conversion uses: K in cd s/m^2, C in lx s."""

    k_cd_s_m2: float = DEFAULT_K
    c_lx_s: float = DEFAULT_C_FLAT

    def __post_init__(self) -> None:
        _within("K", self.k_cd_s_m2, K_RANGE, "cd s/m²")
        _within("C", self.c_lx_s, (C_FLAT_RANGE[0], C_DOME_RANGE[1]), "lx s")


def _within(field: str, value: float, limits: tuple[float, float], unit: str) -> None:
    if not (math.isfinite(value) and limits[0] <= value <= limits[1]):
        raise InvalidInput(field, value, f"{limits[0]:g} to {limits[1]:g} {unit}")


def _positive(field: str, value: Number) -> Number:
    array = np.asarray(value, dtype=float)
    if not np.all(np.isfinite(array) & (array > 0)):
        raise InvalidInput(field, value, "a finite number above zero")
    return value


def ev_from_settings(f_number: Number, time_s: Number) -> Number:
    """Exposure value of an aperture and a time: log2(N^2/t), broadcast over both.

    Example
    -------
    Parameters
    ----------
    f_number : relative aperture, without unit; any shape that broadcasts
    time_s : exposure time, s; any shape that broadcasts

    >>> float(ev_from_settings(8.0, 1 / 64))
    12.0
    """
    return np.log2(np.square(_positive("Aperture", f_number)) / _positive("Time", time_s))


def time_for(ev: Number, f_number: Number) -> Number:
    """Time in seconds that gives ``ev`` at aperture ``f_number``."""
    return np.square(_positive("Aperture", f_number)) / np.exp2(ev)


def ev100_from_ev(ev: Number, film_speed: Number) -> Number:
    """EV referred to ISO 100 from the EV at arithmetic film speed ``film_speed``.

    ``ev``: exposure value at the film speed; any shape.
    """
    return ev - np.log2(_positive("Film speed", film_speed) / np.float64(100.0))


def ev_from_ev100(ev100: Number, film_speed: Number) -> Number:
    """EV at arithmetic film speed ``film_speed`` from EV100. ``ev100``: exposure value at ISO 100; any shape."""
    return ev100 + np.log2(_positive("Film speed", film_speed) / np.float64(100.0))


def ev100_from_luminance(luminance_cd_m2: Number, k_cd_s_m2: float = DEFAULT_K) -> Number:
    """EV100 that a correct reflected-light meter shows at a luminance in cd/m^2.

    Example
    -------
    Parameters
    ----------
    luminance_cd_m2 : cd/m²; any shape that broadcasts
    k_cd_s_m2 : calibration constant K of reflected-light meters, cd s/m² (ISO 2720: 10.6 to 13.4)

    >>> float(ev100_from_luminance(4096.0))
    15.0
    """
    _within("K", k_cd_s_m2, K_RANGE, "cd s/m²")
    return np.log2(_positive("Luminance", luminance_cd_m2) * np.float64(100.0 / k_cd_s_m2))


def luminance_from_ev100(ev100: Number, k_cd_s_m2: float = DEFAULT_K) -> Number:
    """Luminance in cd/m^2 at which a correct reflected-light meter shows ``ev100``.

    ``k_cd_s_m2``: calibration constant K of reflected-light meters, cd s/m² (ISO 2720: 10.6 to 13.4).
    """
    _within("K", k_cd_s_m2, K_RANGE, "cd s/m²")
    return np.exp2(ev100) * (k_cd_s_m2 / 100.0)


def ev100_from_illuminance(illuminance_lx: Number, c_lx_s: float = DEFAULT_C_FLAT) -> Number:
    """EV100 that a correct incident-light meter shows at an illuminance in lux.

    Example
    -------
    Parameters
    ----------
    illuminance_lx : lx; any shape
    c_lx_s : calibration constant C of incident-light meters, lx s (ISO 2720: 240 to 400 with a flat receptor)

    >>> round(float(ev100_from_illuminance(10240.0)), 6)
    12.0
    """
    _within("C", c_lx_s, (C_FLAT_RANGE[0], C_DOME_RANGE[1]), "lx s")
    return np.log2(_positive("Illuminance", illuminance_lx) * np.float64(100.0 / c_lx_s))


def illuminance_from_ev100(ev100: Number, c_lx_s: float = DEFAULT_C_FLAT) -> Number:
    """Illuminance in lux at which a correct incident-light meter shows ``ev100``.

    ``c_lx_s``: calibration constant C of incident-light meters, lx s (ISO 2720: 240 to 400 with a flat receptor).
    """
    _within("C", c_lx_s, (C_FLAT_RANGE[0], C_DOME_RANGE[1]), "lx s")
    return np.exp2(ev100) * (c_lx_s / 100.0)


def degrees_from_speed(film_speed: Number) -> Number:
    """Logarithmic film speed in degrees: 1 + 10 log10(S), not rounded. ``film_speed``: ISO, arithmetic; any shape."""
    return 1.0 + 10.0 * np.log10(_positive("Film speed", film_speed))


def point_source_illuminance(intensity_cd: Number, distance_m: Number) -> Number:
    """Illuminance in lux from a point-like lamp: I/d^2.

    Parameters
    ----------
    intensity_cd : cd; any shape that broadcasts
    distance_m : from source to receiver, m; any shape that broadcasts
    """
    return _positive("Intensity", intensity_cd) / np.square(_positive("Distance", distance_m))


def disc_source_illuminance(luminance_cd_m2: Number, radius_m: Number, distance_m: Number) -> Number:
    """Illuminance in lux on the axis of an evenly bright matt disc: pi L r^2/(r^2 + d^2).

    Parameters
    ----------
    luminance_cd_m2 : cd/m²; any shape that broadcasts
    radius_m : of the disc, m; any shape that broadcasts
    distance_m : from source to receiver, m; any shape that broadcasts
    """
    r2 = np.square(_positive("Radius", radius_m))
    d2 = np.square(_positive("Distance", distance_m))
    illuminance_lx: Number = math.pi * _positive("Luminance", luminance_cd_m2) * r2 / (r2 + d2)
    return illuminance_lx


def stops_of_density(density: Number) -> Number:
    """Stops of light that a neutral density takes away: D / log10(2)."""
    return np.asarray(density, dtype=float) * STOPS_PER_DENSITY
