"""Two units of one circuit: which part, or which two points, would make the sick one differ from the good one as it does.

Both are draws of the same circuit, each part off by its own tolerance; the sick one has one fault. What the sketch has wrong is
wrong in both and falls out of the difference.

Source: Bayes' rule over the faults of the list; a normal law of many readings with heavier tails (multivariate t) [memory].
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.diagnosis.explain import spoken
from violet_dial.core.diagnosis.extended import BRIDGES, LEFT, extended_of
from violet_dial.core.diagnosis.hypotheses import UNLISTED, Hypothesis, Priors, singles_of
from violet_dial.core.diagnosis.laws import TAIL
from violet_dial.core.diagnosis.predict import Prediction, Predictor
from violet_dial.core.diagnosis.recorded import UNSOLVED
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
ANY_V = 3.0  # standard deviation of what a fault that is on no list may do to a spot, V
LEAST = 1e-4  # chance from which a fault counts in the choice of the next spot
MOST_NAMED = 20
ENOUGH_BITS = 0.06  # a comparison that settles less is not asked for
METER_V = 0.01


@dataclass(frozen=True)
class DifferenceReading:
    """Volts of a spot against the chassis in both units."""

    node: str
    good_v: float
    sick_v: float
    setting: Setting


@dataclass(frozen=True)
class DifferenceJudgement:
    """Faults that would make the difference: name, its parts or points, chance, likeliest first; the chance that there is none,
    and that it is on no list; what the next comparison of each node would settle, bits."""

    faults: tuple[tuple[str, tuple[str, ...], float], ...]
    none: float
    unlisted: float
    bits: dict[str, float]


@dataclass(frozen=True)
class Opened:
    """One fault's arithmetic: its chance beforehand and now; for each reading the difference that was read, what it predicts, and
    one standard deviation of that, V."""

    name: str
    before: float
    chance: float
    rows: tuple[tuple[str, float, float, float], ...]


class Differing:
    """A circuit and how two sound units of it differ; each setting is solved once."""

    def __init__(self, circuit: Circuit, nodes: Sequence[str]) -> None:
        self.circuit = circuit
        self.nodes = [node for node in dict.fromkeys(nodes) if node != GROUND and node in circuit.nodes]
        singles = singles_of(circuit, Priors())
        bridges = extended_of(circuit, Priors(), singles[1].log_prior + math.log(LEFT + BRIDGES))
        self.hypotheses: tuple[Hypothesis, ...] = (*singles, *(bridge for bridge in bridges if bridge.law == "plain"))
        self._predictor = Predictor(circuit, self.hypotheses)
        self._found: dict[Setting, list[Prediction]] = {}

    def predicted(self, setting: Setting, task: Task | None = None) -> list[Prediction]:
        """What each fault says of each node in a setting. Raises CannotSolve: the sound circuit has no operating point."""
        if setting not in self._found:
            asks = [Evidence("volt", 0.0, node, GROUND, setting=setting) for node in self.nodes]
            self._found[setting] = self._predictor.all_of(asks, task or SilentTask())
        return self._found[setting]

    def unit_v(self, setting: Setting) -> dict[str, float]:
        """By how much one sound unit is off at each node, one standard deviation, V."""
        found = self.predicted(setting)
        return {node: float(one.total[0]) for node, one in zip(self.nodes, found, strict=True)}

    def judge(self, readings: Sequence[DifferenceReading], now: Setting, task: Task | None = None) -> DifferenceJudgement:
        """Which fault makes the difference, and where to compare next. ``now``: how both stand for the next comparison."""
        own = [reading for reading in readings if reading.node in self.nodes]
        predicted = [self.predicted(one.setting, task)[self.nodes.index(one.node)] for one in own]
        following = self.predicted(now, task)
        mean, spread, width = self._joint([*predicted, *following])
        read = np.array([one.sick_v - one.good_v for one in own])
        count = len(own)
        prior = np.array([hypothesis.log_prior for hypothesis in self.hypotheses])
        fit, away, left = _conditioned(mean, spread, read, count, width)
        log_weight = prior + fit
        weight = np.exp(log_weight - log_weight.max())
        weight /= weight.sum()
        measured = {one.node for one in own if one.setting == now}
        bits = _bits(weight, away, left)
        return DifferenceJudgement(
            self._named(weight), float(weight[0]), float(weight[1]),
            {node: float(bits[n]) for n, node in enumerate(self.nodes) if node not in measured},
        )  # fmt: skip

    def opened(self, readings: Sequence[DifferenceReading], most: int = 4) -> tuple[Opened, ...]:
        """The arithmetic of the likeliest faults, and of none, each with its likeliest figure."""
        own = [reading for reading in readings if reading.node in self.nodes]
        if not own:
            return ()
        predicted = [self.predicted(one.setting)[self.nodes.index(one.node)] for one in own]
        mean, spread, width = self._joint(predicted)
        read = np.array([one.sick_v - one.good_v for one in own])
        fit, _, _ = _conditioned(mean, spread, read, len(own), width)
        prior = np.exp(np.array([hypothesis.log_prior for hypothesis in self.hypotheses]))
        weight = prior * np.exp(fit - fit.max())
        prior, weight = prior / prior.sum(), weight / weight.sum()
        sigma = np.sqrt(np.einsum("htp,htp->ht", spread, spread) + width)
        found: dict[str, Opened] = {}
        for h in np.argsort(-weight):
            one = self.hypotheses[int(h)]
            name = spoken(self.circuit, one.name)
            if name in found or one.name == UNLISTED or (len(found) >= most and one.faults):
                continue
            several = [k for k, other in enumerate(self.hypotheses) if other.name == one.name]
            rows = tuple((reading.node, float(read[t]), float(mean[h, t]), float(sigma[h, t])) for t, reading in enumerate(own))
            found[name] = Opened(name, float(prior[several].sum()), float(weight[several].sum()), rows)
        return tuple(found.values())

    def _joint(self, predicted: list[Prediction]) -> tuple[Array, Array, Array]:
        """Mean (h, t) of the differences, what moves them together (h, t, p), and each one's own variance (h, t)."""
        mean = np.stack([one.mean - one.mean[0] for one in predicted], axis=1)
        load = np.stack([one.load for one in predicted], axis=1)
        sound = np.repeat(load[:1], len(mean), axis=0)
        own = np.stack([np.square(one.sigma) + np.square(one.bend) + np.square(one.doubt) for one in predicted], axis=1)
        own = own + own[:1] + METER_V**2
        unlisted = [n for n, hypothesis in enumerate(self.hypotheses) if hypothesis.law == "unlisted"]
        own[unlisted] += ANY_V**2
        return mean, np.concatenate([load, sound], axis=2), np.minimum(own, UNSOLVED**2)

    def _named(self, weight: Array) -> tuple[tuple[str, tuple[str, ...], float], ...]:
        found: dict[str, tuple[tuple[str, ...], float]] = {}
        for hypothesis, chance in zip(self.hypotheses, weight.tolist(), strict=True):
            if hypothesis.faults and hypothesis.name != UNLISTED:
                fault = hypothesis.faults[0]
                parts = (fault.part, fault.to_node) if fault.to_node else (fault.part,)
                found[hypothesis.name] = (parts, found.get(hypothesis.name, (parts, 0.0))[1] + chance)
        order = sorted(found, key=lambda name: -found[name][1])
        return tuple((spoken(self.circuit, name), *found[name]) for name in order[:MOST_NAMED])


def _conditioned(mean: Array, spread: Array, read: Array, count: int, own: Array) -> tuple[Array, Array, Array]:
    """Log density (h,) of the first ``count`` differences as read; what each further one should be then (h, s), and its
    variance (h, s)."""
    whole = spread @ spread.transpose(0, 2, 1)
    first = whole[:, :count, :count] + own[:, :count, None] * np.eye(count)
    across, rest = (whole[:, count:, :count], np.einsum("hsp,hsp->hs", spread[:, count:], spread[:, count:]) + own[:, count:])
    if count == 0:
        return np.zeros(len(mean)), mean, rest
    away = read[None, :] - mean[:, :count]
    solved = np.linalg.solve(first, away[:, :, None])[:, :, 0]
    square = np.maximum((away * solved).sum(axis=1), 0.0)
    _, log_size = np.linalg.slogdet(first)
    constant = math.lgamma((TAIL + count) / 2) - math.lgamma(TAIL / 2) - 0.5 * count * math.log(math.pi * (TAIL - 2))
    fit = constant - 0.5 * log_size - 0.5 * (TAIL + count) * np.log1p(square / (TAIL - 2))
    less = np.einsum("hst,hst->hs", across, np.linalg.solve(first, across.transpose(0, 2, 1)).transpose(0, 2, 1))
    expected = mean[:, count:] + np.einsum("hst,ht->hs", across, solved)
    return fit, expected, np.maximum(rest - less, METER_V**2)


def _bits(weight: Array, mean: Array, variance: Array) -> Array:
    """What a comparison of each spot settles of which fault it is, (s,), bits."""
    some = np.argsort(-weight)[: max(int((weight > LEAST).sum()), 1)][:80]
    w = weight[some] / weight[some].sum()
    at, wide = mean[some], variance[some]
    apart = np.square(at[:, None, :] - at[None, :, :]) / (wide[:, None, :] + wide[None, :, :])
    same_width = np.sqrt(2 * np.sqrt(wide[:, None, :] * wide[None, :, :]) / (wide[:, None, :] + wide[None, :, :]))
    likeness = same_width * np.exp(-np.minimum(apart, 400) / 4.0)
    mixed = np.log2(np.maximum(np.einsum("k,hks->hs", w, likeness), 1e-300))
    found: Array = -(w[:, None] * mixed).sum(axis=0)
    return found
