"""Which maps explain the touches: sets of doubts taken for the truth, the likeliest first.

From the map as it is said, and from each likelier one that is found, every single doubt is turned over; the best of these are
turned over from in their turn. What is believed is the likeliest; what is still in doubt is judged over all that were met.

Source
------
Bayes' rule; best-first search; one conductance more or less by the matrix inversion lemma [memory].
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import Setting
from violet_dial.core.mapping.board import Board, Touch, key_of
from violet_dial.core.mapping.doubts import (
    BROAD,
    WRONG,
    Doubt,
    Networks,
    doubts_of,
    log_likelihood,
    otherwise,
    own_sigma,
    rows_of,
    shown,
)  # fmt: skip
from violet_dial.core.mapping.neighbours import groups_of
from violet_dial.core.mapping.ohms import Network
from violet_dial.core.mapping.taken import JOINED_OHM
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
MOST_TURNED_FROM = 24  # maps from which every doubt is turned over
WORTH, WORTH_ODD = (
    6.0,
    30.0,
)  # log posterior below the best, from which a map is not looked at; deeper where touches are odd
ANY_OHM = 0.2  # how far the ohms of a corroded join may be from those of its rung, as a share
UNKNOWN_OHM = 0.09  # of log10 ohm: how far a corroded join may be from its rung
BACKED = 1.0  # log of how much likelier touches must make a doubt for it to be looked around from
BRANCHES, MOST_ODD, HELPS = 6, 4, 3


@dataclass
class State:
    """A map: the doubts that are taken for the truth, its log posterior up to a constant, the network in each setting."""

    turned: frozenset[int]
    log_weight: float
    networks: dict[Setting, Network]
    change: Array = field(
        default_factory=lambda: np.zeros(0)
    )  # of the log posterior when each doubt is turned over, (j,)
    free: Flags = field(default_factory=lambda: np.zeros(0, dtype=bool))  # doubts that may be turned over there, (j,)
    odd: tuple[Touch, ...] = ()


@dataclass(frozen=True)
class Judged:
    """What is believed of a board after its touches: ``states`` met, likeliest first, with ``weight`` (s,); all ``doubts``
    and the ``chance`` of each that the believed map has it wrong, (j,)."""

    said: Board
    doubts: tuple[Doubt, ...]
    states: tuple[State, ...]
    weight: Array
    chance: Array
    base: Networks

    @property
    def best(self) -> State:
        return self.states[0]

    @property
    def believed(self) -> tuple[Doubt, ...]:
        """What is otherwise than it was said, as far as is believed."""
        return tuple(self.doubts[n] for n in sorted(self.best.turned))

    @property
    def board(self) -> Board:
        """The map that is believed."""
        found = self.said
        for doubt in self.believed:
            found = otherwise(found, doubt)
        return found

    @property
    def odd(self) -> tuple[Touch, ...]:
        """Touches that it does not explain."""
        return self.best.odd

    def network(self, state: State, setting: Setting) -> Network:
        """A map in a setting."""
        if setting not in state.networks:
            state.networks[setting] = _turned(self.base.at(setting), self.doubts, state.turned)
        return state.networks[setting]


def judged(board: Board, before: Judged | None = None, task: Task | None = None) -> Judged:
    """What is believed of a board after its touches, and how much is in doubt still.

    Parameters
    ----------
    board : the map with its touches
    before : what was judged a touch ago: where to begin
    task : asked whether to go on

    Raises
    ------
    InvalidInput
        A touch in a switch position that the map has not.
    """
    found = _Search(board, task or SilentTask())
    found.run(found.same_as(before) if before is not None else frozenset())
    done = sorted(found.done, key=lambda one: -one.log_weight)
    weight = np.exp(np.array([one.log_weight - done[0].log_weight for one in done]))
    weight = weight / weight.sum()
    return Judged(board, found.doubts, tuple(done), weight, _chances(found.doubts, done, weight), found.base)


class _Search:
    """Best first: from a map every doubt is turned over, the best of these are looked around in their turn."""

    def __init__(self, board: Board, task: Task) -> None:
        self.board, self.task = board, task
        self.base, self.doubts = Networks(board), doubts_of(board)
        self.by_setting: dict[Setting, list[Touch]] = {}
        for touch in board.touches:
            self.by_setting.setdefault(touch.setting, []).append(touch)
        self.siemens = np.array([one.siemens for one in self.doubts])
        self.log_odds = np.array([one.log_odds for one in self.doubts])
        self.is_join = np.array([bool(one.item) for one in self.doubts], dtype=bool)
        self.of_item: dict[str, list[int]] = {}
        for n, doubt in enumerate(self.doubts):
            if doubt.item:
                self.of_item.setdefault(doubt.item, []).append(n)
        self.is_corroded = np.array([one.what == "corroded" for one in self.doubts], dtype=bool)
        self._rows: tuple[Rows, Rows] | None = None  # of all doubts, the same in every network of the board
        self.met: dict[frozenset[int], float] = {}
        self.done: list[State] = []

    def same_as(self, before: Judged) -> frozenset[int]:
        """What was believed before, among these doubts."""
        places = {_what(doubt): n for n, doubt in enumerate(self.doubts)}
        return frozenset(places[_what(doubt)] for doubt in before.believed if _what(doubt) in places)

    def run(self, start: frozenset[int]) -> None:
        """Look around until nothing better is in sight."""
        for turned in dict.fromkeys((start, frozenset[int]())):
            self._meet(turned, self._weigh(turned))
        looked: set[frozenset[int]] = set()
        while len(looked) < MOST_TURNED_FROM:
            best = max(self.met.values())
            leader = max(self.done, key=lambda one: one.log_weight, default=None)
            deep = WORTH_ODD if leader is not None and leader.odd and leader.log_weight >= best - 1e-6 else WORTH
            waiting = [turned for turned, value in self.met.items() if turned not in looked and value > best - deep]
            if not waiting:
                break
            self.task.check()
            turned = max(waiting, key=lambda one: self.met[one])
            looked.add(turned)
            self.met[turned] = self._weigh(turned)  # what it was met with is how it looked from another map
            self._look_around(turned)

    def _meet(self, turned: frozenset[int], log_weight: float) -> None:
        if turned not in self.met:
            self.met[turned] = log_weight

    def _weigh(self, turned: frozenset[int]) -> float:
        """Log posterior of a map: each doubt turned over in its turn, then all touches."""
        prior = sum(self.doubts[n].log_odds for n in turned)
        return prior + sum(
            float(self._plain(_turned(self.base.at(setting), self.doubts, turned), touches)[0].sum())
            for setting, touches in self.by_setting.items()
        )

    @staticmethod
    def _plain(there: Network, touches: list[Touch]) -> tuple[Array, Array, Array, tuple[Rows, Rows]]:
        rows = rows_of(there, [(one.a, one.b) for one in touches])
        ohm = there.ohm(*rows)
        sigma = own_sigma(there, *rows, ohm)
        return log_likelihood(touches, shown(ohm)[:, None], sigma[:, None])[:, 0], ohm, sigma, rows

    def _laid(self, there: Network) -> tuple[Rows, Rows]:
        if self._rows is None:
            self._rows = rows_of(there, [(one.a, one.b) for one in self.doubts])
        return self._rows

    def _look_around(self, turned: frozenset[int]) -> None:
        """What turning over each doubt would change; the best are met, and such as explain what nothing else does."""
        sign = np.array([-1.0 if n in turned else 1.0 for n in range(len(self.doubts))])
        places = _places(self.doubts, self.board, turned)
        change = sign * self.log_odds
        free = self._may_turn(turned, places)
        state = State(turned, self.met[turned], {}, change, free)
        helps: list[int] = []
        for setting, touches in self.by_setting.items():
            there = _turned(self.base.at(setting), self.doubts, turned)
            state.networks[setting] = there
            plain, ohm, sigma, rows = self._plain(there, touches)
            if not self.doubts:
                continue
            laid = self._laid(there)
            moved = shown(there.ohm_with(rows, laid, sign * self.siemens))
            open_ohm = (
                np.abs(moved - shown(ohm)[:, None]) > 0.1
            )  # a corroded join may have any ohms: it is fitted later
            loose = self.is_corroded[None, :] & (sign > 0)[None, :] & open_ohm
            other = log_likelihood(touches, moved, np.where(loose, UNKNOWN_OHM, sigma[:, None]))
            state.change = state.change + (other - plain[:, None]).sum(axis=0)
            odd = np.flatnonzero(plain < math.log(3 * WRONG * BROAD))
            state.odd = (*state.odd, *(touches[n] for n in odd))
            for n in odd[:MOST_ODD]:
                gain = np.where(free, other[n] - plain[n], -np.inf)
                helps += [int(k) for k in np.argsort(-gain)[:HELPS] if gain[k] > 2.0]
        self.done.append(state)
        self._branch(state, helps)

    def _may_turn(self, turned: frozenset[int], places: dict[tuple[int, int], list[int]]) -> Flags:
        """Doubts that make a difference: one of a join at most, and of two nets that may touch one place for all."""
        found = self.is_join.copy()
        found[[several[0] for several in places.values()]] = True
        for n in turned:
            found[self.of_item.get(self.doubts[n].item, [])] = False
        found[list(turned)] = True
        return found

    def _branch(self, state: State, helps: list[int]) -> None:
        backed = np.where(
            [n in state.turned for n in range(len(self.doubts))], state.change, state.change - self.log_odds
        )
        order = np.argsort(-np.where(state.free & (backed > BACKED), state.change, -np.inf))
        for place in dict.fromkeys([*(int(n) for n in order[:BRANCHES]), *helps]):
            if state.free[place] and (place in helps or backed[place] > BACKED):
                self._meet(state.turned ^ {place}, state.log_weight + float(state.change[place]))
        is_leader = state.log_weight >= max(self.met.values()) - 1e-6
        for n in state.turned if state.odd and is_leader else ():
            for other in self.of_item.get(self.doubts[n].item, ()):
                if other != n:
                    swapped = state.turned - {n} | {other}
                    if swapped not in self.met:
                        self._meet(swapped, self._weigh(swapped))


def _turned(there: Network, doubts: Sequence[Doubt], turned: frozenset[int]) -> Network:
    """A network with some doubts taken for the truth."""
    laid, loose = [], []
    for place in turned:
        doubt = doubts[place]
        p, q = (int(rows[0]) for rows in rows_of(there, [(doubt.a, doubt.b)]))
        laid.append((p, q, doubt.siemens))
        if doubt.ohm:
            loose.append((p, q, ANY_OHM / doubt.ohm))
    return there.with_more(laid, loose) if laid else there


def _places(doubts: tuple[Doubt, ...], board: Board, turned: frozenset[int]) -> dict[tuple[int, int], list[int]]:
    """Where each two nets of a map may touch."""
    nets = nets_with(board, doubts, turned)
    found: dict[tuple[int, int], list[int]] = {}
    for n, doubt in enumerate(doubts):
        if doubt.what == "touching" and n not in turned:
            one, other = nets[key_of(doubt.a)], nets[key_of(doubt.b)]
            if one != other:
                found.setdefault((min(one, other), max(one, other)), []).append(n)
    return found


def nets_with(board: Board, doubts: tuple[Doubt, ...], turned: frozenset[int]) -> dict[str, int]:
    """The net of each spot, by its key, where some doubts are the truth.

    Parameters
    ----------
    board : the map as it is said
    doubts : of it
    turned : places of those that are the truth
    """
    cut = {doubts[n].item for n in turned if doubts[n].item}
    joins = [(doubts[n].a, doubts[n].b) for n in turned if doubts[n].what == "touching"]
    for item in board.items:
        broken = item.measured_ohm is not None and item.measured_ohm > JOINED_OHM
        if item.is_lead and len(item.spots) == 2 and item.name not in cut and not broken:
            joins.append((item.spots[0], item.spots[1]))
    keys = [key_of(one.name) for one in board.spots]
    return groups_of(keys, [(key_of(one), key_of(other)) for one, other in joins])


def _what(doubt: Doubt) -> object:
    return doubt.what, doubt.a, doubt.b, doubt.item, doubt.ohm


def _chances(doubts: tuple[Doubt, ...], states: list[State], weight: Array) -> Array:
    """The chance of each doubt that the likeliest map has it wrong."""
    found = np.zeros(len(doubts))
    best = states[0].turned
    for state, share in zip(states, weight, strict=True):
        turns = 1.0 / (1.0 + np.exp(-np.clip(state.change, -60, 60)))
        turns = np.where(state.free, turns, 0.0)
        differs = np.array([(n in state.turned) != (n in best) for n in range(len(doubts))])
        found += share * np.where(differs, 1.0 - turns, turns)
    return found
