"""Acts at Test shots: a frame burnt, what can be set, film left."""

import re
from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.trim import MOST_SHOTS, Marks, check_shot
from violet_dial.core.quantities import format_signed, parse_number
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing, ShotTaken
from violet_dial.stations.expose.acts import with_exposing
from violet_dial.stations.expose.shots_state import coloured, marks_of, shots_for

EXPECTED = (
    "wheel 5 slider 0 -1.5 (stops, − dark, + bright; then indoors, flash) · right instead of stops · film 6 · marks wheel 0 to 9 "
    "· marks slider -2 -1 0 1 2"
)


@dataclass(frozen=True)
class ShotsUnderstood:
    """A line in words, and what stands from then on."""

    words: str
    exposing: Exposing


def understand(job: Job, text: str) -> ShotsUnderstood:
    """A line typed at Test shots. Raises InvalidInput: not understood, or beyond what can be set."""
    low = " ".join(text.strip().lower().replace("−", "-").split())
    exposing = job.exposing
    if match := re.fullmatch(r"film (\d+)(?: left| frames?)*", low):
        if int(match[1]) > 200:
            raise InvalidInput("Film", match[1], "0 to 200 frames")
        return ShotsUnderstood(f"= {int(match[1])} frames left", replace(exposing, film_left=int(match[1])))
    if match := re.fullmatch(r"marks (wheel|slider) (.+)", low):
        return _marked(job, match[1], match[2])
    shot = _shot(low)
    if len(exposing.shots) >= MOST_SHOTS:
        raise InvalidInput("Shots", len(exposing.shots) + 1, f"at most {MOST_SHOTS}")
    check_shot(shots_for((shot,))[0], marks_of(job))
    film = exposing.film_left
    left = None if film is None else max(film - 1, 0)
    said = "right" if not shot.stops else f"{format_signed(shot.stops, 1)} stop, {'bright' if shot.stops > 0 else 'dark'}"
    words = f"= wheel {shot.wheel:g}, slider {shot.slider:g}: {said}, {shot.scene}{', flash' if shot.flash else ''}"
    return ShotsUnderstood(words, replace(exposing, shots=(*exposing.shots, shot), film_left=left))


def _shot(low: str) -> ShotTaken:
    flash = bool(re.search(r"\bflash\b", low))
    scene = "indoors" if re.search(r"\bindoors?\b", low) else "outdoors"
    plain = " ".join(re.sub(r"\b(flash|indoors?|outdoors?|stops?|at)\b", " ", low).split())
    match = re.fullmatch(r"(?:wheel )?(\S+)(?: (?:slider )?(\S+))? (\S+|right|too dark|too bright)", plain)
    if match is None:
        raise InvalidInput("Shot", low, EXPECTED)
    stops = 0.0 if match[3] in ("right", "ok") else parse_number(match[3], "Stops")
    if not -8 <= stops <= 8:
        raise InvalidInput("Stops", stops, "-8 to 8, negative where the picture is too dark")
    slider = parse_number(match[2], "Slider") if match[2] else 0.0
    return ShotTaken(parse_number(match[1], "Wheel"), slider, stops, scene, flash)  # type: ignore[arg-type]


def _marked(job: Job, name: str, text: str) -> ShotsUnderstood:
    if match := re.fullmatch(r"(-?\d+) (?:to|\.\.) (-?\d+)", text):
        first, last = int(match[1]), int(match[2])
        step = 1 if last >= first else -1
        numbers = tuple(float(one) for one in range(first, last + step, step))[:41]
    else:
        numbers = tuple(parse_number(word, name.capitalize()) for word in re.split(r"[ ,]+", text) if word)
    changed = replace(job.exposing, wheel=numbers) if name == "wheel" else replace(job.exposing, slider=numbers)
    marks = Marks(changed.wheel or Marks().wheel, changed.slider or Marks().slider)
    for shot in shots_for(coloured(job)):
        check_shot(shot, marks)
    return ShotsUnderstood(f"= the {name} has {len(numbers)} marks, {numbers[0]:g} to {numbers[-1]:g}", changed)


def say_line(job: Job, text: str, at: str) -> ActResult:
    """A line typed at Test shots, taken."""
    said = understand(job, text)
    shots = said.exposing.shots
    if len(shots) > len(job.exposing.shots):
        shots = (*shots[:-1], replace(shots[-1], at=at))
    words = said.words.removeprefix("= ")
    return with_exposing(job, replace(said.exposing, shots=shots), f"Shot: {words}" if shots != job.exposing.shots else words)


def card_of(text: str) -> tuple[float, float, float, float]:
    """Where an 18 % card is in pictures that are compared: ``card 0.4 0.4 0.2 0.2``, left, top, width and height as shares.

    Raises InvalidInput: not four shares within the picture.
    """
    words = text.lower().removeprefix("card").replace(",", " ").split()
    found = tuple(parse_number(word, "Card") for word in words)
    if len(found) != 4 or not (min(found) >= 0 and found[0] + found[2] <= 1 and found[1] + found[3] <= 1 and min(found[2:]) > 0):
        raise InvalidInput("Card", text, "left, top, width and height as shares of the picture: card 0.4 0.4 0.2 0.2")
    return found[0], found[1], found[2], found[3]
