"""Hypotheses gathered into suspects with their chances, and whether any of them explains what was read.

Source: Fit of the leader: chi-square of what is left (Pearson) [memory].
"""

import math
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.diagnosis.case import MISFIT, Case, Diagnosis, Fitting, Suspect
from violet_dial.core.diagnosis.foreseen import Foreseen
from violet_dial.core.diagnosis.hypotheses import UNLISTED, Hypothesis
from violet_dial.core.diagnosis.likelihood import LikelihoodTrace, chosen, joined
from violet_dial.core.records.circuit import Fault
from violet_dial.core.scipy_rooms import special

Array = npt.NDArray[Any]
SHOWN = 40
DOUBTED = 0.05  # a reading this likely wrong under the best single fault asks for pairs and for what is not on the list
UNSURE = 0.10  # and so does this chance of what is not on the list: more than it had beforehand
NOTHING = 0.3  # chance of what is on no list from which even what costs most is worked out in a large circuit
KEPT = 1e-7  # hypotheses below are let go of


def wants_more(singles: tuple[Hypothesis, ...], alone: LikelihoodTrace) -> bool:
    """Whether no single fault on the list explains all that was read."""
    if not alone.doubts:
        return False
    chance = np.exp(alone.total - np.logaddexp.reduce(alone.total))
    listed = np.flatnonzero(alone.laws != 1)
    best = int(listed[np.argmax(chance[listed])])
    doubted = any(wrong[best] > DOUBTED for _, wrong in alone.doubts)
    return bool(chance[1] > UNSURE or doubted or _fitting(singles, alone, best).chance < 5 * MISFIT)


def nothing_fits(whole: LikelihoodTrace) -> bool:
    """Whether what is on no list explains the readings as well as all that is."""
    chance = np.exp(whole.total - np.logaddexp.reduce(whole.total))
    return bool(chance[1] > NOTHING)


def less_unlisted(alone: LikelihoodTrace, share: float) -> LikelihoodTrace:
    """What is on no list keeps what the candidates made of it leave."""
    prior = alone.prior.copy()
    prior[1] += math.log(share)
    return replace(alone, prior=prior)


def as_one(several: list[tuple[tuple[Hypothesis, ...], LikelihoodTrace]]) -> tuple[tuple[Hypothesis, ...], LikelihoodTrace]:
    """Sets of hypotheses after the same evidence as one set, in their order."""
    return tuple(one for group, _ in several for one in group), joined([followed for _, followed in several])


def _fitting(hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace, place: int) -> Fitting:
    free = sum(span > 0 for span in hypotheses[place].spans)
    count, misfit = followed.counted, float(followed.misfit[place])
    return Fitting(misfit, count, float(special.chdtrc(max(count - free, 1), misfit))) if count else Fitting()


def gathered(case: Case, hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace, more: tuple[int, Foreseen]) -> Diagnosis:
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
