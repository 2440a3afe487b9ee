"""Players that work an exercise by themselves: by Next, by half-splitting, at random. The first is the best path that a trainee's
work is laid beside; all three check that the score puts better work first.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.evidence import Evidence
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.diagnosis.likelihood import scale_value
from violet_dial.core.diagnosis.next_test import Ranking, rank_tests
from violet_dial.core.diagnosis.posterior import Diagnosis, Diagnostician, Suspect
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.exercise import Exercise, table_of
from violet_dial.core.practice.score import LEAST_SAID, MOST_SAID
from violet_dial.core.task import SilentTask, Task

SURE = 0.9  # a suspect this likely, with those no test tells from it, is mended
MOST_TESTS = 40
LEAST_BITS = 0.01
GOOD_OR_BAD = 0.8  # the most that is said of what is left when readings are only good or bad: a slight fault reads good
PLAYERS: tuple[str, ...] = ("next", "halves", "random")


@dataclass
class _Game:
    """A course being played: what is asked, said, mended."""

    bench: Bench
    course: Course

    def test(self, ask: Evidence) -> bool:
        """A test made; False where it gave no reading."""
        is_fed = ask.setting.supply != "off"
        slip = self.bench.slip(ask, is_fed, self.course.was_dead or self.has_burnt, self.course.mended)
        if slip is not None:
            self.course = self.course.after(Move("slip", slip=slip))
            if slip.ends:
                return False
        try:
            taken = self.bench.answer(ask, self.course.asked_before(ask), self.course.mended)
        except CannotSolve:
            return False
        self.course = self.course.after(Move("test", taken))
        return True

    @property
    def has_burnt(self) -> bool:
        """What smoked is replaced and not put at risk again before ohms were measured."""
        return any(one.kind == "power before the short was found" for one in self.course.slips)

    def mend(self, fault: Fault, chance: float) -> None:
        """A fault said with its chance, and put right."""
        said = min(max(chance, LEAST_SAID), MOST_SAID)
        self.course = self.course.after(Move("said", fault=fault, chance=said)).after(Move("mended", fault=fault))

    def give_up(self) -> Course:
        self.course = self.course.after(Move("given up"))
        return self.course

    def is_late(self, exercise: Exercise) -> bool:
        return self.course.minutes > exercise.minutes or self.course.tests >= MOST_TESTS


def play(
    exercise: Exercise, circuit: Circuit, player: str, task: Task | None = None, keeper: Diagnostician | None = None
) -> Course:
    """The exercise worked by a player, to its end.

    Parameters
    ----------
    exercise : with its secret
    circuit : its device as drawn, values in SI units
    player : one of `PLAYERS`
    task : asked whether to go on; none when None
    keeper : what was solved before; one of its own when None

    Raises
    ------
    InvalidInput
        No such player.
    """
    if player not in PLAYERS:
        raise InvalidInput("Player", player, f"one of {', '.join(PLAYERS)}")
    game = _Game(Bench(exercise, circuit), begin(circuit, exercise.faults))
    task = task or SilentTask()
    if player != "next":
        rng = np.random.default_rng([exercise.seed, exercise.level, 2]) if player == "random" else None
        return _by_good_and_bad(exercise, game, rng, task)
    return _by_next(exercise, game, task, keeper or Diagnostician())


def _by_next(exercise: Exercise, game: _Game, task: Task, keeper: Diagnostician) -> Course:
    """Tests chosen one by one until a suspect is likely enough, which is mended; and so on until the device works."""
    while not game.course.is_over:
        task.check()
        found = keeper.diagnose(game.course.case, task)
        reach = Reach(opened=game.course.opened, taken=game.course.case.now, prefer="least minutes")
        ranking = rank_tests(found, game.course.now, reach, task)
        leader, chance = _leader(found, ranking, game.course)
        late = game.is_late(exercise)
        is_out = late or not ranking.tests or ranking.tests[0].bits < LEAST_BITS
        if leader is not None and (chance >= SURE or is_out):
            game.mend(leader.faults[0], chance)
            if late and not game.course.works:
                return game.give_up()
            continue
        if is_out or not game.test(ranking.tests[0].ask):
            return game.course if game.course.is_over else game.give_up()
    return game.course


def _leader(found: Diagnosis, ranking: Ranking, course: Course) -> tuple[Suspect | None, float]:
    """The likeliest suspect that was not put right yet, with the chance of those no test tells from it."""
    done = {one.part for one in course.mended}
    fresh = [one for one in found.suspects if one.faults and not {each.part for each in one.faults} <= done]
    if not fresh or not course.tests:
        return None, 0.0
    top = fresh[0]
    group = next((one for one in ranking.groups if top.name in one), (top.name,))
    chance = sum(one.probability for one in fresh if one.name in group)
    todo = tuple(sorted(top.faults, key=lambda one: one.part in done))
    return replace(top, faults=todo), chance


def _by_good_and_bad(exercise: Exercise, game: _Game, rng: np.random.Generator | None, task: Task) -> Course:
    """Each reading is good or bad, and parts the faults that are left; those left at last are mended one by one. Where it still
    does not work, once more from the start."""
    while not game.course.is_over and not game.is_late(exercise):
        before = len(game.course.steps)
        for fault, chance in _left_over(exercise, game, rng, task):
            game.mend(fault, chance)
            if game.course.is_over or game.is_late(exercise):
                break
        if len(game.course.steps) == before:
            break
    return game.course if game.course.is_over else game.give_up()


def _left_over(
    exercise: Exercise, game: _Game, rng: np.random.Generator | None, task: Task
) -> Iterator[tuple[Fault, float]]:
    """Faults left when no point parts them any more, a part at a time, each as likely as the others that are left. The next point
    is the one that parts them most evenly, or any that parts them where there is an ``rng``."""
    table = table_of(game.course.circuit)
    limit = 4 * table.sigma[:, 0]
    bad = np.abs(table.mean - table.mean[:, :1]) > limit[:, None]
    done = {one.part for one in game.course.mended}
    left = np.array([bool(one.faults) and one.faults[0].part not in done for one in table.singles])
    unused = list(range(len(table.asks)))
    while unused and left.any() and not game.is_late(exercise):
        task.check()
        shares = [abs(bad[place][left].mean() - 0.5) for place in unused]
        parting = [place for place, share in enumerate(shares) if share < 0.5 - 1e-9]
        if not parting:
            break
        place = unused.pop(int(np.argmin(shares)) if rng is None else int(rng.choice(len(unused))))
        if not game.test(table.asks[place]):
            if game.course.is_over:
                return
            continue
        taken = game.course.steps[-1].move.evidence
        is_bad = taken is not None and abs(scale_value(taken) - table.mean[place, 0]) > limit[place]
        kept = left & (bad[place] == is_bad)
        left = kept if kept.any() else left
    parts = list({one.part: one for one in (table.singles[n].faults[0] for n in np.flatnonzero(left))}.values())
    for place, fault in enumerate(parts):
        yield fault, min(1.0 / (len(parts) - place), GOOD_OR_BAD)
