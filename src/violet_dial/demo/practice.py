"""The demo's practice workshop: three exercises of rising difficulty ready to begin, others ended, one of them with a slip and a
wrong guess in its replay. Built through the services, move by move, as a trainee would have."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

from violet_dial.core.practice.course import Move
from violet_dial.core.practice.exercise import ExerciseWish
from violet_dial.core.practice.players import play
from violet_dial.core.records.circuit import Evidence
from violet_dial.demo.doing import Doing
from violet_dial.demo.workshop import BenchClock, laid_out, nobody_told
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.practise import PRACTICE_LINE
from violet_dial.practise.acts import fault_named, understand
from violet_dial.practise.begun import drawn, given
from violet_dial.practise.exercise import Secret, give_up, measure, mend, say
from violet_dial.practise.outcome import keep_outcome, outcome_of
from violet_dial.services.circuits import circuit_from
from violet_dial.services.workshop import Workshop

READY = (ExerciseWish(4, 1), ExerciseWish(5, 2), ExerciseWish(2, 3))
# Ended ones: which, by whose tests, how sure it was said.
ENDED = ((ExerciseWish(0, 1), "halves", 0.55), (ExerciseWish(0, 2), "next", 0.9), (ExerciseWish(3, 2), "next", 0.75))
AGO_DAYS = 8  # so that some of it is due today, whenever that is
LOOKED_BACK = ExerciseWish(2, 1)  # with a slip and a wrong guess
LINES = ("clip+ to gnd volts", "lead to sw ohms", "cells out", "clip+ to lead ohms", "cells in", "look at movement")
GUESS = "plus clip high resistance"


def build_practice(path: Path, tell: Callable[[float], None] = nobody_told) -> None:
    """The practice workshop in a new file at ``path``; ``tell`` is given the share done, 0 to 1."""
    clock = BenchClock(datetime.now(UTC).replace(hour=9, minute=12) - timedelta(days=AGO_DAYS))
    steps: tuple[Callable[[Workshop], object], ...] = (
        *(partial(_ended, what=ended) for ended in ENDED), partial(_looked_back, wish=LOOKED_BACK),
        *(partial(_begun, wish=wish) for wish in READY),
    )  # fmt: skip
    laid_out(path, PRACTICE_LINE, steps, clock, tell)


def _begun(workshop: Workshop, wish: ExerciseWish) -> tuple[Doing, Secret]:
    on, secret = Doing(workshop, workshop.new_job().job.job_id), drawn(wish)
    on.do(lambda job, at: given(job, secret, "a nod", at))
    return on, secret


def _ended(workshop: Workshop, what: tuple[ExerciseWish, str, float]) -> None:
    """An exercise worked as a player would, said with another chance."""
    wish, player, chance = what
    on, secret = _begun(workshop, wish)
    exercise = secret.exercise
    for step in play(exercise, circuit_from(secret.circuit_text), player).steps:
        if not on.job.practising.is_open:
            break
        _do(on, step.move, chance)
    _close(on)


def _do(on: Doing, move: Move, chance: float) -> None:
    evidence, fault = move.evidence, move.fault
    if evidence is not None:
        on.do(lambda job, at: _stands_then(job, evidence, at))
    elif fault is not None and move.kind == "said":
        on.do(lambda job, at: say(job, fault, chance, fault.name, at))
    elif fault is not None:
        on.do(lambda job, at: mend(job, fault, fault.name, at))


def _stands_then(job: Job, evidence: Evidence, at: str) -> ActResult:
    """The test, the device standing as it wants."""
    there = replace(job, tracing=replace(job.tracing, setting=evidence.setting))
    return measure(there, evidence, "", at)


def _close(on: Doing) -> None:
    if on.job.practising.is_open:
        on.do(give_up)
    outcome = outcome_of(on.job)
    on.do(lambda job, at: keep_outcome(job, outcome))


def _looked_back(workshop: Workshop, wish: ExerciseWish) -> None:
    """One with a slip, a wrong guess, a part replaced that was sound, and at last the right one."""
    on, secret = _begun(workshop, wish)
    on.each(_typing, LINES)
    wrong = fault_named(circuit_from(secret.circuit_text), GUESS)
    right = secret.exercise.faults[0]
    for fault, chance in ((wrong, 0.6), (right, 0.8)):
        _do(on, Move("said", fault=fault), chance)
        _do(on, Move("mended", fault=fault), chance)
    _close(on)


def _typing(line: str) -> Act:
    return lambda job, at: understand(job, line).act(job, at)
