"""Which test is worth most: expected drop in doubt about the fault, per minute it costs or for itself.

Source: Lindley, Ann. Math. Stat. 27 (1956) 986 (information of an experiment) [memory]. Entropies of mixtures by pairwise
distances: Kolchinsky and Tracey, Entropy 19 (2017) 361, with the Bhattacharyya distance [memory]; checked against brute-force
sums.
"""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.allowed import RISKS, Reach, cost_of, useful_settings
from violet_dial.core.diagnosis.case import Diagnosis
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM, how_long
from violet_dial.core.diagnosis.likelihood import own_sigma
from violet_dial.core.diagnosis.posterior import LARGE
from violet_dial.core.diagnosis.predict import identity
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
LIKELY, LIKELY_PAIR = 2e-4, 3e-3  # hypotheses below this do not sway the choice; pairs cost more to predict
MOST_LIKELY, MOST_LIKELY_OF_MANY = 140, 50
SAME = 0.5  # pairwise distance below which two suspects cannot be told apart by a test
SHOWN = 12
SURE = 0.9  # a group this likely has won
PROVED = 0.98  # a single fault this likely is to be put right: another test would cost more than it is worth
PARTED = 20.0  # the readings tell two suspects apart when they are so many times as likely under the one
LEAST_BITS = 1e-3
ONE_MORE_MIN = 2.0  # of finding the place again, taking up the probes, thinking; common practice, no source
A_MINUTE = 0.005  # bits a minute is worth where tests are to be few: of two as good the quicker
MOST_GROUPED = 40


@dataclass(frozen=True)
class TestOutcome:
    """One thing a test may show: said, how likely, and what it would leave, likeliest first."""

    words: str
    probability: float
    leaves: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Test:
    """A test that may be made: the evidence it would give (value 0), what it is worth and costs."""

    ask: Evidence
    bits: float
    minutes: float
    opens: tuple[str, ...]
    healthy: str
    outcomes: tuple[TestOutcome, ...] = ()
    risk: str = ""

    @property
    def worth(self) -> float:
        """Bits a minute, what one more test costs for being one more counted in: many small ones are slow too."""
        return self.bits / (self.minutes + ONE_MORE_MIN)


@dataclass(frozen=True)
class Ranking:
    """Tests, best first; ``groups`` of suspects that neither the readings nor an allowed test can tell apart, "no fault" among
    them where it cannot be told from faults; ``settled`` the group that "no fault" has won with, and then nothing more is asked;
    ``left`` the fault that alone is left, to be put right, or empty; ``settled_probability`` of the one or the other."""

    tests: tuple[Test, ...]
    groups: tuple[tuple[str, ...], ...]
    settled: tuple[str, ...] = ()
    settled_probability: float = 0.0
    left: str = ""


def rank_tests(diagnosis: Diagnosis, now: Setting, reach: Reach, task: Task | None = None) -> Ranking:
    """Every allowed test in every useful setting, ranked.

    Parameters
    ----------
    diagnosis : suspects with their probabilities
    now : how the device stands
    task : told how far it is, and asked whether to go on; none when None
    """
    task = task or SilentTask()
    likely = _likely(diagnosis)
    hypotheses = tuple(diagnosis.hypotheses[n] for n in likely)
    circuit = diagnosis.case.circuit
    forecast = diagnosis.forecast
    spread = diagnosis.spread.part(likely)
    weight = diagnosis.probability[likely]
    weight = weight / weight.sum()
    names = [hypothesis.name for hypothesis in hypotheses]
    kernel = _Kernel(weight, names)
    found: list[tuple[Test, Array, Array]] = []
    apart = np.zeros((len(likely), len(likely)))
    settings = useful_settings(circuit, now)
    taken = {identity(one) for one in reach.taken}
    for place, setting in enumerate(settings):
        task.check()
        task.report(place / len(settings), "tests in each setting")
        asks = [ask for ask in forecast.asks(setting, place == 0) if identity(ask) not in taken]
        for ask, prediction in zip(asks, forecast.all_of(hypotheses, asks, task), strict=True):
            mean, variance, _ = spread.conditioned(prediction, own_sigma(ask, prediction))
            mean, sigma = _as_seen(circuit, ask, mean, np.sqrt(variance))
            distance = kernel.distance(mean, sigma)
            np.maximum(apart, distance, out=apart)
            minutes, opens = cost_of(circuit, ask, now, reach)
            test = Test(ask, kernel.bits(distance), minutes, opens, "", risk=RISKS.get(ask.test, ""))
            found.append((test, mean, sigma))
    by_bits = reach.prefer == "fewest tests"
    found.sort(key=lambda one: A_MINUTE * one[0].minutes - one[0].bits if by_bits else -one[0].worth)
    healthy = next(n for n, hypothesis in enumerate(hypotheses) if not hypothesis.faults and hypothesis.law == "plain")
    groups = _groups(names, weight, apart, weight / np.exp([hypothesis.log_prior for hypothesis in hypotheses]))
    settled, chance = _settled(diagnosis, groups)
    left, of_left = _left(diagnosis)
    tests = () if settled or left else tuple(
        _opened(circuit, one, weight, names, healthy) for one in found[:SHOWN] if one[0].bits > LEAST_BITS
    )  # fmt: skip
    return Ranking(tests, groups, settled, max(chance, of_left), left)


def _left(diagnosis: Diagnosis) -> tuple[str, float]:
    """The fault that alone is left, in whatever way its part fails, with its chance: proved, and fitting what was read."""
    if not diagnosis.suspects or not diagnosis.case.now or diagnosis.fitting.is_bad or diagnosis.unexplained:
        return "", 0.0
    places = [{(fault.part, fault.to_node) for fault in suspect.faults} for suspect in diagnosis.suspects]
    chance = sum(suspect.probability for suspect, place in zip(diagnosis.suspects, places, strict=True) if place == places[0])
    return (diagnosis.suspects[0].name, chance) if chance >= PROVED else ("", 0.0)


def _settled(diagnosis: Diagnosis, groups: tuple[tuple[str, ...], ...]) -> tuple[tuple[str, ...], float]:
    """ "No fault", with what cannot be told from it, where it has won: nothing more is asked then. It leads by its own chance:
    a likelier fault beside it has won, not it."""
    group = next((one for one in groups if "no fault" in one), ("no fault",))
    beside = [suspect.probability for suspect in diagnosis.suspects if suspect.name in group]
    chance = diagnosis.healthy + sum(beside)
    leads = diagnosis.healthy >= max(beside, default=0.0)
    won = leads and chance >= SURE and not diagnosis.fitting.is_bad and len(diagnosis.case.now) > 0
    return (group, chance) if won else ((), 0.0)


def _as_seen(circuit: Circuit, ask: Evidence, mean: Array, sigma: Array) -> tuple[Array, Array]:
    """What eye or meter makes of it: a look goes from off to on, a needle from stop to stop, a beep is or is not."""
    if ask.test == "continuity":
        beeps = 1.0 / (1.0 + np.exp(np.clip((mean - math.log10(CONTINUITY_OHM)) / np.maximum(sigma, 0.1) * 1.7, -50, 50)))
        return beeps, np.sqrt(0.01 + beeps * (1.0 - beeps))
    if ask.test == "amp":
        return np.abs(mean), sigma
    if ask.test != "seen":
        return mean, sigma
    low, high = (0.0, 1.0)
    held = np.clip(mean, low, high)
    beyond = np.abs(mean - held)
    # Against a stop all readings are one: what lies far beyond it shows the stop and nothing else.
    eye = 0.03 if is_needle(circuit, ask) else 0.15
    return held, np.where(beyond > 0, np.maximum(eye, sigma - beyond), np.maximum(sigma, eye))


def _likely(diagnosis: Diagnosis) -> list[int]:
    """The hypotheses that sway the choice; what is on no list says nothing of any test."""
    most = MOST_LIKELY if len(diagnosis.case.circuit.parts) < LARGE else MOST_LIKELY_OF_MANY
    order = np.argsort(-diagnosis.probability)[:most]
    least = [LIKELY, LIKELY, LIKELY_PAIR]
    kept = [
        int(n) for n in order
        if diagnosis.probability[n] > least[min(len(diagnosis.hypotheses[n].faults), 2)]
        and diagnosis.hypotheses[n].law != "unlisted"
    ]  # fmt: skip
    healthy = next(n for n, hypothesis in enumerate(diagnosis.hypotheses) if not hypothesis.faults and hypothesis.law == "plain")
    return kept if healthy in kept else [*kept, healthy]


class _Kernel:
    """Pairwise distances of predictions, and the information they carry about which fault it is."""

    def __init__(self, weight: Array, names: list[str]) -> None:
        self.weight = weight
        same = np.array([[name == other for other in names] for name in names])
        self.within = np.where(same, weight, 0.0)
        self.within = self.within / self.within.sum(axis=1, keepdims=True)

    def distance(self, mean: Array, sigma: Array) -> Array:
        """Bhattacharyya distances of normal densities, (h, h)."""
        total = np.square(sigma)[:, None] + np.square(sigma)[None, :]
        apart = np.square(mean[:, None] - mean[None, :]) / (4.0 * total)
        found: Array = apart + 0.5 * np.log(total / (2.0 * sigma[:, None] * sigma[None, :]))
        return found

    def bits(self, distance: Array) -> float:
        """Information about the named fault, bits."""
        likeness = np.exp(-distance)
        outside = np.log2(likeness @ self.weight)
        inside = np.log2((likeness * self.within).sum(axis=1))
        return max(float((self.weight * (inside - outside)).sum()), 0.0)


def _opened(circuit: Circuit, one: tuple[Test, Array, Array], weight: Array, names: list[str], healthy: int | None) -> Test:
    """A test with what each outcome would leave."""
    test, mean, sigma = one
    needle = is_needle(circuit, test.ask)
    shown = shown_value(test.ask, float(mean[healthy]), needle) if healthy is not None else ""
    outcomes = [_outcome(test.ask, cluster, mean, weight, names, needle) for cluster in _clusters(mean, sigma)]
    outcomes = [outcome for outcome in outcomes if outcome.probability > 0.005]
    return replace(test, healthy=shown, outcomes=tuple(sorted(outcomes, key=lambda outcome: -outcome.probability)[:6]))


def _clusters(mean: Array, sigma: Array) -> list[list[int]]:
    """Predictions in order, parted where a gap is wide, or where a run of them has grown to a quarter of the span."""
    clusters: list[list[int]] = []
    span = float(np.ptp(mean))
    for place in np.argsort(mean):
        last, first = (clusters[-1][-1], clusters[-1][0]) if clusters else (-1, -1)
        gap = clusters and mean[place] - mean[last] > 2.5 * np.hypot(sigma[place], sigma[last])
        grown = clusters and mean[place] - mean[first] > max(0.25 * span, 4.0 * sigma[place])
        if not clusters or gap or grown:
            clusters.append([int(place)])
        else:
            clusters[-1].append(int(place))
    return clusters


def _outcome(ask: Evidence, cluster: list[int], mean: Array, weight: Array, names: list[str], needle: bool) -> TestOutcome:
    share = float(weight[cluster].sum())
    by_name: dict[str, float] = {}
    for place in cluster:
        by_name[names[place]] = by_name.get(names[place], 0.0) + float(weight[place]) / max(share, 1e-12)
    low, high = (shown_value(ask, float(end), needle) for end in (mean[cluster].min(), mean[cluster].max()))
    words = low if low == high else f"{low} to {high}"
    leaves = tuple(sorted(by_name.items(), key=lambda pair: -pair[1])[:4])
    return TestOutcome(words, share, leaves)


def is_needle(circuit: Circuit, ask: Evidence) -> bool:
    """Whether what is looked at is a movement's pointer.

    ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    return ask.test == "seen" and kind_of(circuit, circuit.part(ask.part)) == "movement"


def shown_value(ask: Evidence, value: float, needle: bool = False) -> str:
    """A predicted value in the words of the bench; a ``needle`` stands somewhere, a lamp is on or off.

    ``ask``: the test, with the setting the device is to stand in; its value is not looked at.
    """
    if ask.test == "volt":
        return f"{value if abs(value) >= 0.005 else 0.0:.2f} V".replace("-", "−")
    if ask.test == "time":
        return how_long(10**value, 3)
    if ask.test == "clock":
        return "a clock" if value > 0.5 else "no clock"
    if ask.test == "dip":
        return f"a dip of {max(value, 0.0):.2f} V"
    if ask.test == "wakes":
        return "that it wakes by itself" if value > 0.5 else "that it stays asleep"
    if ask.test == "ripple":
        return f"{max(value, 0.0):.2f} V peak to peak"
    if ask.test == "ohm":
        return "open" if value > 7.3 else f"{format_engineering(10**value, 3)}Ω"
    if ask.test == "amp":
        return f"{format_engineering(abs(value) if abs(value) > 1e-9 else 0.0, 3)}A"
    if ask.test == "continuity":
        return "beep" if value > 0.5 else "no beep"
    if ask.test == "capacitance":
        return f"{format_engineering(10**value, 3)}F"
    if ask.test == "seen":
        return f"{value:.0%}".replace("-", "−") if needle else "off" if value < 0.15 else "on" if value > 0.85 else f"{value:.0%}"
    raise InvalidInput("Test", ask.test, "a kind of test that is known here")


def _groups(names: list[str], weight: Array, apart: Array, likelihood: Array) -> tuple[tuple[str, ...], ...]:
    """Named suspects among the likely that no test sets apart: of every figure the other's nearest, likeliest first; those that
    the readings have parted already are none."""
    places: dict[str, list[int]] = {}
    for place in np.argsort(-weight):
        places.setdefault(names[int(place)], []).append(int(place))
    explains = {name: likelihood[several].max() for name, several in places.items()}
    left = [name for name in places if " and " not in name][:MOST_GROUPED]
    groups = []
    while left:
        first = left.pop(0)
        best = places[first][0]
        alike = [
            name
            for name in left
            if apart[best, places[name]].min() < SAME and 1 / PARTED < explains[name] / explains[first] < PARTED
        ]
        left = [name for name in left if name not in alike]
        if alike:
            groups.append((first, *alike))
    return tuple(groups)
