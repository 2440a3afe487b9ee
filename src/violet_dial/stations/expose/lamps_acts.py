"""Acts at Lamps: which lamps were lit at an aperture and a light, times the automatic chose, what it is meant to do."""

import re
from dataclasses import dataclass, replace
from functools import lru_cache

from violet_dial.core.diagnosis.evidence import timing
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.ladder import LONGEST_S, SHORTEST_S
from violet_dial.core.exposure.lamps import MOST_LOOKS, SEEN, LampObservation, Law
from violet_dial.core.exposure.said import aperture_said, measured_said, time_said
from violet_dial.core.light.marks import parse_aperture, parse_time
from violet_dial.core.quantities import format_grouped, parse_number, parse_with_unit
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.exposing import AutoTimed, Exposing, LampLaw, LampLook
from violet_dial.services.circuits import circuit_from, circuit_of, circuit_text_of
from violet_dial.stations.expose.acts import with_exposing

EXPECTED = (
    "f/16 400 lx slow (or over, none, both, flicker) · f/8 400 lx 1/60 (the time it chose) · iso 400 · slow from 1/30 · "
    "shortest 1/500 · longest 8 s · apertures 2.8 5.6 16 · circuit f/8 (its own law, from the traced circuit)"
)
AT_LX = 1_000.0  # at which a circuit is asked for its own law
TYPED_U = 0.03  # of a time that was typed
TIMES = {"slow": "slow_s", "shortest": "shortest_s", "longest": "longest_s"}


@dataclass(frozen=True)
class LampsUnderstood:
    """A line in words, and what stands from then on."""

    words: str
    exposing: Exposing


def law_of(law: LampLaw) -> Law:
    """What is meant, for the core."""
    return Law(law.film_speed, law.slow_s, law.shortest_s, law.longest_s, law.c_lx_s)


def looks_of(exposing: Exposing) -> tuple[LampObservation, ...]:
    """Looks for the core."""
    return tuple(LampObservation(lamp.f_number, lamp.lux, lamp.seen) for lamp in exposing.lamps)


def understand(job: Job, text: str) -> LampsUnderstood:
    """A line typed at Lamps. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().lower().split())
    exposing = job.exposing
    if match := re.fullmatch(r"(?:iso|film speed) (\S+)", low):
        law = replace(exposing.law, film_speed=parse_number(match[1], "Film speed"))
        return _meant(exposing, law, f"film speed {law.film_speed:g}")
    if match := re.fullmatch(r"(slow|shortest|longest)(?: lamp)?(?: from| time)? (.+)", low):
        value, _ = parse_time(match[2])
        law = replace(exposing.law, **{TIMES[match[1]]: value})  # type: ignore[arg-type]
        return _meant(exposing, law, f"{match[1]} {time_said(value)}")
    if match := re.fullmatch(r"c (\S+)(?: lx ?s)?", low):
        law = replace(exposing.law, c_lx_s=parse_number(match[1], "C"))
        return _meant(exposing, law, f"C {law.c_lx_s:g} lx s")
    if match := re.fullmatch(r"circuit (?:at )?(f/?\S+)", low):
        law = replace(exposing.law, c_lx_s=_circuit_c(job, parse_aperture(match[1])[0]))
        return _meant(exposing, law, f"by the circuit at {match[1]}: C {law.c_lx_s:.0f} lx s")
    if low.startswith("apertures "):
        numbers = tuple(sorted({parse_aperture(word)[0] for word in low.split()[1:]}))
        if len(numbers) > 30:
            raise InvalidInput("Apertures", len(numbers), "at most 30")
        said = ", ".join(aperture_said(number) for number in numbers)
        return _meant(exposing, replace(exposing.law, apertures=numbers), f"apertures {said}")
    return _seen(exposing, low)


def _circuit_c(job: Job, f_number: float) -> float:
    """The constant C that the job's circuit has by itself, its cell and timing capacitor being sound, at the aperture it is made
    for. Raises InvalidInput: no circuit, or none that times a magnet by a capacitor.
    """
    circuit_of(job)  # says what is missing
    time_s = _sound_s(circuit_text_of(job), job.tracing.setting.lit(AT_LX))
    if not 1e-3 < time_s < 50:
        expected = f"one whose magnet lets go in {AT_LX:g} lx as it stands (at Trace: S2 pressed)"
        raise InvalidInput("Circuit", measured_said(time_s), expected)
    return time_s * AT_LX * job.exposing.law.film_speed / f_number**2


@lru_cache(maxsize=16)
def _sound_s(circuit_text: str, setting: Setting) -> float:
    """How long a circuit holds its shutter open, every part being sound; worked out once."""
    circuit = circuit_from(circuit_text)
    capacitor, _ = timing(circuit)
    ask = Evidence("time", 0.0, part=capacitor.name, setting=setting)
    return float(10.0 ** Predictor(circuit, (Hypothesis((), 0.0),), draws=0).of(ask).mean[0])


def _meant(exposing: Exposing, law: LampLaw, words: str) -> LampsUnderstood:
    law_of(law)
    return LampsUnderstood(f"= {words}", replace(exposing, law=law))


def _seen(exposing: Exposing, low: str) -> LampsUnderstood:
    """``f/16 400 lx slow`` or ``f/16 400 lx 1/60``."""
    match = re.fullmatch(r"f/?\s?(\S+) (.+?)\s?(lx|lux|klx) (.+)", low)
    if match is None:
        raise InvalidInput("Lamps", low, EXPECTED)
    f_number, _ = parse_aperture(match[1])
    lux = parse_with_unit(f"{match[2]} {match[3].replace('lux', 'lx')}", ("lx",), "Light", "lx").value
    at = f"f/{match[1]}, {format_grouped(lux)} lx"
    if match[4] in SEEN:
        if len(exposing.lamps) >= MOST_LOOKS:
            raise InvalidInput("Looks", len(exposing.lamps) + 1, f"at most {MOST_LOOKS}")
        LampObservation(f_number, lux, match[4])
        look = LampLook(f_number, lux, match[4])
        meant = law_of(exposing.law).meant(f_number, lux)
        return LampsUnderstood(f"= {at}: {match[4]}; meant is {meant}", replace(exposing, lamps=(*exposing.lamps, look)))
    try:
        time_s, _ = parse_time(match[4])
    except InvalidInput as error:
        raise InvalidInput("Lamps", match[4], f"{', '.join(SEEN)}, or the time it chose") from error
    if not SHORTEST_S <= time_s <= LONGEST_S:
        raise InvalidInput("Time", match[4], f"{SHORTEST_S:g} to {LONGEST_S:g} s")
    timed = AutoTimed(f_number, lux, time_s, TYPED_U * time_s)
    should = float(law_of(exposing.law).time_s(f_number, lux))
    said = f"= {at}: chose {measured_said(time_s)}, should be {measured_said(should)}"
    return LampsUnderstood(said, replace(exposing, auto=(*exposing.auto, timed)))


def heard(job: Job, text: str, time_s: float, u_s: float) -> Exposing:
    """A time the automatic chose, as the sound card heard it, at the aperture and the light that are typed (``f/8 400 lx``).

    Raises InvalidInput: no aperture and light are typed.
    """
    if not re.fullmatch(r"f/?\s?\S+ \S.*(lx|lux|klx)", text.strip().lower()):
        raise InvalidInput("Lamps", text, "the aperture and the light first, for instance f/8 400 lx; then fire")
    said = understand(job, f"{text.strip()} {time_s:.6g} s").exposing
    return replace(said, auto=(*said.auto[:-1], replace(said.auto[-1], time_s=time_s, u_s=min(u_s, time_s))))


def take_heard(job: Job, text: str, time_s: float, u_s: float, at: str) -> ActResult:
    """A time heard, taken."""
    found = heard(job, text, time_s, u_s)
    found = replace(found, auto=(*found.auto[:-1], replace(found.auto[-1], at=at)))
    return with_exposing(job, found, f"Lamps: {text.strip()}, chose {measured_said(time_s)}")


def say_line(job: Job, text: str, at: str) -> ActResult:
    """A line typed at Lamps, taken."""
    said = understand(job, text)
    found = said.exposing
    if len(found.lamps) > len(job.exposing.lamps):
        found = replace(found, lamps=(*found.lamps[:-1], replace(found.lamps[-1], at=at)))
    if len(found.auto) > len(job.exposing.auto):
        found = replace(found, auto=(*found.auto[:-1], replace(found.auto[-1], at=at)))
    return with_exposing(job, found, f"Lamps: {said.words.removeprefix('= ')}")
