"""Which hypotheses explain all the evidence: posterior over no fault, single faults and pairs.

Source
------
Bayes' rule; a reading is wrong with a small chance, and then says nothing (a mixture with a broad density), so that
one bad reading cannot rule out the truth.
"""

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.special import expit, logsumexp

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import check_notes
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM, Evidence
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.diagnosis.hypotheses import Belief, Hypothesis, ladders_of, pairs_of, singles_of
from violet_dial.core.diagnosis.predict import LEAST_A, JointPredictor, Meter, Prediction, Predictor
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
WRONG_CHANCE = 0.02  # that a reading itself is wrong; common practice, no source
# Density of a wrong reading: anywhere over some volts, over nine decades of ohm, over the whole look.
BROAD = {"volt": 0.05, "ohm": 0.11, "amp": 0.12, "seen": 1.0, "continuity": 0.5, "capacitance": 0.25}
SKETCH_SHARE, SKETCH_V = 0.02, 0.01  # a circuit put down from memory is a sketch: predictions are no better than this
REPAIRED_FACTOR = 0.05  # a part just renewed is this much less likely to be at fault
SHOWN = 40
DOUBTED = (
    0.02  # chance that a reading is wrong, under the best single suspect, at which pairs are looked at with all figures
)
LEADING, COARSE, EXPANDED = (
    6,
    3,
    2,
)  # suspects paired with all figures, every fifth rung first, then the best pairs whole


@dataclass(frozen=True)
class Repair:
    """A fault put right: evidence before it was taken with the fault, evidence after without."""

    fault: Fault


@dataclass(frozen=True)
class Case:
    """All that is known: the circuit, what was taken in each epoch (between repairs), repairs, beliefs, the meter."""

    circuit: Circuit
    epochs: tuple[tuple[Evidence, ...], ...] = ((),)
    repairs: tuple[Repair, ...] = ()
    belief: Belief = field(default_factory=Belief)
    meter: Meter = field(default_factory=Meter)

    @property
    def now(self) -> tuple[Evidence, ...]:
        """Evidence since the last repair."""
        return self.epochs[-1]


@dataclass(frozen=True)
class Suspect:
    """A fault, or a pair, that may be what is wrong; ``place`` of its likeliest variant among the hypotheses."""

    name: str
    words: str
    probability: float
    faults: tuple[Fault, ...]
    place: int


@dataclass(frozen=True)
class Diagnosis:
    """The posterior: hypotheses with ``probability`` (h,), gathered into suspects; what nothing explains."""

    hypotheses: tuple[Hypothesis, ...]
    probability: Array
    suspects: tuple[Suspect, ...]
    healthy: float
    unexplained: tuple[Evidence, ...]
    entropy_bits: float
    predictor: JointPredictor
    pairs_cut: int


class Diagnostician:
    """Keeps what was solved, so that one more reading costs only its own arithmetic."""

    def __init__(self) -> None:
        self._predictors: dict[object, Predictor] = {}
        self._singles: dict[object, tuple[Hypothesis, ...]] = {}

    def diagnose(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior of a case.

        Raises
        ------
        InvalidInput
            Notes or evidence that do not fit the circuit.
        CannotSolve
            The healthy circuit itself has no operating point.
        """
        task = task or SilentTask()
        singles = self._singles_of(case)
        alone = self._log_posterior(case, singles, task)
        pairs = self._pairs(case, singles, alone, task)
        everything = (*singles, *pairs)
        both = np.concatenate([alone, self._log_posterior(case, pairs, task)]) if pairs else alone
        probability = np.exp(both - logsumexp(both))
        predictor = self._joint(case, singles, pairs)
        suspects = _gather(everything, probability)
        healthy = float(sum(one.probability for one in suspects if not one.faults))
        named = np.array([one.probability for one in suspects])
        entropy = float(-(named * np.log2(np.maximum(named, 1e-300))).sum())
        found = tuple(one for one in suspects if one.faults)[:SHOWN]
        unexplained = _unexplained(case, predictor, probability)
        return Diagnosis(everything, probability, found, healthy, unexplained, entropy, predictor, len(pairs))

    def _pairs(self, case: Case, singles: tuple[Hypothesis, ...], alone: Array, task: Task) -> tuple[Hypothesis, ...]:
        """Pairs worth holding: those of the leading suspects, with their figures spread when no single one explains all."""
        pairs = pairs_of(singles, dict(enumerate(alone.tolist())))
        task.check()
        if not pairs or self._explained(case, singles, int(np.argmax(alone))):
            return pairs
        leading = list(dict.fromkeys(singles[n].name for n in np.argsort(-alone) if singles[n].faults))[:LEADING]
        names = tuple(
            (first, second) for place, first in enumerate(leading) for second in leading[place + 1 :]
            if first.split(" ")[0] != second.split(" ")[0]
        )  # fmt: skip
        coarse = ladders_of(singles, names, COARSE)
        found = self._log_posterior(case, coarse, task, COARSE)
        best = list(dict.fromkeys(coarse[n].name for n in np.argsort(-found)))[:EXPANDED]
        chosen = tuple(pair for pair in names if " and ".join(sorted(pair)) in best)
        fine = ladders_of(singles, chosen, 1)
        return (*(one for one in pairs if one.name not in best), *fine)

    def _explained(self, case: Case, singles: tuple[Hypothesis, ...], place: int) -> bool:
        """Whether one hypothesis explains every piece of evidence since the last repair."""
        predictor = self._predictor(case, singles, 0)
        for evidence in case.now:
            if not evidence.sister:
                total, wrong = log_likelihood(predictor, evidence, case.epochs)
                if math.exp(float(wrong[place] - total[place])) > DOUBTED:
                    return False
        return True

    def _singles_of(self, case: Case) -> tuple[Hypothesis, ...]:
        key = (case.circuit.text, case.belief, case.repairs)
        if key not in self._singles:
            check_notes(case.circuit)
            repaired = {repair.fault.part for repair in case.repairs}
            less = math.log(REPAIRED_FACTOR)
            self._singles = {
                key: tuple(
                    Hypothesis(one.faults, one.log_prior + less * any(f.part in repaired for f in one.faults))
                    for one in singles_of(case.circuit, case.belief)
                )
            }
        return self._singles[key]

    def _predictor(self, case: Case, hypotheses: tuple[Hypothesis, ...], behind: int, stride: int = 1) -> Predictor:
        """Predictor for an epoch ``behind`` repairs ago: the faults put right since are still there."""
        still = tuple(repair.fault for repair in case.repairs[len(case.repairs) - behind :]) if behind else ()
        key = (case.circuit.text, case.meter, tuple(one.faults for one in hypotheses), still, stride)
        if key not in self._predictors:
            if len(self._predictors) > 12:
                self._predictors.pop(next(iter(self._predictors)))
            held = (
                tuple(Hypothesis(_joined(one.faults, still), one.log_prior) for one in hypotheses)
                if still
                else hypotheses
            )
            singles = self._singles_of(case)
            parent = None if hypotheses is singles else self._predictor(case, singles, behind)
            self._predictors[key] = Predictor(case.circuit, held, case.meter, parent, stride)
        return self._predictors[key]

    def _log_posterior(self, case: Case, hypotheses: tuple[Hypothesis, ...], task: Task, stride: int = 1) -> Array:
        total = np.array([one.log_prior for one in hypotheses])
        for behind, epoch in enumerate(reversed(case.epochs)):
            predictor = self._predictor(case, hypotheses, behind, stride)
            for evidence in epoch:
                task.check()
                if not evidence.sister:
                    total = total + log_likelihood(predictor, evidence, case.epochs)[0]
        return total

    def _joint(self, case: Case, singles: tuple[Hypothesis, ...], pairs: tuple[Hypothesis, ...]) -> JointPredictor:
        several = [self._predictor(case, singles, 0)]
        if pairs:
            several.append(self._predictor(case, pairs, 0))
        return JointPredictor(tuple(several))


def _unexplained(case: Case, predictor: JointPredictor, probability: Array) -> tuple[Evidence, ...]:
    """Readings that are rather wrong than explained by anything held possible."""
    found = []
    for evidence in case.now:
        if not evidence.sister:
            total, wrong = log_likelihood(predictor, evidence, case.epochs)
            if float((probability * np.exp(wrong - total)).sum()) > 0.5:
                found.append(evidence)
    return tuple(found)


def _joined(faults: tuple[Fault, ...], still: tuple[Fault, ...]) -> tuple[Fault, ...]:
    parts = {fault.part for fault in faults}
    return (*faults, *(fault for fault in still if fault.part not in parts))


def prediction_of(predictor: Predictor | JointPredictor, evidence: Evidence) -> Prediction:
    """What every hypothesis says this piece of evidence should be, on the scale it is judged on (log10 for ohm, ampere)."""
    if isinstance(predictor, JointPredictor):
        several = [prediction_of(part, evidence) for part in predictor.parts]
        return Prediction(np.concatenate([one.mean for one in several]), np.concatenate([one.sigma for one in several]))
    raw = _plain_prediction(predictor, evidence)
    whole = raw if predictor.parent is predictor else _plain_prediction(predictor.parent, evidence)
    return Prediction(raw.mean, np.hypot(raw.sigma, predictor.figure_blur(whole.mean)))


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
    return Prediction(mean, sigma)


def scale_value(evidence: Evidence) -> float:
    """The value on the scale it is judged on."""
    if evidence.test == "ohm":
        return math.log10(min(max(evidence.value, 0.05), 5e7))
    if evidence.test == "amp":
        return math.log10(max(abs(evidence.value), LEAST_A))
    return math.log10(max(evidence.value, 1e-13)) if evidence.test == "capacitance" else evidence.value


def widened(evidence: Evidence, prediction: Prediction) -> Array:
    """Standard deviation with the sketch's own doubt in it, (h,)."""
    if evidence.test == "volt":
        return np.hypot(prediction.sigma, np.hypot(SKETCH_SHARE * prediction.mean, SKETCH_V))
    return np.hypot(prediction.sigma, SKETCH_SHARE)


def log_likelihood(
    predictor: Predictor | JointPredictor, evidence: Evidence, epochs: tuple[tuple[Evidence, ...], ...] = ()
) -> tuple[Array, Array]:
    """Log density of a piece of evidence under each hypothesis, and that of its being wrong, (h,) each."""
    prediction = prediction_of(predictor, evidence)
    mean = prediction.mean + _sister_shift(predictor, evidence, epochs)
    sigma = widened(evidence, prediction)
    if evidence.test == "continuity":
        beeps = expit((math.log10(CONTINUITY_OHM) - mean) / np.maximum(sigma, 0.05) * 1.7)
        right = np.log(np.clip(beeps if evidence.value else 1.0 - beeps, 1e-12, 1.0))
    else:
        z = (scale_value(evidence) - mean) / sigma
        right = -0.5 * np.square(z) - np.log(sigma * math.sqrt(2 * math.pi))
    wrong = np.full(len(mean), math.log(WRONG_CHANCE * BROAD[evidence.test]))
    total: Array = np.logaddexp(right + math.log(1 - WRONG_CHANCE), wrong)
    return total, wrong


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


def _gather(hypotheses: tuple[Hypothesis, ...], probability: Array) -> tuple[Suspect, ...]:
    """Hypotheses of one name as one suspect, likeliest first."""
    places: dict[str, list[int]] = {}
    for place, hypothesis in enumerate(hypotheses):
        places.setdefault(hypothesis.name, []).append(place)
    found = []
    for name, several in places.items():
        best = max(several, key=lambda place: probability[place])
        faults = hypotheses[best].faults
        words = " and ".join(fault.words for fault in faults) or "no fault"
        found.append(Suspect(name, words, float(probability[several].sum()), faults, best))
    return tuple(sorted(found, key=lambda one: -one.probability))
