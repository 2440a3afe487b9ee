"""Players that work an exercise by themselves: by Next, to save minutes or tests, by half-splitting, at random. A trainee's
minutes are laid beside the best of the first three; all check that the score puts better work first.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.likelihood import scale_value
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.exercise import Exercise, table_of
from violet_dial.core.practice.mind import Ask, Mind
from violet_dial.core.practice.score import LEAST_SAID, MOST_SAID
from violet_dial.core.records.circuit import Fault, Prefer
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[Any]
SURE = 0.9  # a suspect this likely, with those no test tells from it, is mended
MOST_TESTS = 40
LEAST_BITS = 0.01
TIRED = 0.15  # after each test: who measures at random begins to replace at random too
GOOD_OR_BAD = 0.8  # the most that is said of what is left when readings are only good or bad: a slight fault reads good
PLAYERS: tuple[str, ...] = ("next", "few", "halves", "random")
SEARCHES = ("next", "few", "halves")  # the best of these is the measure of time


@dataclass
class _Game:
    """A course being played: what is asked, said, mended."""

    bench: Bench
    course: Course

    def test(self, ask: Ask) -> bool:
        """A test made; False where it gave no reading."""
        if isinstance(ask, str):
            read = self.bench.reads(ask, self.course.asked_before(ask), self.course.mended)
            self.course = self.course.after(Move("test", reading=read))
            return True
        is_fed = ask.setting.supply != "off"
        slip = self.bench.slip(ask, is_fed, self.course.was_dead or self.course.has_burnt, self.course.mended)
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

    def is_bad(self, normal: float, limit: float) -> bool:
        """Whether the last reading lies off what a sound device shows."""
        move = self.course.steps[-1].move
        value = scale_value(move.evidence) if move.evidence is not None else move.reading.value if move.reading else normal
        return abs(value - normal) > limit

    def mend(self, fault: Fault, chance: float) -> None:
        """A fault said with its chance, and put right."""
        said = min(max(chance, LEAST_SAID), MOST_SAID)
        self.course = self.course.after(Move("said", fault=fault, chance=said)).after(Move("mended", fault=fault))

    def give_up(self) -> Course:
        self.course = self.course.after(Move("given up"))
        return self.course

    def is_late(self, exercise: Exercise) -> bool:
        return self.course.minutes > exercise.minutes or self.course.tests >= MOST_TESTS


def play(exercise: Exercise, circuit: Circuit, player: str, task: Task | None = None, mind: Mind | None = None) -> Course:
    """The exercise worked by a player, to its end.

    Raises InvalidInput: no such player.

    Parameters
    ----------
    task : asked whether to go on; none when None
    mind : what was solved before; one of its own when None
    """
    if player not in PLAYERS:
        raise InvalidInput("Player", player, f"one of {', '.join(PLAYERS)}")
    bench = Bench(exercise, circuit)
    game = _Game(bench, begin(circuit, exercise.faults, form=bench.form))
    task = task or SilentTask()
    if player not in SAVES:
        rng = np.random.default_rng([exercise.seed, exercise.level, 2]) if player == "random" else None
        return _by_good_and_bad(exercise, game, rng, task)
    return _by_next(exercise, game, task, mind or Mind(), SAVES[player])


SAVES: dict[str, Prefer] = {"next": "least minutes", "few": "fewest tests"}


def _by_next(exercise: Exercise, game: _Game, task: Task, mind: Mind, prefer: Prefer) -> Course:
    """Tests chosen one by one until a suspect is likely enough, which is mended; and so on until the device works."""
    while not game.course.is_over:
        known = mind.know(game.course, task, prefer=prefer)
        late = game.is_late(exercise)
        is_out = late or known.best is None or known.best.bits < LEAST_BITS
        if known.leader is not None and (known.chance >= SURE or is_out):
            game.mend(known.leader, known.chance)
            if late and not game.course.works:
                return game.give_up()
            continue
        if is_out or known.best is None or not game.test(known.best.ask):
            return game.course if game.course.is_over else game.give_up()
    return game.course


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


def _left_over(exercise: Exercise, game: _Game, rng: np.random.Generator | None, task: Task) -> Iterator[tuple[Fault, float]]:
    """Faults left when no point parts them any more, a part at a time, each as likely as the others that are left. The next point
    is the one that parts them most evenly, or any where there is an ``rng``, and then for as
    long as patience lasts."""
    asks, faults, mean, sigma = _known_to_all(game.course)
    limit = 4 * sigma
    bad = np.abs(mean - mean[:, :1]) > limit[:, None]
    done = {(one.part, one.mode) if game.course.form else one.part for one in game.course.mended}
    left = np.array(
        [fault is not None and ((fault.part, fault.mode) if game.course.form else fault.part) not in done for fault in faults]
    )
    unused = list(range(len(asks)))
    while unused and left.any() and not game.is_late(exercise):
        task.check()
        shares = [abs(bad[place][left].mean() - 0.5) for place in unused]
        if rng is not None and game.course.tests and rng.random() < TIRED:
            break
        parting = [place for place, share in enumerate(shares) if share < 0.5 - 1e-9]
        if not parting:
            break
        place = unused.pop(int(np.argmin(shares)) if rng is None else int(rng.choice(len(unused))))
        if not game.test(asks[place]):
            if game.course.is_over:
                return
            continue
        kept = left & (bad[place] == game.is_bad(float(mean[place, 0]), float(limit[place])))
        left = kept if kept.any() else left
    several = [fault for fault, is_left in zip(faults, left, strict=True) if is_left and fault is not None]
    parts = list({one.name if game.course.form else one.part: one for one in several}.values())
    if rng is not None:
        rng.shuffle(parts)
    for number, fault in enumerate(parts):
        yield fault, min(1.0 / (len(parts) - number), GOOD_OR_BAD)


def _known_to_all(course: Course) -> tuple[tuple[Ask, ...], tuple[Fault | None, ...], Array, Array]:
    """Tests, faults (None: sound, first), what each shows under each, and the spread of a sound device's."""
    if course.form is not None:
        form = course.form
        faults = form.hypotheses[:-1]  # what is on no list is known to nobody
        return form.tests, faults, form.mean[:, :-1], np.full(len(form.tests), form.u)
    table = table_of(course.circuit)
    return (
        table.asks,
        tuple(single.faults[0] if single.faults else None for single in table.singles),
        table.mean,
        table.sigma[:, 0],
    )
