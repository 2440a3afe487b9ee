"""What the page Test shots shows: brightness expected at each number of the wheel, every shot, the next one and how many more."""

from dataclasses import dataclass, replace
from functools import lru_cache

from violet_dial.core.errors import VioletDialError
from violet_dial.core.exposure.trim import Marks, Scene, TestShot, Trim, TrimPosterior, trim
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.job.exposing import ShotTaken
from violet_dial.services.colours import reads
from violet_dial.services.repairs import since_repair

RULE = "Shading the cell makes the picture brighter: a higher number of the wheel, more of the slider."
LEAST_MOVED = 0.01  # stops, from which a correction is said
CARE = "Film in a loaded pack first: dark slide in, or the pack out in a dark room, before the back is opened."


@dataclass(frozen=True)
class WheelStep:
    """One number of the wheel with the slider where it is best: error expected (stops) and one standard deviation."""

    wheel: float
    stops: float
    u_stops: float
    is_best: bool
    is_next: bool


@dataclass(frozen=True)
class Dot:
    """A shot as it lies over the wheel with the slider where it is best: what it says of the error there."""

    wheel: float
    stops: float
    words: str


@dataclass(frozen=True)
class ShotsShown:
    """All the page shows."""

    headline: str
    reason: str
    steps: tuple[WheelStep, ...]
    dots: tuple[Dot, ...]
    slider: float
    rows: tuple[tuple[str, ...], ...]
    left: str


def marks_of(job: Job) -> Marks:
    """What can be set: as said, else a wheel of 0 to 9 and a slider of five marks."""
    usual = Marks()
    return Marks(job.exposing.wheel or usual.wheel, job.exposing.slider or usual.slider)


def shots_for(taken: tuple[ShotTaken, ...]) -> tuple[TestShot, ...]:
    """Shots for the core."""
    return tuple(TestShot(one.wheel, one.slider, one.stops, one.scene, one.flash) for one in taken)


def light_said(one: ShotTaken) -> str:
    """The light of a shot, as the colour of the light names it."""
    return "flash" if one.flash else "D55" if one.scene == "outdoors" else "A"


def coloured(job: Job) -> tuple[ShotTaken, ...]:
    """Shots since the newest repair, as they would have come out in the light of the last one: what the cell reads too high in a
    light comes out dark."""
    shots = since_repair(job).shots
    if not shots:
        return ()
    off = {name: _reads(job, name) for name in {light_said(shot) for shot in shots}}
    aim = off[light_said(shots[-1])]
    return tuple(replace(shot, stops=min(max(shot.stops + off[light_said(shot)] - aim, -8.0), 8.0)) for shot in shots)


def _reads(job: Job, light: str) -> float:
    try:
        found = reads(job, light)
    except VioletDialError:
        return 0.0
    return 0.0 if found is None else found.stops


def colour_said(job: Job) -> str:
    """By how much shots of another light were corrected; empty where none were."""
    moved = {
        light_said(shot): now.stops - shot.stops
        for shot, now in zip(since_repair(job).shots, coloured(job), strict=True)
        if abs(now.stops - shot.stops) >= LEAST_MOVED
    }
    if not moved:
        return ""
    said = ", ".join(f"{name} {format_signed(stops, 2)} stop" for name, stops in moved.items())
    return f" For this cell's colour, shots of another light count by: {said}."


def trim_of(job: Job) -> Trim:
    """What the shots say; the same shots are thought over once."""
    return _trimmed(coloured(job), marks_of(job), job.exposing.film_left)


@lru_cache(maxsize=64)
def _trimmed(taken: tuple[ShotTaken, ...], marks: Marks, film_left: int | None) -> Trim:
    return trim(shots_for(taken), marks, None, film_left)


@lru_cache(maxsize=64)
def _steps(taken: tuple[ShotTaken, ...], marks: Marks, slider: float) -> tuple[tuple[float, float, float, float], ...]:
    """Number, error expected there, its deviation, and stops a mark of the slider (mean of what is believed)."""
    scene: Scene = taken[-1].scene if taken else "outdoors"
    belief = TrimPosterior(marks, scene, bool(taken and taken[-1].flash))
    for shot in shots_for(taken):
        belief.take(shot)
    weight = belief.weight
    found = []
    for number in marks.wheel:
        error = belief.error(number, slider)
        mean = float(error @ weight)
        spread = float(((error - mean) ** 2) @ weight) ** 0.5
        found.append((number, mean, spread, float(belief.slider @ weight)))
    return tuple(found)


def shots_shown(job: Job) -> ShotsShown:
    """The page as the job stands."""
    taken, marks, found = coloured(job), marks_of(job), trim_of(job)
    slider = found.best.slider
    steps = _steps(taken, marks, slider)
    a_mark = steps[0][3]
    shown = tuple(
        WheelStep(number, mean, u, number == found.best.wheel, not found.done and number == found.next.wheel)
        for number, mean, u, _ in steps
    )
    before = len(job.exposing.shots) - len(taken)
    dots = tuple(
        Dot(one.wheel, one.stops + (slider - one.slider) * a_mark, f"{place}")
        for place, one in enumerate(taken, start=before + 1)
    )
    if not taken:
        head = f"Shoot the first frame at wheel {found.next.wheel:g}, slider {found.next.slider:g}"
    elif found.done:
        head = f"Leave it at wheel {found.best.wheel:g}, slider {found.best.slider:g}"
    else:
        head = f"Next: wheel {found.next.wheel:g}, slider {found.next.slider:g}"
    best = f"Best so far: wheel {found.best.wheel:g}, slider {found.best.slider:g}, expected "
    best += f"{format_signed(found.best.stops, 1)} ± {found.best.u_stops:.1f} stop, right with {found.best.chance:.0%}."
    rows = tuple(_row(place, shot, place <= before) for place, shot in enumerate(job.exposing.shots, start=1))
    film = job.exposing.film_left
    left = "film left not said" if film is None else f"{film} frame{'s' * (film != 1)} left"
    return ShotsShown(head, f"{best}{colour_said(job)}" if taken else "Nothing shot yet.", shown, dots, slider, rows, left)


def _row(place: int, one: ShotTaken, is_old: bool) -> tuple[str, ...]:
    bright = "right" if not one.stops else f"{format_signed(one.stops, 1)} {'bright' if one.stops > 0 else 'dark'}"
    where = f"{one.scene}{', flash' if one.flash else ''}"
    if one.scene == "indoors" and not one.flash:
        where += " (may have run into the longest time)"
    where += ", before the repair" if is_old else ""
    return f"{place}", f"wheel {one.wheel:g}", f"slider {one.slider:g}", bright, where
