"""What is around a map: how likely each is that differs from it by one doubt turned over, by two that join nets through a
third, or by a corroded join with other ohms; and the cheapest joins that part two spots when they are all taken away.

Source: One conductance more or less by the matrix inversion lemma [memory]. Largest flow and smallest cut (Ford and Fulkerson,
Canadian J. Math. 8, 1956; shortest ways first: Edmonds and Karp, J. ACM 19, 1972) [memory].
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from violet_dial.core.mapping.board import Board, Touch, key_of
from violet_dial.core.mapping.doubts import (
    BEEP_OHM,
    BROAD,
    TOUCHING_OHM,
    WRONG,
    Doubt,
    Networks,
    What,
    doubts_of,
    groups_of,
    log_likelihood,
    parts_sigma,
    rows_of,
    shown,
    with_leads,
    with_meter,
)
from violet_dial.core.mapping.ohms import Network
from violet_dial.core.mapping.taken import is_low, is_whole
from violet_dial.core.records.circuit import Setting


@dataclass(frozen=True)
class Join:
    """Between two ends, what it is known by, and what it costs to take it away."""

    one: int
    other: int
    known: int
    cost: float


def cheapest_cut(joins: Sequence[Join], one: int, other: int, most: float) -> list[int] | None:
    """What the joins are known by that part two ends when they are gone; None where that costs more than ``most``."""
    flow = [0.0] * len(joins)
    at: dict[int, list[tuple[int, int]]] = {}
    for n, join in enumerate(joins):
        at.setdefault(join.one, []).append((n, 1))
        at.setdefault(join.other, []).append((n, -1))
    total = 0.0
    while total <= most:
        reached = _reached(joins, flow, at, one)
        if other not in reached:
            return [join.known for join in joins if (join.one in reached) != (join.other in reached)]
        way, place = [], other
        while place != one:
            n, turn = reached[place]
            way.append((n, turn))
            place = joins[n].one if turn > 0 else joins[n].other
        more = min(joins[n].cost - turn * flow[n] for n, turn in way)
        for n, turn in way:
            flow[n] += turn * more
        total += more
    return None


def _reached(
    joins: Sequence[Join], flow: list[float], at: dict[int, list[tuple[int, int]]], start: int
) -> dict[int, tuple[int, int]]:
    """Each end that more may flow to, with the join and the way it comes."""
    found = {start: (-1, 0)}
    waiting = [start]
    while waiting:
        place = waiting.pop(0)
        for n, turn in at.get(place, ()):
            beyond = joins[n].other if turn > 0 else joins[n].one
            if beyond not in found and joins[n].cost - turn * flow[n] > 1e-9:
                found[beyond] = (n, turn)
                waiting.append(beyond)
    return found


Array = npt.NDArray[np.float64]


Rows = npt.NDArray[np.intp]


class Nets:
    """Which spots leads join, by number, whichever doubts are the truth."""

    def __init__(self, board: Board, doubts: tuple[Doubt, ...], first: list[int]) -> None:
        """``first`` of the doubts of each place."""
        self._keys = [key_of(spot.name) for spot in board.spots]
        self._row = row = {key: n for n, key in enumerate(self._keys)}
        self._doubts = doubts
        self.ends = {n: (row[key_of(doubts[n].a)], row[key_of(doubts[n].b)]) for n in first}
        self._leads = [
            (item.name, row[key_of(item.spots[0])], row[key_of(item.spots[1])]) for item in board.items if is_whole(item)
        ]
        self._touching = [n for n in first if doubts[n].what == "touching"]
        self._start: dict[object, int] = {_place(doubts[n]): n for n in first}

    def start_of(self, doubt: Doubt) -> int | None:
        """The first doubt about the place of a doubt, if it is one of these."""
        return self._start.get(_place(doubt))

    def row(self, name: str) -> int:
        """The place of a spot."""
        return self._row[key_of(name)]

    def joins(self, turned: frozenset[int], change: Array) -> list[Join]:
        """Leads that are whole, each known by the doubt that it is missing; and what touches, known by that doubt."""
        cut = {self._doubts[n].item for n in turned if self._doubts[n].item}
        ends = [(one, other, self._start.get(name, -1)) for name, one, other in self._leads if name not in cut]
        ends += [(*self.ends[n], n) for n in turned if self._doubts[n].what == "touching"]
        return [Join(one, other, n, math.inf if n < 0 else max(-float(change[n]), 0.1)) for one, other, n in ends]

    def numbers(self, turned: frozenset[int]) -> list[int]:
        """The net of each spot, in the order of the board's spots."""
        cut = {self._doubts[n].item for n in turned if self._doubts[n].item}
        joins = [self.ends[n] for n in turned if self._doubts[n].what == "touching"]
        joins += [(one, other) for name, one, other in self._leads if name not in cut]
        found = groups_of(list(range(len(self._keys))), joins)
        return list(found.values())

    def by_key(self, turned: frozenset[int]) -> dict[str, int]:
        """The net of each spot, by its key."""
        return dict(zip(self._keys, self.numbers(turned), strict=True))

    def places(self, turned: frozenset[int]) -> dict[tuple[int, int], list[int]]:
        """Where each two nets may touch: places of doubts by the numbers of both nets, the lower first."""
        nets = self.numbers(turned)
        found: dict[tuple[int, int], list[int]] = {}
        for n in self._touching:
            one, other = nets[self.ends[n][0]], nets[self.ends[n][1]]
            if one != other and n not in turned:
                found.setdefault((min(one, other), max(one, other)), []).append(n)
        return found


def _place(doubt: Doubt) -> object:
    return doubt.item or (doubt.a, doubt.b)


def through(first: dict[tuple[int, int], int], nets: Nets, turned: frozenset[int]) -> Rows:
    """Two nets with a third between, (k, 4): a doubt and its outer side (0 or 1), and the same of the other."""
    number = nets.numbers(turned)
    around: dict[int, list[tuple[int, int]]] = {}
    for n in first.values():
        for side in (0, 1):
            around.setdefault(number[nets.ends[n][1 - side]], []).append((n, side))
    pairs = [(*one, *other) for several in around.values() for one, other in itertools.combinations(several, 2)]
    return np.array(pairs, dtype=np.intp).reshape(-1, 4)


Flags = npt.NDArray[np.bool_]
ANY_OHM = 0.2  # how far the ohms of a corroded join may be from those of its rung, as a share
UNKNOWN_OHM = 0.15  # of log10 ohm: how far a corroded join may be from the rungs that are looked at
SCANNED = 2  # every second rung of a corroded join is looked at; its neighbours once it is taken for the truth
BACKED = 1.0  # log of how much likelier touches must make a doubt for it to be looked around from
BRANCHES, MOST_ODD, HELPS = 6, 4, 3
MOST_CUT, MOST_CORRODED_OHM = 30.0, 1e5  # nat that joins may cost which are cut; ohms from which one is broken
HELPS_BY = 2.0  # log of how much likelier an odd touch must become


@dataclass
class SearchState:
    """A map: the doubts that are taken for the truth, its log posterior up to a constant, the network in each setting."""

    turned: frozenset[int]
    log_weight: float
    networks: dict[Setting, Network]
    change: Array = field(default_factory=lambda: np.zeros(0))  # of the log posterior when each is turned over, (j,)
    free: Flags = field(default_factory=lambda: np.zeros(0, dtype=bool))  # doubts that may be turned over there, (j,)
    odd: tuple[Touch, ...] = ()
    beside: dict[frozenset[int], float] = field(default_factory=dict)  # maps worth looking at next, as seen from here
    explains: dict[Touch, list[frozenset[int]]] = field(default_factory=dict)  # those of them that explain an odd touch

    @property
    def turns(self) -> Array:
        """Chance of each doubt to be turned over, beside this map as it is, (j,)."""
        return np.where(self.free, 1.0 / (1.0 + np.exp(-np.clip(self.change, -60, 60))), 0.0)


@dataclass(frozen=True)
class _Column:
    """Changes looked at together: their doubts, rows of their ends, siemens laid, log odds, whether any ohms may be there."""

    doubts: list[tuple[int, ...]]
    ends: tuple[Rows, Rows]
    siemens: Array
    log_odds: Array
    loose: Flags


class Surroundings:
    """A board with its touches and its doubts: what any set of doubts is worth, and what is around it."""

    def __init__(self, board: Board) -> None:
        self.board, self.beep_ohm = board, BEEP_OHM
        self.base, places = Networks(board), doubts_of(board)
        self.doubts = tuple(doubt for several in places for doubt in several)
        self.by_setting: dict[Setting, list[Touch]] = {}
        for touch in board.touches:
            self.by_setting.setdefault(touch.setting, []).append(touch)
        self.log_odds = np.array([doubt.log_odds for doubt in self.doubts])
        self._siemens = np.array([doubt.siemens for doubt in self.doubts])
        self._is_loose = np.array([bool(doubt.ohm) for doubt in self.doubts], dtype=bool)
        counts = [len(several) for several in places]
        self._place = np.repeat(np.arange(len(places)), counts)  # of each doubt
        self._start = np.cumsum([0, *counts])  # of the doubts of each place
        self._touched: dict[Setting, tuple[Rows, Rows]] = {}
        rows = rows_of(self._any_network(), [(several[0].a, several[0].b) for several in places])
        self._ends = np.repeat(np.stack(rows), counts, axis=1).reshape(2, -1)  # of each doubt, (2, j)
        self.nets = Nets(board, self.doubts, self._start[:-1].tolist())
        self._scanned = self._rungs(places)

    def _rungs(self, places: tuple[tuple[Doubt, ...], ...]) -> Flags:
        """Doubts of joins that are looked at: missing, and every second rung of the corroded."""
        found = np.zeros(len(self.doubts), dtype=bool)
        for start, several in zip(self._start.tolist(), places, strict=False):
            if several[0].item:
                found[start] = True
                found[start + 1 : start + len(several) : SCANNED] = True
        return found

    def same(self, doubt: Doubt) -> int | None:
        """The place of a doubt of an earlier look among these, where it is one of them still."""
        start = self.nets.start_of(doubt)
        if start is None:
            return None
        of_place = range(start, self._start[self._place[start] + 1])
        return next((n for n in of_place if self.doubts[n].what == doubt.what and self.doubts[n].ohm == doubt.ohm), None)

    def _same_place(self, place: int, step: int = 1) -> slice:
        """The doubts about the place of a doubt."""
        start, end = (int(self._start[self._place[place] + more]) for more in (0, 1))
        return slice(start, end, step)

    def _at_place(self, place: int, what: What) -> list[int]:
        """Doubts of a kind about the place of a doubt."""
        several = self._same_place(place)
        return [n for n in range(several.start, several.stop) if self.doubts[n].what == what]

    def weigh(self, turned: frozenset[int]) -> float:
        """Log posterior of a map: each doubt turned over in its turn, then all touches."""
        prior = sum(self.doubts[n].log_odds for n in turned)
        return prior + sum(
            float(self._plain(turned_over(self.base.at(setting), self.doubts, turned), setting)[0].sum())
            for setting in self.by_setting
        )

    def _plain(self, there: Network, setting: Setting) -> tuple[Array, Array, Array, tuple[Rows, Rows]]:
        """Of each touch: its log density, the ohms there should be, what parts move of them, rows of its tips."""
        touches = self.by_setting[setting]
        if setting not in self._touched:
            self._touched[setting] = rows_of(there, [(touch.a, touch.b) for touch in touches])
        rows = self._touched[setting]
        ohm = there.ohm(*rows)
        of_parts, sum_ohm = parts_sigma(there, *rows, ohm), with_leads(ohm)
        sigma = with_meter(of_parts, sum_ohm)
        found = log_likelihood(touches, np.log10(sum_ohm)[:, None], sigma[:, None], self.beep_ohm)
        return found[:, 0], ohm, of_parts, rows

    def look(self, turned: frozenset[int]) -> SearchState:
        """A map with what turning over each doubt would change, and what is worth looking at next."""
        prior = sum(self.doubts[n].log_odds for n in turned)
        state = SearchState(turned, prior, {}, np.zeros(len(self.doubts)), np.zeros(len(self.doubts), dtype=bool))
        plain: dict[Setting, tuple[Array, Array, Array, tuple[Rows, Rows]]] = {}
        for setting, touches in self.by_setting.items():
            state.networks[setting] = turned_over(self.base.at(setting), self.doubts, turned)
            plain[setting] = self._plain(state.networks[setting], setting)
            state.log_weight += float(plain[setting][0].sum())
            odd = np.flatnonzero(plain[setting][0] < math.log(3 * WRONG * BROAD))
            state.odd = (*state.odd, *(touches[n] for n in odd))
        if not self.doubts:
            return state
        places = self.nets.places(turned)
        columns = self._columns(turned, places, bool(state.odd))
        change, helps = self._changes(state, plain, columns)
        single = [several[0] for several in columns.doubts if len(several) == 1]  # they come first
        state.change[single], state.free[single] = change[: len(single)], True
        self._worth_looking(state, columns, change, helps)
        for touch in state.odd[-MOST_ODD:]:
            self._cut(state, touch)
        return state

    def _cut(self, state: SearchState, touch: Touch) -> None:
        """Where an odd touch shows more than a lead between two spots that leads join: the joins gone that part them and that
        other touches need least, or one of these with about the ohms that were read."""
        ends = self.nets.row(touch.a), self.nets.row(touch.b)
        cut = None if is_low(touch) else cheapest_cut(self.nets.joins(state.turned, state.change), *ends, MOST_CUT)
        if not cut or min(cut) < 0:
            return
        parted = state.turned ^ frozenset(cut)
        found = [parted]
        if touch.beep is None and touch.ohm < MOST_CORRODED_OHM:
            for n in set(cut) - state.turned:
                rungs = self._at_place(n, "corroded")
                near = min(rungs, key=lambda k: abs(math.log(self.doubts[k].ohm / touch.ohm)), default=None)
                if near is not None:
                    found.append(parted - {n} | {near})
        for other in found:
            state.beside[other] = self.weigh(other)
            state.explains.setdefault(touch, []).append(other)

    def _columns(self, turned: frozenset[int], places: dict[tuple[int, int], list[int]], odd: bool) -> _Column:
        """What may be turned over: one doubt of a join at most; two nets that may touch one place for all; where a touch is
        odd some ohms there too, and two nets that a third lies between, through it."""
        free = self._scanned.copy()
        first = {nets: several[0] for nets, several in places.items()}
        for n in first.values():
            free[self._same_place(n, SCANNED if odd else len(free))] = True
        for n in turned:
            free[self._same_place(n)] = False
        free[list(turned)] = True
        singles = np.flatnonzero(free)
        sign = np.where(np.isin(singles, list(turned)), -1.0, 1.0)
        loose = self._is_loose[singles] & (sign > 0)
        log_odds = sign * self.log_odds[singles] + math.log(SCANNED) * loose
        between = through(first, self.nets, turned) if odd else np.zeros((0, 4), dtype=np.intp)
        ends = self._ends
        return _Column(
            [*((n,) for n in singles.tolist()), *((one, other) for one, _, other, _ in between.tolist())],
            (np.append(ends[0][singles], ends[between[:, 1], between[:, 0]]),
             np.append(ends[1][singles], ends[between[:, 3], between[:, 2]])),
            np.append(sign * self._siemens[singles], np.full(len(between), 0.5 / TOUCHING_OHM)),
            np.append(log_odds, self.log_odds[between[:, 0]] + self.log_odds[between[:, 2]]),
            np.append(loose, np.zeros(len(between), dtype=bool)),
        )  # fmt: skip

    def _any_network(self) -> Network:
        """For the rows of its spots, which are the same in every setting."""
        return self.base.at(next(iter(self.by_setting), Setting()))

    def _changes(
        self, state: SearchState, plain: dict[Setting, tuple[Array, Array, Array, tuple[Rows, Rows]]], columns: _Column
    ) -> tuple[Array, dict[Touch, list[int]]]:
        """Of the log posterior by each column; and the columns that explain each touch that nothing else does."""
        change, helps = columns.log_odds.copy(), dict[Touch, list[int]]()
        for setting, touches in self.by_setting.items():
            there, (now, ohm, of_parts, rows) = state.networks[setting], plain[setting]
            sum_ohm = with_leads(there.ohm_with(rows, columns.ends, columns.siemens))
            moved = np.log10(sum_ohm)
            loose = columns.loose[None, :] & (np.abs(moved - shown(ohm)[:, None]) > 0.1)  # any ohms: fitted later
            sigma = np.where(loose, UNKNOWN_OHM, with_meter(of_parts[:, None], sum_ohm))
            other = log_likelihood(touches, moved, sigma, self.beep_ohm)
            change += (other - now[:, None]).sum(axis=0)
            odd = np.flatnonzero(now < math.log(3 * WRONG * BROAD))
            for n in odd[-MOST_ODD:]:
                gain = other[n] - now[n]
                helps[touches[n]] = [int(k) for k in np.argsort(-gain)[:HELPS] if gain[k] > HELPS_BY]
        return change, helps

    def _worth_looking(self, state: SearchState, columns: _Column, change: Array, helps: dict[Touch, list[int]]) -> None:
        added = np.array([several[0] not in state.turned for several in columns.doubts])
        backed = np.where(added, change - columns.log_odds, change)
        order = np.argsort(-np.where(backed > BACKED, change, -np.inf))[:BRANCHES]
        every = [place for several in helps.values() for place in several]
        for place in dict.fromkeys([*(int(n) for n in order if backed[n] > BACKED), *every]):
            other = state.turned ^ frozenset(columns.doubts[place])
            state.beside[other] = state.log_weight + float(change[place])
        for touch, several in helps.items():
            state.explains[touch] = [state.turned ^ frozenset(columns.doubts[place]) for place in several]

    def broken_instead(self, place: int) -> frozenset[int]:
        """The doubt that a join is missing, of one that is thought to have some ohms; none of other doubts."""
        found = self._at_place(place, "missing") if self.doubts[place].what == "corroded" else []
        return frozenset(found)

    def other_rungs(self, turned: frozenset[int]) -> list[frozenset[int]]:
        """The same with other ohms of one corroded join."""
        found = []
        for n in sorted(turned):
            if self._is_loose[n]:
                rungs = self._at_place(n, self.doubts[n].what)
                at = rungs.index(n)
                found += [turned - {n} | {k} for k in (*rungs[max(at - 2, 0) : at], *rungs[at + 1 : at + 3])]
        return found


def turned_over(there: Network, doubts: Sequence[Doubt], turned: frozenset[int]) -> Network:
    """A network with some doubts taken for the truth. ``there``: the board as it is said, in a setting."""
    laid, loose = [], []
    for place in sorted(turned):
        doubt = doubts[place]
        p, q = (int(rows[0]) for rows in rows_of(there, [(doubt.a, doubt.b)]))
        laid.append((p, q, doubt.siemens))
        if doubt.ohm:
            loose.append((p, q, ANY_OHM / doubt.ohm))
    return there.with_more(laid, loose) if laid else there
