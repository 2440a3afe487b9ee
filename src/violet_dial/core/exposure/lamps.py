"""Warning lamps of an automatic: where they should light, where they do, what lies behind a shift, and where to look next.

At an aperture N and an illuminance E the automatic should choose t = N^2 C / (E S). All is worked in log2 of that time: the slow
lamp lights where it is longer than one threshold, the over lamp where it is shorter than another. What was seen is held against
each kind of fault with all its figures, by the chance of what was seen; none of these is among the kinds.

Source: t = N^2 C / (E S): ISO 2720:1974 [memory], incident light on a flat receptor, C 250 lx s. Kinds, priors, how far a
lamp's edge is smeared and a look may be wrong: common practice, no source.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import DEFAULT_C_FLAT
from violet_dial.core.scipy_rooms import special

Array = npt.NDArray[np.float64]
Seen = Literal["slow", "over", "none", "both", "flicker"]
SEEN: tuple[Seen, ...] = ("slow", "over", "none", "both", "flicker")
Kind = Literal[
    "as meant", "shifted", "aperture", "slow lamp", "over lamp", "dim light", "swapped", "contact", "slow dead", "over dead",
    "battery", "none",
]  # fmt: skip
PRIORS: dict[Kind, float] = {
    "as meant": 0.24, "shifted": 0.2, "aperture": 0.08, "slow lamp": 0.09, "over lamp": 0.09, "dim light": 0.07, "swapped": 0.03,
    "contact": 0.06, "slow dead": 0.04, "over dead": 0.04, "battery": 0.03, "none": 0.03,
}  # fmt: skip
SMEAR = 0.16  # stops: light, aperture and the edge of a lamp, one standard deviation
FLICKER = 0.15  # stops about a threshold, within which a lamp may flicker
WRONG = 0.02  # chance of a look that is wrong
MOST_LOOKS = 500
SHIFTS = np.concatenate([-np.arange(0.34, 4.01, 0.17)[::-1], np.arange(0.34, 4.01, 0.17)])  # stops
SHIFT_U = 1.3
AT_APERTURES = np.arange(0.0, 11.0)  # log2 of N squared, at which a coupling may be stuck
FALLS = np.array([0.3, 0.5, 0.8, 1.2])  # stops lost for a stop of light below where it begins
BEGINS = np.arange(-2.0, 12.1, 1.0)  # log2 lx, where a fall-off begins
KNOWN = 0.22  # stops of a threshold's doubt, from which it is known


@dataclass(frozen=True)
class LampObservation:
    """Which lamps were lit at an aperture and an illuminance, lx."""

    f_number: float
    lux: float
    seen: Seen

    def __post_init__(self) -> None:
        if not 0.5 <= self.f_number <= 256:
            raise InvalidInput("Aperture", f"{self.f_number:g}", "an f-number from 0.5 to 256")
        if not 1e-4 <= self.lux <= 1e7:
            raise InvalidInput("Light", f"{self.lux:g} lx", "0.0001 to 10 million lx")
        if self.seen not in SEEN:
            raise InvalidInput("Lamps", self.seen, f"one of {', '.join(SEEN)}")


@dataclass(frozen=True)
class Law:
    """What is meant: film speed, the time from which the slow lamp lights, the shortest and the longest time, s; the constant
    C."""

    film_speed: float = 100.0
    slow_s: float = 2.0**-5
    shortest_s: float = 2.0**-9
    longest_s: float = 8.0
    c_lx_s: float = DEFAULT_C_FLAT

    def __post_init__(self) -> None:
        if not 1 <= self.film_speed <= 100_000:
            raise InvalidInput("Film speed", f"{self.film_speed:g}", "1 to 100 000")
        if not 1.0 <= self.c_lx_s <= 1e5:
            raise InvalidInput("C", f"{self.c_lx_s:g} lx s", "1 to 100 000 lx s; 240 to 400 is usual")
        if not 1e-5 <= self.shortest_s < self.slow_s < self.longest_s <= 120:
            raise InvalidInput(
                "Times", f"{self.shortest_s:g}, {self.slow_s:g}, {self.longest_s:g} s", "shortest, slow and longest, each longer"
            )

    def time_s(self, f_number: Array | float, lux: Array | float) -> Array:
        """The time that should be chosen, s.

        Parameters
        ----------
        f_number : any shape
        lux : illuminance, lx, of the same shape
        """
        return np.asarray(f_number) ** 2 * self.c_lx_s / (np.asarray(lux) * self.film_speed)

    def meant(self, f_number: float, lux: float) -> Seen:
        """The lamp that should be lit: exactly at a threshold it is."""
        time_s = float(self.time_s(f_number, lux))
        return "slow" if time_s >= self.slow_s else "over" if time_s <= self.shortest_s else "none"


@dataclass(frozen=True)
class Threshold:
    """Where a lamp begins to light against where it should: stops (positive: at a longer time), one standard deviation."""

    stops: float
    u_stops: float

    @property
    def known(self) -> bool:
        """Whether no look is worth a minute for it any more."""
        return self.u_stops <= KNOWN


@dataclass(frozen=True)
class Cause:
    """One kind with its weight (all together 1) and figure: stops, or for a stuck coupling the f-number it is stuck at."""

    kind: Kind
    weight: float
    figure: float = 0.0


@dataclass(frozen=True)
class Lamps:
    """What the looks say: both thresholds, kinds by weight, and where to look next (None: nothing more to settle)."""

    slow: Threshold
    over: Threshold
    causes: tuple[Cause, ...]
    next: tuple[float, float] | None


@dataclass(frozen=True)
class _Looks:
    """Arrays over looks: log2 of the time meant, of the aperture squared, of the light; which was seen, as places in `SEEN`."""

    x: Array
    n2: Array
    lux: Array
    seen: npt.NDArray[np.intp]
    law: Law


def lamps(looks: Sequence[LampObservation], law: Law, apertures: Sequence[float] = (2.8, 5.6, 16.0)) -> Lamps:
    """What was seen against what is meant. Raises InvalidInput: too many looks, or no aperture."""
    if len(looks) > MOST_LOOKS or not apertures:
        raise InvalidInput("Looks", len(looks), f"at most {MOST_LOOKS}, and one aperture at least")
    at = np.array([float(law.time_s(look.f_number, look.lux)) for look in looks])
    given = _Looks(
        np.log2(at), np.array([2 * math.log2(look.f_number) for look in looks]), np.log2([look.lux for look in looks]),
        np.array([SEEN.index(look.seen) for look in looks], dtype=int), law,
    )  # fmt: skip
    causes = _causes(given)
    slow, over = (_threshold(given, which) for which in ("slow", "over"))
    return Lamps(slow, over, causes, _next(looks, law, (slow, over), causes, tuple(sorted(apertures))))


def _chances(x: Array, slow_x: Array | float, over_x: Array | float) -> Array:
    """Chance of each of `SEEN` at effective log2 times, shape (..., 5)."""
    is_slow, is_over = special.ndtr((x - slow_x) / SMEAR), special.ndtr((over_x - x) / SMEAR)
    near = np.maximum(*(np.exp(-0.5 * ((x - one) / FLICKER) ** 2) for one in (slow_x, over_x))) * 0.35
    steady = 1.0 - near
    found: Array = np.stack([
        is_slow * (1 - is_over) * steady, is_over * (1 - is_slow) * steady, (1 - is_slow) * (1 - is_over) * steady,
        is_slow * is_over * steady, near,
    ], axis=-1)  # fmt: skip
    return WRONG / 5 + (1 - WRONG) * found


def _causes(given: _Looks) -> tuple[Cause, ...]:
    slow_x, over_x = math.log2(given.law.slow_s), math.log2(given.law.shortest_s)
    found: list[tuple[Kind, float, float]] = []
    for kind, make in KINDS.items():
        chances, prior, figures = make(given, slow_x, over_x)  # (g, n, 5), (g,), (g,)
        each = prior + np.log(np.take_along_axis(chances, given.seen[None, :, None], axis=2)[:, :, 0]).sum(axis=1)
        total = float(special.logsumexp(each))
        figure = float((np.exp(each - total) * figures).sum())
        if kind == "aperture":
            figure = float(2.0 ** (figures[int(np.argmax(each))] / 2))
        found.append((kind, math.log(PRIORS[kind]) + total, figure))
    logs = np.array([one[1] for one in found])
    weights = np.exp(logs - special.logsumexp(logs))
    made = [Cause(kind, float(weight), figure) for (kind, _, figure), weight in zip(found, weights, strict=True)]
    return tuple(sorted(made, key=lambda one: -one.weight))


Made = tuple[Array, Array, Array]


def _one(chances: Array) -> Made:
    return chances[None], np.zeros(1), np.zeros(1)


def _shift_prior() -> Array:
    weight = np.exp(-0.5 * (SHIFTS / SHIFT_U) ** 2)
    found: Array = np.log(weight / weight.sum())
    return found


def _as_meant(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _one(_chances(given.x, slow_x, over_x))


def _shifted(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _chances(given.x[None] + SHIFTS[:, None], slow_x, over_x), _shift_prior(), SHIFTS


def _stuck(given: _Looks, slow_x: float, over_x: float) -> Made:
    moved = given.x[None] - given.n2[None] + AT_APERTURES[:, None]
    return _chances(moved, slow_x, over_x), np.full(len(AT_APERTURES), -math.log(len(AT_APERTURES))), AT_APERTURES


def _slow_moved(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _chances(given.x[None], slow_x + SHIFTS[:, None], over_x), _shift_prior(), SHIFTS


def _over_moved(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _chances(given.x[None], slow_x, over_x + SHIFTS[:, None]), _shift_prior(), SHIFTS


def _dim(given: _Looks, slow_x: float, over_x: float) -> Made:
    falls, begins = (one.ravel() for one in np.meshgrid(FALLS, BEGINS, indexing="ij"))
    lost = falls[:, None] * np.maximum(begins[:, None] - given.lux[None], 0.0)
    return _chances(given.x[None] + lost, slow_x, over_x), np.full(len(falls), -math.log(len(falls))), begins


def _swapped(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _one(_chances(given.x, slow_x, over_x)[..., [1, 0, 2, 3, 4]])


def _never(dead: tuple[int, ...]) -> Callable[[_Looks, float, float], Made]:
    """Lamps that never light: what they would have shown is seen as none, what both would as the other."""

    def made(given: _Looks, slow_x: float, over_x: float) -> Made:
        chances = _chances(given.x, slow_x, over_x).copy()
        for lamp in dead:
            chances[..., 2] += chances[..., lamp] - WRONG / 5
            chances[..., lamp] = WRONG / 5
        if len(dead) == 2:
            chances[..., 2] += chances[..., 3] + chances[..., 4] - 2 * WRONG / 5
            chances[..., 3:] = WRONG / 5
        return _one(chances)

    return made


def _battery(given: _Looks, slow_x: float, over_x: float) -> Made:
    """Lamps flicker or light together wherever one of them draws."""
    chances = 0.5 * _chances(given.x, slow_x, over_x)
    chances[..., 3] += 0.15
    chances[..., 4] += 0.35
    return _one(chances)


def _none(given: _Looks, slow_x: float, over_x: float) -> Made:
    return _one(np.full((len(given.x), 5), 0.2))


KINDS: dict[Kind, Callable[[_Looks, float, float], Made]] = {
    "as meant": _as_meant, "shifted": _shifted, "aperture": _stuck, "slow lamp": _slow_moved, "over lamp": _over_moved,
    "dim light": _dim, "swapped": _swapped, "contact": _never((0, 1)), "slow dead": _never((0,)), "over dead": _never((1,)),
    "battery": _battery, "none": _none,
}  # fmt: skip

_OFFSETS = np.arange(-5.0, 5.01, 0.05)


def _threshold(given: _Looks, which: str) -> Threshold:
    """Where a lamp begins, from every look: lit, not lit, or flickering there."""
    weight = np.exp(-0.5 * (_OFFSETS / 1.5) ** 2)
    if len(given.x):
        lamp, sign = (0, 1.0) if which == "slow" else (1, -1.0)
        edge = math.log2(given.law.slow_s if which == "slow" else given.law.shortest_s)
        away = sign * (given.x[None] - edge - _OFFSETS[:, None])
        lit = (given.seen == lamp) | (given.seen == 3)
        near = np.exp(-0.5 * (away / FLICKER) ** 2) * 0.35
        lights = special.ndtr(away / SMEAR) * (1 - near)
        chance = np.where(lit, lights, np.where(given.seen == 4, 0.05 + near, 1 - lights - near))
        weight = weight * np.exp(np.log(WRONG / 2 + (1 - WRONG) * np.maximum(chance, 0.0)).sum(axis=1))
    weight = weight / weight.sum()
    mean = float(weight @ _OFFSETS)
    return Threshold(mean, float(np.sqrt(weight @ (_OFFSETS - mean) ** 2)))


def _next(
    looks: Sequence[LampObservation],
    law: Law,
    edges: tuple[Threshold, Threshold],
    causes: tuple[Cause, ...],
    apertures: tuple[float, ...],
) -> tuple[float, float] | None:
    """The aperture and light at which the threshold that is known worst is halved; then the same at another aperture."""
    dead = causes[0].kind in ("contact", "swapped", "slow dead", "over dead") and causes[0].weight > 0.9
    middle = apertures[len(apertures) // 2]
    used = {look.f_number for look in looks}
    if dead:
        return None
    if all(edge.known for edge in edges):
        far = next((one for one in (apertures[0], apertures[-1]) if one not in used), None)
        if far is None or causes[0].weight > 0.97:
            return None
        return far, _light(law, far, math.log2(law.slow_s) + edges[0].stops + 0.7)
    slow, over = edges
    if slow.u_stops >= over.u_stops:
        return middle, _light(law, middle, math.log2(law.slow_s) + slow.stops)
    return middle, _light(law, middle, math.log2(law.shortest_s) + over.stops)


def _light(law: Law, f_number: float, x: float) -> float:
    """The illuminance at which the time meant is 2^x s, to two figures as a lamp is set."""
    lux = f_number**2 * law.c_lx_s / (law.film_speed * 2.0**x)
    digits = 1 - math.floor(math.log10(lux))
    return float(round(lux, digits))


WORDS: dict[Kind, str] = {
    "as meant": "Both lamps light where they should.",
    "shifted": "Both lamps light {way} by {amount}: the film-speed dial is off by as much, or the cell is {cell}.",
    "aperture": "What is seen does not follow the aperture: its coupling stands at about f/{aperture} whatever is set.",
    "slow lamp": "The slow lamp alone lights {way_slow} by {amount}: the resistor that sets its threshold.",
    "over lamp": "The over lamp alone lights {way_over} by {amount}: the resistor that sets its threshold.",
    "dim light": "Both lamps are right in bright light and late below about {lux} lx: the cell is weak in the dim.",
    "swapped": "The lamps are exchanged: slow lights where over should.",
    "contact": "Neither lamp lights whatever the light: no contact, no battery, or the half-press is not made.",
    "slow dead": "The slow lamp never lights: the lamp, its lead, or what drives it.",
    "over dead": "The over lamp never lights: the lamp, its lead, or what drives it.",
    "battery": "Lamps flicker or light together: the battery sags, or its contact comes and goes.",
    "none": "None of these: what was seen fits no single fault.",
}


def cause_said(one: Cause) -> str:
    """A kind in words."""
    later = one.figure > 0
    return WORDS[one.kind].format(
        way="in too bright a light" if later else "in too dim a light", amount=f"{abs(one.figure):.1f} stop",
        cell="weak" if later else "too strong", aperture=f"{one.figure:.2g}" if one.figure < 9.5 else f"{one.figure:.0f}",
        way_slow="too late" if later else "too early", way_over="too early" if later else "too late",
        lux=f"{2.0**one.figure:.0f}" if one.kind == "dim light" else "",
    )  # fmt: skip
