"""How well evidence fits each hypothesis, one piece after the other.

Source
------
Bayes' rule; a reading is wrong with a small chance, and then says nothing (a mixture with a broad density), so that
one bad reading cannot rule out the truth.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM, Evidence
from violet_dial.core.diagnosis.predict import LEAST_A, LOG10_E, UNSOLVED, JointPredictor, Prediction, Predictor

Array = npt.NDArray[Any]
WRONG_CHANCE = 0.02  # that a reading itself is wrong; common practice, no source
# Density of a wrong reading: anywhere over some volts, over nine decades of ohm, over the whole look.
BROAD = {"volt": 0.05, "ohm": 0.11, "amp": 0.12, "seen": 1.0, "continuity": 0.5, "capacitance": 0.25}
SKETCH_SHARE, SKETCH_V = 0.02, 0.01  # a circuit put down from memory is a sketch: predictions are no better than this


def prediction_of(predictor: Predictor | JointPredictor, evidence: Evidence) -> Prediction:
    """What every hypothesis says this piece of evidence should be, on the scale it is judged on (log10 for ohm, ampere).

    Parameters
    ----------
    predictor : solves the circuit under each suspect
    """
    if isinstance(predictor, JointPredictor):
        several = [prediction_of(part, evidence) for part in predictor.parts]
        return Prediction(
            np.concatenate([one.mean for one in several]),
            np.concatenate([one.sigma for one in several]),
            np.concatenate([one.load for one in several]),
        )
    raw = _plain_prediction(predictor, evidence)
    whole = raw if predictor.parent is predictor else _plain_prediction(predictor.parent, evidence)
    return Prediction(raw.mean, raw.sigma, np.concatenate([raw.load, predictor.figure_load(whole.mean)], axis=1))


def _plain_prediction(predictor: Predictor, evidence: Evidence) -> Prediction:
    """The prediction with every figure as it stands on its rung."""
    if evidence.test == "volt":
        return predictor.volts(evidence.plus, evidence.minus, evidence.setting)
    if evidence.test in ("ohm", "continuity"):
        return predictor.ohms(evidence.plus, evidence.minus, evidence.setting)
    if evidence.test == "amp":
        return predictor.amps(evidence.part, evidence.setting)
    if evidence.test == "seen":
        return predictor.look(evidence.part, evidence.setting)
    return _capacitance(predictor, evidence)


def _capacitance(predictor: Predictor, evidence: Evidence) -> Prediction:
    """A capacitor measured out of circuit, as log10 of farad."""
    nominal = math.log10(predictor.circuit.part(evidence.part).value)
    mean = np.full(len(predictor.hypotheses), nominal)
    sigma = np.full(len(mean), 0.08)
    for place, hypothesis in enumerate(predictor.hypotheses):
        for fault in hypothesis.faults:
            if fault.part == evidence.part and fault.mode == "open":
                mean[place] = -11.5
            if fault.part == evidence.part and fault.mode == "wrong by a decade":
                mean[place] += 1.0 if scale_value(evidence) > nominal else -1.0
            if fault.part == evidence.part and fault.mode in ("short", "leaky"):
                sigma[place] = 1.0
    return Prediction(mean, sigma, np.zeros((len(mean), predictor.toleranced)))


def scale_value(evidence: Evidence) -> float:
    """The value on the scale it is judged on.

    Parameters
    ----------
    evidence : one reading or observation, its value in the unit of its test
    """
    if evidence.test == "ohm":
        return math.log10(min(max(evidence.value, 0.05), 5e7))
    if evidence.test == "amp":
        return math.log10(max(abs(evidence.value), LEAST_A))
    return math.log10(max(evidence.value, 1e-13)) if evidence.test == "capacitance" else evidence.value


def own_sigma(evidence: Evidence, prediction: Prediction) -> Array:
    """Standard deviation of the reading alone, with the sketch's own doubt in it, (h,).

    Parameters
    ----------
    evidence : one reading or observation, its value in the unit of its test
    prediction : mean and standard deviation for each suspect, shape (suspects,)
    """
    meter = prediction.sigma
    if evidence.u > 0 and evidence.test in ("volt", "ohm", "amp"):  # this meter's own, where a usual one was taken
        share = evidence.u if evidence.test == "volt" else LOG10_E * evidence.u / max(abs(evidence.value), 1e-12)
        meter = np.where(meter < UNSOLVED, min(share, 1.0), meter)
    if evidence.test == "volt":
        return np.hypot(meter, np.hypot(SKETCH_SHARE * prediction.mean, SKETCH_V))
    return np.hypot(meter, SKETCH_SHARE)


def widened(evidence: Evidence, prediction: Prediction) -> Array:
    """Standard deviation before anything was read: reading, sketch, tolerances and figures, (h,).

    Parameters
    ----------
    evidence : one reading or observation, its value in the unit of its test
    prediction : mean and standard deviation for each suspect, shape (suspects,)
    """
    found: Array = np.sqrt(np.square(own_sigma(evidence, prediction)) + np.square(prediction.load).sum(axis=1))
    return found


@dataclass(frozen=True)
class Spread:
    """What the evidence so far says of each toleranced part and figure, under each hypothesis: ``mean`` (h, p) and
    ``covariance`` (h, p, p), in standard deviations. Empty before the first reading."""

    mean: Array
    covariance: Array

    def conditioned(self, prediction: Prediction, own: Array) -> tuple[Array, Array, Array]:
        """Mean and variance of a reading given what is known, and how it moves with what is not: (h,), (h,), (h, p)."""
        if self.mean.shape[1] == 0:
            return prediction.mean, np.square(own) + np.square(prediction.load).sum(axis=1), prediction.load
        moves = (self.covariance @ prediction.load[:, :, None])[:, :, 0]
        mean = prediction.mean + (prediction.load * self.mean).sum(axis=1)
        return mean, np.square(own) + np.maximum((prediction.load * moves).sum(axis=1), 0.0), moves

    def part(self, places: Array | list[int]) -> "Spread":
        """Some of the hypotheses."""
        return Spread(self.mean[places], self.covariance[places])


@dataclass(frozen=True)
class Followed:
    """Log weight of each hypothesis after the evidence; ``doubts``: each piece with the chance that it is wrong (h,)."""

    total: Array
    spread: Spread
    doubts: tuple[tuple[Evidence, Array], ...] = ()


def begin(log_prior: Array) -> Followed:
    """Before any evidence.

    Parameters
    ----------
    log_prior : log chance beforehand, nat, shape (suspects,)
    """
    return Followed(log_prior, Spread(np.zeros((len(log_prior), 0)), np.zeros((len(log_prior), 0, 0))))


def joined(one: Followed, other: Followed) -> Followed:
    """Two sets of hypotheses after the same evidence, side by side.

    Parameters
    ----------
    one : what one line of evidence leaves
    other : what another leaves
    """
    width = max(one.spread.mean.shape[1], other.spread.mean.shape[1])
    first, second = (_filled(each.spread, width) for each in (one, other))
    spread = Spread(np.concatenate([first.mean, second.mean]), np.concatenate([first.covariance, second.covariance]))
    doubts = tuple((a[0], np.concatenate([a[1], b[1]])) for a, b in zip(one.doubts, other.doubts, strict=True))
    return Followed(np.concatenate([one.total, other.total]), spread, doubts)


def _filled(spread: Spread, width: int) -> Spread:
    count = len(spread.mean)
    if spread.mean.shape[1] == width:
        return spread
    return Spread(np.zeros((count, width)), np.tile(np.eye(width), (count, 1, 1)))


def follow(
    before: Followed,
    predictor: Predictor | JointPredictor,
    evidence: Evidence,
    epochs: tuple[tuple[Evidence, ...], ...] = (),
) -> Followed:
    """One piece of evidence more.

    A reading also says something of the parts' own values and of the unknown figures, and the next reading is judged
    with that: a battery a little low is a little low in every reading.

    Source
    ------
    Kalman, J. Basic Eng. 82 (1960) 35 (Gaussian update) [memory].

    Parameters
    ----------
    before : how likely each suspect was before this epoch
    predictor : solves the circuit under each suspect
    epochs : evidence between repairs, oldest first
    """
    from scipy.special import expit

    prediction = prediction_of(predictor, evidence)
    spread = _filled(before.spread, prediction.load.shape[1])
    own = own_sigma(evidence, prediction)
    mean, variance, moves = spread.conditioned(prediction, own)
    mean = mean + _sister_shift(predictor, evidence, epochs)
    sigma = np.sqrt(variance)
    away = scale_value(evidence) - mean
    if evidence.test == "continuity":
        beeps = expit((math.log10(CONTINUITY_OHM) - mean) / np.maximum(sigma, 0.05) * 1.7)
        right = np.log(np.clip(beeps if evidence.value else 1.0 - beeps, 1e-12, 1.0))
    else:
        right = -0.5 * np.square(away / sigma) - np.log(sigma * math.sqrt(2 * math.pi))
    wrong = math.log(WRONG_CHANCE * BROAD[evidence.test])
    total = np.logaddexp(right + math.log(1 - WRONG_CHANCE), wrong)
    doubt = np.exp(wrong - total)
    if evidence.test != "continuity":
        gain = np.where((doubt < 0.5)[:, None], moves / variance[:, None], 0.0)
        spread = Spread(spread.mean + gain * away[:, None], spread.covariance - gain[:, :, None] * moves[:, None, :])
    return Followed(before.total + total, spread, (*before.doubts, (evidence, doubt)))


def _sister_shift(
    predictor: Predictor | JointPredictor, evidence: Evidence, epochs: tuple[tuple[Evidence, ...], ...]
) -> float:
    """How far a working sister unit is from what the sketch says of a healthy one, at the same points and setting."""
    for one in (one for epoch in epochs for one in epoch if one.sister):
        same = (one.test, one.plus, one.minus, one.part, one.setting) == (
            evidence.test, evidence.plus, evidence.minus, evidence.part, evidence.setting,
        )  # fmt: skip
        if same:
            healthy = next((n for n, h in enumerate(predictor.hypotheses) if not h.faults), None)
            if healthy is not None:
                return scale_value(one) - float(prediction_of(predictor, one).mean[healthy])
    return 0.0
