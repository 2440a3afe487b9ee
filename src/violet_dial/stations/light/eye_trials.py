"""More than an eye sees: how the needle settles after a step of the light, whether it sticks while the light creeps, where it
stands at rest."""

from collections.abc import Callable
from typing import Protocol

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.motion import Sticking, settling, sticking
from violet_dial.job.light import NeedleNote

STEP_STOPS, WATCHED_S, BEFORE_S = 3.0, 8.0, 1.0
CREEP_STOPS, STEPS, HELD_S = 2.0, 24, 0.9  # up and as much down again, in so many steps each
BRIGHT_LX = 2_000.0  # above it the step goes down
LEAST_MOVE = 0.01  # of the scale: a needle that moves less did not follow
LEAST_NOISE = 0.0008  # of the scale
NOTED_STICK = 0.005  # of the scale, between the way up and the way down
LEAST_STILL, HAND_MOVE = 4, 0.03  # looks at rest before a hand uncovers; of the scale, between two looks
LAMP_SHARE = 0.3  # of the needle's settling time: a lamp that takes more hides it
RESTS = 0.15  # of the scale above the lowest mark: higher is no rest
Lux = Callable[[], float | None]
SetLux = Callable[[float], bool]


class NeedleTrial(Protocol):
    """Fed with every look; the note when it has ended."""

    words: str

    def look(self, at_s: float, value: float) -> NeedleNote | None:
        """One look at the needle: when, and what it showed."""

    def end(self) -> None:
        """The light as it was."""


def _said(value: float) -> str:
    return f"{value:.2f}".replace("-", "−")


class Settles:
    """A step of the light, and the needle after it: by the lamp, or by a hand that uncovers the cell."""

    def __init__(self, lux: Lux, set_lux: SetLux, scale: float, by_hand: bool = False) -> None:
        self._lux, self._set_lux, self._scale, self._by_hand = lux, set_lux, scale, by_hand
        self._before = lux() or 0.0
        self._seen: list[tuple[float, float, float]] = []  # when, needle, light
        self._stepped_s: float | None = None
        self.words = "cover the cell, wait, uncover it at once" if by_hand else "watches the needle at rest"

    def look(self, at_s: float, value: float) -> NeedleNote | None:
        self._seen.append((at_s, value, self._lux() or 0.0))
        if self._stepped_s is not None:
            return self._note() if at_s - self._stepped_s >= WATCHED_S else None
        if self._by_hand:
            self._seen = [one for one in self._seen if at_s - one[0] <= BEFORE_S]
            still = [one[1] for one in self._seen[:-1]]
            moved = len(still) >= LEAST_STILL and abs(value - still[-1]) > HAND_MOVE * self._scale
            if moved and max(still) - min(still) < LEAST_MOVE * self._scale:
                self._begin(self._seen[-2:])
        elif at_s - self._seen[0][0] >= BEFORE_S:
            self._begin(self._seen[-1:])
            self._set_lux(self._before * 2 ** (-STEP_STOPS if self._before > BRIGHT_LX else STEP_STOPS))
        return None

    def _begin(self, kept: list[tuple[float, float, float]]) -> None:
        self._seen, self._stepped_s, self.words = kept, kept[0][0], "watches the needle settle"

    def end(self) -> None:
        if not self._by_hand:
            self._set_lux(self._before)

    def _note(self) -> NeedleNote:
        times, values, lights = np.array(self._seen).T
        found = settling(times, values)
        step = found.end - float(values[0])
        if abs(step) < LEAST_MOVE * self._scale:
            return NeedleNote("settles", f"Did not follow a step of {STEP_STOPS:g} stops: it moved by {_said(step)}.")
        took = f"not within {WATCHED_S:g} s"
        if np.isfinite(found.settling_s):
            took = f"within 2 % in {found.settling_s:.1f} s"
        whole = f"from {_said(float(values[0]))} to {_said(found.end)}, {len(values)} looks in {WATCHED_S:g} s"
        lamp_s = 0.0 if self._by_hand else settling(times, np.log2(np.maximum(lights, 1e-6))).settling_s
        if not lamp_s <= LAMP_SHARE * found.settling_s:
            why = f"The lamp itself takes {lamp_s:.1f} s: flick tells more."
            return NeedleNote(
                "settles", f"Follows a step {took}. {why}", (whole, "overshoot and damping are hidden by the lamp's own lag")
            )
        damped = f"overshoot {100 * found.overshoot:.0f} %, damping {found.damping:.2f}"
        fit = f"second-order fit: damping {found.damping:.2f}, natural {found.natural_hz:.2f} Hz"
        return NeedleNote("settles", f"Settles {took}, {damped}.", (whole, fit))


class Creeps:
    """The light creeps up and down again; stairs of the needle, and the gap between both ways."""

    def __init__(self, lux: Lux, set_lux: SetLux, scale: float) -> None:
        self._lux, self._set_lux, self._scale = lux() or 0.0, set_lux, scale
        up = [self._lux * 2 ** (CREEP_STOPS * place / STEPS) for place in range(STEPS + 1)]
        self._lights = [*up, *up[-2::-1]]
        self._place = -1
        self._since_s = 0.0
        self._rest: list[float] = []
        self._values: list[float] = []
        self.words = "watches the needle at rest"

    def look(self, at_s: float, value: float) -> NeedleNote | None:
        if self._place < 0:
            self._rest.append(value)
            if len(self._rest) == 1:
                self._since_s = at_s
            if at_s - self._since_s >= BEFORE_S:
                self._next(at_s)
            return None
        if at_s - self._since_s < HELD_S:
            return None
        self._values.append(value)
        if self._place + 1 == len(self._lights):
            return self._note()
        self._next(at_s)
        return None

    def _next(self, at_s: float) -> None:
        self._place, self._since_s = self._place + 1, at_s
        self._set_lux(self._lights[self._place])
        self.words = f"the light creeps {'up' if self._place <= STEPS else 'down'}, {self._place + 1} of {len(self._lights)}"

    def end(self) -> None:
        self._set_lux(self._lux)

    def _note(self) -> NeedleNote:
        values = np.array(self._values)
        up, down = values[: STEPS + 1], values[STEPS:]
        gap = float(np.median(down[::-1] - up))
        noise = max(float(np.std(self._rest, ddof=1)) if len(self._rest) > 2 else 0.0, LEAST_NOISE * self._scale)
        ways = (sticking(up, noise), sticking(down, noise))
        sticks = any(way.sticks for way in ways) or abs(gap) > NOTED_STICK * self._scale
        rows = (
            f"up from {_said(float(up[0]))} to {_said(float(up[-1]))}: {_stairs(ways[0])}",
            f"down to {_said(float(down[-1]))}: {_stairs(ways[1])}",
            f"on the way down it stands {_said(gap)} higher at the same light (what is left of the lamp's lag among it)",
            f"noise of a look {noise:.3f}, {STEPS} steps of {CREEP_STOPS / STEPS:.2g} stop each way",
        )
        largest = max(way.largest for way in ways if way.sticks) if any(way.sticks for way in ways) else abs(gap)
        said = (
            f"Sticks: by up to {_said(largest)} while the light creeps."
            if sticks
            else "Does not stick: it follows a creeping light."
        )
        return NeedleNote("creeps", said, rows)


def _stairs(one: Sticking) -> str:
    return f"{one.steps} stairs of up to {_said(one.largest)}" if one.sticks else "no stairs"


def at_rest(value: float, u: float, lowest: float, scale: float) -> NeedleNote:
    """Where the needle stands with the cell capped. Raises InvalidInput: it stands too high for a rest."""
    off = value - lowest
    if off > RESTS * scale:
        raise InvalidInput("Zero", f"the needle at {_said(value)}", "the cell capped: the needle near the beginning of the scale")
    way = "at the first mark"
    if abs(off) > 2 * u:
        way = f"{_said(abs(off))} {'above' if off > 0 else 'below'} the first mark"
    rows = (f"{_said(value)} − {_said(lowest)} = {_said(off)}, U = {_said(2 * u)}",)
    return NeedleNote("rests", f"Capped, the needle stands {way}.", rows)


def trial_of(kind: str, lux: Lux, set_lux: SetLux, scale: float) -> NeedleTrial:
    """A trial that is ready: ``settle`` and ``creep`` with a lamp, ``flick`` by hand.

    Raises InvalidInput: no lamp that can be set, or no lux meter.
    """
    if kind == "flick":
        return Settles(lux, set_lux, scale, by_hand=True)
    now = lux()
    if now is None or now <= 0 or not set_lux(now):
        raise InvalidInput("Light", "no lamp that can be set with a lux meter", "one on the bench (F12)")
    made: dict[str, type[Settles] | type[Creeps]] = {"settle": Settles, "creep": Creeps}
    return made[kind](lux, set_lux, scale)
