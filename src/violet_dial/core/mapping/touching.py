"""The next touch: which two spots settle most of what is in doubt in a minute; and which nets are proved.

Source: A touch that shows what the map expects rules out all that would have shown otherwise; its worth is the entropy of that
outcome [common practice in group testing: Dorfman 1943, memory].
"""

import itertools
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import kind_of, set_circuit, switches_of
from violet_dial.core.mapping.board import CHASSIS, Board, SolderPoint, key_of, node_of
from violet_dial.core.mapping.doubts import groups_of, neighbours, own_sigma, rows_of, shown
from violet_dial.core.mapping.ohms import Network
from violet_dial.core.mapping.search import MapJudgement, judged
from violet_dial.core.mapping.taken import JOINED_OHM, is_low
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import LEADS, OVERLOAD_OHM, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
TOUCH_MIN, SWITCH_MIN = 0.15, 0.5  # of one touch, of turning a switch; common practice, no source
MOST_PAIRS = 3000
APART = 4.0  # standard deviations by which readings are told apart
LEAST_BITS, ENOUGH_BITS = 0.01, 0.02
CROWDED = 0.35  # things that may upset a touch, in all, from which one alone would not be known by it
MOST_LEADING, SURE = 16, 0.98  # maps told apart; one this likely stands alone
DOUBTED = 1e-3  # chance from which a doubt is one
MOST_SETTINGS = 8


@dataclass(frozen=True)
class NextTouch:
    """Two spots to touch: what the map expects there, how much it settles, in what setting, and what it would settle."""

    a: str
    b: str
    setting: Setting
    expects: str
    ohm: float
    bits: float
    minutes: float
    settles: tuple[str, ...]


@dataclass(frozen=True)
class Net:
    """Spots that leads join: those not measured to the rest yet, and neighbours it was not measured apart from yet."""

    spots: tuple[str, ...]
    alone: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()

    @property
    def is_proved(self) -> bool:
        """Whether every member was measured to another, and all apart from their neighbours."""
        return not self.alone and not self.beside


@dataclass(frozen=True)
class Proof:
    """The nets that are believed and how far each is proved; the touch to make next; the least touches left to prove all."""

    judged: MapJudgement
    nets: tuple[Net, ...]
    next: NextTouch | None
    left: int

    @property
    def is_proved(self) -> bool:
        """Whether every net is proved and every touch explained."""
        return all(net.is_proved for net in self.nets) and not self.judged.odd


def proof_of(board: Board, now: Setting | None = None, before: MapJudgement | None = None, task: Task | None = None) -> Proof:
    """What is proved of a board, and the touch that settles most.

    ``before``: what was judged a touch ago: where to begin. Raises InvalidInput: a touch in a switch position that the map has
    not.
    """
    task = task or SilentTask()
    found = judged(board, before, task)
    now = now or Setting()
    open_ = found.best.turns > DOUBTED
    best: NextTouch | None = None
    for setting in _settings(found, now):
        task.check()
        touch = _best_in(found, setting, now, open_)
        if touch is not None and (best is None or _worth(touch) > _worth(best)):
            best = touch
        if best is not None and best.bits > ENOUGH_BITS:  # no switch need be turned for more
            break
    nets, wanted = _nets(found)
    return Proof(found, nets, best or _of_proof(found, wanted, now), len(wanted))


def _of_proof(found: MapJudgement, wanted: list[tuple[str, str]], now: Setting) -> NextTouch | None:
    """A touch that proves what is believed: as the switches stand, or where a contact would beep in its place, otherwise."""
    asked = {_key(touch.a, touch.b, touch.setting) for touch in found.said.touches}
    for setting in _settings(found, now):
        bridged = bridged_nets(found, setting)
        for pair in wanted:
            one, other = (found.nets[key_of(name)] for name in pair)
            if _key(*pair, setting) not in asked and not (one == other and one in bridged):
                return _to_prove(found, pair, setting)
    return None


def bridged_nets(found: MapJudgement, setting: Setting) -> frozenset[int]:
    """Nets that closed contacts or parts of few ohms join to others in a setting: a beep within them does not say that their own
    leads are whole, nor which spot is on which side. ``found``: what is believed.
    """
    net_of = {node_of(spot.name): found.nets[key_of(spot.name)] for spot in found.said.spots}
    stands = set_circuit(found.base.circuit, setting)
    edges = [
        (net_of.get(part.nodes[0], -1), net_of.get(part.nodes[1], -1))
        for part in stands.parts
        if (part.letter == "L" or (part.letter == "R" and part.value <= JOINED_OHM))
        and kind_of(found.base.circuit, part) not in LEADS
    ]
    return frozenset(net for edge in edges for net in edge)


def _to_prove(found: MapJudgement, pair: tuple[str, str], now: Setting) -> NextTouch:
    there = found.network(found.best, now)
    ohm = float(there.ohm(*rows_of(there, [pair]))[0])
    return NextTouch(*pair, now, _expects(ohm), ohm, 0.0, TOUCH_MIN + _reach(found.said, pair), ("proof",))


def _worth(touch: NextTouch) -> float:
    return touch.bits / touch.minutes


def _settings(found: MapJudgement, now: Setting) -> list[Setting]:
    """As it stands, and with each switch turned to each of its other positions."""
    switches = switches_of(found.base.circuit)
    settings = [now]
    for name, switch in switches.items():
        settings += [now.with_switch(name, position) for position in switch.positions]
    return list(dict.fromkeys(settings))[:MOST_SETTINGS]


def _best_in(found: MapJudgement, setting: Setting, now: Setting, is_open: Flags) -> NextTouch | None:
    """The touch of one setting that settles most; None where none is worth its while."""
    there, pairs = found.network(found.best, setting), _pairs(found)
    open_ = np.flatnonzero(is_open & found.best.free)
    if not pairs or not len(open_):
        return None
    a, b = rows_of(there, pairs)
    ohm = there.ohm(a, b)
    sigma = own_sigma(there, a, b, ohm)
    sees = np.where(np.abs(_away(found, open_, there, (a, b), ohm, sigma)) > APART, 1.0, 0.0)
    doubted = found.best.turns[open_]  # of the likeliest map by itself: the others are told apart by `_which`
    bits = _as_expected(doubted, sees) + _which(found, setting, (a, b), sigma)
    asked = {_key(touch.a, touch.b, touch.setting) for touch in found.said.touches}
    bits = np.where([_key(*pair, setting) in asked for pair in pairs], 0.0, bits)
    turned = len(dict(setting.switches).items() - dict(now.switches).items()) * SWITCH_MIN
    minutes = np.array([TOUCH_MIN + turned + _reach(found.said, pair) for pair in pairs])
    best = int(np.argmax(bits / minutes))
    if bits[best] < LEAST_BITS:
        return None
    order = np.argsort(-doubted * sees[best])
    settles = tuple(found.doubts[open_[n]].words for n in order[:4] if doubted[n] * sees[best, n] > 1e-3)
    here = float(ohm[best])
    return NextTouch(*pairs[best], setting, _expects(here), here, float(bits[best]), float(minutes[best]), settles)


def _key(a: str, b: str, setting: Setting) -> object:
    return frozenset((key_of(a), key_of(b))), setting


def _away(found: MapJudgement, open_: Rows, there: Network, rows: tuple[Rows, Rows], ohm: Array, sigma: Array) -> Array:
    """How far turning over each open doubt would move each touch, in standard deviations, (t, open)."""
    doubts = [found.doubts[n] for n in open_]
    sign = np.array([-1.0 if n in found.best.turned else 1.0 for n in open_])
    other = there.ohm_with(
        rows, rows_of(there, [(doubt.a, doubt.b) for doubt in doubts]), sign * np.array([d.siemens for d in doubts])
    )
    return (shown(other) - shown(ohm)[:, None]) / sigma[:, None]


def _as_expected(doubted: Array, sees: Array) -> Array:
    """Bits of whether a touch shows what the map expects; touches that more than one thing may well upset say little."""
    many = sees @ doubted
    share = np.exp((np.log1p(-np.minimum(doubted, 0.999)) * sees).sum(axis=1))
    bits = -(share * np.log2(np.maximum(share, 1e-300)) + (1 - share) * np.log2(np.maximum(1 - share, 1e-300)))
    found: Array = np.where(many > CROWDED, bits * CROWDED / np.maximum(many, 1e-12), bits)
    return found


def _which(found: MapJudgement, setting: Setting, rows: tuple[Rows, Rows], sigma: Array) -> Array:
    """Bits of which of the likeliest maps it is, where the readings leave several."""
    weight = found.weight[:MOST_LEADING]
    if len(weight) < 2 or weight[0] > SURE:
        return np.zeros(len(sigma))
    weight = weight / weight.sum()
    several = [found.network(state, setting) for state in found.states[:MOST_LEADING]]
    at = np.stack([shown(one.ohm(*rows)) for one in several], axis=1) / sigma[:, None]
    likeness = np.exp(-np.square(np.clip(at[:, :, None] - at[:, None, :], -30, 30)) / 8.0)
    mixed = np.log2(np.maximum(likeness @ weight, 1e-300))
    bits: Array = -(mixed * weight).sum(axis=1)
    return bits


def _pairs(found: MapJudgement) -> list[tuple[str, str]]:
    """Pairs worth touching: spots of one net, and of two nets the ones that are easiest to reach."""
    board = found.said
    nets = found.nets
    groups: dict[int, list[SolderPoint]] = {}
    for spot in board.spots:
        if board.at(spot.name) or spot.pins:
            groups.setdefault(nets[key_of(spot.name)], []).append(spot)
    pairs = [pair for several in groups.values() for pair in itertools.combinations([one.name for one in several], 2)]
    first = [min(several, key=lambda one: (bool(one.behind), one.minutes)).name for several in groups.values()]
    pairs += itertools.combinations(first, 2)
    step = max(len(pairs) / MOST_PAIRS, 1.0)
    return pairs if step == 1.0 else [pairs[int(n * step)] for n in range(MOST_PAIRS)]


def _reach(board: Board, pair: tuple[str, str]) -> float:
    """Minutes of laying both spots bare."""
    spots: list[SolderPoint] = [board.found_spot(name) for name in pair]
    behind = {spot.behind: spot.minutes or 3.0 for spot in spots if spot.behind}
    return sum(behind.values())


def _expects(ohm: float) -> str:
    """What should be shown, said."""
    if ohm > OVERLOAD_OHM / 2:
        return "open"
    return "a beep" if ohm < 1.0 else f"about {format_engineering(ohm, 3)}Ω"


def _joined_by_touch(found: MapJudgement, keys: list[str]) -> dict[str, int]:
    """Which spots low touches join by themselves: the number of each one's group, by its key."""
    nets, touches = found.nets, found.said.touches
    bridged = {setting: bridged_nets(found, setting) for setting in {touch.setting for touch in touches}}
    low = [
        touch for touch in touches
        if is_low(touch) and nets.get(key_of(touch.a)) == nets.get(key_of(touch.b)) not in bridged[touch.setting]
    ]  # fmt: skip
    return groups_of(keys, [(key_of(one.a), key_of(one.b)) for one in low])


def _nets(found: MapJudgement) -> tuple[tuple[Net, ...], list[tuple[str, str]]]:
    """The nets that are believed with what is not measured yet, and the touches that would prove all. What is measured stands
    by itself here: a beep joins, whatever is believed of the rest, unless a closed contact could have beeped in its place."""
    board, nets = found.said, found.nets
    names = {key_of(spot.name): spot.name for spot in board.spots}
    joined = _joined_by_touch(found, list(names))
    apart = {
        frozenset((nets.get(key_of(touch.a), -1), nets.get(key_of(touch.b), -2))) for touch in board.touches if not is_low(touch)
    }
    wanted: list[tuple[str, str]] = []
    alone: dict[int, list[str]] = {}
    first: dict[int, str] = {}
    seen: set[int] = set()
    for key, name in names.items():
        number, group = nets[key], joined[key]
        if number not in first:
            first[number] = name
        elif group not in seen:
            alone.setdefault(number, []).append(name)
            wanted.append((first[number], name))
        seen.add(group)
    beside: dict[int, list[str]] = {}
    for one, other in neighbours(board):
        pair = frozenset((nets[key_of(one)], nets[key_of(other)]))
        if len(pair) == 2 and pair not in apart:
            apart.add(pair)
            wanted.append((one, other))
            beside.setdefault(nets[key_of(one)], []).append(other)
            beside.setdefault(nets[key_of(other)], []).append(one)
    members: dict[int, list[str]] = {}
    for key, name in names.items():
        members.setdefault(nets[key], []).append(name)
    ordered = sorted(members, key=lambda number: (CHASSIS not in map(key_of, members[number]), number))
    return tuple(Net(tuple(members[n]), tuple(alone.get(n, ())), tuple(beside.get(n, ()))) for n in ordered), wanted
