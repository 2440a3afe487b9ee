"""Exercises of one's own and sets of them as files: open about what they ask, sealed about what is wrong; results as files."""

import json
import zlib
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.exercise import DEVICES, LEVELS, Exercise, can_be_told
from violet_dial.core.practice.form import KINDS, form_of
from violet_dial.core.records.circuit import Fault
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.practise.begun import given
from violet_dial.practise.exercise import OWN, Secret, course_of, sealed_of, secret_of
from violet_dial.practise.forms import TEXT, form_fault
from violet_dial.practise.outcome import best_of, step_words
from violet_dial.services.circuits import circuit_from

FORMAT, SET_FORMAT, RESULT_FORMAT = ("violet-dial exercise", "violet-dial set of exercises", "violet-dial exercise result")
VERSION = 1
MOST_BYTES, MOST_OF_A_SET, LONGEST = 20_000_000, 100, 200
OWN_MINUTES = 120.0
EXPECTED = "a file that this application wrote for an exercise or a set of them"


@dataclass(frozen=True)
class Given:
    """An exercise from a file: its title, its secret, the set it is of with its place there (0: of none)."""

    title: str
    secret: Secret
    set_title: str = ""
    place: int = 0


def own_exercise(circuit_text: str, faults: tuple[Fault, ...], title: str, level: int = 3) -> Secret:
    """An exercise over a circuit of one's own with faults of one's choice.

    Raises InvalidInput: no fault, or one that no allowed test sets apart from others.
    """
    circuit = circuit_from(circuit_text)
    if not faults:
        raise InvalidInput("Fault", "none", "one that is to be found")
    for fault in faults:
        if not can_be_told(circuit, fault):
            expected = "a fault that allowed tests set apart from every other: nobody could find this one"
            raise InvalidInput("Fault", fault.words, expected)
    seed = zlib.crc32(f"{title}\n{circuit_text}\n{[fault.words for fault in faults]}".encode()) & 0x7FFFFFFF
    kinds = tuple(_kind(circuit, fault) for fault in faults)
    return Secret(Exercise(seed, level, OWN, "", faults, kinds, minutes=OWN_MINUTES), circuit_text)


def own_form(name: str, mode: str, title: str, level: int = 3) -> Secret:
    """An exercise of a device judged by readings alone, with a fault of one's choice at a middling figure.

    Raises InvalidInput: no such fault.
    """
    fault = form_fault(form_of(name), mode)
    kind = next(one for one in KINDS[name] if one.mode == fault.mode)
    hidden = Fault(fault.part, fault.mode, (kind.low * kind.high) ** 0.5)
    seed = zlib.crc32(f"{title}\n{name}\n{mode}".encode()) & 0x7FFFFFFF
    device = next(one for one, stems in DEVICES.items() if name in stems)
    return Secret(Exercise(seed, level, device, name, (hidden,), (kind.name,), minutes=OWN_MINUTES), TEXT)


def _kind(circuit: Circuit, fault: Fault) -> str:
    """The kind a fault counts as among the skills: by its way of failing."""
    by_mode = {
        "high resistance": "corroded",
        "too high": "wrong value",
        "too low": "wrong value",
        "weak": "battery",
        "dead": "cell",
    }
    if fault.only:
        return "in a state"
    if fault.to_node:
        return "chassis" if "chassis" in fault.mode else "bridge"
    return by_mode.get(fault.mode, "open" if fault.mode.startswith(("open", "stuck open")) else "junction")


def exercise_file(secret: Secret, title: str) -> bytes:
    """An exercise as a file: JSON, UTF-8; what is wrong is sealed."""
    return _written(_entry(secret, title))


def _entry(secret: Secret, title: str) -> dict[str, Any]:
    exercise = secret.exercise
    return {
        "format": FORMAT, "version": VERSION, "title": title, "level": exercise.level, "device": exercise.device,
        "sealed": sealed_of(secret),
    }  # fmt: skip


def set_file(title: str, several: tuple[Given, ...]) -> bytes:
    """Exercises in their order as one file."""
    entries = [_entry(one.secret, one.title) for one in several]
    return _written({"format": SET_FORMAT, "version": VERSION, "title": title, "exercises": entries})


def _written(data: dict[str, Any]) -> bytes:
    return (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode("utf-8")


def exercises_in(data: bytes) -> tuple[Given, ...]:
    """The exercises of a file, in their order.

    Raises InvalidInput: not such a file, a newer one, too large, or a seal that is broken.
    """
    if len(data) > MOST_BYTES:
        raise InvalidInput("Exercise file", f"{len(data)} bytes", f"at most {MOST_BYTES} bytes")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InvalidInput("Exercise file", data[:30].decode("utf-8", "replace"), EXPECTED) from error
    if not isinstance(raw, dict) or raw.get("format") not in (FORMAT, SET_FORMAT):
        raise InvalidInput("Exercise file", "something else", EXPECTED)
    if raw.get("version") != VERSION:
        raise InvalidInput(
            "Exercise file", f"version {raw.get('version')}", f"version {VERSION}; a newer Violet Dial opens newer ones"
        )
    if raw["format"] == FORMAT:
        return (_given(raw, "", 0),)
    entries = raw.get("exercises")
    if not isinstance(entries, list) or not 1 <= len(entries) <= MOST_OF_A_SET:
        raise InvalidInput("Set of exercises", "no list of them", f"1 to {MOST_OF_A_SET} exercises")
    title = str(raw.get("title", ""))[:LONGEST]
    return tuple(_given(entry, title, place) for place, entry in enumerate(entries, 1))


def _given(entry: Any, set_title: str, place: int) -> Given:
    if not isinstance(entry, dict) or not isinstance(entry.get("sealed"), str):
        raise InvalidInput("Exercise", f"number {place or 1}", EXPECTED)
    secret = secret_of(entry["sealed"])
    circuit_from(secret.circuit_text)
    if not 1 <= secret.exercise.level <= len(LEVELS):
        raise InvalidInput("Level", secret.exercise.level, f"1 to {len(LEVELS)}")
    return Given(str(entry.get("title", "Exercise"))[:LONGEST], secret, set_title, place)


def acts_in(data: bytes) -> tuple[Act, ...]:
    """Acts that make new jobs the exercises of a file. Raises InvalidInput: as `exercises_in`."""
    return tuple(partial(_taken_in, exercise) for exercise in exercises_in(data))


def _taken_in(exercise: Given, job: Job, at: str) -> ActResult:
    """A job as the exercise of a file."""
    done = given(job, exercise.secret, "a nod", at, exercise.title)
    practising = replace(done.job.practising, set_name=exercise.set_title, set_place=exercise.place)
    return replace(done, job=replace(done.job, practising=practising))


def result_file(job: Job) -> bytes:
    """What came of an exercise, for a teacher: JSON, UTF-8. Raises InvalidInput: it has not ended."""
    practising, outcome = job.practising, job.practising.outcome
    if practising.is_open or outcome is None:
        raise InvalidInput("Result", "an exercise that goes on", "one that has ended and is worked out")
    course = course_of(job)
    return _written({
        "format": RESULT_FORMAT, "version": VERSION, "title": job.device.name, "set": practising.set_name,
        "place": practising.set_place, "level": practising.level, "device": practising.kind, "ended": practising.ended,
        "ended_at": practising.ended_at, "points": outcome.points, "minutes": outcome.minutes, "tests": outcome.tests,
        "best_minutes": best_of(outcome.paths).minutes if outcome.paths else None,
        "coached": outcome.coached, "slips": [slip.kind for slip in practising.slips],
        "needless": list(outcome.needless), "steps": [step_words(course, step) for step in course.steps],
    })  # fmt: skip
