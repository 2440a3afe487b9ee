"""Which hypotheses explain all the evidence: posterior over no fault, single faults, pairs, and what is on no list.

Source: Bayes' rule.
"""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.states import states_word
from violet_dial.core.circuit.trade import check_notes, usual_setting
from violet_dial.core.diagnosis.case import Case, Diagnosis
from violet_dial.core.diagnosis.expansion import (
    FIRM,
    begun_at,
    coarse_pairs,
    fine_pairs,
    from_figures,
    leaders_of,
    nearer,
    pairable,
    still_does,
    wanted,
)
from violet_dial.core.diagnosis.extended import LEFT, LEFT_BESIDE_RARE, extended_of, rare_of
from violet_dial.core.diagnosis.faults import rebuilt
from violet_dial.core.diagnosis.foreseen import HEALTHY, Foreseen
from violet_dial.core.diagnosis.gathered import as_one, gathered, less_unlisted, nothing_fits, wants_more
from violet_dial.core.diagnosis.hypotheses import Hypothesis, coarser, named, singles_of
from violet_dial.core.diagnosis.likelihood import LikelihoodTrace, Sisters, begin, chosen, follow, sisters_of, told_once
from violet_dial.core.diagnosis.predict import Predictor, question
from violet_dial.core.diagnosis.standing import DRAWS
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
REPAIRED_FACTOR = 0.05  # a part just renewed is this much less likely to be at fault
FIRST_RUNGS = 2  # figures of each fault in the first answer of a large circuit
LARGE = 40  # parts from which what costs most waits until it is needed
MOST_PARTS = 250  # what 400 MB and some seconds carry
MOST_PREDICTORS = 8
MOST_BEGUN = 3  # how often lines begin anew: beyond a threshold nothing is seen of what lies there from before it
PAIRS = ("coarse", "fine")


class Diagnostician:
    """Keeps what was solved, so that one more reading costs only its own arithmetic."""

    def __init__(self) -> None:
        self._predictors: dict[tuple[object, ...], Predictor] = {}
        self._singles: dict[object, tuple[Hypothesis, ...]] = {}
        self._aside: dict[object, tuple[Hypothesis, ...]] = {}
        self._kept: dict[object, LikelihoodTrace] = {}
        self._made: dict[str, tuple[object, tuple[Hypothesis, ...]]] = {}
        self._foreseen: tuple[object, Foreseen] | None = None
        self._begun: Array | None = None  # where the lines begin anew in the case that was worked out last
        self._last: tuple[str, tuple[Evidence, ...]] = ("", ())  # that case: its circuit and all that was taken
        self._leading: tuple[object, list[str]] | None = None
        self._alone: tuple[tuple[Hypothesis, ...], Array] | None = None

    def first(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior over what is on the list, single faults alone, in a large circuit with few figures each: the first
        answer. Raises InvalidInput, CannotSolve: as `diagnose`.
        """
        task, singles = task or SilentTask(), self._singles_of(case)
        forecast = self._forecast(case, singles)
        if len(case.circuit.parts) < LARGE or self._known(case) is not None:
            return gathered(case, singles, self._follow_singles(case, singles, task), (0, forecast))
        few = (*singles[:2], *(one for rungs in named(singles).values() for one in coarser(rungs, FIRST_RUNGS)))
        return gathered(case, few, self._follow(case, few, "few", task), (0, forecast))

    def diagnose(self, case: Case, task: Task | None = None) -> Diagnosis:
        """The posterior of a case.

        Raises InvalidInput: notes or evidence that do not fit the circuit; CannotSolve: the healthy circuit itself has no
        operating point.
        """
        found = self._whole(case, task or SilentTask())
        last = case.now[-1].setting if case.now else usual_setting(case.circuit)
        return replace(found, states=states_word(case.circuit, Setting(switches=last.switches)))

    def _whole(self, case: Case, task: Task) -> Diagnosis:
        self._go_on_or_begin(case)
        singles = self._singles_of(case)
        alone = self._follow_singles(case, singles, task)
        around, other = self._around(case, singles, alone, task)
        if around is not None and other is not None:
            alone = nearer(case.circuit, singles, (alone, other), around)
        forecast = self._forecast(case, singles)
        if not alone.counted:
            return gathered(case, singles, alone, (0, forecast))
        more = self._once("more", case.whole, lambda: extended_of(case.circuit, case.belief, singles[1].log_prior))
        several = [(singles, less_unlisted(alone, LEFT)), (more, self._follow_beside(case, more, "more", task))]
        count = 0
        so_far = as_one(several)
        if wants_more(*so_far):
            pairs = self._pairs(case, several, task)
            count = sum(len(one) for one, _ in pairs)
            if len(case.circuit.parts) < LARGE or nothing_fits(so_far[1]):
                several[0] = (singles, less_unlisted(alone, LEFT_BESIDE_RARE))
                rare = (*rare_of(case.circuit, singles[1].log_prior), *self._set_aside(case))
                several += [(rare, self._follow_beside(case, rare, "rare", task))] if rare else []
            several += pairs
        return gathered(case, *as_one(several), (count, forecast))

    def _go_on_or_begin(self, case: Case) -> None:
        """What was chosen after the readings before is kept while a case grows: of another nothing of it is left."""
        taken = tuple(one for epoch in case.epochs for one in epoch)
        text, before = self._last
        if text != case.circuit.text or taken[: len(before)] != before:
            self._begun = self._leading = None
        self._last = case.circuit.text, taken

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
            self._predictors[key] = Predictor(case.circuit, held, case.meter, 0 if kind in PAIRS else DRAWS, around)
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
                missed = self._missed(case, hypotheses, behind, evidence) if kind in PAIRS else None
                followed = follow(followed, predictor, evidence, missed)
        return followed

    def _missed(self, case: Case, pairs: tuple[Hypothesis, ...], behind: int, evidence: Evidence) -> Array:
        """What straight lines miss of pairs: as much as of either fault alone. Solving each anew would cost the most of all, and
        were nothing missed a pair would be taken for surer than its faults, (h,)."""
        singles = self._singles_of(case)
        bend = self._predictor(case, singles, behind, "singles").of(evidence).bend
        if self._alone is None or self._alone[0] is not pairs:
            place = {single.faults: n for n, single in enumerate(singles)}
            self._alone = (
                pairs,
                np.array([[place.get((f,), 0) for f in (*one.faults, *one.faults)[:2]] or [0, 0] for one in pairs]),
            )
        found: Array = bend[self._alone[1]].max(axis=1)
        return found

    def _around(
        self, case: Case, singles: tuple[Hypothesis, ...], alone: LikelihoodTrace, task: Task
    ) -> tuple[Array | None, LikelihoodTrace | None]:
        """Where the lines should begin too, and what follows there: from where they did before, moved on while the readings say
        that the parts are elsewhere."""
        now = None if case.sisters else wanted(case.circuit, singles, alone)
        if now is None:
            self._begun = None
            return None, None
        around = now if self._begun is None else self._begun
        for left in range(MOST_BEGUN, 0, -1):
            other = self._follow(case, singles, "singles", task, around)
            then = wanted(case.circuit, singles, from_figures(other, around))
            if then is None or still_does(around, then) or left == 1:
                break
            around = then
        self._begun = around
        return around, other

    def _follow_beside(self, case: Case, hypotheses: tuple[Hypothesis, ...], kind: str, task: Task) -> LikelihoodTrace:
        """As `_follow`, for hypotheses without one of no fault among them: it goes with them and is taken out again."""
        held = (HEALTHY, *hypotheses)
        found = self._follow(case, held, kind, task)
        around = self._begun if kind == "more" else None
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
