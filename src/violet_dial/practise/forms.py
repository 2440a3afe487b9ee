"""Exercises judged by readings alone, in the words and records of the bench: how their tests are typed and shown, what the owner
says, what the simulated instruments are told, and their readings as those of Light and Expose."""

import difflib
import math
import re
from collections.abc import Iterable
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said
from violet_dial.core.light.marks import parse_time
from violet_dial.core.practice.exercise import Exercise
from violet_dial.core.practice.form import MARKS, NEEDLE, PART, SPEED_U, SPEEDS, UNLISTED, Form, FormReading
from violet_dial.core.quantities import format_signed
from violet_dial.core.records.circuit import Fault
from violet_dial.core.records.light import Direction, LightReading
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired
from violet_dial.job.light import Run, TakenReading

TEXT = "* A device judged by readings alone\nR1 a 0 1k\n"  # no circuit counts
LN2 = 0.6931
SAME_STOPS = 1e-6  # apart, below which two readings are one
MARK_STOPS = 0.25  # from a mark, up to which a firing is of it
OWNERS = {
    "reads high": "slides come out too dark", "reads low": "slides come out too light",
    "reads too wide": "right at dusk, wrong at noon", "reads too narrow": "right in the shade, wrong in the sun",
    "sticks": "shows something else each time", "falls off in dim light": "good outside, wrong indoors",
    "all slow": "negatives too dense at every speed", "all fast": "negatives thin at every speed",
    "a time is added": "the fast speeds look wrong", "slow speeds hang": "hangs at the slow speeds",
}  # fmt: skip
EXPECTED = {
    NEEDLE: "12 Ev · 12 Ev rising · 12 Ev falling · say sticks 80 % · mend sticks · give up",
    SPEEDS: "1/125 · 1 s · say slow speeds hang 80 % · mend slow speeds hang · give up",
}


def complaint_of(exercise: Exercise) -> str:
    """What the owner says."""
    said = (OWNERS.get(fault.mode, "one speed is wrong") for fault in exercise.faults)
    return "; ".join(dict.fromkeys(said))


def test_named(form: Form, text: str, before: str) -> str:
    """A test from what is typed; a light without its way is come to as the last one was, else rising.

    Raises InvalidInput: no such test.
    """
    if form.name == NEEDLE:
        met = re.fullmatch(r"(?:ev\s*)?(\d{1,2})(?:\s*ev)?(?:\s+(rising|falling))?", text.strip().lower())
        if met is None:
            raise InvalidInput("Light", text, EXPECTED[NEEDLE])
        way = met[2] or ("falling" if before.endswith("falling") else "rising")
        test = f"{met[1]} Ev {way}"
        if test not in form.tests:
            raise InvalidInput("Light", text, "4 to 16 Ev, in whole ones")
        return test
    seconds = parse_time(text)[0]
    near = min(MARKS, key=lambda mark: abs(MARKS[mark] - seconds))
    if not 0.8 < seconds / MARKS[near] < 1.25:
        raise InvalidInput("Speed", text, f"one of {', '.join(MARKS)}")
    return near


def shown(form: Form, reading: FormReading) -> str:
    """What a reading showed, and by how much it is off."""
    off = f"{format_signed(reading.value, 2)} stop"
    if form.name == NEEDLE:
        return f"{float(reading.test.partition(' ')[0]) + reading.value:.2f} Ev, {off}"
    return f"{measured_said(MARKS[reading.test] * 2.0**reading.value)}, {off}"


def form_fault(form: Form, words: str) -> Fault:
    """A fault by its words; its figure is left open. Raises InvalidInput: no such fault; near ones are named."""
    names = form_names(form)
    key = " ".join(words.lower().replace(":", " ").split()).removeprefix(f"{PART[form.name]} ")
    if key not in names:
        near = difflib.get_close_matches(key, names, 4, 0.4) or list(names)[:4]
        raise InvalidInput("Fault", words, f"one of {', '.join(near)} …")
    return Fault(PART[form.name], key)


def form_names(form: Form) -> tuple[str, ...]:
    """How such a device fails, in words."""
    return tuple(
        dict.fromkeys(hypothesis.mode for hypothesis in form.hypotheses if hypothesis is not None and hypothesis.mode != UNLISTED)
    )


def told(exercise: Exercise) -> str:
    """The hidden truth as the simulated instruments are told it."""
    words = {
        "reads high": "offset {0}", "reads low": "offset -{0}", "reads too wide": "slope {0}", "reads too narrow": "slope -{0}",
        "sticks": "stick {0}", "falls off in dim light": "dark {0}", "all slow": "ratio {0}", "all fast": "ratio -{0}",
        "a time is added": "constant {1}", "slow speeds hang": "slow {0} from 1/16",
    }  # fmt: skip
    said = []
    for fault in exercise.faults:
        mark = MARKS.get(fault.mode.removeprefix("long at "), 0.0)
        pattern = words.get(fault.mode, f"position {{0}} at {mark:.9f}")
        said.append(pattern.format(f"{fault.figure:.4f}", f"{fault.figure * 1e3:.4f}"))
    return "; ".join(said)


def found_at_stations(job: Job, form: Form) -> tuple[FormReading, ...]:
    """What was read at Light, or fired at Expose, as tests of the form; what is none of its tests is left out."""
    taken: Iterable[FormReading | None]
    if form.name == NEEDLE:
        taken = (_of_light(one.reading) for run in job.light.runs for one in run.readings)
    else:
        taken = (_of_fired(one) for one in job.exposing.fired)
    return tuple(one for one in taken if one is not None and one.test in form.tests)


def lacking(wanted: Iterable[FormReading], there: Iterable[FormReading]) -> tuple[FormReading, ...]:
    """Readings that are not there yet, each counted as often as it stands."""
    left = list(there)
    return tuple(one for one in wanted if not _takes(left, one))


def _takes(left: list[FormReading], one: FormReading) -> bool:
    """Whether such a reading is among those left; it is taken out."""
    place = next((n for n, other in enumerate(left) if is_same(one, other)), -1)
    if place >= 0:
        del left[place]
    return place >= 0


def is_same(one: FormReading, other: FormReading) -> bool:
    """Whether two readings are one, written down at two places."""
    return one.test == other.test and abs(one.value - other.value) < SAME_STOPS


def at_stations(job: Job, form: Form, readings: tuple[FormReading, ...], at: str) -> Job:
    """The job with these readings as those of Light, or the firings of Expose, beside what stands there already."""
    new = lacking(readings, found_at_stations(job, form))
    if not new:
        return job
    if form.name == NEEDLE:
        first, *later = job.light.runs or (Run(),)
        taken = (*first.readings, *(TakenReading(_light(one), at) for one in new))
        return replace(job, light=replace(job.light, runs=(replace(first, readings=taken), *later)))
    fired = (*job.exposing.fired, *(_fired(one, at) for one in new))
    return replace(job, exposing=replace(job.exposing, works=job.exposing.works or "leaf", fired=fired))


def only_at_stations(job: Job, form: Form, readings: tuple[FormReading, ...]) -> Job:
    """The job without what was read or fired there since: of the tests of the form only these are left."""
    left = list(readings)

    def stays(one: FormReading | None) -> bool:
        return one is None or one.test not in form.tests or _takes(left, one)

    if form.name == NEEDLE:
        runs = tuple(
            replace(run, readings=tuple(one for one in run.readings if stays(_of_light(one.reading)))) for run in job.light.runs
        )
        return replace(job, light=replace(job.light, runs=runs))
    fired = tuple(one for one in job.exposing.fired if stays(_of_fired(one)))
    return replace(job, exposing=replace(job.exposing, fired=fired))


def _light(one: FormReading) -> LightReading:
    words = one.test.split()
    way: Direction = "falling" if words[-1] == "falling" else "rising"
    return LightReading(reference_ev100=float(words[0]), indicated_ev100=float(words[0]) + one.value, direction=way)


def _of_light(one: LightReading) -> FormReading:
    way = "falling" if one.direction == "falling" else "rising"
    return FormReading(f"{round(one.reference_ev100)} Ev {way}", one.indicated_ev100 - one.reference_ev100)


def _fired(one: FormReading, at: str) -> Fired:
    time_s = MARKS[one.test] * 2.0**one.value
    return Fired(MARKS[one.test], time_s, time_s * SPEED_U * LN2 / 2, "exercise", at)


def _of_fired(one: Fired) -> FormReading | None:
    near = min(MARKS, key=lambda said: abs(math.log2(MARKS[said] / one.marked_s)))
    if abs(math.log2(MARKS[near] / one.marked_s)) > MARK_STOPS:
        return None
    return FormReading(near, math.log2(one.time_s / one.marked_s))
