"""Response models of a meter: how its error runs with the light, fitted and compared.

Every model but ``true`` is ``a + shape(x; p)``: linear in ``a``, with at most one further parameter. The fit is
weighted least squares with the stated uncertainties; the parameter ``p`` is found by a search over its whole
permitted range on ever finer grids, so that no starting guess is needed.

Source
------
AICc: Hurvich and Tsai, Biometrika 76 (1989) 297 [memory]; weights and model averaging: Burnham and Anderson,
Model Selection and Multimodel Inference (2002) [memory].
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from violet_dial.core.calibration.readings import Array, Table

Parameter = float | Array  # one value, or shape (p, 1) for many at once
ModelKind = Literal["true", "even", "slope", "low_falloff", "low_lift", "high_compression"]
KINDS: tuple[ModelKind, ...] = ("true", "even", "slope", "low_falloff", "low_lift", "high_compression")
PARAMETER_NAMES: dict[ModelKind, tuple[str, ...]] = {
    "true": (),
    "even": ("offset_stops",),
    "slope": ("offset_stops", "slope_stops_per_ev"),
    "low_falloff": ("offset_stops", "dark_ev100"),
    "low_lift": ("offset_stops", "dark_ev100"),
    "high_compression": ("offset_stops", "bright_ev100"),
}
SEARCH_POINTS = 120  # grid over the permitted range of the shape parameter
ZOOM_POINTS = 21  # each finer grid is ten times finer than the one before
FINEST_EV = 1e-6  # far below any uncertainty of a shape parameter
REACH_EV = 6.0  # how far beyond the readings a shape parameter may lie
CLOSEST_EV = 0.02  # a fall-off begins at least this far below the dimmest reading
_STEP = 1e-5  # EV, for the slope of a shape with its parameter


@dataclass(frozen=True)
class ModelFit:
    """One fitted model, or the count of readings it still needs.

    ``parameters`` in the order of `PARAMETER_NAMES`, ``covariance`` row by row; ``chi2`` weighted sum of squares;
    ``aicc`` and ``weight`` are None and 0 when there are too few readings.
    """

    kind: ModelKind
    parameters: tuple[float, ...] = ()
    covariance: tuple[tuple[float, ...], ...] = ()
    centre_ev100: float = 0.0
    chi2: float = math.inf
    aicc: float | None = None
    weight: float = 0.0
    need: int = 0

    @property
    def fitted(self) -> bool:
        return self.aicc is not None

    @property
    def uncertainties(self) -> tuple[float, ...]:
        """Standard uncertainty of each parameter, in its own unit."""
        return tuple(math.sqrt(self.covariance[i][i]) for i in range(len(self.parameters)))


def low_falloff(x: Array, dark_ev100: Parameter) -> Array:
    """log2(1 - 2^(d - x)): a leak takes a fixed part of the current; -inf at and below ``dark_ev100``."""
    with np.errstate(divide="ignore", invalid="ignore"):
        kept = -np.expm1((dark_ev100 - x) * math.log(2.0))
        return np.where(kept > 0, np.log2(np.maximum(kept, 1e-300)), -np.inf)


def low_lift(x: Array, dark_ev100: Parameter) -> Array:
    """log2(1 + 2^(d - x)): a fixed current is added.

    Parameters
    ----------
    dark_ev100 : where the dim end gives way, EV100; any shape
    """
    return np.log1p(np.exp2(dark_ev100 - x)) / math.log(2.0)


def high_compression(x: Array, bright_ev100: Parameter) -> Array:
    """-log2(1 + 2^(x - c)): series resistance flattens bright light.

    Parameters
    ----------
    bright_ev100 : where the bright end gives way, EV100; any shape
    """
    return -np.log1p(np.exp2(x - bright_ev100)) / math.log(2.0)


_SHAPES: dict[ModelKind, Callable[[Array, Parameter], Array]] = {
    "low_falloff": low_falloff, "low_lift": low_lift, "high_compression": high_compression,
}  # fmt: skip


def _shape(kind: ModelKind, x: Array, parameter: Parameter, centre: float) -> Array:
    if kind == "slope":
        return (x - centre) * parameter
    return _SHAPES[kind](x, parameter)


def readings_needed(kind: ModelKind) -> int:
    """Fewest readings for which AICc of the model is finite (parameters + 2).

    Parameters
    ----------
    kind : shape of the error
    """
    return len(PARAMETER_NAMES[kind]) + 2


def fit_models(table: Table, error: Array) -> tuple[ModelFit, ...]:
    """All models fitted to ``error`` (stops, shape (n,)), with AICc and weights that sum to 1 over those fitted.

    A model with too few readings or levels is returned with ``need`` set and no parameters.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    """
    fits = [_fit_or_need(kind, table, error) for kind in KINDS]
    scores = [fit.aicc for fit in fits if fit.aicc is not None]
    if not scores:
        return tuple(fits)
    best = min(scores)
    raw = [0.0 if fit.aicc is None else math.exp(-0.5 * (fit.aicc - best)) for fit in fits]
    total = sum(raw)
    return tuple(_with_weight(fit, share / total) for fit, share in zip(fits, raw, strict=True))


def _with_weight(fit: ModelFit, weight: float) -> ModelFit:
    return ModelFit(fit.kind, fit.parameters, fit.covariance, fit.centre_ev100, fit.chi2, fit.aicc, weight, fit.need)


def _fit_or_need(kind: ModelKind, table: Table, error: Array) -> ModelFit:
    count, parameters = len(table), len(PARAMETER_NAMES[kind])
    need = readings_needed(kind)
    if count < need:
        return ModelFit(kind, need=need)
    if len(table.levels) < parameters + 1:
        return ModelFit(kind, need=count + parameters + 1 - len(table.levels))
    return fit_model(kind, table.reference, error, table.sigma)


def fit_model(kind: ModelKind, x: Array, error: Array, sigma: Array) -> ModelFit:
    """One model by weighted least squares.

    Parameters
    ----------
    kind : one of `KINDS`
    x, error, sigma : float arrays, shape (n,); EV100, stops, standard uncertainty in stops

    Returns
    -------
    ModelFit with parameters, covariance (of the stated uncertainties), chi2 and AICc; weight 0.
    """
    weight = 1.0 / np.square(sigma)
    centre = float(np.sum(weight * x) / np.sum(weight))
    if kind == "true":
        parameters: tuple[float, ...] = ()
        predicted = np.zeros_like(x)
    elif kind == "even":
        parameters = (float(np.sum(weight * error) / np.sum(weight)),)
        predicted = np.full_like(x, parameters[0])
    else:
        shape_parameter = _best_shape_parameter(kind, (x, error, weight), centre)
        shape = _shape(kind, x, shape_parameter, centre)
        parameters = (float(np.sum(weight * (error - shape)) / np.sum(weight)), shape_parameter)
        predicted = parameters[0] + shape
    chi2 = float(np.sum(weight * np.square(error - predicted)))
    covariance = _covariance(kind, parameters, x, weight, centre)
    return ModelFit(kind, parameters, covariance, centre, chi2, aicc(chi2, len(x), len(parameters)))


def aicc(chi2: float, count: int, parameters: int) -> float:
    """AICc of a model with known uncertainties, up to a constant shared by all: chi2 + 2k + 2k(k+1)/(n-k-1).

    Parameters
    ----------
    count : readings
    parameters : free figures of the shape
    """
    return chi2 + 2 * parameters + 2 * parameters * (parameters + 1) / (count - parameters - 1)


def _best_shape_parameter(kind: ModelKind, data: tuple[Array, Array, Array], centre: float) -> float:
    """The shape parameter with the smallest misfit: a grid over the whole range, then ever finer ones around the best."""
    x, error, weight = _merged(*data)
    if kind == "slope":
        centred = x - centre
        return float(np.sum(weight * centred * error) / np.sum(weight * np.square(centred)))

    share = weight / np.sum(weight)

    def misfit(parameters: Array) -> Array:
        """Weighted sum of squares with the best offset, for each parameter; shape (p,)."""
        residual = error - _shape(kind, x, parameters[:, None], centre)
        residual = residual - (residual @ share)[:, None]
        squares: Array = np.square(residual) @ weight
        return squares

    grid = np.linspace(*_limits(kind, x), SEARCH_POINTS)
    best = int(np.argmin(misfit(grid)))
    while grid[1] - grid[0] > FINEST_EV:
        grid = np.linspace(grid[max(best - 1, 0)], grid[min(best + 1, len(grid) - 1)], ZOOM_POINTS)
        best = int(np.argmin(misfit(grid)))
    return float(grid[best])


def _merged(x: Array, error: Array, weight: Array) -> tuple[Array, Array, Array]:
    """Readings at the very same light as one with their summed weight: the best parameter stays the same."""
    lights, of = np.unique(x, return_inverse=True)
    weights: Array = np.bincount(of, weights=weight).astype(float)
    return lights, np.bincount(of, weights=weight * error) / weights, weights


def _limits(kind: ModelKind, x: Array) -> tuple[float, float]:
    if kind == "low_falloff":
        return float(x.min()) - REACH_EV, float(x.min()) - CLOSEST_EV
    if kind == "low_lift":
        return float(x.min()) - REACH_EV, float(x.max())
    return float(x.min()), float(x.max()) + REACH_EV


def _jacobian(kind: ModelKind, parameters: tuple[float, ...], x: Array, centre: float) -> Array:
    """Slopes of the prediction with each parameter, shape (n, k)."""
    if not parameters:
        return np.zeros((len(x), 0))
    columns = [np.ones_like(x)]
    if len(parameters) == 2:
        below = _shape(kind, x, parameters[1] - _STEP, centre)
        above = _shape(kind, x, parameters[1] + _STEP, centre)
        with np.errstate(invalid="ignore"):
            columns.append(np.nan_to_num((above - below) / (2 * _STEP), nan=0.0, posinf=0.0, neginf=0.0))
    return np.stack(columns, axis=1)


def _covariance(
    kind: ModelKind, parameters: tuple[float, ...], x: Array, weight: Array, centre: float
) -> tuple[tuple[float, ...], ...]:
    if not parameters:
        return ()
    jacobian = _jacobian(kind, parameters, x, centre)
    information = jacobian.T @ (weight[:, None] * jacobian)
    inverse = np.linalg.pinv(information, hermitian=True)
    return tuple(tuple(float(value) for value in row) for row in inverse)


def predict(fit: ModelFit, ev100: Array) -> tuple[Array, Array]:
    """Error in stops and its standard uncertainty from the fit, each shape (n,), at ``ev100``."""
    x = np.asarray(ev100, dtype=float)
    if not fit.parameters:
        return np.zeros_like(x), np.zeros_like(x)
    value = np.full_like(x, fit.parameters[0])
    if len(fit.parameters) == 2:
        value = value + _shape(fit.kind, x, fit.parameters[1], fit.centre_ev100)
    jacobian = _jacobian(fit.kind, fit.parameters, x, fit.centre_ev100)
    variance = np.einsum("ni,ij,nj->n", jacobian, np.array(fit.covariance), jacobian)
    return value, np.sqrt(np.maximum(variance, 0.0))


def average(fits: tuple[ModelFit, ...], ev100: Array) -> tuple[Array, Array]:
    """Weighted mean of all fitted models and its standard uncertainty, model choice included.

    Source
    ------
    Burnham and Anderson (2002), equation 4.9: u = sum w sqrt(var + (f - mean)^2) [memory].

    Parameters
    ----------
    fits : the shapes fitted to the same readings, errors in stops
    ev100 : exposure value at ISO 100; any shape
    """
    x = np.asarray(ev100, dtype=float)
    usable = [(fit.weight, *predict(fit, x)) for fit in fits if fit.weight > 1e-6]
    total = sum(weight for weight, _, _ in usable)
    mean = sum((weight * np.maximum(value, -1e3) for weight, value, _ in usable), np.zeros_like(x)) / total
    spread = np.zeros_like(x)
    for weight, value, u in usable:
        spread = spread + weight / total * np.sqrt(np.square(u) + np.square(np.maximum(value, -1e3) - mean))
    return mean, spread


def chosen(fits: tuple[ModelFit, ...]) -> ModelFit | None:
    """The fitted model with the lowest AICc, or None when none could be fitted.

    Parameters
    ----------
    fits : the shapes fitted to the same readings, errors in stops
    """
    fitted = [fit for fit in fits if fit.aicc is not None]
    return min(fitted, key=lambda fit: fit.aicc or 0.0) if fitted else None
