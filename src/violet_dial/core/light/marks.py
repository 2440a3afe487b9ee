"""Marked series of apertures, times and film speeds, mapped to the true values they stand for and back.

What is engraved is rounded (5.6 for 5.657, 1/125 for 1/128): the mark is shown, the true value is computed with.

Source: The marks: common practice, no source. True values: 2^(n/2) for f-numbers, 2^-n for times. Film-speed marks are third
stops from ISO 100 (ISO 6 and ISO 5800 [memory]).
"""

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Literal

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number

Fineness = Literal[1, 2, 3]  # marks per stop: whole, half, third
Kind = Literal["aperture", "time", "film speed"]

_APERTURES: dict[int, str] = {
    1: "1 1.4 2 2.8 4 5.6 8 11 16 22 32 45 64",
    2: "1 1.2 1.4 1.7 2 2.4 2.8 3.3 4 4.8 5.6 6.7 8 9.5 11 13 16 19 22 27 32 38 45 54 64",
    3: "1 1.1 1.2 1.4 1.6 1.8 2 2.2 2.5 2.8 3.2 3.5 4 4.5 5 5.6 6.3 7.1 8 9 10 11 13 14 16 18 20 22 25 29 32 36 40 45 51 57 64",
}
# Times from 60 s down to 1/8000 s; a plain figure from 2 up stands for seconds when written with s
_TIMES: dict[int, str] = {
    1: "64s 32s 16s 8s 4s 2s 1s 1/2 1/4 1/8 1/15 1/30 1/60 1/125 1/250 1/500 1/1000 1/2000 1/4000 1/8000",
    2: "64s 45s 32s 22s 16s 11s 8s 6s 4s 3s 2s 1.5s 1s 0.7s 1/2 1/3 1/4 1/6 1/8 1/11 1/15 1/22 1/30 1/45 1/60 "
    "1/90 1/125 1/180 1/250 1/350 1/500 1/750 1/1000 1/1500 1/2000 1/3000 1/4000 1/6000 1/8000",
    3: "64s 50s 40s 32s 25s 20s 16s 13s 10s 8s 6s 5s 4s 3.2s 2.5s 2s 1.6s 1.3s 1s 0.8s 0.6s 1/2 0.4s 0.3s 1/4 1/5 "
    "1/6 1/8 1/10 1/13 1/15 1/20 1/25 1/30 1/40 1/50 1/60 1/80 1/100 1/125 1/160 1/200 1/250 1/320 1/400 1/500 "
    "1/640 1/800 1/1000 1/1250 1/1600 1/2000 1/2500 1/3200 1/4000 1/5000 1/6400 1/8000",
}
_SPEEDS = "6 8 10 12 16 20 25 32 40 50 64 80 100 125 160 200 250 320 400 500 640 800 1000 1250 1600 2000 2500 3200 4000 5000 6400"
_LONGEST_TIME_LOG2 = 6  # the first time mark, 64 s = 2^6 s
_SPEED_100_AT = 12  # position of the mark 100 in _SPEEDS
NEAR_STOPS = 0.25  # a typed value this near to a mark is taken for the mark


@dataclass(frozen=True)
class EngravedMark:
    """One engraved mark: what is written, the true value it stands for, and its series."""

    text: str
    true_value: float
    kind: Kind


@lru_cache(maxsize=4)
def aperture_marks(fineness: Fineness = 1) -> tuple[EngravedMark, ...]:
    """F-numbers from 1 up, true values 2^(n/(2 fineness))."""
    texts = _APERTURES[_checked(fineness)].split()
    return tuple(EngravedMark(f"f/{text}", 2.0 ** (n / (2 * fineness)), "aperture") for n, text in enumerate(texts))


@lru_cache(maxsize=4)
def time_marks(fineness: Fineness = 1) -> tuple[EngravedMark, ...]:
    """Times from 64 s to 1/8000 s, true values in seconds 2^(6 - n/fineness)."""
    texts = _TIMES[_checked(fineness)].split()
    steps = enumerate(texts)
    return tuple(EngravedMark(_spoken(text), 2.0 ** (_LONGEST_TIME_LOG2 - n / fineness), "time") for n, text in steps)


@lru_cache(maxsize=1)
def film_speed_marks() -> tuple[EngravedMark, ...]:
    """Arithmetic film-speed marks in third stops, true values 100 * 2^(n/3)."""
    steps = enumerate(_SPEEDS.split())
    return tuple(EngravedMark(text, 100.0 * 2.0 ** ((n - _SPEED_100_AT) / 3), "film speed") for n, text in steps)


def _checked(fineness: int) -> int:
    if fineness not in (1, 2, 3):
        raise InvalidInput("Marks per stop", fineness, "1 (whole), 2 (half) or 3 (third)")
    return fineness


def _spoken(text: str) -> str:
    return f"{text[:-1]} s" if text.endswith("s") else text


def nearest_mark(value: float, marks: tuple[EngravedMark, ...]) -> tuple[EngravedMark, float]:
    """The nearest mark and how many stops ``value`` lies above it (longer, larger number, faster).

    F-numbers count double: one stop is a factor of sqrt(2) on the number.
    """
    if not (math.isfinite(value) and value > 0):
        raise InvalidInput("Value", value, "a finite number above zero")
    stops_per_octave = 2.0 if marks[0].kind == "aperture" else 1.0
    distances = [stops_per_octave * math.log2(value / mark.true_value) for mark in marks]
    best = min(range(len(marks)), key=lambda index: abs(distances[index]))
    return marks[best], distances[best]


def true_value_of_mark(text: str, kind: Kind) -> float:
    """True value of what is engraved: ``f/5.6`` gives 5.657, ``1/125`` gives 1/128 s, ``125`` film speed 126.

    Raises InvalidInput: the text is not a mark of the whole, half or third-stop series.
    """
    known = _by_number(kind).get(_canonical(text, kind))
    if known is not None:
        return known
    example = {"aperture": "f/5.6", "time": "1/125", "film speed": "400"}[kind]
    raise InvalidInput(kind.capitalize(), text, f"a mark of the usual series, for instance {example}")


@lru_cache(maxsize=3)
def _by_number(kind: Kind) -> dict[Fraction, float]:
    """True values by what is engraved; where two series share it, that of the coarser."""
    series = aperture_marks if kind == "aperture" else time_marks
    marks = film_speed_marks() if kind == "film speed" else series(1) + series(2) + series(3)
    return {_canonical(mark.text, kind): mark.true_value for mark in reversed(marks)}  # the first of them counts


def _canonical(text: str, kind: Kind) -> Fraction:
    plain = text.strip().lower().removeprefix("iso").removeprefix("f/").removeprefix("f").removesuffix("s")
    return Fraction(parse_number(plain.strip(), kind.capitalize())).limit_denominator(100_000)


def parse_aperture(text: str) -> tuple[float, str]:
    """True f-number of what was typed, and how it was understood; ``5.6`` and ``f/5.6`` are the same."""
    try:
        return true_value_of_mark(text, "aperture"), f"f/{_number_part(text)}"
    except InvalidInput:
        value = parse_number(_number_part(text), "Aperture")
    if not 0.5 <= value <= 256:
        raise InvalidInput("Aperture", text, "an f-number from 0.5 to 256, for instance f/5.6")
    return value, f"f/{value:g}"


def _number_part(text: str) -> str:
    return re.sub(r"^f/?", "", text.strip(), flags=re.IGNORECASE).strip()


def parse_time(text: str) -> tuple[float, str]:
    """True time in seconds of what was typed, and how it was understood.

    ``1/125`` is a mark; ``2 s`` and ``20 ms`` are times; a bare ``125`` is refused, since it may be either.
    """
    plain = text.strip().lower()
    unit = re.search(r"(ms|s|sec)\Z", plain)
    if unit is None and "/" not in plain and not plain.startswith("0"):
        raise InvalidInput("Time", text, f"a fraction or a unit: 1/{plain} or {plain} s")
    try:
        if not plain.endswith("ms"):
            return true_value_of_mark(plain.removesuffix("sec"), "time"), _time_text(plain)
    except InvalidInput:
        pass
    number = plain[: unit.start()] if unit else plain
    value = parse_number(number, "Time") * (1e-3 if plain.endswith("ms") else 1.0)
    if not 1e-6 <= value <= 86_400:
        raise InvalidInput("Time", text, "a time from a microsecond to a day, for instance 1/125")
    return value, f"{value:g} s"


def _time_text(plain: str) -> str:
    number = plain.removesuffix("sec").removesuffix("s").strip()
    return f"{number} s"
