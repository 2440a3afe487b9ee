"""What the colour of a light does to a reading: a meter right under one light, used under another."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.colour.cells import Family, drawn, middle
from violet_dial.core.colour.spectra import Spectrum, planck
from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import optimize

Array = npt.NDArray[np.float64]
LEAST_SHARE = 1e-6  # of what a cell would see of an even light: less is darkness to it
COOLEST_K, HOTTEST_K, STEPS = 1_800.0, 8_000.0, 60  # of lamps
TUNGSTEN_K = 2_856.0


@dataclass(frozen=True)
class Mismatch:
    """Error in stops (positive: it reads high, pictures come out dark), its standard uncertainty over the families of cell and
    light, and the band that holds 95 % of it."""

    stops: float
    u_stops: float
    low: float
    high: float


@dataclass(frozen=True)
class LightChoice:
    """A lamp with a filter (empty: none): what it leaves, and how much light the filter takes, in stops."""

    lamp: str
    filter: str
    mismatch: Mismatch
    loss_stops: float


def seen(light: Spectrum, response: Array) -> Array:
    """What cells see of a light, by the rectangle rule on the grid.

    Parameters
    ----------
    response : float array, shape (..., grid)

    Returns
    -------
    float array, shape (...)
    """
    return np.asarray(response) @ light.values


def ratio(light: Spectrum, response: Array, eye: Spectrum) -> Array:
    """What cells see of a light for each lux of it.

    Raises InvalidInput: a light that the eye or the cell does not see.

    Parameters
    ----------
    response : float array, shape (..., grid)
    eye : Spectrum; V(lambda)
    """
    lux, cell = float(seen(light, eye.values)), seen(light, response)
    if lux <= LEAST_SHARE * light.values.sum() or np.any(cell <= LEAST_SHARE * light.values.sum()):
        raise InvalidInput("Light", light.name, "a light that the eye and the cell see")
    return cell / lux


def _over(light: Spectrum, response: Array, eye: Spectrum) -> Array:
    """`ratio` over the draws of a light and of a cell, pair by pair."""
    if light.draws is None:
        return ratio(light, response, eye)
    found: Array = (light.draws * response).sum(axis=-1) / (light.draws @ eye.values)
    return found


def mismatch(cell: Spectrum | Family, used: Spectrum, calibrated: Spectrum, eye: Spectrum) -> Mismatch:
    """The error of a meter that is right under ``calibrated``, read under ``used`` at as many lux.

    Raises InvalidInput: a light that the eye or the cell does not see.

    Parameters
    ----------
    cell : a response, or a family of them
    used, calibrated : Spectrum; relative power
    eye : Spectrum; V(lambda)

    Source: log2 of (cell/eye under the light used) over (cell/eye under the light of the calibration).
    """
    response = cell.values if isinstance(cell, Spectrum) else middle(cell).values
    stops = float(np.log2(ratio(used, response, eye) / ratio(calibrated, response, eye)))
    whole = drawn(cell) if isinstance(cell, Family) else response if cell.draws is None else cell.draws
    if whole.ndim == 1 and used.draws is None and calibrated.draws is None:
        return Mismatch(stops, 0.0, stops, stops)
    several = np.log2(_over(used, whole, eye) / _over(calibrated, whole, eye))
    low, high = np.quantile(several, [0.025, 0.975]).tolist()
    return Mismatch(stops, float(several.std(ddof=1)), min(low, stops), max(high, stops))


def through(light: Spectrum, *filters: Spectrum) -> Spectrum:
    """A light behind filters."""
    values, draws, name = light.values, light.draws, light.name
    for one in filters:
        values, name = values * one.values, f"{name} behind {one.name}"
        draws = draws * one.values if draws is not None else None
    return Spectrum(name, values, light.known_nm, light.source, draws)


def loss_stops(light: Spectrum, one: Spectrum, eye: Spectrum) -> float:
    """Stops of light to the eye that a filter takes.

    ``light``, ``one``, ``eye``: Spectrum; the light, the filter, V(lambda).
    """
    return float(np.log2(seen(light, eye.values) / max(float(seen(through(light, one), eye.values)), 1e-300)))


def choices(
    cell: Spectrum | Family, calibrated: Spectrum, lamps: tuple[Spectrum, ...], filters: tuple[Spectrum, ...], eye: Spectrum
) -> tuple[LightChoice, ...]:
    """Every lamp bare and behind each filter, that with the least error (and its doubt) first.

    Parameters
    ----------
    cell : a response, or a family of them
    eye : Spectrum; V(lambda)
    """
    found = []
    for lamp in lamps:
        found.append(LightChoice(lamp.name, "", mismatch(cell, lamp, calibrated, eye), 0.0))
        for one in filters:
            behind = mismatch(cell, through(lamp, one), calibrated, eye)
            found.append(LightChoice(lamp.name, one.name, behind, loss_stops(lamp, one, eye)))
    return tuple(sorted(found, key=lambda one: math.hypot(one.mismatch.stops, one.mismatch.u_stops)))


def best_temperature(cell: Spectrum | Family, calibrated: Spectrum, eye: Spectrum) -> tuple[float, float]:
    """The temperature of a black body that errs least for this cell, K, and the error it leaves, stops; of several, that
    nearest to a tungsten lamp's.

    Parameters
    ----------
    cell : a response, or a family of them
    eye : Spectrum; V(lambda)
    """
    response = cell.values if isinstance(cell, Spectrum) else middle(cell).values
    wanted = float(ratio(calibrated, response, eye))

    def off(temperature_k: float) -> float:
        return float(np.log2(ratio(planck(temperature_k), response, eye) / wanted))

    grid = np.geomspace(COOLEST_K, HOTTEST_K, STEPS)
    errors = np.array([off(one) for one in grid.tolist()])
    roots = [
        float(optimize.brentq(off, low, high, xtol=0.5))
        for low, high, first, last in zip(grid[:-1], grid[1:], errors[:-1], errors[1:], strict=True)
        if first * last <= 0
    ]
    near = roots or [float(grid[int(np.argmin(np.abs(errors)))])]
    best = min(near, key=lambda one: abs(1 / one - 1 / TUNGSTEN_K))
    return best, off(best)
