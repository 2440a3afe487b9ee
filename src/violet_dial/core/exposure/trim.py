"""Test shots: the wheel and slider setting that is right, found with the fewest frames of film.

The cell of such a camera sets the time: *shading the cell makes the picture brighter*. A numbered density wheel and a slider both
shade it; how much a number is worth is not known, only within bounds. Each shot is judged by eye in half stops, brighter being
positive: error = offset + wheel number x its step + slider x its step.

Source: Bayes' rule over offset and both steps on a grid; the next shot is the one after which the best setting is expected to
be surest (expected improvement of the probability of being right, one step ahead). Bounds and how far scenes differ: common
practice, no source.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import special

Array = npt.NDArray[np.float64]
Scene = Literal["outdoors", "indoors"]
OFFSETS = np.arange(-5.0, 5.01, 0.2)  # stops of the middle setting
WHEEL_STEPS = np.array([0.12, 0.18, 0.24, 0.3, 0.36, 0.44, 0.54])  # stops a number
WHEEL_CHANCES = np.array([0.06, 0.14, 0.22, 0.24, 0.18, 0.11, 0.05])
SLIDER_STEPS = np.array([0.15, 0.25, 0.35, 0.5])  # stops a mark
SLIDER_CHANCES = np.array([0.2, 0.35, 0.3, 0.15])
OFFSET_U = 1.8  # of the middle setting, one standard deviation, stops
EYE_U = 0.3  # of an eye, one standard deviation, stops
HALF = 0.5  # what is told apart by eye
SCENE_U = 0.5  # by which another scene or light differs, one standard deviation
RIGHT = 0.25  # stops within which nobody sees a difference
SURE = 0.8  # chance of being right from which no more film is burnt
CENSORED = 0.35  # chance that a shot indoors without flash ran into the longest time
MOST_SHOTS, MOST_MARKS = 60, 40
LOOKED_AT = 12  # settings tried in thought
WORTH = 3e-4  # of the likeliest belief, below which one is not thought through
READINGS = np.arange(-4.0, 4.01, HALF)


@dataclass(frozen=True)
class TestShot:
    """One frame: where wheel and slider stood, how much too bright it came out (stops, negative: too dark), in which scene and
    light."""

    wheel: float
    slider: float
    stops: float
    scene: Scene = "outdoors"
    flash: bool = False

    def __post_init__(self) -> None:
        if not (math.isfinite(self.stops) and -8.0 <= self.stops <= 8.0):
            raise InvalidInput("Stops", self.stops, "-8 to 8, negative where the picture is too dark")
        for name, value in (("Wheel", self.wheel), ("Slider", self.slider)):
            if not (math.isfinite(value) and -100.0 <= value <= 100.0):
                raise InvalidInput(name, value, "a number of it")

    @property
    def may_be_cut_short(self) -> bool:
        """Whether the shutter may have run into its longest time: then it would have come out brighter."""
        return self.scene == "indoors" and not self.flash


@dataclass(frozen=True)
class Marks:
    """What can be set: numbers of the wheel from clear to dense, marks of the slider from bright cell to shaded cell."""

    wheel: tuple[float, ...] = tuple(float(number) for number in range(10))
    slider: tuple[float, ...] = (-2.0, -1.0, 0.0, 1.0, 2.0)

    def __post_init__(self) -> None:
        for name, marks in (("Wheel", self.wheel), ("Slider", self.slider)):
            if not 1 <= len(marks) <= MOST_MARKS or len(set(marks)) != len(marks):
                raise InvalidInput(name, f"{len(marks)} marks", f"1 to {MOST_MARKS}, each once")

    @cached_property
    def settings(self) -> Array:
        """Every setting, (s, 2): wheel and slider."""
        wheel, slider = np.meshgrid(self.wheel, self.slider, indexing="ij")
        return np.stack([wheel.ravel(), slider.ravel()], axis=1)

    @property
    def middle(self) -> tuple[float, float]:
        """Where offsets are counted from."""
        return (min(self.wheel) + max(self.wheel)) / 2, (min(self.slider) + max(self.slider)) / 2


@dataclass(frozen=True)
class TrimSetting:
    """A setting, the error expected there with one standard deviation (stops), and the chance that nobody sees it."""

    wheel: float
    slider: float
    stops: float
    u_stops: float
    chance: float


@dataclass(frozen=True)
class Trim:
    """What shots say: the best setting so far, the one to shoot next, whether it is done and why, in words."""

    best: TrimSetting
    next: TrimSetting
    done: bool
    words: str
    film_left: int | None = field(default=None)

    @property
    def doubt_stops(self) -> float:
        """What is left of doubt at the best setting, one standard deviation."""
        return self.best.u_stops


class TrimPosterior:
    """What is believed of a camera: weights over offset and steps, for the scene and light that matter."""

    def __init__(self, marks: Marks, scene: Scene = "outdoors", flash: bool = False) -> None:
        self.marks, self.scene, self.flash = marks, scene, flash
        offset, wheel, slider = np.meshgrid(OFFSETS, WHEEL_STEPS, SLIDER_STEPS, indexing="ij")
        self.offset, self.wheel, self.slider = offset.ravel(), wheel.ravel(), slider.ravel()
        prior = np.exp(-0.5 * (OFFSETS / OFFSET_U) ** 2)[:, None, None] * WHEEL_CHANCES[:, None] * SLIDER_CHANCES
        self.log_weight = np.log(prior.ravel())
        self.taken = 0

    def error(self, wheel: Array | float, slider: Array | float) -> Array:
        """Error at settings under every belief, stops, shape (..., g). ``wheel``, ``slider``: numbers, any shape."""
        at_wheel, at_slider = self.marks.middle
        turned = np.asarray(wheel, dtype=float)[..., None] - at_wheel
        moved = np.asarray(slider, dtype=float)[..., None] - at_slider
        found: Array = self.offset + turned * self.wheel + moved * self.slider
        return found

    def take(self, shot: TestShot) -> None:
        """One shot more."""
        self.taken += 1
        error = self.error(shot.wheel, shot.slider)
        same = (shot.scene, shot.flash) == (self.scene, self.flash)
        u = EYE_U if same else math.hypot(EYE_U, SCENE_U)
        density = _seen(np.array(shot.stops), error, u)
        if shot.may_be_cut_short:
            at_least = _below((error - shot.stops) / u)
            density = (1.0 - CENSORED) * density + CENSORED * at_least / 4.0
        self.log_weight = self.log_weight + np.log(0.97 * density + 0.03 / 16.0)  # an eye is wrong now and then

    @property
    def weight(self) -> Array:
        """Chance of every belief, shape (g,), together 1."""
        grown = np.exp(self.log_weight - self.log_weight.max())
        found: Array = grown / grown.sum()
        return found

    def settings(self) -> list[TrimSetting]:
        """Every setting, the likeliest to be right first."""
        weight = self.weight
        error = self.error(self.marks.settings[:, 0], self.marks.settings[:, 1])
        mean = error @ weight
        u = np.sqrt(np.maximum((error * error) @ weight - mean * mean, 0.0))
        chance = (np.abs(error) <= RIGHT + 1e-9).astype(float) @ weight
        found = [
            TrimSetting(float(wheel), float(slider), float(mean[n]), float(u[n]), float(chance[n]))
            for n, (wheel, slider) in enumerate(self.marks.settings)
        ]
        return sorted(found, key=lambda one: (-one.chance, abs(one.stops)))

    def next_shot(self) -> TrimSetting:
        """The setting after which the best one is expected to be surest."""
        ordered = self.settings()[:LOOKED_AT]
        if not self.taken:
            return ordered[0]  # nothing is known: the middle of what it may be
        weight = self.weight
        held = weight > WORTH * weight.max()  # the rest changes nothing
        every = self.error(self.marks.settings[:, 0], self.marks.settings[:, 1])[:, held]
        right = (np.abs(every) <= RIGHT + 1e-9).astype(np.float32)  # (s, g)
        gains = [self._promise(self.error(one.wheel, one.slider)[held], weight[held], right) for one in ordered]
        return ordered[int(np.argmax(gains))]

    @staticmethod
    def _promise(error: Array, weight: Array, right: npt.NDArray[np.float32]) -> float:
        """Chance of being right with the best setting after a shot that has these errors, averaged over what it may show."""
        shows = _seen(READINGS[:, None], error[None, :], EYE_U) * HALF * weight[None, :]  # (r, g)
        return float((shows.astype(np.float32) @ right.T).max(axis=1).sum())


_AT = np.linspace(-8.0, 8.0, 1601)


@cache
def _below_at() -> Array:
    found: Array = special.ndtr(_AT)
    return found


def _below(x: Array) -> Array:
    """Share of a standard normal below x, from a table: to a few millionths."""
    return np.interp(x, _AT, _below_at())


def _seen(stops: Array, error: Array, u: float) -> Array:
    """How densely what is judged to half a stop lies there: the eye's own spread over all that is called so."""
    away = (stops - error) / u
    half = HALF / 2 / u
    return (_below(away + half) - _below(away - half)) / HALF


def check_shot(shot: TestShot, marks: Marks) -> None:
    """Whether a shot was made at what can be set. Raises InvalidInput: a setting that is not among the marks' span."""
    for name, value, marked in (("Wheel", shot.wheel, marks.wheel), ("Slider", shot.slider, marks.slider)):
        if not min(marked) <= value <= max(marked):
            raise InvalidInput(name, value, f"{min(marked):g} to {max(marked):g}, as marked")


def trim(
    shots: Sequence[TestShot], marks: Marks | None = None, aim: tuple[Scene, bool] | None = None, film_left: int | None = None
) -> Trim:
    """What the shots so far say, and where to shoot next.

    Raises InvalidInput: too many shots, or one at a setting that is not among the marks' span.

    Parameters
    ----------
    marks : what can be set; as usual when None
    aim : scene and flash the setting is to be right for; those of the last shot when None
    film_left : frames left in the pack; None: not said
    """
    marks = marks or Marks()
    if len(shots) > MOST_SHOTS:
        raise InvalidInput("Shots", len(shots), f"at most {MOST_SHOTS}")
    for shot in shots:
        check_shot(shot, marks)
    scene, flash = aim or ((shots[-1].scene, shots[-1].flash) if shots else ("outdoors", False))
    belief = TrimPosterior(marks, scene, flash)
    for shot in shots:
        belief.take(shot)
    best = belief.settings()[0]
    done = bool(shots) and (best.chance >= SURE or film_left == 0)
    following = best if done else belief.next_shot()
    return Trim(best, following, done, _words(best, following, done, shots, film_left), film_left)


SHADING = "Shading the cell makes the picture brighter: a higher number, more of the slider."


def _words(best: TrimSetting, following: TrimSetting, done: bool, shots: Sequence[TestShot], film_left: int | None) -> str:
    """What to do now, and which way round it works."""
    at = f"wheel {best.wheel:g}, slider {best.slider:g}"
    if done and best.chance >= SURE:
        return f"Done: {at}; within a quarter stop with {best.chance:.0%}. {SHADING}"
    if done:
        return f"No film left: best so far {at}, {best.stops:+.1f} ± {best.u_stops:.1f} stop ({best.chance:.0%}). {SHADING}"
    left = "" if film_left is None else f" {film_left} frames are left."
    way = ""
    if shots:
        last = shots[-1]
        brighter = following.wheel + following.slider > last.wheel + last.slider
        if last.stops:
            came, shades = "bright" if last.stops > 0 else "dark", "more" if brighter else "less"
            way = f" The last came out {came}; this shades the cell {shades}."
    return f"Shoot at wheel {following.wheel:g}, slider {following.slider:g}.{way}{left} {SHADING}"
