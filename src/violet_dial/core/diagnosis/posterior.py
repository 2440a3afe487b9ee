"""Which hypotheses explain all the evidence: posterior over no fault, single faults and pairs.

Source
------
Bayes' rule.
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import check_notes
from violet_dial.core.diagnosis.evidence import Evidence
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.diagnosis.hypotheses import Belief, Hypothesis, ladders_of, pairs_of, singles_of
from violet_dial.core.diagnosis.likelihood import Followed, Spread, begin, follow, joined
from violet_dial.core.diagnosis.predict import JointPredictor, Meter, Predictor
from violet_dial.core.errors import InvalidInput
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
REPAIRED_FACTOR = 0.05  # a part just renewed is this much less likely to be at fault
SHOWN = 40
MOST_PARTS = 110  # what 500 MB and a few seconds carry: 100 parts take 280 MB, 150 take 675 (measured)
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
    spread: Spread
    pairs_cut: int


class Diagnostician:
    """Keeps what was solved, so that one more reading costs only its own arithmetic."""

    def __init__(self) -> None:
        self._predictors: dict[object, Predictor] = {}
        self._singles: dict[object, tuple[Hypothesis, ...]] = {}
        self._kept: dict[object, Followed] = {}

    def diagnose(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior of a case.

        Raises
        ------
        InvalidInput
            Notes or evidence that do not fit the circuit.
        CannotSolve
            The healthy circuit itself has no operating point.
        """
        from scipy.special import logsumexp

        task = task or SilentTask()
        count = len(case.circuit.parts)
        if count > MOST_PARTS:
            raise InvalidInput(
                "Circuit", f"{count} parts", f"at most {MOST_PARTS} to be traced; leave out what is sound"
            )
        singles = self._singles_of(case)
        alone = self._follow_singles(case, singles, task)
        pairs = self._pairs(case, singles, alone, task)
        everything = (*singles, *pairs)
        both = joined(alone, self._follow(case, pairs, task)) if pairs else alone
        probability = np.exp(both.total - logsumexp(both.total))
        predictor = self._joint(case, singles, pairs)
        suspects = _gather(everything, probability)
        healthy = float(sum(one.probability for one in suspects if not one.faults))
        named = np.array([one.probability for one in suspects])
        entropy = float(-(named * np.log2(np.maximum(named, 1e-300))).sum())
        found = tuple(one for one in suspects if one.faults)[:SHOWN]
        odd = tuple(one for one, wrong in both.doubts if float((probability * wrong).sum()) > 0.5)
        return Diagnosis(everything, probability, found, healthy, odd, entropy, predictor, both.spread, len(pairs))

    def _pairs(
        self, case: Case, singles: tuple[Hypothesis, ...], alone: Followed, task: Task
    ) -> tuple[Hypothesis, ...]:
        """Pairs worth holding: those of the leading suspects, with their figures spread when no single one explains all."""
        pairs = pairs_of(singles, dict(enumerate(alone.total.tolist())))
        task.check()
        best_alone = int(np.argmax(alone.total))
        if not pairs or all(wrong[best_alone] <= DOUBTED for _, wrong in alone.doubts):
            return pairs
        leading = list(dict.fromkeys(singles[n].name for n in np.argsort(-alone.total) if singles[n].faults))[:LEADING]
        names = tuple(
            (first, second) for place, first in enumerate(leading) for second in leading[place + 1 :]
            if first.split(" ")[0] != second.split(" ")[0]
        )  # fmt: skip
        coarse = ladders_of(singles, names, COARSE)
        found = self._follow(case, coarse, task, COARSE).total
        best = list(dict.fromkeys(coarse[n].name for n in np.argsort(-found)))[:EXPANDED]
        chosen = tuple(pair for pair in names if " and ".join(sorted(pair)) in best)
        fine = ladders_of(singles, chosen, 1)
        return (*(one for one in pairs if one.name not in best), *fine)

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

    def _follow(self, case: Case, hypotheses: tuple[Hypothesis, ...], task: Task, stride: int = 1) -> Followed:
        """All evidence, oldest epoch first, under each hypothesis."""
        followed = begin(np.array([one.log_prior for one in hypotheses]))
        for behind in range(len(case.epochs) - 1, -1, -1):
            predictor = self._predictor(case, hypotheses, behind, stride)
            followed = replace(followed, doubts=())
            for evidence in case.epochs[len(case.epochs) - 1 - behind]:
                task.check()
                if not evidence.sister:
                    followed = follow(followed, predictor, evidence, case.epochs)
        return followed

    def _follow_singles(self, case: Case, singles: tuple[Hypothesis, ...], task: Task) -> Followed:
        """As `_follow`, going on from what was kept when only one reading came since."""
        shorter = (*case.epochs[:-1], case.now[:-1])
        known = self._kept.get((case.circuit.text, case.belief, case.repairs, case.meter, shorter))
        sisters = any(one.sister for epoch in case.epochs for one in epoch)
        if known is None or sisters or not case.now:
            followed = self._follow(case, singles, task)
        else:
            followed = follow(known, self._predictor(case, singles, 0), case.now[-1], case.epochs)
        self._kept = {(case.circuit.text, case.belief, case.repairs, case.meter, case.epochs): followed}
        return followed

    def _joint(self, case: Case, singles: tuple[Hypothesis, ...], pairs: tuple[Hypothesis, ...]) -> JointPredictor:
        several = [self._predictor(case, singles, 0)]
        if pairs:
            several.append(self._predictor(case, pairs, 0))
        return JointPredictor(tuple(several))


def _joined(faults: tuple[Fault, ...], still: tuple[Fault, ...]) -> tuple[Fault, ...]:
    parts = {fault.part for fault in faults}
    return (*faults, *(fault for fault in still if fault.part not in parts))


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
