"""Lamps beside a dial: their state over some pictures, and a walk through the lights that fills the lamp map."""

from collections import deque
from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.lamps import Seen
from violet_dial.core.eye.lamps import LampSpot, State, glow, lamp_state
from violet_dial.core.light.marks import parse_aperture
from violet_dial.core.quantities import format_grouped
from violet_dial.job.exposing import LampLook
from violet_dial.job.light import LampPlace

Picture = npt.NDArray[np.float64]
LOOKS = 6  # in a row, that a state is told from
DIMMEST_LX, BRIGHTEST_LX = 20.0, 120_000.0
WAITS_S, MOST_S, CLOSE_STOPS = 1.4, 10.0, 0.3  # for the lamp of the bench, least and most; a threshold is known so well
NEAR_STOPS, TRIES = 0.05, 3  # of the light asked for; of a light at which nothing can be told
Lux = Callable[[], float | None]


class LampWatch:
    """The lamps of a dial, picture by picture."""

    def __init__(self, places: tuple[LampPlace, ...]) -> None:
        self._spots = tuple(LampSpot(place.name, place.x, place.y, place.radius, place.off) for place in places)
        self._glows: dict[str, deque[float]] = {spot.name: deque(maxlen=LOOKS) for spot in self._spots}

    def look(self, picture: Picture) -> None:
        """One picture more; a lamp outside it is not told."""
        for spot in self._spots:
            try:
                self._glows[spot.name].append(glow(spot, picture))
            except InvalidInput:
                self._glows[spot.name].append(float("nan"))

    def forget(self) -> None:
        """What was seen in another light."""
        for one in self._glows.values():
            one.clear()

    @property
    def states(self) -> dict[str, State]:
        """Of each lamp; empty until enough was seen."""
        if not self._spots or any(len(one) < LOOKS for one in self._glows.values()):
            return {}
        return {spot.name: lamp_state(spot, tuple(self._glows[spot.name])) for spot in self._spots}

    @property
    def seen(self) -> Seen | None:
        """As the lamp map has it; None where it cannot be told."""
        states = self.states
        if not states or "not told" in states.values():
            return None
        if "winking" in states.values():
            return "flicker"
        slow, over = states.get("slow") == "on", states.get("over") == "on"
        return "both" if slow and over else "slow" if slow else "over" if over else "none"

    @property
    def said(self) -> str:
        """In words."""
        return " · ".join(f"{name} lamp {state}" for name, state in self.states.items())


class Walk:
    """The lights by whole stops at one aperture, then between those where something changed."""

    def __init__(self, text: str, lamps: LampWatch, lux: Lux, set_lux: Callable[[float], bool]) -> None:
        self._f_number = parse_aperture(text)[0]
        self._lamps, self._lux, self._set_lux = lamps, lux, set_lux
        self._before = lux() or 0.0
        count = round(np.log2(BRIGHTEST_LX / DIMMEST_LX)) + 1
        self._todo = deque(np.geomspace(DIMMEST_LX, BRIGHTEST_LX, count).tolist())
        self._found: list[tuple[float, Seen]] = []
        self._set_s: float | None = None
        self._at = 0.0
        self._missed: dict[float, int] = {}  # lights at which nothing could be told, how often
        self.is_done = False
        self.words = f"lamps at f/{self._f_number:g}"

    def look(self, now_s: float) -> LampLook | None:
        """After each picture; what is to be noted."""
        if self._set_s is None:
            self._begin(now_s)
            return None
        lux = self._lux()
        is_there = lux is not None and abs(np.log2(max(lux, 1e-6) / self._at)) < NEAR_STOPS
        if now_s - self._set_s < WAITS_S or (not is_there and now_s - self._set_s < MOST_S):
            self._lamps.forget()
            return None
        if is_there and not self._lamps.states:
            return None
        seen = self._lamps.seen
        self._set_s = None
        told = seen is not None and lux is not None and is_there
        if told:
            self._found = sorted([*self._found, (lux or 0.0, seen or "none")])
        else:
            self._missed[self._at] = self._missed.get(self._at, 0) + 1
            if self._missed[self._at] < TRIES:
                self._todo.appendleft(self._at)
        if not self._todo:
            self._refine()
        self.is_done = not self._todo
        return LampLook(self._f_number, lux or 0.0, seen or "none") if told else None

    def _begin(self, now_s: float) -> None:
        self._at = self._todo.popleft()
        self._set_lux(self._at)
        self._lamps.forget()
        self._set_s = now_s
        self.words = f"lamps at f/{self._f_number:g}, {format_grouped(self._at)} lx, {len(self._found)} noted"

    def _refine(self) -> None:
        """Between lights with different lamps, until the threshold is known well enough."""
        for (low, one), (high, other) in zip(self._found[:-1], self._found[1:], strict=True):
            between = float(np.sqrt(low * high))
            if one != other and np.log2(high / low) > CLOSE_STOPS and self._missed.get(between, 0) < TRIES:
                self._todo.append(between)

    def end(self) -> None:
        """The light as it was."""
        if self._before > 0:
            self._set_lux(self._before)


def walk_of(text: str, lamps: LampWatch, lux: Lux, set_lux: Callable[[float], bool]) -> Walk:
    """A walk that is ready. Raises InvalidInput: no lamps put, no aperture, or no lamp of the bench that can be set."""
    if not lamps.states:
        raise InvalidInput("Lamps", "none put", "lamp slow or lamp over with the cross on it, while it is off")
    now = lux()
    if now is None or now <= 0 or not set_lux(now):
        raise InvalidInput("Light", "no lamp that can be set with a lux meter", "one on the bench (F12)")
    return Walk(text, lamps, lux, set_lux)
