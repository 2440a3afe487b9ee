"""How well evidence fits each hypothesis, one piece after the other.

A reading may be wrong, and then says nothing; how often this happens at this bench is not known either, and is learned
from the readings. What is on no list may show as healthy or anyhow, each reading for itself.

Source: Bayes' rule; Gaussian update: Kalman, J. Basic Eng. 82 (1960) 35 [memory]. Power posterior: Bissiri, Holmes and Walker,
J. Royal Stat. Soc. B 78 (2016) 1103 [memory].
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.laws import broad_density, fit_of, law_of
from violet_dial.core.diagnosis.predict import LOG10_E, Prediction, Predictor, question
from violet_dial.core.diagnosis.recorded import UNSOLVED
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence

Array = npt.NDArray[Any]
# How often a reading itself is wrong, and the chance beforehand of each; common practice, no source.
WRONG = np.array([0.003, 0.02, 0.12])
WRONG_PRIOR = np.array([0.55, 0.35, 0.10])
# Readings share what the sketch, the tolerances and the laws get wrong, so each says a little less than it seems to: what is
# said is then true or better (power posterior).
COUNTS = 0.8
ANYHOW = 0.5  # chance that a reading is touched by a fault that is on no list
SKETCH_SHARE, SKETCH_V = 0.02, 0.01  # a circuit put down from memory is a sketch: predictions are no better than this
AGREES, AGREES_AT_LEAST = 0.03, {"volt": 0.03, "seen": 0.06}  # how far repeated readings of one thing may lie apart
COMMON = 0.5  # share of a part's variance that a sister of the same model has too; common practice, no source


def scale_value(evidence: Evidence) -> float:
    """The value on the scale it is judged on: ohms and farads by their logarithm to ten, the rest as it is."""
    if evidence.test == "ohm":
        return math.log10(min(max(evidence.value, 0.05), OVERLOAD_OHM))
    if evidence.test == "amp":
        return abs(evidence.value)
    return math.log10(max(evidence.value, 1e-13)) if evidence.test in ("capacitance", "time") else evidence.value


def own_sigma(evidence: Evidence, prediction: Prediction) -> Array:
    """Standard deviation of the reading alone, with the sketch's own doubt and what straight lines miss in it, (h,).

    ``prediction``: mean and standard deviation for each suspect, shape (suspects,).
    """
    meter = prediction.sigma
    if evidence.u > 0 and evidence.test in ("volt", "ohm", "amp"):  # this meter's own, where a usual one was taken
        share = LOG10_E * evidence.u / max(abs(evidence.value), 1e-12) if evidence.test == "ohm" else evidence.u
        meter = np.where(meter < UNSOLVED, min(share, 1.0), meter)
    if evidence.test == "volt":
        sketch = np.hypot(SKETCH_SHARE * prediction.mean, SKETCH_V)
    elif evidence.test in ("ripple", "clock", "dip", "wakes"):
        sketch = np.zeros_like(prediction.mean)
    elif evidence.test == "amp":
        sketch = SKETCH_SHARE * np.abs(prediction.mean)
    else:
        sketch = np.full_like(prediction.mean, SKETCH_SHARE)
    found: Array = np.sqrt(sum(np.square(one) for one in (meter, sketch, prediction.bend, prediction.doubt)))
    return found


def widened(evidence: Evidence, prediction: Prediction) -> Array:
    """Standard deviation before anything was read: reading, sketch, tolerances and figures, (h,).

    ``prediction``: mean and standard deviation for each suspect, shape (suspects,).
    """
    found: Array = np.sqrt(np.square(own_sigma(evidence, prediction)) + np.square(prediction.load).sum(axis=1))
    return found


@dataclass(frozen=True)
class Spread:
    """What the evidence so far says of each toleranced part and figure, under each hypothesis, in standard deviations:
    ``mean`` (h, p), and the covariance as one less the products of ``known`` vectors, each (h or 1, p)."""

    mean: Array
    known: tuple[Array, ...] = ()
    stretch: Array | float = 1.0  # (p,): how much further than a tolerance the parts may be off, the sketch being bad

    def conditioned(self, prediction: Prediction, own: Array) -> tuple[Array, Array, Array]:
        """Mean and variance of a reading given what is known, and how it moves with what is not: (h,), (h,), (h, p).

        What straight lines miss goes with the square of how far the parts may still be off, or are: a part that is known and near
        its figure bends nothing.
        """
        load = prediction.load * self.stretch
        moves = load
        for one in self.known:
            moves = moves - one * (one * load).sum(axis=1, keepdims=True)
        off, left = (load * self.mean).sum(axis=1), np.maximum((load * moves).sum(axis=1), 0.0)
        whole = np.maximum(np.square(load).sum(axis=1), 1e-300)
        share = np.minimum(np.square(left / whole) + np.square(np.square(off) / whole) / 3.0, 1.0)
        known_now = np.square(own) - np.square(prediction.bend) * (1.0 - share)
        return prediction.mean + off, known_now + left, moves

    def part(self, places: Array | list[int]) -> "Spread":
        """Some of the hypotheses."""
        known = tuple(one if len(one) == 1 else one[places] for one in self.known)
        return Spread(self.mean[places], known, self.stretch)


@dataclass(frozen=True)
class LikelihoodTrace:
    """After the evidence: ``prior`` (h,) and ``weight`` (h, w), its log for each chance that readings are wrong;
    ``misfit`` (h,) sum of the squares of what is left, in standard deviations, over ``counted`` readings; ``doubts``: each
    piece with the chance that it is wrong (h,); ``healthy`` where no fault stands among the hypotheses."""

    prior: Array
    weight: Array
    spread: Spread
    misfit: Array
    laws: Array
    healthy: int
    counted: int = 0
    doubts: tuple[tuple[Evidence, Array], ...] = field(default_factory=tuple)

    @property
    def total(self) -> Array:
        """Log weight of each hypothesis, up to a constant, (h,): what the readings say counts for `COUNTS` of itself."""
        found: Array = self.prior + COUNTS * np.logaddexp.reduce(self.weight, axis=1)
        return found


LAWS = ("plain", "unlisted", "at times")
ARRAYS = ("prior", "weight", "misfit", "laws")  # of each hypothesis


def begin(hypotheses: tuple[Hypothesis, ...], width: int, sisters: "Sisters | None" = None) -> LikelihoodTrace:
    """Before any evidence. ``width``: parts with a tolerance, and two figures."""
    count = len(hypotheses)
    spread = Spread(np.zeros((count, width)))
    if sisters is not None:
        spread = Spread(np.tile(sisters.mean, (count, 1)), tuple(one[None, :] for one in sisters.known), sisters.stretch)
    laws = np.array([LAWS.index(hypothesis.law) for hypothesis in hypotheses])
    healthy = next(n for n, hypothesis in enumerate(hypotheses) if not hypothesis.faults and hypothesis.law == "plain")
    prior = np.array([hypothesis.log_prior for hypothesis in hypotheses])
    weight = np.tile(np.log(WRONG_PRIOR), (count, 1))
    return LikelihoodTrace(prior, weight, spread, np.zeros(count), laws, healthy)


def follow(before: LikelihoodTrace, predictor: Predictor, evidence: Evidence, missed: Array | None = None) -> LikelihoodTrace:
    """One piece of evidence more.

    A reading also says something of the parts' own values and of the unknown figures, and the next reading is judged
    with that: a battery a little low is a little low in every reading.

    ``missed``: what straight lines miss at least, shape (h,).
    """
    prediction = predictor.of(evidence)
    if missed is not None:
        prediction = replace(prediction, bend=np.maximum(prediction.bend, missed))
    own = own_sigma(evidence, prediction)
    mean, variance, moves = before.spread.conditioned(prediction, own)
    law = law_of(predictor.circuit, evidence)
    fit = fit_of(law, scale_value(evidence), mean, variance)
    broad = math.log(broad_density(law, evidence, predictor.circuit))
    right = _lawful(fit.log_density, broad, before)
    wrong = broad + np.log(WRONG)[None, :]
    weight = np.logaddexp(right[:, None] + np.log1p(-WRONG)[None, :], np.where(before.laws[:, None] == 1, -np.inf, wrong))
    unlisted = (before.laws == 1)[:, None]
    weight = np.where(unlisted, right[:, None], weight)
    share = np.exp(before.weight - np.logaddexp.reduce(before.weight, axis=1)[:, None])
    doubt = (share * np.exp(wrong - np.logaddexp(right[:, None] + np.log1p(-WRONG)[None, :], wrong))).sum(axis=1)
    doubt = np.where(unlisted[:, 0], 0.0, doubt)
    learns = (doubt < 0.5) & (before.laws == 0)
    step, keep = np.where(learns, fit.step, 0.0), np.where(learns, fit.keep, 1.0)
    gained = moves * (step / variance)[:, None]
    known = moves * np.sqrt((1.0 - keep) / variance)[:, None]
    spread = replace(before.spread, mean=before.spread.mean + gained, known=(*before.spread.known, known))
    return replace(
        before, weight=before.weight + weight, spread=spread, misfit=before.misfit + np.square(fit.away),
        counted=before.counted + 1, doubts=(*before.doubts, (evidence, doubt)),
    )  # fmt: skip


def _lawful(right: Array, broad: float, before: LikelihoodTrace) -> Array:
    """Log density of a right reading: what is on no list shows as healthy or anyhow, what comes and goes both ways."""
    sound = right[before.healthy]
    unlisted = np.logaddexp(math.log(1 - ANYHOW) + sound, math.log(ANYHOW) + broad)
    at_times = np.logaddexp(right, sound) - math.log(2.0)
    return np.where(before.laws == 1, unlisted, np.where(before.laws == 2, at_times, right))


def joined(several: list[LikelihoodTrace]) -> LikelihoodTrace:
    """Sets of hypotheses after the same evidence, side by side.

    ``several``: of the same evidence, in the order wanted; no fault is where the first has it.
    """
    first = several[0]
    known = []
    for place in range(len(first.spread.known)):
        known.append(np.concatenate([np.broadcast_to(one.spread.known[place], one.spread.mean.shape) for one in several]))
    doubts = tuple(
        (piece, np.concatenate([one.doubts[place][1] for one in several])) for place, (piece, _) in enumerate(first.doubts)
    )
    spread = Spread(np.concatenate([one.spread.mean for one in several]), tuple(known), first.spread.stretch)
    prior, weight, misfit, laws = (np.concatenate([getattr(one, name) for one in several]) for name in ARRAYS)
    return replace(first, prior=prior, weight=weight, misfit=misfit, laws=laws, spread=spread, doubts=doubts)


def chosen(whole: LikelihoodTrace, places: Array) -> LikelihoodTrace:
    """Some of the hypotheses after the same evidence."""
    doubts = tuple((piece, chance[places]) for piece, chance in whole.doubts)
    prior, weight, misfit, laws = (getattr(whole, name)[places] for name in ARRAYS)
    spread = whole.spread.part(places)
    return replace(whole, prior=prior, weight=weight, misfit=misfit, laws=laws, spread=spread, doubts=doubts)


@dataclass(frozen=True)
class Sisters:
    """What working sister units say of the parts of their model, in standard deviations: ``mean`` (p + 2,), ``known``
    vectors of that length, and the ``stretch`` (p + 2,) of every tolerance where the sketch shows to be bad."""

    mean: Array
    known: tuple[Array, ...]
    stretch: Array


STRETCHES = (1.0, 2.0, 4.0, 8.0, 16.0)  # of the tolerances that a unit shares with its sisters, each half as likely


def sisters_of(predictor: Predictor, readings: list[Evidence]) -> Sisters:
    """What readings of working sister units say, under no fault.

    Sister and unit share the sketch and a part of each tolerance; only that part is learned. Where the sketch is off by
    more than tolerances explain, what is shared is taken to be off by as much everywhere.
    """
    tried = [_sisters(predictor, readings, stretch) for stretch in STRETCHES]
    best = max(range(len(tried)), key=lambda n: tried[n][1] - n * math.log(2.0))
    followed, stretch = tried[best][0], STRETCHES[best]
    whole = (1.0 - COMMON) + COMMON * stretch**2  # variance of a part beforehand, in those of its tolerance
    share = math.sqrt(COMMON) * stretch / math.sqrt(whole)
    wide = np.ones(predictor.toleranced + 2)
    wide[:-2] = math.sqrt(whole)
    return Sisters(followed.mean[0] * share, tuple(one[0] * share for one in followed.known), wide)


def _sisters(predictor: Predictor, readings: list[Evidence], stretch: float) -> tuple[Spread, float]:
    """What is shared after the sisters' readings, and the log density of these."""
    spread, density = Spread(np.zeros((1, predictor.toleranced + 2))), 0.0
    for reading in readings:
        plain = predictor.of(reading)
        own = np.sqrt(np.square(own_sigma(reading, plain)) + (1.0 - COMMON) * np.square(plain.load).sum(axis=1))
        shared = replace(plain, load=plain.load * math.sqrt(COMMON) * stretch)
        mean, variance, moves = spread.conditioned(shared, own)
        fit = fit_of(law_of(predictor.circuit, reading), scale_value(reading), mean, variance)
        gained = moves * (fit.step / variance)[:, None]
        known = moves * np.sqrt((1.0 - fit.keep) / variance)[:, None]
        spread = Spread(spread.mean + gained, (*spread.known, known))
        density += float(fit.log_density[0])
    return spread, density


def told_once(several: list[Evidence]) -> list[Evidence]:
    """Readings, those repeated that agree as one with their mean: what the sketch has wrong, and the light, is wrong in all of
    them alike. Those that differ stand as they are: what comes and goes shows in them."""
    alike: dict[object, list[Evidence]] = {}
    for evidence in several:
        alike.setdefault(question(evidence), []).append(evidence)
    found = []
    for repeats in alike.values():
        values = [evidence.value for evidence in repeats]
        middle = sum(values) / len(values)
        if max(values) - min(values) <= AGREES * abs(middle) + AGREES_AT_LEAST.get(repeats[0].test, 0.0):
            found.append(replace(repeats[0], value=middle))
        else:
            found += repeats
    return found
