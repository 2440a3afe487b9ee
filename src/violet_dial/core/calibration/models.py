"""Response models of a meter: how its error runs with the light, fitted and compared.

Every model but ``true`` is ``a + shape(x; p)``: linear in ``a``, with one or two further parameters. The fit is weighted
least squares with what is uncertain in each reading alone; what is uncertain in the reference is one figure common to all
readings, and is carried beside: it moves ``a`` and nothing else. The parameters ``p`` are found by a search over their
whole permitted range on ever finer grids, so that no starting guess is needed.

Uncertainties are stated, not estimated from the scatter, so the criterion is AIC with known variance, chi-square + 2k, and
no correction for small samples. It weighs the models for averages. What is *said* of a meter is chosen more carefully: one
parameter more must gain `PENALTY`, or shapes would be read into noise in one meter of six.

Source: AIC: Akaike, IEEE Trans. Automatic Control 19 (1974) 716 [memory]; weights and model averaging: Burnham and Anderson,
Model Selection and Multimodel Inference (2002) [memory].
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from violet_dial.core.calibration.readings import Array, ReadingsTable

Parameter = float | Array  # one value, or shape (p, 1) for many at once
ModelKind = Literal[
    "true", "even", "slope", "low_falloff", "low_lift", "high_compression", "falloff_and_compression", "lift_and_compression"
]
KINDS: tuple[ModelKind, ...] = (
    "true", "even", "slope", "low_falloff", "low_lift", "high_compression", "falloff_and_compression", "lift_and_compression"
)  # fmt: skip
PARAMETER_NAMES: dict[ModelKind, tuple[str, ...]] = {
    "true": (),
    "even": ("offset_stops",),
    "slope": ("offset_stops", "slope_stops_per_ev"),
    "low_falloff": ("offset_stops", "dark_ev100"),
    "low_lift": ("offset_stops", "dark_ev100"),
    "high_compression": ("offset_stops", "bright_ev100"),
    "falloff_and_compression": ("offset_stops", "dark_ev100", "bright_ev100"),
    "lift_and_compression": ("offset_stops", "dark_ev100", "bright_ev100"),
}
PENALTY = 6.5  # chi-square that one parameter more must gain to be said; chance alone gives it in one meter of ninety
SEARCH_POINTS = 120  # grid over the permitted range of the shape parameter
SEARCH_POINTS_OF_TWO, ZOOM_POINTS_OF_TWO = 45, 9
ZOOM_POINTS = 21  # each finer grid is ten times finer than the one before
FINEST_EV = 1e-6  # far below any uncertainty of a shape parameter
REACH_EV = 6.0  # how far beyond the readings a shape parameter may lie
CLOSEST_EV = 0.02  # a fall-off begins at least this far below the dimmest reading
_STEP = 1e-5  # EV, for the slope of a shape with its parameter


@dataclass(frozen=True)
class ModelFit:
    """One fitted model, or the count of readings it still needs.

    ``parameters`` in the order of `PARAMETER_NAMES`, ``covariance`` row by row; ``chi2`` weighted sum of squares;
    ``aic`` and ``weight`` are None and 0 when there are too few readings. ``u_common``: standard uncertainty of the reference,
    common to all readings, stops.
    """

    kind: ModelKind
    parameters: tuple[float, ...] = ()
    covariance: tuple[tuple[float, ...], ...] = ()
    centre_ev100: float = 0.0
    chi2: float = math.inf
    aic: float | None = None
    weight: float = 0.0
    need: int = 0
    u_common: float = 0.0
    gamma: float = 1.0

    @property
    def fitted(self) -> bool:
        return self.aic is not None

    @property
    def uncertainties(self) -> tuple[float, ...]:
        """Standard uncertainty of each parameter, in its own unit; the offset's with the reference's in it."""
        own = [math.sqrt(max(self.covariance[i][i], 0.0)) for i in range(len(self.parameters))]
        return tuple(math.hypot(one, self.u_common) if place == 0 else one for place, one in enumerate(own))


def low_falloff(x: Array, dark_ev100: Parameter) -> Array:
    """log2(1 - 2^(d - x)): a fixed amount is missing; -inf at and below ``dark_ev100``.

    It is the law of a zero that stands too low, and of a leak beside a movement of high resistance. A leak beside one of low
    resistance takes a fixed share instead, and is an even error.

    Parameters
    ----------
    x : EV100; any shape
    dark_ev100 : where nothing is left, EV100; any shape
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        kept = -np.expm1((dark_ev100 - x) * math.log(2.0))
        return np.where(kept > 0, np.log2(np.maximum(kept, 1e-300)), -np.inf)


def low_lift(x: Array, dark_ev100: Parameter) -> Array:
    """log2(1 + 2^(d - x)): a fixed current is added. ``dark_ev100``: where the dim end gives way, EV100; any shape."""
    return np.log1p(np.exp2(dark_ev100 - x)) / math.log(2.0)


def high_compression(x: Array, bright_ev100: Parameter) -> Array:
    """-log2(1 + 2^(x - c)): series resistance flattens bright light.

    ``bright_ev100``: where the bright end gives way, EV100; any shape.
    """
    return -np.log1p(np.exp2(x - bright_ev100)) / math.log(2.0)


_SHAPES: dict[ModelKind, Callable[[Array, Parameter], Array]] = {
    "low_falloff": low_falloff, "low_lift": low_lift, "high_compression": high_compression,
}  # fmt: skip


_TWO: dict[ModelKind, tuple[ModelKind, ModelKind]] = {
    "falloff_and_compression": ("low_falloff", "high_compression"), "lift_and_compression": ("low_lift", "high_compression"),
}  # fmt: skip


@dataclass(frozen=True)
class _Frame:
    """What a shape is drawn in: the mean light, and the cell's ``gamma``: stops of current for a stop of light."""

    centre: float
    gamma: float = 1.0


def _shape(kind: ModelKind, x: Array, parameters: tuple[Parameter, ...], frame: _Frame) -> Array:
    """The shape without its offset. What is fixed in current is so behind the cell: stops of light there are gamma long."""
    if kind == "slope":
        return (x - frame.centre) * parameters[0]
    found = np.zeros_like(x)
    for one, parameter in zip(_TWO.get(kind, (kind,)), parameters, strict=True):
        found = found + _SHAPES[one](frame.gamma * x, frame.gamma * parameter) / frame.gamma
    return found


def readings_needed(kind: ModelKind) -> int:
    """Fewest readings that leave one to spare beside those the parameters take, and one more to see a misfit.

    ``kind``: shape of the error.
    """
    return len(PARAMETER_NAMES[kind]) + 2


def fit_models(table: ReadingsTable, error: Array, gamma: float = 1.0) -> tuple[ModelFit, ...]:
    """All models fitted to ``error`` (stops, shape (n,)), with AIC and weights that sum to 1 over those fitted.

    A model with too few readings or levels is returned with ``need`` set and no parameters.

    Parameters
    ----------
    table : the readings as columns: EV100 and stops, each of shape (n,)
    gamma : stops of the cell's current for a stop of light; 1 for selenium and silicon, 0.5 to 0.9 for CdS
    """
    fits = [_fit_or_need(kind, table, error, gamma) for kind in KINDS]
    scores = [fit.aic for fit in fits if fit.aic is not None]
    if not scores:
        return tuple(fits)
    best = min(scores)
    raw = [0.0 if fit.aic is None else math.exp(-0.5 * (fit.aic - best)) for fit in fits]
    total = sum(raw)
    return tuple(replace(fit, weight=share / total) for fit, share in zip(fits, raw, strict=True))


def _fit_or_need(kind: ModelKind, table: ReadingsTable, error: Array, gamma: float) -> ModelFit:
    count, parameters = len(table), len(PARAMETER_NAMES[kind])
    need = readings_needed(kind)
    if count < need:
        return ModelFit(kind, need=need)
    if len(table.levels) < parameters + 1:
        return ModelFit(kind, need=count + parameters + 1 - len(table.levels))
    return fit_model(kind, table.reference, error, table.u_reading, table.u_common, gamma)


def fit_model(kind: ModelKind, x: Array, error: Array, sigma: Array, u_common: float = 0.0, gamma: float = 1.0) -> ModelFit:
    """One model by weighted least squares.

    Parameters
    ----------
    x, error, sigma : float arrays, shape (n,); EV100, stops, standard uncertainty of each reading alone in stops
    u_common : standard uncertainty of the reference, the same in all readings, stops
    gamma : stops of the cell's current for a stop of light

    Returns
    -------
    ModelFit with parameters, covariance (of the readings' own uncertainties), chi2 and AIC; weight 0.
    """
    weight = 1.0 / np.square(sigma)
    centre = float(np.sum(weight * x) / np.sum(weight))
    frame = _Frame(centre, gamma)
    mean = float(np.sum(weight * error) / np.sum(weight))
    parameters: tuple[float, ...] = ()
    predicted = np.zeros_like(x)
    if kind == "true":  # only the reference may be off: by what it is uncertain, and not for nothing
        predicted = np.full_like(x, mean * (precision := float(np.sum(weight))) * u_common**2 / (1 + precision * u_common**2))
    elif kind == "even":
        parameters, predicted = (mean,), np.full_like(x, mean)
    else:
        further = _best_shape_parameters(kind, (x, error, weight), frame)
        shape = _shape(kind, x, further, frame)
        parameters = (float(np.sum(weight * (error - shape)) / np.sum(weight)), *further)
        predicted = parameters[0] + shape
    chi2 = float(np.sum(weight * np.square(error - predicted)))
    if kind == "true" and u_common > 0:
        chi2 += float((predicted[0] / u_common) ** 2) if len(x) else 0.0
    covariance = _covariance(kind, parameters, x, weight, frame)
    score = chi2 + 2 * len(parameters)
    return ModelFit(kind, parameters, covariance, centre, chi2, score, u_common=u_common, gamma=gamma)


def _best_shape_parameters(kind: ModelKind, data: tuple[Array, Array, Array], frame: _Frame) -> tuple[float, ...]:
    """The shape's parameters with the smallest misfit: a grid over the whole range, then ever finer ones around the best."""
    x, error, weight = _merged(*data)
    if kind == "slope":
        centred = x - frame.centre
        return (float(np.sum(weight * centred * error) / np.sum(weight * np.square(centred))),)
    share = weight / np.sum(weight)

    def misfit(grids: tuple[Array, ...]) -> Array:
        """Weighted sum of squares with the best offset, for each set of parameters; shape of the grids crossed."""
        crossed = np.meshgrid(*grids, indexing="ij")
        shape = _shape(kind, x, tuple(one[..., None] for one in crossed), frame)
        residual = error - shape
        residual = residual - (residual @ share)[..., None]
        return np.square(residual) @ weight

    several = _TWO.get(kind, (kind,))
    points, zoom = (SEARCH_POINTS, ZOOM_POINTS) if len(several) == 1 else (SEARCH_POINTS_OF_TWO, ZOOM_POINTS_OF_TWO)
    grids = tuple(np.linspace(*_limits(one, x), points) for one in several)
    while True:
        squares = misfit(grids)
        flat = int(np.argmin(np.nan_to_num(squares, nan=np.inf)))
        best = [int(place) for place in np.unravel_index(flat, squares.shape)]
        if all(grid[1] - grid[0] <= FINEST_EV for grid in grids):
            return tuple(float(grid[place]) for grid, place in zip(grids, best, strict=True))
        grids = tuple(
            np.linspace(grid[max(place - 1, 0)], grid[min(place + 1, len(grid) - 1)], zoom)
            for grid, place in zip(grids, best, strict=True)
        )


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


def _jacobian(kind: ModelKind, parameters: tuple[float, ...], x: Array, frame: _Frame) -> Array:
    """Slopes of the prediction with each parameter, shape (n, k)."""
    if not parameters:
        return np.zeros((len(x), 0))
    columns = [np.ones_like(x)]
    for place in range(1, len(parameters)):
        moved = []
        for step in (-_STEP, _STEP):
            further = list(parameters[1:])
            further[place - 1] += step
            moved.append(_shape(kind, x, tuple(further), frame))
        with np.errstate(invalid="ignore"):
            columns.append(np.nan_to_num((moved[1] - moved[0]) / (2 * _STEP), nan=0.0, posinf=0.0, neginf=0.0))
    return np.stack(columns, axis=1)


def _covariance(
    kind: ModelKind, parameters: tuple[float, ...], x: Array, weight: Array, frame: _Frame
) -> tuple[tuple[float, ...], ...]:
    if not parameters:
        return ()
    jacobian = _jacobian(kind, parameters, x, frame)
    information = jacobian.T @ (weight[:, None] * jacobian)
    inverse = np.linalg.pinv(information, hermitian=True)
    return tuple(tuple(float(value) for value in row) for row in inverse)


def predict(fit: ModelFit, ev100: Array) -> tuple[Array, Array]:
    """Error in stops and its standard uncertainty from the fit, each shape (n,), at ``ev100``; without the reference's."""
    x = np.asarray(ev100, dtype=float)
    if not fit.parameters:
        return np.zeros_like(x), np.zeros_like(x)
    frame = _Frame(fit.centre_ev100, fit.gamma)
    value = np.full_like(x, fit.parameters[0])
    if len(fit.parameters) > 1:
        value = value + _shape(fit.kind, x, fit.parameters[1:], frame)
    jacobian = _jacobian(fit.kind, fit.parameters, x, frame)
    variance = np.einsum("ni,ij,nj->n", jacobian, np.array(fit.covariance), jacobian)
    return value, np.sqrt(np.maximum(variance, 0.0))


def average(fits: tuple[ModelFit, ...], ev100: Array) -> tuple[Array, Array]:
    """Weighted mean of all fitted models and its standard uncertainty, model choice and the reference included.

    A meter that is true has no error, whatever the reference; every other model's offset is as uncertain as that is.

    Source: Burnham and Anderson (2002), equation 4.9: u = sum w sqrt(var + (f - mean)^2) [memory].

    Parameters
    ----------
    fits : the shapes fitted to the same readings, errors in stops
    ev100 : exposure value at ISO 100; any shape
    """
    x = np.asarray(ev100, dtype=float)
    usable = []
    for fit in fits:
        if fit.weight > 1e-6:
            value, u = predict(fit, x)
            usable.append((fit.weight, value, np.hypot(u, fit.u_common if fit.parameters else 0.0)))
    total = sum(weight for weight, _, _ in usable)
    mean = sum((weight * np.maximum(value, -1e3) for weight, value, _ in usable), np.zeros_like(x)) / total
    spread = np.zeros_like(x)
    for weight, value, u in usable:
        spread = spread + weight / total * np.sqrt(np.square(u) + np.square(np.maximum(value, -1e3) - mean))
    return mean, spread


def chosen(fits: tuple[ModelFit, ...]) -> ModelFit | None:
    """The fitted model that is said: the best where each parameter must gain `PENALTY`; None when none could be fitted.

    ``fits``: the shapes fitted to the same readings, errors in stops.
    """
    fitted = [fit for fit in fits if fit.fitted]
    return min(fitted, key=lambda fit: fit.chi2 + PENALTY * len(fit.parameters)) if fitted else None
