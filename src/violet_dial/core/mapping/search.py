"""Which maps explain the touches: sets of doubts taken for the truth, the likeliest first.

From the map as it is said, and from each likelier one that is found, every single doubt is turned over; the best of these are
turned over from in their turn. Where touches stay odd, what was taken for the truth is let go of, one at a time, and the rest
filled up anew. What is believed is the likeliest; the others that were met are what the next touch tells apart.

Source: Bayes' rule; best-first search; letting go and filling up again is iterated local search (Lourenco, Martin and Stuetzle
2003) [memory].
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.mapping.around import SearchState, Surroundings, turned_over
from violet_dial.core.mapping.board import Board, Touch
from violet_dial.core.mapping.doubts import BEEP_OHM, BEEP_SPREAD, BEEPS_OHM, Doubt, Networks, otherwise
from violet_dial.core.mapping.ohms import Network
from violet_dial.core.records.circuit import Setting
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
MOST_LOOKED = 16  # maps looked around from
MOST_REFILLED, REFILLED = 24, 4  # further ones by letting go, where touches are odd, and where none is
MOST_STARTS, LIKELY = 5, 1e-3  # maps of a touch ago that are begun from, and how likely they were at least
WORTH, WORTH_ODD = (6.0, 30.0)  # log posterior below the best, from which a map is not looked at; deeper where touches are odd
LEARNED = 0.5  # by which log posterior a meter must beep elsewhere for that to be believed
DEEP = 2  # maps looked around from one after the other when one doubt was let go of


@dataclass(frozen=True)
class MapJudgement:
    """What is believed of a board after its touches: ``states`` met, likeliest first, with ``weight`` (s,); all ``doubts``;
    ``nets``: that of each spot, by its key."""

    said: Board
    doubts: tuple[Doubt, ...]
    states: tuple[SearchState, ...]
    weight: Array
    base: Networks
    nets: dict[str, int]
    beep_ohm: float = BEEP_OHM  # where the meter stops beeping, as far as is known

    @property
    def best(self) -> SearchState:
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

    def network(self, state: SearchState, setting: Setting) -> Network:
        """A map in a setting."""
        if setting not in state.networks:
            state.networks[setting] = turned_over(self.base.at(setting), self.doubts, state.turned)
        return state.networks[setting]


def judged(board: Board, before: MapJudgement | None = None, task: Task | None = None) -> MapJudgement:
    """What is believed of a board after its touches, and how much is in doubt still.

    ``before``: what was judged a touch ago: where to begin. Raises InvalidInput: a touch in a switch position that the map has
    not.
    """
    found = _Search(board, task or SilentTask())
    starts = found.same_as(before) if before is not None else ()
    found.around.beep_ohm = before.beep_ohm if before is not None else BEEP_OHM
    found.run(starts)
    if found.learn_beep():
        found.run(starts)
    done = sorted(found.done.values(), key=lambda one: -one.log_weight)
    weight = np.exp(np.array([one.log_weight - done[0].log_weight for one in done]))
    weight = weight / weight.sum()
    around = found.around
    nets = around.nets.by_key(done[0].turned)
    return MapJudgement(board, around.doubts, tuple(done), weight, around.base, nets, around.beep_ohm)


class _Search:
    """Best first; and from what is best by letting go."""

    def __init__(self, board: Board, task: Task) -> None:
        self.around, self.task = Surroundings(board), task
        self.met: dict[frozenset[int], float] = {}
        self.done: dict[frozenset[int], SearchState] = {}

    def same_as(self, before: MapJudgement) -> tuple[frozenset[int], ...]:
        """The maps that were likely before, among these doubts."""
        likely = [state for state, share in zip(before.states, before.weight, strict=True) if share > LIKELY]
        starts = []
        for state in likely[:MOST_STARTS]:
            places = (self.around.same(before.doubts[n]) for n in state.turned)
            starts.append(frozenset(place for place in places if place is not None))
        return tuple(starts)

    @property
    def leader(self) -> SearchState:
        return max(self.done.values(), key=lambda one: one.log_weight)

    def learn_beep(self) -> bool:
        """Where this meter stops beeping, from what it beeped at: whether that is elsewhere than was thought. All is begun
        anew then."""
        around, before = self.around, self.around.beep_ohm
        if not any(touch.beep is not None for touch in around.board.touches):
            return False
        likely = {frozenset[int](), *(state.turned for state in sorted(self.done.values(), key=lambda one: -one.log_weight)[:4])}
        value = {}
        for ohm in BEEPS_OHM:
            around.beep_ohm = ohm
            prior = -0.5 * (math.log10(ohm / BEEP_OHM) / BEEP_SPREAD) ** 2
            value[ohm] = prior + max(around.weigh(turned) for turned in likely)
        best = max(value, key=lambda ohm: value[ohm])
        around.beep_ohm = best if value[best] > value[before] + LEARNED else before
        if around.beep_ohm != before:
            self.met, self.done = {}, {}
        return around.beep_ohm != before

    def run(self, starts: Sequence[frozenset[int]]) -> None:
        """Look around until nothing better is in sight."""
        for start in (*starts, frozenset[int]()):
            self._look(start)
        self._best_first(MOST_LOOKED)
        tried: set[frozenset[int]] = set()
        begun = len(self.done)
        while len(self.done) - begun < (MOST_REFILLED if self.leader.odd else REFILLED):
            leader = self.leader
            explaining = [one for touch in leader.odd for one in leader.explains.get(touch, ())]
            waiting = [one for one in (*explaining, *self._less(leader)) if one not in tried]
            if not waiting:
                break
            tried.add(waiting[0])
            self._refill(waiting[0])
            if self.leader is not leader:
                self._best_first(2)
        self._fit_rungs()

    def _less(self, state: SearchState) -> list[frozenset[int]]:
        """A map with one doubt less, or a join broken that was thought to have some ohms: where touches are odd the least
        backed first, else each in its turn, touch by touch."""
        turned = sorted(state.turned)
        at = len(self.around.board.touches) % max(len(turned), 1)
        order = sorted(turned, key=lambda n: -state.change[n]) if state.odd else [*turned[at:], *turned[:at]]
        return [state.turned - {n} | self.around.broken_instead(n) for n in order]

    def _best_first(self, most: int) -> None:
        for _ in range(most):
            best, leader = max(self.met.values()), self.leader
            deep = WORTH_ODD if leader.odd and leader.log_weight >= best - 1e-6 else WORTH
            waiting = [turned for turned, value in self.met.items() if turned not in self.done and value > best - deep]
            if not waiting:
                return
            self._look(max(waiting, key=lambda one: self.met[one]))

    def _refill(self, turned: frozenset[int]) -> None:
        """From a map with one doubt let go of, the best that is beside it, and so on: first what explains the touch that is
        odd to the leader, where there is one."""
        wanted = self.leader.odd[-1:]
        for _ in range(DEEP):
            state = self._look(turned)
            explaining = [one for touch in wanted for one in state.explains.get(touch, ()) if one not in self.done]
            beside = explaining or [one for one in state.beside if one not in self.done]
            if not beside:
                return
            turned = max(beside, key=lambda one: state.beside[one])
        self._look(turned)

    def _look(self, turned: frozenset[int]) -> SearchState:
        """Look around from a map; what it was met with was how it looked from another."""
        if turned in self.done:
            return self.done[turned]
        self.task.check()
        state = self.done[turned] = self.around.look(turned)
        self.met[turned] = state.log_weight
        for other, value in state.beside.items():
            self.met.setdefault(other, value)
        return state

    def _fit_rungs(self) -> None:
        """The ohms of corroded joins of the leader, a step up or down while that is likelier."""
        for _ in range(MOST_LOOKED):
            leader = self.leader
            fits = {rung: self.around.weigh(rung) for rung in self.around.other_rungs(leader.turned) if rung not in self.done}
            better = max(fits, key=lambda fit: fits[fit], default=None)
            if better is None or fits[better] <= leader.log_weight:
                return
            self._look(better)
