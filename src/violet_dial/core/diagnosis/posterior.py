"""Which hypotheses explain all the evidence: posterior over no fault, single faults, pairs, and what is on no list.

Source: Bayes' rule. Fit of the leader: chi-square of what is left (Pearson) [memory].
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.states import states_word
from violet_dial.core.circuit.trade import check_notes, usual_setting
from violet_dial.core.diagnosis.block import DRAWS
from violet_dial.core.diagnosis.expansion import (
    FIRM,
    begun_at,
    coarse_pairs,
    fine_pairs,
    leaders_of,
    nearer,
    pairable,
    still_does,
    wanted,
)
from violet_dial.core.diagnosis.extended import LEFT, LEFT_BESIDE_RARE, extended_of, rare_of
from violet_dial.core.diagnosis.faults import rebuilt
from violet_dial.core.diagnosis.foreseen import HEALTHY, Foreseen
from violet_dial.core.diagnosis.hypotheses import UNLISTED, Hypothesis, Priors, coarser, named, singles_of
from violet_dial.core.diagnosis.likelihood import (
    LikelihoodTrace,
    Sisters,
    Spread,
    begin,
    chosen,
    follow,
    joined,
    sisters_of,
    told_once,
)
from violet_dial.core.diagnosis.predict import Meter, Predictor, question
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.core.scipy_rooms import special
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
REPAIRED_FACTOR = 0.05  # a part just renewed is this much less likely to be at fault
SHOWN = 40
FIRST_RUNGS = 2  # figures of each fault in the first answer of a large circuit
LARGE = 40  # parts from which what costs most waits until it is needed
MOST_PARTS = 250  # what 400 MB and some seconds carry
MISFIT = 0.01  # a leader whose readings would lie so far off this seldom fits badly
DOUBTED = 0.05  # a reading this likely wrong under the best single fault asks for pairs and for what is not on the list
UNSURE = 0.10  # and so does this chance of what is not on the list: more than it had beforehand
NOTHING = 0.3  # chance of what is on no list from which even what costs most is worked out in a large circuit
KEPT = 1e-7  # hypotheses below are let go of
MOST_PREDICTORS = 8


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
    belief: Priors = field(default_factory=Priors)
    meter: Meter = field(default_factory=Meter)

    @property
    def now(self) -> tuple[Evidence, ...]:
        """Evidence since the last repair."""
        return self.epochs[-1]

    @property
    def on_bench(self) -> bool:
        """Whether a bench supply stood in for the battery in any of it."""
        return any(evidence.setting.supply == "bench" for epoch in self.epochs for evidence in epoch)

    @property
    def whole(self) -> tuple[object, ...]:
        """What the single faults on the list depend on."""
        return self.circuit.text, self.belief, self.repairs, self.on_bench

    @property
    def sisters(self) -> list[Evidence]:
        """What working units of the same model showed."""
        return [one for epoch in self.epochs for one in epoch if one.sister]


@dataclass(frozen=True)
class Suspect:
    """A fault, or a pair, that may be what is wrong; ``place`` of its likeliest variant among the hypotheses."""

    name: str
    words: str
    probability: float
    faults: tuple[Fault, ...]
    place: int


@dataclass(frozen=True)
class Fitting:
    """How well the leader fits: ``misfit`` the sum of squares of what is left of ``readings``, in standard deviations, and
    the ``chance`` of so much when it is the truth."""

    misfit: float = 0.0
    readings: int = 0
    chance: float = 1.0

    @property
    def is_bad(self) -> bool:
        return self.chance < MISFIT


@dataclass(frozen=True)
class Diagnosis:
    """The posterior: hypotheses with ``probability`` (h,), gathered into suspects; what nothing explains."""

    case: Case
    hypotheses: tuple[Hypothesis, ...]
    probability: Array
    suspects: tuple[Suspect, ...]
    healthy: float
    unlisted: float
    fitting: Fitting
    unexplained: tuple[Evidence, ...]
    entropy_bits: float
    spread: Spread
    pairs_cut: int
    forecast: Foreseen
    states: str = ""  # that the circuit may stand in several, said


class Diagnostician:
    """Keeps what was solved, so that one more reading costs only its own arithmetic."""

    def __init__(self) -> None:
        self._predictors: dict[tuple[object, ...], Predictor] = {}
        self._singles: dict[object, tuple[Hypothesis, ...]] = {}
        self._aside: dict[object, tuple[Hypothesis, ...]] = {}
        self._kept: dict[object, LikelihoodTrace] = {}
        self._made: dict[str, tuple[object, tuple[Hypothesis, ...]]] = {}
        self._foreseen: tuple[object, Foreseen] | None = None
        self._begun: dict[str, Array] = {}
        self._leading: tuple[object, list[str]] | None = None

    def first(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior over what is on the list, single faults alone, in a large circuit with few figures each: the first
        answer. Raises InvalidInput, CannotSolve: as `diagnose`.
        """
        task, singles = task or SilentTask(), self._singles_of(case)
        forecast = self._forecast(case, singles)
        if len(case.circuit.parts) < LARGE or self._known(case) is not None:
            return _gathered(case, singles, self._follow_singles(case, singles, task), (0, forecast))
        few = (*singles[:2], *(one for rungs in named(singles).values() for one in coarser(rungs, FIRST_RUNGS)))
        return _gathered(case, few, self._follow(case, few, "few", task), (0, forecast))

    def diagnose(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior of a case.

        Raises InvalidInput: notes or evidence that do not fit the circuit; CannotSolve: the healthy circuit itself has no
        operating point.
        """
        found = self._whole(case, task or SilentTask())
        last = case.now[-1].setting if case.now else usual_setting(case.circuit)
        return replace(found, states=states_word(case.circuit, Setting(switches=last.switches)))

    def _whole(self, case: Case, task: Task) -> Diagnosis:
        singles = self._singles_of(case)
        alone = self._follow_singles(case, singles, task)
        around = self._around(case, singles, alone)
        if around is not None:
            other = self._follow(case, singles, "singles", task, around)
            alone = nearer(case.circuit, singles, (alone, other), around)
        forecast = self._forecast(case, singles)
        if not alone.counted:
            return _gathered(case, singles, alone, (0, forecast))
        more = self._once("more", case.whole, lambda: extended_of(case.circuit, case.belief, singles[1].log_prior))
        several = [(singles, _less_unlisted(alone, LEFT)), (more, self._follow_beside(case, more, "more", task))]
        count = 0
        so_far = _as_one(several)
        if _wants_more(*so_far):
            pairs = self._pairs(case, several, task)
            count = sum(len(one) for one, _ in pairs)
            if len(case.circuit.parts) < LARGE or _nothing_fits(so_far[1]):
                several[0] = (singles, _less_unlisted(alone, LEFT_BESIDE_RARE))
                rare = (*rare_of(case.circuit, singles[1].log_prior), *self._set_aside(case))
                several += [(rare, self._follow_beside(case, rare, "rare", task))] if rare else []
            several += pairs
        return _gathered(case, *_as_one(several), (count, forecast))

    def _pairs(
        self, case: Case, several: list[tuple[tuple[Hypothesis, ...], LikelihoodTrace]], task: Task
    ) -> list[tuple[tuple[Hypothesis, ...], LikelihoodTrace]]:
        """Pairs worth holding: every fault beside the leading ones, first with few figures each, then the best with all."""
        singles, alone = several[0]
        singles_only = pairable(case.circuit, singles)
        leading = self._leading_of(case, leaders_of(singles, alone.total))
        coarse = self._once("coarse", (case.whole, *leading), lambda: coarse_pairs(case.circuit, singles_only, leading))
        if not coarse:
            return []
        found = self._follow_beside(case, coarse, "coarse", task)
        fine, names = fine_pairs(case.circuit, singles_only, coarse, found.total)
        kept = np.array([n for n, one in enumerate(coarse) if one.name not in names], dtype=np.intp)
        made = [(tuple(coarse[n] for n in kept), chosen(found, kept))]
        if fine:
            made.append((fine, self._follow_beside(case, fine, "fine", task)))
        return made

    def _leading_of(self, case: Case, names: list[str]) -> list[str]:
        """The leading names; those of before where the first of them are still among these: their pairs are solved."""
        key = case.whole
        if self._leading is None or self._leading[0] != key or not {*names[:FIRM]} <= {*self._leading[1]}:
            self._leading = (key, names)
        return self._leading[1]

    def _singles_of(self, case: Case) -> tuple[Hypothesis, ...]:
        count = len(case.circuit.parts)
        if count > MOST_PARTS:
            raise InvalidInput("Circuit", f"{count} parts", f"at most {MOST_PARTS} to be traced; leave out what is sound")
        key = case.whole
        if key not in self._singles:
            check_notes(case.circuit)
            repaired = {repair.fault.part for repair in case.repairs}
            less = math.log(REPAIRED_FACTOR)
            every = tuple(
                replace(single, log_prior=single.log_prior + less * any(f.part in repaired for f in single.faults))
                for single in singles_of(case.circuit, case.belief, case.on_bench)
            )
            large = count >= LARGE
            anew = [large and any(rebuilt(case.circuit, f) is not None for f in one.faults) for one in every]
            self._singles = {key: tuple(one for one, aside in zip(every, anew, strict=True) if not aside)}
            self._aside = {key: tuple(one for one, aside in zip(every, anew, strict=True) if aside)}
        return self._singles[key]

    def _once(self, kind: str, whose: object, make: Callable[[], tuple[Hypothesis, ...]]) -> tuple[Hypothesis, ...]:
        """Hypotheses made once for the same."""
        if kind not in self._made or self._made[kind][0] != whose:
            self._made[kind] = whose, make()
        return self._made[kind][1]

    def _set_aside(self, case: Case) -> tuple[Hypothesis, ...]:
        """Single faults of a large circuit that need it built anew: worked out only where nothing else explains all."""
        return self._aside.get(case.whole, ())

    def _predictor(
        self, case: Case, hypotheses: tuple[Hypothesis, ...], behind: int, kind: str, around: Array | None = None
    ) -> Predictor:
        """Predictor for an epoch ``behind`` repairs ago: the faults put right since are still there."""
        still = tuple(repair.fault for repair in case.repairs[len(case.repairs) - behind :]) if behind else ()
        whose: object = (
            (case.belief, case.on_bench) if kind == "singles" else tuple(hypothesis.faults for hypothesis in hypotheses)
        )
        kind = kind if around is None else f"{kind} around"
        key = (kind, case.circuit.text, case.meter, still, whose, None if around is None else around.tobytes())
        if key not in self._predictors:
            for old in [
                predictor for predictor in self._predictors if predictor[0] == kind != "singles" and predictor[3] == still
            ]:
                del self._predictors[old]
            if len(self._predictors) > MOST_PREDICTORS:
                self._predictors.pop(next(iter(self._predictors)))
            held = (
                tuple(replace(hypothesis, faults=_joined(hypothesis.faults, still)) for hypothesis in hypotheses)
                if still
                else hypotheses
            )
            draws = DRAWS if kind in ("singles", "few") else 0
            self._predictors[key] = Predictor(case.circuit, held, case.meter, draws, around)
        return self._predictors[key]

    def _follow(
        self, case: Case, hypotheses: tuple[Hypothesis, ...], kind: str, task: Task, around: Array | None = None
    ) -> LikelihoodTrace:
        """All evidence, oldest epoch first, under each hypothesis."""
        width = self._predictor(case, hypotheses, 0, kind, around).toleranced + 2
        followed = begin(hypotheses, width, self._sisters(case))
        if around is not None:
            followed = begun_at(followed, around)
        for behind in range(len(case.epochs) - 1, -1, -1):
            predictor = self._predictor(case, hypotheses, behind, kind, around)
            followed = replace(followed, doubts=(), misfit=np.zeros(len(hypotheses)), counted=0)
            asks = told_once([epoch for epoch in case.epochs[len(case.epochs) - 1 - behind] if not epoch.sister])
            predictor.all_of(asks, task)
            for evidence in asks:
                task.check()
                followed = follow(followed, predictor, evidence)
        return followed

    def _around(self, case: Case, singles: tuple[Hypothesis, ...], alone: LikelihoodTrace) -> Array | None:
        """Where the lines should begin too; that of before while it does."""
        now = None if case.sisters else wanted(case.circuit, singles, alone)
        if now is None or not still_does(self._begun.get(case.circuit.text), now):
            self._begun = {} if now is None else {case.circuit.text: now}
        return self._begun.get(case.circuit.text)

    def _follow_beside(self, case: Case, hypotheses: tuple[Hypothesis, ...], kind: str, task: Task) -> LikelihoodTrace:
        """As `_follow`, for hypotheses without one of no fault among them: it goes with them and is taken out again."""
        held = (HEALTHY, *hypotheses)
        found = self._follow(case, held, kind, task)
        around = self._begun.get(case.circuit.text) if kind == "more" else None
        if around is not None:
            found = nearer(case.circuit, held, (found, self._follow(case, held, kind, task, around)), around)
        return chosen(found, np.arange(1, len(hypotheses) + 1))

    def _follow_singles(self, case: Case, singles: tuple[Hypothesis, ...], task: Task) -> LikelihoodTrace:
        """As `_follow`, going on from what was kept when only one reading came since."""
        known = self._known(case)
        if known is None:
            followed = self._follow(case, singles, "singles", task)
        else:
            followed = follow(known, self._predictor(case, singles, 0, "singles"), case.now[-1])
        self._kept = {(case.whole, case.meter, case.epochs): followed}
        return followed

    def _known(self, case: Case) -> LikelihoodTrace | None:
        """What was kept of the same case when its last reading had not come yet."""
        if not case.now or case.now[-1].sister or question(case.now[-1]) in {question(one) for one in case.now[:-1]}:
            return None
        shorter = (*case.epochs[:-1], case.now[:-1])
        return self._kept.get((case.whole, case.meter, shorter))

    def _forecast(self, case: Case, singles: tuple[Hypothesis, ...]) -> Foreseen:
        """What tests that were not made would show: for the choice among them."""
        key = (case.whole, case.meter)
        if self._foreseen is None or self._foreseen[0] != key:
            self._foreseen = (key, Foreseen(case.circuit, singles, case.meter))
        return self._foreseen[1]

    def _sisters(self, case: Case) -> Sisters | None:
        return sisters_of(Predictor(case.circuit, (HEALTHY,), case.meter), case.sisters) if case.sisters else None


def _joined(faults: tuple[Fault, ...], still: tuple[Fault, ...]) -> tuple[Fault, ...]:
    parts = {fault.part for fault in faults}
    return (*faults, *(fault for fault in still if fault.part not in parts))


def _wants_more(singles: tuple[Hypothesis, ...], alone: LikelihoodTrace) -> bool:
    """Whether no single fault on the list explains all that was read."""
    if not alone.doubts:
        return False
    chance = np.exp(alone.total - np.logaddexp.reduce(alone.total))
    listed = np.flatnonzero(alone.laws != 1)
    best = int(listed[np.argmax(chance[listed])])
    doubted = any(wrong[best] > DOUBTED for _, wrong in alone.doubts)
    return bool(chance[1] > UNSURE or doubted or _fitting(singles, alone, best).chance < 5 * MISFIT)


def _nothing_fits(whole: LikelihoodTrace) -> bool:
    """Whether what is on no list explains the readings as well as all that is."""
    chance = np.exp(whole.total - np.logaddexp.reduce(whole.total))
    return bool(chance[1] > NOTHING)


def _less_unlisted(alone: LikelihoodTrace, share: float) -> LikelihoodTrace:
    """What is on no list keeps what the candidates made of it leave."""
    prior = alone.prior.copy()
    prior[1] += math.log(share)
    return replace(alone, prior=prior)


def _as_one(several: list[tuple[tuple[Hypothesis, ...], LikelihoodTrace]]) -> tuple[tuple[Hypothesis, ...], LikelihoodTrace]:
    return tuple(one for group, _ in several for one in group), joined([followed for _, followed in several])


def _fitting(hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace, place: int) -> Fitting:

    free = sum(span > 0 for span in hypotheses[place].spans)
    count, misfit = followed.counted, float(followed.misfit[place])
    return Fitting(misfit, count, float(special.chdtrc(max(count - free, 1), misfit))) if count else Fitting()


def _gathered(case: Case, hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace, more: tuple[int, Foreseen]) -> Diagnosis:
    """Hypotheses of one name as one suspect, likeliest first; those of hardly any chance are let go of."""
    probability = np.exp(followed.total - np.logaddexp.reduce(followed.total))
    kept = np.flatnonzero((probability > KEPT) | (np.arange(len(probability)) < 2))
    followed, probability = chosen(followed, kept), probability[kept] / probability[kept].sum()
    hypotheses = tuple(hypotheses[n] for n in kept)
    suspects = _suspects(hypotheses, probability, followed)
    named = np.array([suspect.probability for suspect in suspects])
    entropy = float(-(named * np.log2(np.maximum(named, 1e-300))).sum())
    chance = {suspect.name: suspect.probability for suspect in suspects}
    odd = tuple(one for one, wrong in followed.doubts if float((probability * wrong).sum()) > 0.5)
    leader = next((suspect for suspect in suspects if suspect.name != UNLISTED), suspects[0])
    return Diagnosis(
        case, hypotheses, probability, tuple(suspect for suspect in suspects if suspect.faults)[:SHOWN],
        chance.get("no fault", 0.0),
        chance.get(UNLISTED, 0.0), _fitting(hypotheses, followed, leader.place), odd, entropy, followed.spread, *more,
    )  # fmt: skip


def _suspects(hypotheses: tuple[Hypothesis, ...], probability: Array, followed: LikelihoodTrace) -> tuple[Suspect, ...]:
    places: dict[str, list[int]] = {}
    for place, hypothesis in enumerate(hypotheses):
        places.setdefault(hypothesis.name, []).append(place)
    found = []
    for name, several in places.items():
        best = max(several, key=lambda place: probability[place])
        faults = _settled(hypotheses[best], followed.spread.mean[best, -2:])
        words = " and ".join(fault.words for fault in faults) or name
        found.append(Suspect(name, words, float(probability[several].sum()), faults, best))
    return tuple(sorted(found, key=lambda one: -one.probability))


def _settled(one: Hypothesis, figures: Array) -> tuple[Fault, ...]:
    """The faults with the figures that the readings settle on within their rungs."""
    found = []
    slot = 0
    for place, fault in enumerate(one.faults):
        span = one.spans[place] if place < len(one.spans) else 0.0
        if span > 0:
            step = float(np.clip(figures[slot] * span / math.sqrt(12.0), -span, span))
            found.append(replace(fault, figure=fault.figure * math.exp(step)))
            slot += 1
        else:
            found.append(fault)
    return tuple(found)
