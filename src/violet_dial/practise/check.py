"""The command ``practise``: an exercise played and scored, the levels listed, an exercise of one's own made."""

from argparse import Namespace
from pathlib import Path
from typing import Any

from violet_dial.core.diagnosis.faults import faults_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.course import Course
from violet_dial.core.practice.exercise import ANY, DEVICES, LEVELS, ExerciseWish
from violet_dial.core.practice.players import PLAYERS, SEARCHES, play
from violet_dial.core.practice.score import Score, score_of
from violet_dial.core.quantities import parse_number
from violet_dial.instruments.simulated.device import hidden_fault
from violet_dial.practise.begun import drawn
from violet_dial.practise.exercise import Secret
from violet_dial.practise.files import MOST_BYTES, exercise_file, exercises_in, own_exercise, set_file
from violet_dial.practise.outcome import step_words
from violet_dial.services.circuits import circuit_from
from violet_dial.services.files import circuit_given, read_given, write_file
from violet_dial.services.station import JSON, Command, Option, as_json

ARGUMENTS = (
    Option("--seed", "which exercise (default 1)", "", "1"),
    Option("--level", f"1 to {len(LEVELS)} (default 1)", "", "1"),
    Option("--kind", f"of device: {ANY}, {', '.join(DEVICES)} (default {ANY})", "", ANY),
    Option("--player", f"who plays: {', '.join(PLAYERS)} (default next)", "", "next"),
    JSON,
    Option("--list", "levels and kinds of device there are", action="store_true"),
    Option("--file", "play the exercises of this file", "FILE", type=Path),
    Option("--make", "write an exercise of your own: with --circuit and --fault", "FILE", type=Path),
    Option("--circuit", "with --make: the circuit", "FILE.cir", type=Path),
    Option(
        "--fault",
        ("with --make: what is wrong, for instance 'Rwred:high resistance:22k'; again for a second one"),
        "PART:MODE",
        [],
        action="append",
    ),
    Option("--together", ("with --make: these exercise files as a set, in this order"), "FILE", [], nargs="+", type=Path),
    Option("--title", "with --make: its title", "", "Exercise"),
)


def _run(options: Namespace) -> int:
    if options.list:
        return _list(options.json)
    if options.make is not None:
        return _set(options) if options.together else _make(options)
    if options.player not in PLAYERS:
        raise InvalidInput("--player", options.player, f"one of {', '.join(PLAYERS)}")
    if options.file is not None:
        secrets = [exercise.secret for exercise in exercises_in(read_given(options.file, "--file", MOST_BYTES))]
    else:
        secrets = [drawn(ExerciseWish(_whole(options.seed, "--seed"), _whole(options.level, "--level"), options.kind))]
    played = [_played(secret, options.player) for secret in secrets]
    if options.json:
        print(as_json(played[0] if options.file is None else {"exercises": played}))
        return 0
    for one in played:
        how = "found" if one["found"] else "not found"
        print(f"{one['points']:.1f} points, {how} in {one['minutes']:.0f} min, {one['tests']} tests")
        for step in one["steps"]:
            print(f"  {step}")
        print(f"  it was {'; '.join(one['faults'])}")
    return 0


def _whole(text: str, field: str) -> int:
    value = parse_number(text, field)
    if value != round(value):
        raise InvalidInput(field, text, "a whole number")
    return round(value)


def _played(secret: Secret, player: str) -> dict[str, Any]:
    """An exercise played, with its score against the best path."""
    exercise, circuit = secret.exercise, circuit_from(secret.circuit_text)
    played = {one: play(exercise, circuit, one) for one in {player, *SEARCHES}}
    course = played[player]
    best = min((played[one].minutes for one in SEARCHES if played[one].works), default=course.minutes)
    return _plain(secret, player, course, score_of(course, best))


def _plain(secret: Secret, player: str, course: Course, score: Score) -> dict[str, Any]:
    exercise = secret.exercise
    return {
        "seed": exercise.seed, "level": exercise.level, "device": exercise.device, "player": player, "found": score.found,
        "points": round(score.points, 2), "said": round(score.said, 2), "time": round(score.time, 2), "slips": score.slips,
        "needless": score.needless, "minutes": round(course.minutes, 2), "money": course.money, "tests": course.tests,
        "limit_min": exercise.minutes, "steps": [step_words(course, step) for step in course.steps],
        "faults": [fault.words for fault in exercise.faults],
    }  # fmt: skip


def _list(is_json: bool) -> int:
    levels = [
        {"level": n, "faults": level.faults, "kinds": list(level.kinds), "devices": list(level.devices), "wrong": level.wrong,
         "misleads": level.misleads, "papers": level.papers, "limit_min": level.minutes}
        for n, level in enumerate(LEVELS, 1)
    ]  # fmt: skip
    if is_json:
        print(as_json({"levels": levels, "kinds": list(DEVICES), "players": list(PLAYERS)}))
        return 0
    for n, level in enumerate(LEVELS, 1):
        print(f"level {n}: {level.words}; {', '.join(level.devices)}; {', '.join(level.kinds)}")
    return 0


def _make(options: Namespace) -> int:
    if options.circuit is None or not options.fault:
        raise InvalidInput("--make", "alone", "with --circuit FILE.cir and --fault PART:MODE")
    text = circuit_given(options.circuit, "--circuit", takes_includes=False)
    circuit = circuit_from(text)
    if not faults_of(circuit):
        raise InvalidInput("--circuit", str(options.circuit), "a circuit with parts that can fail")
    faults = tuple(hidden_fault(circuit, one) for one in options.fault)
    secret = own_exercise(text, faults, options.title, _whole(options.level, "--level"))
    write_file(options.make, exercise_file(secret, options.title))
    print(f"{options.make}: an exercise of level {secret.exercise.level}; what is wrong is sealed in it")
    return 0


def _set(options: Namespace) -> int:
    every = [exercise for path in options.together for exercise in exercises_in(read_given(path, "--together", MOST_BYTES))]
    write_file(options.make, set_file(options.title, tuple(every)))
    print(f"{options.make}: a set of {len(every)} exercises")
    return 0


COMMANDS = (
    Command("practise", "an exercise played and scored, the levels listed, or an exercise of your own made", ARGUMENTS, _run),
)
