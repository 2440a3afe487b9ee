"""The next touch: which two spots settle most of what is in doubt in a minute; and which nets are proved.

Source: A touch that shows what the map expects rules out all that would have shown otherwise; its worth is the entropy of that
outcome [common practice in group testing: Dorfman 1943, memory].
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import switches_of
from violet_dial.core.mapping.board import Board, SolderPoint, key_of
from violet_dial.core.mapping.doubts import JOINED_OHM, TOUCHING_OHM, Doubt
from violet_dial.core.mapping.possible import LEAST_SWEPT, MOST_SWEPT, NextTouch, PossibleTouches
from violet_dial.core.mapping.proved import Net, Wanted, bridged_nets, easiest, nets_of
from violet_dial.core.mapping.search import MapJudgement, judged
from violet_dial.core.records.circuit import Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
MOST_PAIRS = 3000
MOST_PROVING = 600  # pairs of nets that are looked at for proof, at once
LEAST_BITS, ENOUGH_BITS = 0.01, 0.02
CROWDED = 0.35  # things that may upset a touch, in all, from which one alone would not be known by it
MOST_LEADING, SURE = 16, 0.98  # maps told apart; one this likely stands alone
DOUBTED = 1e-3  # chance from which a doubt is one
MOST_SETTINGS = 8


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
        joins = [
            pair for pair in wanted.joins if _key(*pair, setting) not in asked and found.nets[key_of(pair[0])] not in bridged
        ]
        if joins:
            return _row_of_joins(found, setting, [pair for pair in joins if pair[0] == joins[0][0]][:MOST_SWEPT])
        apart = _best_apart(found, wanted, setting, asked)
        if apart is not None:
            return apart
    return None


def _row_of_joins(found: MapJudgement, setting: Setting, pairs: list[tuple[str, str]]) -> NextTouch:
    """Members of one net, measured to its first in one go where they are several."""
    there = PossibleTouches(found, setting, pairs)
    if len(pairs) < LEAST_SWEPT:
        return there.touch(0, 0.0, ("proof",))
    return there.sweep(there.row(pairs[0][0], range(len(pairs)), 0.0), ("proof",))


def _candidates(found: MapJudgement) -> Sequence[tuple[str, str]]:
    """Pairs of nets, each by the spot of it that is easiest to reach."""
    return _some(list(itertools.combinations(easiest(found).values(), 2)), MOST_PROVING)


def _some(pairs: Sequence[tuple[str, str]], most: int) -> Sequence[tuple[str, str]]:
    """Pairs, evenly fewer where they are more than ``most``."""
    step = len(pairs) / most
    return pairs if step <= 1.0 else [pairs[int(n * step)] for n in range(most)]


def _telling(found: MapJudgement, wanted: Wanted, setting: Setting) -> tuple[PossibleTouches, Flags]:
    """Touches that may prove, and which pairs each tells apart, (t, w)."""
    there = PossibleTouches(found, setting, _candidates(found))
    some = _some(wanted.apart, MOST_PROVING)
    there.lay(some, np.full(len(some), 1.0 / TOUCHING_OHM))
    return there, there.sees


def _best_apart(found: MapJudgement, wanted: Wanted, setting: Setting, asked: set[object]) -> NextTouch | None:
    if not wanted.apart:
        return None
    there, tells = _telling(found, wanted, setting)
    is_new = np.array([_key(*pair, setting) not in asked for pair in there.pairs])
    swept = there.swept(lambda sees: sees.sum(axis=1), is_new)
    worth = np.where(is_new, tells.sum(axis=1), 0) / there.minutes
    best = int(np.argmax(worth))
    if swept is not None and swept.rate > worth[best]:
        return there.sweep(replace(swept, worth=0.0), ("proof",))
    return there.touch(best, 0.0, ("proof",)) if worth[best] > 0 else None


def _touches_left(found: MapJudgement, wanted: Wanted) -> int:
    """How many touches tell apart all that is not told apart yet, as the switches stand: always the one that tells most next."""
    if not wanted.apart:
        return 0
    _, tells = _telling(found, wanted, Setting())
    left, count = np.ones(tells.shape[1], dtype=bool), 0
    while left.any():
        gains = tells[:, left].sum(axis=1)
        best = int(np.argmax(gains))
        if gains[best] == 0:
            return count + int(left.sum())
        left &= ~tells[best]
        count += 1
    return count


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
    pairs, open_ = _pairs(found), np.flatnonzero(is_open & found.best.free)
    if not pairs or not len(open_):
        return None
    there = PossibleTouches(found, setting, pairs, len(dict(setting.switches).items() - dict(now.switches).items()))
    doubts = [found.doubts[n] for n in open_]
    sign = np.array([-1.0 if n in found.best.turned else 1.0 for n in open_])
    there.lay([(doubt.a, doubt.b) for doubt in doubts], sign * np.array([doubt.siemens for doubt in doubts]))
    doubted = found.best.turns[open_]  # of the likeliest map by itself: the others are told apart by `_which`
    asked = {_key(touch.a, touch.b, touch.setting) for touch in found.said.touches}
    is_new = np.array([_key(*pair, setting) not in asked for pair in pairs])
    bits = is_new * (_as_expected(doubted, there.sees) + _which(there))
    swept = there.swept(partial(_as_expected, doubted), is_new)
    best = int(np.argmax(bits / there.minutes))
    if swept is not None and swept.rate > bits[best] / there.minutes[best] and swept.worth > LEAST_BITS:
        return there.sweep(swept, _settled(doubts, doubted, there.hears[np.array(swept.places)].any(axis=0)))
    if bits[best] < LEAST_BITS:
        return None
    by_figure = not there.by_ear[best] and bool(_as_expected(doubted, there.by_figure[best][None])[0] > bits[best] / 2)
    return there.touch(best, float(bits[best]), _settled(doubts, doubted, np.asarray(there.sees[best])), by_figure)


def _settled(doubts: list[Doubt], doubted: Array, seen: Flags) -> tuple[str, ...]:
    """What would be settled, said, the most doubted first. ``seen``: by the touch, (p,)."""
    words = (doubts[n].words for n in np.argsort(-doubted * seen)[:12] if doubted[n] * seen[n] > 1e-3)
    return tuple(dict.fromkeys(words))[:4]


def _key(a: str, b: str, setting: Setting) -> object:
    return frozenset((key_of(a), key_of(b))), setting


def _as_expected(doubted: Array, sees: Flags) -> Array:
    """Bits of whether a touch shows what the map expects; touches that more than one thing may well upset say little."""
    many = sees @ doubted
    share = np.exp((np.log1p(-np.minimum(doubted, 0.999)) * sees).sum(axis=1))
    bits = -(share * np.log2(np.maximum(share, 1e-300)) + (1 - share) * np.log2(np.maximum(1 - share, 1e-300)))
    found: Array = np.where(many > CROWDED, bits * CROWDED / np.maximum(many, 1e-12), bits)
    return found


def _which(there: PossibleTouches) -> Array:
    """Bits of which of the likeliest maps it is, where the readings leave several."""
    found = there.found
    weight = found.weight[:MOST_LEADING]
    if len(weight) < 2 or weight[0] > SURE:
        return np.zeros(len(there.ohm))
    weight = weight / weight.sum()
    several = [found.network(state, there.setting).ohm(*there.rows) for state in found.states[:MOST_LEADING]]
    at = np.stack([there.apart(ohm) for ohm in several], axis=1)
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
