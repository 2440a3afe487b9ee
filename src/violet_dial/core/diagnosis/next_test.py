"""Which test is worth most: expected drop in doubt about the fault, per minute it costs or for itself.

Source
------
Lindley, Ann. Math. Stat. 27 (1956) 986 (information of an experiment) [memory]. Entropies of mixtures by pairwise
distances: Kolchinsky and Tracey, Entropy 19 (2017) 361, with the Bhattacharyya distance [memory]; checked against
brute-force sums.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import Setting, access_to, figure, kind_of, switches_of
from violet_dial.core.diagnosis.evidence import SEEN_KINDS, Evidence, Prefer
from violet_dial.core.diagnosis.likelihood import own_sigma, prediction_of
from violet_dial.core.diagnosis.posterior import Diagnosis
from violet_dial.core.diagnosis.predict import FULL_SCALE_A, JointPredictor, Prediction, Predictor
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
MINUTES = {"volt": 0.6, "ohm": 0.7, "seen": 0.4}  # without strip-down; common practice, no source
MINUTES_PER_CHANGE = 0.2  # turning a switch, setting a light
MINUTES_CELLS = 0.3  # cells out or in
MINUTES_COLD = 6.0  # cooled in a bag or warmed through; common practice, no source
OHMMETER_A = 1e-3  # what an ohmmeter may send on its lowest range; common practice, no source
LIKELY, LIKELY_PAIR = 2e-4, 3e-3  # hypotheses below this do not sway the choice; pairs cost more to predict
MOST_LIKELY = 160
SAME = 0.5  # pairwise distance below which two suspects cannot be told apart by a test
SHOWN = 12


@dataclass(frozen=True)
class Reach:
    """What is open already, and minutes to what is not: by the name a part's note says it is behind.

    ``taken`` was measured since the last repair and is not asked for again; ``prefer`` says what is to be saved.
    """

    opened: frozenset[str] = frozenset()
    minutes: Mapping[str, float] = field(default_factory=dict)
    taken: tuple[Evidence, ...] = ()
    prefer: Prefer = "least minutes"


@dataclass(frozen=True)
class Outcome:
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
    outcomes: tuple[Outcome, ...] = ()

    @property
    def worth(self) -> float:
        """Bits a minute."""
        return self.bits / self.minutes


@dataclass(frozen=True)
class Ranking:
    """Tests, best first; ``groups`` of suspects that no allowed test can tell apart."""

    tests: tuple[Test, ...]
    groups: tuple[tuple[str, ...], ...]


def rank_tests(diagnosis: Diagnosis, now: Setting, reach: Reach, task: Task | None = None) -> Ranking:
    """Every allowed test in every useful setting, ranked.

    Parameters
    ----------
    diagnosis : suspects with their probabilities
    now : how the device stands
    reach : how far one goes: what may be opened, disconnected, or taken out
    task : told how far it is, and asked whether to go on; none when None
    """
    task = task or SilentTask()
    likely = _likely(diagnosis)
    predictor = diagnosis.predictor.parts[0]
    subset = _Subset(diagnosis.predictor, likely)
    spread = diagnosis.spread.part(likely)
    weight = diagnosis.probability[likely]
    weight = weight / weight.sum()
    names = [diagnosis.hypotheses[n].name for n in likely]
    kernel = _Kernel(weight, names)
    found: list[tuple[Test, Array, Array]] = []
    apart = np.zeros((len(likely), len(likely)))
    settings = useful_settings(predictor.circuit, now)
    taken = {_identity(one) for one in reach.taken}
    for place, setting in enumerate(settings):
        task.check()
        task.report(place / len(settings), "tests in each setting")
        for ask in candidates(predictor.circuit, setting, place == 0):
            if _identity(ask) in taken or not is_safe(predictor, ask):
                continue
            prediction = subset.prediction(ask)
            mean, variance, _ = spread.conditioned(prediction, own_sigma(ask, prediction))
            sigma = np.sqrt(variance)
            distance = kernel.distance(mean, sigma)
            np.maximum(apart, distance, out=apart)
            minutes, opens = cost_of(predictor.circuit, ask, now, reach)
            found.append((Test(ask, kernel.bits(distance), minutes, opens, ""), mean, sigma))
    found.sort(key=lambda one: -(one[0].bits if reach.prefer == "fewest tests" else one[0].worth))
    healthy = next((n for n, name in enumerate(names) if name == "no fault"), None)
    tests = tuple(
        _opened(predictor.circuit, one, weight, names, healthy) for one in found[:SHOWN] if one[0].bits > 1e-3
    )
    return Ranking(tests, _groups(names, weight, apart))


def _identity(ask: Evidence) -> tuple[object, ...]:
    """What makes two pieces of evidence the same question."""
    return ask.test, frozenset((ask.plus, ask.minus)), ask.part, ask.setting


def _likely(diagnosis: Diagnosis) -> list[int]:
    order = np.argsort(-diagnosis.probability)[:MOST_LIKELY]
    least = [LIKELY, LIKELY, LIKELY_PAIR]
    kept = [int(n) for n in order if diagnosis.probability[n] > least[len(diagnosis.hypotheses[n].faults)]]
    healthy = next(n for n, one in enumerate(diagnosis.hypotheses) if not one.faults)
    return kept if healthy in kept else [*kept, healthy]


class _Subset:
    """Predictions of the likely hypotheses: single ones from what is solved already, pairs solved for themselves."""

    def __init__(self, whole: JointPredictor, likely: list[int]) -> None:
        self.singles = whole.parts[0]
        count = len(self.singles.hypotheses)
        self.order = np.argsort(np.argsort([n >= count for n in likely], kind="stable"), kind="stable")
        self.places = [n for n in likely if n < count]
        pairs = tuple(whole.hypotheses[n] for n in likely if n >= count)
        self.pairs = Predictor(whole.circuit, pairs, self.singles.meter, self.singles) if pairs else None

    def prediction(self, ask: Evidence) -> Prediction:
        """Mean and sigma in the order of ``likely``."""
        one = prediction_of(self.singles, ask)
        parts = [Prediction(one.mean[self.places], one.sigma[self.places], one.load[self.places])]
        if self.pairs is not None:
            parts.append(prediction_of(self.pairs, ask))
        mean, sigma = (np.concatenate([getattr(part, name) for part in parts]) for name in ("mean", "sigma"))
        load = np.concatenate([part.load for part in parts])
        return Prediction(mean[self.order], sigma[self.order], load[self.order])


class _Kernel:
    """Pairwise distances of predictions, and the information they carry about which fault it is."""

    def __init__(self, weight: Array, names: list[str]) -> None:
        self.weight = weight
        same = np.array([[one == other for other in names] for one in names])
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


def useful_settings(circuit: Circuit, now: Setting) -> tuple[Setting, ...]:
    """The setting as it is, then each that differs by one thing worth trying.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    now : how the device stands
    """
    found = [now]
    base = replace(now, supply="battery") if now.supply == "off" else now
    found.append(base)
    for name, switch in switches_of(circuit).items():
        found += [base.with_switch(name, position) for position in switch.positions]
    kinds = {kind_of(circuit, part) for part in circuit.parts}
    if kinds & {"cds", "photocell"}:
        found += [replace(base, light_lx=light) for light in (10.0, 1000.0, 10_000.0)]
    if kinds & {"joint", "flex"}:
        found += [replace(base, state=tuple(sorted({*base.state} ^ {word}))) for word in ("bent", "cold")]
    if "battery" in kinds and "clip" in kinds:
        found.append(replace(base, supply="bench"))
    return tuple(dict.fromkeys(found))


def candidates(circuit: Circuit, setting: Setting, with_ohms: bool) -> tuple[Evidence, ...]:
    """Tests in one setting: every point against ground, across every part, what can be seen; ohms with the supply out.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    with_ohms : whether ohms with the supply out may be asked for
    """
    touch = [node for node in circuit.nodes if not circuit.note(node).get("flash") and not node.endswith("#")]
    touch = [node for node in touch if "." not in node or circuit.note(node)]
    lifted = {name.lower() for name in setting.disconnected}
    parts = [part for part in circuit.parts if part.letter in "RCLVDI" and part.name.lower() not in lifted]
    across = [part.nodes[:2] for part in parts if GROUND not in part.nodes and set(part.nodes[:2]) <= set(touch)]
    pairs = dict.fromkeys(
        [*((node, GROUND) for node in touch), *((plus, minus) for plus, minus in across if plus != minus)]
    )
    found = []
    if setting.supply != "off":
        found += [Evidence("volt", 0.0, plus, minus, setting=setting) for plus, minus in pairs]
        found += [
            Evidence("seen", 0.0, part=part.name, setting=setting)
            for part in circuit.parts
            if _can_be_seen(circuit, part)
        ]
    if with_ohms:
        off = replace(setting, supply="off")
        found += [Evidence("ohm", 0.0, plus, minus, setting=off) for plus, minus in pairs]
    return tuple(found)


def _can_be_seen(circuit: Circuit, part: Part) -> bool:
    return kind_of(circuit, part) in SEEN_KINDS and part.letter in "RDL"


def is_safe(predictor: Predictor, ask: Evidence) -> bool:
    """Whether a test may be suggested: no flash circuit, no ohmmeter that would drive the movement past its scale.

    Parameters
    ----------
    predictor : solves the circuit under each suspect
    ask : the test, with the setting the device is to stand in; its value is not looked at
    """
    circuit = predictor.circuit
    for node in (ask.plus, ask.minus):
        if node and circuit.note(node).get("flash"):
            return False
    if ask.test != "ohm":
        return True
    block = predictor.block(replace(ask.setting, supply="off"))
    for part in circuit.parts:
        if kind_of(circuit, part) != "movement" or not block.circuit.has(part.name):
            continue
        if set(part.nodes[:2]) == {ask.plus, ask.minus}:
            return False
        a, b = block.row(ask.plus), block.row(ask.minus)
        m, n = block.row(part.nodes[0]), block.row(part.nodes[1])
        r = block.resist[0]
        through = abs(r[m, a] - r[m, b] - r[n, a] + r[n, b]) * OHMMETER_A / part.value
        if through > figure(circuit, part.name, "full_a", FULL_SCALE_A):
            return False
    return True


def cost_of(circuit: Circuit, ask: Evidence, now: Setting, reach: Reach) -> tuple[float, tuple[str, ...]]:
    """Minutes of a test from how the device stands now, and what must be opened for it.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    ask : the test, with the setting the device is to stand in; its value is not looked at
    reach : how far one goes: what may be opened, disconnected, or taken out
    """
    minutes = MINUTES.get(ask.test, 0.5)
    stands, wanted = dict(now.switches), dict(ask.setting.switches)
    minutes += MINUTES_PER_CHANGE * sum(stands.get(name) != position for name, position in wanted.items())
    changed = {*ask.setting.state} ^ {*now.state}
    minutes += MINUTES_PER_CHANGE * (ask.setting.light_lx != now.light_lx) + MINUTES_COLD * ("cold" in changed)
    minutes += MINUTES_PER_CHANGE * len(changed - {"cold"})
    minutes += MINUTES_CELLS * (ask.setting.supply != now.supply)
    opens: dict[str, float] = {}
    places = [ask.plus, ask.minus] if not ask.part else []
    for node in places:
        if node and node != GROUND:
            access = access_to(circuit, node)
            if access.behind and access.behind.lower() not in reach.opened:
                opens[access.behind] = reach.minutes.get(access.behind.lower(), access.minutes)
            elif not access.behind:
                minutes += access.minutes
    return minutes + sum(opens.values()), tuple(opens)


def _opened(
    circuit: Circuit, one: tuple[Test, Array, Array], weight: Array, names: list[str], healthy: int | None
) -> Test:
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


def _outcome(ask: Evidence, cluster: list[int], mean: Array, weight: Array, names: list[str], needle: bool) -> Outcome:
    share = float(weight[cluster].sum())
    by_name: dict[str, float] = {}
    for place in cluster:
        by_name[names[place]] = by_name.get(names[place], 0.0) + float(weight[place]) / max(share, 1e-12)
    low, high = (shown_value(ask, float(end), needle) for end in (mean[cluster].min(), mean[cluster].max()))
    words = low if low == high else f"{low} to {high}"
    leaves = tuple(sorted(by_name.items(), key=lambda pair: -pair[1])[:4])
    return Outcome(words, share, leaves)


def is_needle(circuit: Circuit, ask: Evidence) -> bool:
    """Whether what is looked at is a movement's pointer.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    ask : the test, with the setting the device is to stand in; its value is not looked at
    """
    return ask.test == "seen" and kind_of(circuit, circuit.part(ask.part)) == "movement"


def shown_value(ask: Evidence, value: float, needle: bool = False) -> str:
    """A predicted value in the words of the bench; a ``needle`` stands somewhere, a lamp is on or off.

    Parameters
    ----------
    ask : the test, with the setting the device is to stand in; its value is not looked at
    """
    if ask.test == "volt":
        return f"{value if abs(value) >= 0.005 else 0.0:.2f} V".replace("-", "−")
    if ask.test == "ohm":
        return "open" if value > 7.3 else f"{format_engineering(10**value, 3)}Ω"
    if ask.test == "amp":
        return f"{format_engineering(10**value, 3)}A"
    if ask.test == "seen":
        return f"{value:.0%}" if needle else "off" if value < 0.15 else "on" if value > 0.85 else f"{value:.0%}"
    raise InvalidInput("Test", ask.test, "volt, ohm, amp or seen")


def _groups(names: list[str], weight: Array, apart: Array) -> tuple[tuple[str, ...], ...]:
    """Named suspects among the likely that no test sets apart: those of which the likeliest variants look the same."""
    best: dict[str, int] = {}
    for place in np.argsort(-weight):
        best.setdefault(names[int(place)], int(place))
    leading = [name for name in best if name != "no fault" and " and " not in name][:30]
    left, groups = list(leading), []
    while left:
        first = left.pop(0)
        alike = [name for name in left if apart[best[first], best[name]] < SAME]
        left = [name for name in left if name not in alike]
        if alike:
            groups.append((first, *alike))
    return tuple(groups)
