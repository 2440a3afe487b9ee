"""Acts at Speeds: firings typed, taken live or from a recording; the speeds of the dial, how it works, what is allowed."""

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from violet_dial.core.circuit.trade import switches_of
from violet_dial.core.diagnosis.evidence import time_evidence
from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.curtains import FrameGate
from violet_dial.core.exposure.ladder import LONGEST_S, SHORTEST_S, SpeedTolerance, Timed
from violet_dial.core.exposure.said import measured_said, time_said
from violet_dial.core.light.marks import parse_time, time_marks
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing, Fired
from violet_dial.job.tracing import TakenEvidence
from violet_dial.services.circuits import circuit_of
from violet_dial.services.evidence import with_evidence
from violet_dial.services.job_shutter import speeds_of
from violet_dial.services.shutter import FiringSeen, channels_said
from violet_dial.stations.expose.bench import ladder_of

EXPECTED = (
    "1/125 9.2 ms (a firing; several times after it are several) · 1/125 (the next one goes there) · speeds 1 to 1/500 · "
    "works leaf, focal plane or electronic · tolerance 1/3 fastest 1/2 · frame 36 sensors 4 18 32 · "
    "channels light,flash · last 3 as 1/125 · 1/30 to trace (as evidence)"
)
WORKS = ("leaf", "focal plane", "electronic")
MOST_FIRED, MOST_AT_ONCE = 1_000, 40
TYPED_U = 0.01  # of a time that was typed: what a reading off another instrument is worth; common practice, no source
Kind = Literal["fired", "aim", "speeds", "works", "tolerance", "frame", "last", "trace"]


@dataclass(frozen=True)
class SpeedsUnderstood:
    """A line typed at Speeds: what kind of thing it says, in words; the mark it is about (s), firings, or what stands from then
    on."""

    kind: Kind
    words: str
    marked_s: float = 0.0
    fired: tuple[Fired, ...] = ()
    exposing: Exposing | None = None
    count: int = 0


def with_exposing(job: Job, exposing: Exposing, reason: str) -> ActResult:
    """The job with another share of this station's."""
    return ActResult(replace(job, exposing=exposing), "Expose", reason[:300])


def understand(job: Job, text: str) -> SpeedsUnderstood:
    """A line typed at Speeds. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().lower().split())
    word, _, rest = low.partition(" ")
    exposing = job.exposing
    if word == "speeds":
        marks = _marks(rest)
        said = f"{len(marks)} speeds from {time_said(marks[0])} to {time_said(marks[-1])}"
        return SpeedsUnderstood("speeds", f"= {said}", exposing=replace(exposing, speeds=marks))
    if word == "works":
        if rest not in WORKS:
            raise InvalidInput("Works", rest, " or ".join(WORKS))
        return SpeedsUnderstood("works", f"= a {rest} shutter", exposing=replace(exposing, works=rest))  # type: ignore[arg-type]
    if word == "tolerance":
        return _tolerance(exposing, rest)
    if word == "channels":
        channels_said(rest, len(rest.split(",")))
        return SpeedsUnderstood("frame", f"= channels: {rest}", exposing=replace(exposing, channels=rest))
    if word == "frame":
        return _frame(exposing, rest)
    if match := re.fullmatch(r"(.+) to trace", low):
        mark = _mark(match[1])
        done = give_to_trace(job, mark, "")  # what it cannot be is said while it is typed
        return SpeedsUnderstood("trace", f"= evidence: {done.reason}", mark)
    if match := re.fullmatch(r"last (\d+) as (.+)", low):
        mark, count = _mark(match[2]), int(match[1])
        if not 1 <= count <= len(exposing.fired):
            raise InvalidInput("Last", count, f"1 to {len(exposing.fired)} firings")
        return SpeedsUnderstood("last", f"= the last {count} were fired at {time_said(mark)}", mark, count=count)
    return _firings(low)


def give_to_trace(job: Job, marked_s: float, at: str) -> ActResult:
    """The time measured at a speed since the repair, with its uncertainty, as evidence at Trace: at its position where the
    circuit has one, else as the device stands. Raises InvalidInput: it was not fired since then, or there is no circuit.
    """
    ladder = ladder_of(job).ladder
    rungs = () if ladder is None else tuple(rung for rung in ladder.rungs if rung.marked_s == marked_s and rung.errors)
    if not rungs:
        raise InvalidInput("Firing", time_said(marked_s), "a speed that was fired, since the last repair")
    time_s = marked_s * 2.0 ** rungs[0].mean_stops
    u_s = time_s * math.log(2.0) * rungs[0].u_stops
    said, circuit = time_said(marked_s).replace(" ", ""), circuit_of(job)
    positions = {position for switch in switches_of(circuit).values() for position in switch.positions}
    position = said if said in positions else ""
    evidence = time_evidence(circuit, time_s, job.tracing.setting, position, u_s)
    return with_evidence(job, TakenEvidence(evidence, f"{time_said(marked_s)} to trace", at))


def _marks(text: str) -> tuple[float, ...]:
    """Marks said one by one, or from one to another in whole stops; slowest first."""
    if match := re.fullmatch(r"(.+?) (?:to|\.\.|-) (.+)", text):
        ends = sorted((_mark(match[1]), _mark(match[2])), reverse=True)
        between = [mark.true_value for mark in time_marks() if ends[1] * 0.99 <= mark.true_value <= ends[0] * 1.01]
        found = tuple(between)
    else:
        found = tuple(sorted({_mark(word) for word in re.split(r"[ ,]+(?!s\b)", text) if word}, reverse=True))
    if not 2 <= len(found) <= 40:
        raise InvalidInput("Speeds", text, "two to 40 marks, for instance: speeds 1 to 1/500")
    return found


def _mark(text: str) -> float:
    """The true time of a mark; a bare 1 or 2 is seconds, a bare 30 or 125 a fraction, as dials have them."""
    said = text.strip()
    if re.fullmatch(r"\d+", said):
        said = f"1/{said}" if int(said) > 1 else f"{said} s"
    value, _ = parse_time(said)
    if not SHORTEST_S <= value <= LONGEST_S:
        raise InvalidInput("Speed", text, "1/50 000 to 120 s")
    return value


def _tolerance(exposing: Exposing, text: str) -> SpeedsUnderstood:
    match = re.fullmatch(r"(\S+)(?: stops?)?(?: fastest (\S+)(?: stops?)?)?", text)
    if match is None:
        raise InvalidInput("Tolerance", text, "stops, for instance: tolerance 1/3 fastest 1/2")
    allowed = parse_number(match[1], "Tolerance")
    fastest = parse_number(match[2], "Tolerance") if match[2] else max(allowed, exposing.fastest_tolerance_stops)
    SpeedTolerance(allowed, fastest)
    said = f"= within {allowed:.2f} stop, the two fastest within {fastest:.2f}"
    changed = replace(exposing, tolerance_stops=allowed, fastest_tolerance_stops=fastest)
    return SpeedsUnderstood("tolerance", said, exposing=changed)


def _frame(exposing: Exposing, text: str) -> SpeedsUnderstood:
    match = re.fullmatch(r"(\S+)(?: mm)?(?: sensors (.+))?", text)
    if match is None:
        raise InvalidInput("Frame", text, "mm along the curtains' way, for instance: frame 36 sensors 4 18 32")
    length = parse_number(match[1], "Frame")
    places = tuple(parse_number(word, "Sensors") for word in match[2].replace("mm", "").split()) if match[2] else ()
    FrameGate(length, places or (0.1 * length, 0.9 * length))
    said = f"{len(places)} sensors at {', '.join(f'{place:g}' for place in places)} mm" if places else "one sensor"
    changed = replace(exposing, frame_mm=length, sensors_mm=places)
    return SpeedsUnderstood("frame", f"= {length:g} mm along the curtains' way, {said}", exposing=changed)


def _firings(low: str) -> SpeedsUnderstood:
    """``1/125 9.2 ms``, ``rested 1/30 36 38 ms``, or a mark alone."""
    rested = low.startswith("rested ")
    words = low.removeprefix("rested ").split()
    if not words:
        raise InvalidInput("Speeds", low, EXPECTED)
    if len(words) > 1 and words[1] == "s":
        words = [f"{words[0]} s", *words[2:]]
    mark = _mark(words[0])
    if len(words) == 1:
        return SpeedsUnderstood("aim", f"= the next firing goes to {time_said(mark)}", mark)
    times = _times(words[1:])
    fired = tuple(Fired(mark, time, max(TYPED_U * time, 0.0), rested=rested and not place) for place, time in enumerate(times))
    stops = ", ".join(f"{Timed(one.marked_s, one.time_s).stops:+.2f}" for one in fired[:6]).replace("-", "−")
    return SpeedsUnderstood("fired", f"= at {time_said(mark)}: {stops} stop", mark, fired)


def _times(words: list[str]) -> list[float]:
    """Times after a mark: ``9.2 ms``, ``9.2 9.4 ms``, ``9.2ms``, ``1/110``, ``1.05 s``."""
    found: list[float] = []
    waiting: list[str] = []
    for word in words:
        unit = re.search(r"(ms|s)$", word)
        if word not in ("ms", "s"):
            waiting.append(word.removesuffix(unit[1]) if unit else word)
        if unit:
            found += [_time(f"{one} {unit[1]}") for one in waiting]
            waiting = []
        elif "/" in word:
            found.append(_time(waiting.pop()))
    if waiting or not found or len(found) > MOST_AT_ONCE:
        raise InvalidInput("Time", " ".join(words), f"1 to {MOST_AT_ONCE} times with ms or s, for instance 9.2 9.4 ms")
    return found


def _time(text: str) -> float:
    """A time that was measured: a fraction is what it says, no mark."""
    unit = 1e-3 if text.endswith("ms") else 1.0
    value = parse_number(re.sub(r"\s*m?s$", "", text), "Time") * unit
    if not SHORTEST_S <= value <= LONGEST_S:
        raise InvalidInput("Time", text, f"{SHORTEST_S:g} to {LONGEST_S:g} s")
    return value


def say_line(job: Job, text: str, at: str) -> ActResult:
    """A line typed at Speeds, taken; one that only aims changes nothing of the job."""
    said = understand(job, text)
    if said.kind == "fired":
        return take_fired(job, said.fired, at)
    if said.kind == "last":
        moved = tuple(replace(one, marked_s=said.marked_s) for one in job.exposing.fired[-said.count :])
        fired = (*job.exposing.fired[: -said.count], *moved)
        return with_exposing(job, replace(job.exposing, fired=fired), said.words.removeprefix("= "))
    if said.kind == "trace":
        return give_to_trace(job, said.marked_s, at)
    if said.exposing is None:
        raise InvalidInput("Speeds", text, EXPECTED)
    return with_exposing(job, said.exposing, said.words.removeprefix("= ").capitalize())


def take_fired(job: Job, fired: tuple[Fired, ...], at: str) -> ActResult:
    """Firings more. Raises InvalidInput: more than a job holds."""
    if len(job.exposing.fired) + len(fired) > MOST_FIRED:
        raise InvalidInput("Firings", len(job.exposing.fired) + len(fired), f"at most {MOST_FIRED} of one device")
    taken = tuple(replace(one, at=at) for one in fired)
    for one in taken:
        Timed(one.marked_s, one.time_s, one.u_s)
    first = taken[0]
    said = f"Fired at {time_said(first.marked_s)}: {measured_said(first.time_s)}"
    if len(taken) > 1:
        said = f"{len(taken)} firings, the first at {time_said(first.marked_s)}"
    return with_exposing(job, replace(job.exposing, fired=(*job.exposing.fired, *taken)), said)


def drop_last(job: Job, marked_s: float, at: str) -> ActResult:
    """The last firing of a speed left out."""
    places = [place for place, one in enumerate(job.exposing.fired) if one.marked_s == marked_s]
    if not places:
        raise InvalidInput("Firing", time_said(marked_s), "a speed that was fired")
    fired = job.exposing.fired[: places[-1]] + job.exposing.fired[places[-1] + 1 :]
    return with_exposing(job, replace(job.exposing, fired=fired), f"Left out: the last firing at {time_said(marked_s)}")


def fired_of(seen: FiringSeen, marked_s: float, source: str, picture: tuple[tuple[float, ...], float, float]) -> Fired:
    """A firing that a recording showed, as it is kept."""
    firing, passage = seen.firing, seen.passage
    points, before, step = picture
    light = not seen.by_sound
    return Fired(
        marked_s, firing.time_s, min(firing.u_s, firing.time_s), source[:200], rise_s=firing.rise_s if light else None,
        fall_s=firing.fall_s if light else None, first_s=_held(passage.first_s) if passage else None,
        second_s=_held(passage.second_s) if passage else None, taper_stops=passage.taper_stops if passage else None,
        capped=bool(passage and passage.capped),
        contact_after_s=seen.sync.after_full_s if seen.sync else None, contact_bounces=seen.bounces,
        picture=points, from_s=max(before, 0.0), step_s=step,
    )  # fmt: skip


def _held(time_s: float) -> float:
    return min(max(time_s, 0.0), LONGEST_S)


def nearest_speed(job: Job, time_s: float) -> float:
    """The speed of the dial a time is nearest to."""
    marked = speeds_of(job)
    if not marked:
        raise InvalidInput("Speeds", "none said", "the speeds of the dial first, for instance: speeds 1 to 1/500")
    return min(marked, key=lambda one: abs(Timed(one, time_s).stops))


def taking(fired: tuple[Fired, ...]) -> Act:
    """The act of taking firings."""
    return lambda job, at: take_fired(job, fired, at)
