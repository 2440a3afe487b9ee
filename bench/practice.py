"""Exercises played by three: by what Next says, by half-splitting, at random. Does the score put better work first, and is every
exercise solved within its limit by the first?"""

import statistics
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy.stats import bootstrap

from bench.measure import row
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.exercise import LEVELS, ExerciseWish, table_of
from violet_dial.core.practice.players import PLAYERS, play
from violet_dial.core.practice.score import score_of
from violet_dial.practise.begun import drawn
from violet_dial.services.circuits import circuit_from

EXERCISES, SEED = 300, 40_000


@dataclass(frozen=True)
class Played:
    """One exercise by every player: points, found within the limit, minutes, chances said with whether right; seconds to draw."""

    level: int
    points: dict[str, float]
    found: dict[str, bool]
    minutes: dict[str, float]
    said: tuple[tuple[float, bool], ...]
    drawn_s: float
    answer_ms: float


def played(number: int) -> Played:
    """Exercise of a number: levels in turn."""
    level = number % len(LEVELS) + 1
    began = time.perf_counter()
    secret = drawn(ExerciseWish(SEED + number, level))
    drawn_s = time.perf_counter() - began
    exercise, circuit = secret.exercise, circuit_from(secret.circuit_text)
    bench = Bench(exercise, circuit)
    answer_ms = 0.0
    if bench.form is None:
        asks = table_of(circuit).asks[:20]
        began = time.perf_counter()
        for ask in asks:
            bench.answer(ask)
        answer_ms = (time.perf_counter() - began) / len(asks) * 1000
    courses = {player: play(exercise, circuit, player) for player in PLAYERS}
    best = courses["next"].minutes
    return Played(
        level, {name: score_of(one, best).points for name, one in courses.items()},
        {name: one.works and one.minutes <= exercise.minutes for name, one in courses.items()},
        {name: one.minutes for name, one in courses.items()},
        tuple((one.move.chance, one.is_right) for one in courses["next"].said), drawn_s, answer_ms,
    )  # fmt: skip


def interval(values: list[float]) -> tuple[float, float]:
    """95 % interval of a mean, by resampling (SciPy)."""
    found = bootstrap((np.array(values),), np.mean, n_resamples=4000, rng=np.random.default_rng(1), method="percentile")
    return float(found.confidence_interval.low), float(found.confidence_interval.high)


def report(count: int = EXERCISES) -> None:
    """All players."""
    with ProcessPoolExecutor() as pool:
        every = list(pool.map(played, range(count), chunksize=4))
    for name in PLAYERS:
        points = [one.points[name] for one in every]
        low, high = interval(points)
        found = 100 * statistics.mean(one.found[name] for one in every)
        goal = "goal: ordered, intervals apart"
        row(f"{name}, {count} exercises", f"{statistics.mean(points):.1f} points ({low:.1f} to {high:.1f}), "
            f"found within the limit {found:.1f} %", "goal: 97 %" if name == "next" else goal)  # fmt: skip
    for level in range(1, len(LEVELS) + 1):
        some = [one for one in every if one.level == level]
        found = 100 * statistics.mean(one.found["next"] for one in some)
        row(
            f"   level {level}: next",
            f"found {found:.1f} %",
            f"median {statistics.median(one.minutes['next'] for one in some):.0f} min",
        )
    said = [pair for one in every for pair in one.said]
    row(
        "   said by next",
        f"{statistics.mean(p for p, _ in said):.3f}",
        f"right {statistics.mean(right for _, right in said):.3f}",
    )
    drawn = [one.drawn_s for one in every]
    row("an exercise is drawn in", f"median {statistics.median(drawn):.2f} s, worst {max(drawn):.2f} s", "goal: under 1 s")
    row("an answer of the bench", f"{statistics.median(one.answer_ms for one in every):.1f} ms on average, "
        f"slowest device {max(one.answer_ms for one in every):.1f} ms", "goal: 50 ms")  # fmt: skip


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else EXERCISES)
