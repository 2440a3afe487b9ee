"""The next touch: which two spots settle most of what is in doubt in a minute; and which nets are proved.

Source: A touch that shows what the map expects rules out all that would have shown otherwise; its worth is the entropy of that
outcome [common practice in group testing: Dorfman 1943, memory].
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import kind_of, switches_of
from violet_dial.core.mapping.board import Board, SolderPoint, key_of, node_of
from violet_dial.core.mapping.doubts import JOINED_OHM, TOUCHING_OHM, own_sigma, rows_of, shown
from violet_dial.core.mapping.ohms import Network
from violet_dial.core.mapping.proved import Net, Wanted, bridged_nets, easiest, nets_of
from violet_dial.core.mapping.search import MapJudgement, judged
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import OVERLOAD_OHM, Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
TOUCH_MIN, SWITCH_MIN = 0.15, 0.5  # of one touch, of turning a switch; common practice, no source
MOST_PAIRS = 3000
MOST_PROVING = 600  # pairs of nets that are looked at for proof, at once
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
    nets, wanted = nets_of(found)
    return Proof(found, nets, best or _of_proof(found, wanted, now), len(wanted.joins) + _touches_left(found, wanted))


def _of_proof(found: MapJudgement, wanted: Wanted, now: Setting) -> NextTouch | None:
    """A touch that proves what is believed: as the switches stand, or where a contact would beep in its place, otherwise. Of
    those that tell nets apart the one that does it to most."""
    asked = {_key(touch.a, touch.b, touch.setting) for touch in found.said.touches}
    for setting in _settings(found, now):
        bridged = bridged_nets(found, setting, JOINED_OHM)
        for pair in wanted.joins:
            if _key(*pair, setting) not in asked and found.nets[key_of(pair[0])] not in bridged:
                return _to_prove(found, pair, setting)
        apart = _best_apart(found, wanted, setting, asked)
        if apart is not None:
            return apart
    return None


def _candidates(found: MapJudgement) -> Sequence[tuple[str, str]]:
    """Pairs of nets, each by the spot of it that is easiest to reach."""
    return _some(list(itertools.combinations(easiest(found).values(), 2)), MOST_PROVING)


def _some(pairs: Sequence[tuple[str, str]], most: int) -> Sequence[tuple[str, str]]:
    """Pairs, evenly fewer where they are more than ``most``."""
    step = len(pairs) / most
    return pairs if step <= 1.0 else [pairs[int(n * step)] for n in range(most)]


def _telling(found: MapJudgement, wanted: Wanted, setting: Setting) -> tuple[Sequence[tuple[str, str]], Array, Flags]:
    """Touches that may prove: their pairs, the ohms that should be shown, and which pairs each tells apart, (t, w)."""
    there, pairs = found.network(found.best, setting), _candidates(found)
    a, b = rows_of(there, pairs)
    ohm = there.ohm(a, b)
    some = _some(wanted.apart, MOST_PROVING)
    away = _away(there, (a, b), ohm, own_sigma(there, a, b, ohm), some, np.full(len(some), 1.0 / TOUCHING_OHM))
    return pairs, ohm, np.abs(away) > APART


def _best_apart(found: MapJudgement, wanted: Wanted, setting: Setting, asked: set[object]) -> NextTouch | None:
    if not wanted.apart:
        return None
    pairs, ohm, tells = _telling(found, wanted, setting)
    minutes = np.array([TOUCH_MIN + _reach(found.said, pair) for pair in pairs])
    is_new = np.array([_key(*pair, setting) not in asked for pair in pairs])
    worth = np.where(is_new, tells.sum(axis=1), 0) / minutes
    best = int(np.argmax(worth))
    if worth[best] <= 0:
        return None
    here = float(ohm[best])
    return NextTouch(
        *pairs[best], setting, _expects(found, setting, pairs[best], here), here, 0.0, float(minutes[best]), ("proof",)
    )


def _touches_left(found: MapJudgement, wanted: Wanted) -> int:
    """How many touches tell apart all that is not told apart yet, as the switches stand: always the one that tells most next."""
    if not wanted.apart:
        return 0
    _, _, tells = _telling(found, wanted, Setting())
    left, count = np.ones(tells.shape[1], dtype=bool), 0
    while left.any():
        gains = tells[:, left].sum(axis=1)
        best = int(np.argmax(gains))
        if gains[best] == 0:
            return count + int(left.sum())
        left &= ~tells[best]
        count += 1
    return count


def _to_prove(found: MapJudgement, pair: tuple[str, str], now: Setting) -> NextTouch:
    there = found.network(found.best, now)
    ohm = float(there.ohm(*rows_of(there, [pair]))[0])
    minutes = TOUCH_MIN + _reach(found.said, pair)
    return NextTouch(*pair, now, _expects(found, now, pair, ohm), ohm, 0.0, minutes, ("proof",))


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
    doubts = [found.doubts[n] for n in open_]
    sign = np.array([-1.0 if n in found.best.turned else 1.0 for n in open_])
    laid = sign * np.array([doubt.siemens for doubt in doubts])
    away = _away(there, (a, b), ohm, sigma, [(doubt.a, doubt.b) for doubt in doubts], laid)
    sees = np.where(np.abs(away) > APART, 1.0, 0.0)
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
    words = (found.doubts[open_[n]].words for n in order[:12] if doubted[n] * sees[best, n] > 1e-3)
    settles = tuple(dict.fromkeys(words))[:4]
    here = float(ohm[best])
    return NextTouch(
        *pairs[best], setting, _expects(found, setting, pairs[best], here), here, float(bits[best]), float(minutes[best]), settles
    )


def _key(a: str, b: str, setting: Setting) -> object:
    return frozenset((key_of(a), key_of(b))), setting


def _away(
    there: Network, rows: tuple[Rows, Rows], ohm: Array, sigma: Array, pairs: Sequence[tuple[str, str]], siemens: Array
) -> Array:
    """How far siemens laid between each pair of spots would move each touch, in standard deviations, (t, p)."""
    other = there.ohm_with(rows, rows_of(there, pairs), siemens)
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


def _pairs(found: MapJudgement) -> Sequence[tuple[str, str]]:
    """Pairs worth touching: spots of one net, and of two nets the ones that are easiest to reach."""
    board = found.said
    nets = found.nets
    groups: dict[int, list[SolderPoint]] = {}
    for spot in board.spots:
        groups.setdefault(nets[key_of(spot.name)], []).append(spot)
    pairs = [pair for several in groups.values() for pair in itertools.combinations([one.name for one in several], 2)]
    pairs += itertools.combinations(easiest(found).values(), 2)
    return _some(pairs, MOST_PAIRS)


def _reach(board: Board, pair: tuple[str, str]) -> float:
    """Minutes of laying both spots bare."""
    spots: list[SolderPoint] = [board.found_spot(name) for name in pair]
    behind = {spot.behind: spot.minutes or 3.0 for spot in spots if spot.behind}
    return sum(behind.values())


def _expects(found: MapJudgement, setting: Setting, pair: tuple[str, str], ohm: float) -> str:
    """What should be shown, said; a light cell that hangs on it is covered, as it would drive the meter."""
    if ohm > OVERLOAD_OHM / 2:
        return "open"
    said = "a beep" if ohm < 1.0 else f"about {format_engineering(ohm, 3)}Ω"
    circuit, there = found.base.circuit, found.network(found.best, setting)
    cells = [part.nodes for part in circuit.parts if kind_of(circuit, part) == "photocell"]
    pieces = {int(there.piece[there.row(node)]) for nodes in cells for node in nodes[:2]}
    is_lit = ohm >= 1.0 and int(there.piece[there.row(node_of(pair[0]))]) in pieces
    return f"{said}, the light cell covered" if is_lit else said
