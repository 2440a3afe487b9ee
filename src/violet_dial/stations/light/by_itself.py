"""A check against reference light that runs by itself: sets the light that is asked for, waits for lamp, cell and needle, reads
the needle by the eye, takes it, and goes on until nothing more is asked. What is odd makes it wait for a person; nothing wrong
is kept.
"""

import math
from collections import deque
from dataclasses import dataclass, field
from typing import Literal, Protocol

from violet_dial.core.eye.needle import NeedleReading, Refused
from violet_dial.core.quantities import format_grouped
from violet_dial.core.steady.detector import Detector, Steadiness
from violet_dial.core.steady.samples import Capture, Measured, Sample
from violet_dial.stations.light.dial_watch import SeenDial

Stage = Literal["light", "cell", "needle", "waits", "done"]
NEAR_STOPS, HOLDS_STOPS = 0.04, 0.03  # of the light asked for; that it may wander while the needle is read
HAND_STOPS, HAND_S = 0.25, 600.0  # where a person turns the lamp
TRIM_S, MOST_TRIM = 2.5, 2.0  # a lamp that is not what its curve says is asked for so much more or less, after so long
LAMP_S, MEMORY_S, NEEDLE_S, PICTURE_S = 12.0, 4.0, 20.0, 3.0
STEADY = 5  # looks in a row, from which it may be steady
LOOKS = 10  # refused ones in a row, from which a person is asked
STILL = 0.002  # of the scale: the mean must be known to it, and may drift by as much in a second
CAMERA = "camera"  # what a needle is said to be read by
MOST_WINDOW = 60  # looks kept with a reading
APPROACH = 1.6  # times the light it comes from, where a direction is asked for


@dataclass(frozen=True)
class LightWanted:
    """What is asked for: the light in lux, how the reference is typed, from which side (empty: either),
    and how a person is asked for it."""

    lux: float
    reference: str
    direction: str = ""
    said: str = ""


def _lx(lux: float) -> str:
    return f"{format_grouped(lux, 0 if lux >= 100 else 1)} lx"


class Seat(Protocol):
    """The job on the bench."""

    def wanted(self) -> LightWanted | None:
        """The next light; None when nothing is asked."""

    def take(self, wanted: LightWanted, light: Measured, needle: Measured) -> bool:
        """A reading taken; False where it was refused."""


class Lamp(Protocol):
    """A lamp that can be set, or that a person turns (``by_hand``), with a lux meter in its light; or a light that a person sets
    and says so (``is_told``), by another reference than a lux meter."""

    by_hand: bool
    is_told: bool

    def set_lux(self, lux: float) -> None:
        """Ask for a light."""

    def light(self) -> Measured | None:
        """The light as measured, lx; None where the meter is gone."""


class Camera(Protocol):
    """What reads pictures of the dial."""

    def look(self) -> SeenDial | None:
        """The newest picture, where it was not given before."""


@dataclass(frozen=True)
class Stands:
    """Where it stands: the stage, what is done now in words, how many were taken."""

    stage: Stage
    words: str
    taken: int


@dataclass
class _Held:
    """What is known of the light at hand."""

    wanted: LightWanted
    goes: deque[float] = field(default_factory=deque)  # lights to be set before the one asked for, and it
    since_s: float = 0.0
    asked: float = 0.0  # of the lamp, and when
    asked_s: float = 0.0
    readings: int = 0
    detector: Detector = field(default_factory=Detector)
    refused: int = 0
    reason: str = ""
    lux: float = 0.0
    needle: Measured = field(default_factory=lambda: Measured(math.nan))  # once it is steady


def needle_detector(scale: float) -> Detector:
    """What says when a needle stands still: as for figures, for a scale of such a length."""
    return Detector({"needle": Steadiness(0.0, STILL * scale)})


class ByItself:
    """Ticked some times a second; each tick does one thing and says where it stands.

    ``scale``: how long the dial's scale is, in its own unit.
    """

    def __init__(self, seat: Seat, lamp: Lamp, camera: Camera, scale: float, remembers: bool = False) -> None:
        self._seat, self._lamp, self._camera = seat, lamp, camera
        self._scale, self._remembers = scale, remembers
        self._sets = "turn the lamp to" if lamp.by_hand else "sets"
        self._near, self._lamp_s = (HAND_STOPS, HAND_S) if lamp.by_hand else (NEAR_STOPS, LAMP_S)
        self._is_told = False  # a person has set the light
        self._held: _Held | None = None
        self._last_lux = 0.0
        self._pictures_s = 0.0
        self.stands = Stands("light", "begins", 0)

    def go_on(self, now_s: float) -> None:
        """After a person has looked: from the light on, anew."""
        self._held = None
        self.stands = Stands("light", "goes on", self.stands.taken)
        self._pictures_s = now_s

    def told(self) -> None:
        """A person has set the light that was asked for."""
        self._is_told = True

    def tick(self, now_s: float) -> Stands:
        """Do the next thing."""
        if self.stands.stage in ("waits", "done"):
            return self.stands
        if self._held is None and not self._begin(now_s):
            return self.stands
        held = self._held
        if held is not None:
            {"light": self._light, "cell": self._cell, "needle": self._needle}[self.stands.stage](held, now_s)
        return self.stands

    def _say(self, stage: Stage, words: str) -> None:
        self.stands = Stands(stage, words, self.stands.taken)

    def _wait(self, words: str) -> None:
        """A person is to look."""
        self._held = None
        self._say("waits", words)

    def _begin(self, now_s: float) -> bool:
        wanted = self._seat.wanted()
        if wanted is None:
            self._say("done", f"{self.stands.taken} readings taken; nothing more is asked")
            return False
        goes = deque([wanted.lux])
        if wanted.direction == "rising" and self._last_lux >= wanted.lux:
            goes.appendleft(wanted.lux / APPROACH)
        elif wanted.direction == "falling" and self._last_lux <= wanted.lux:
            goes.appendleft(wanted.lux * APPROACH)
        self._held = _Held(wanted, goes, now_s)
        self._pictures_s, self._is_told = now_s, False
        if self._lamp.is_told:
            held = self._held
            held.goes = deque([wanted.lux])
            self._say("light", f"{wanted.said}: set it, then Enter on the picture")
            return True
        self._set(self._held, now_s)
        return True

    def _set(self, held: _Held, now_s: float) -> None:
        """The next light is asked for."""
        held.asked, held.asked_s = held.goes[0], now_s
        self._lamp.set_lux(held.asked)
        self._say("light", f"{self._sets} {_lx(held.asked)}")

    def _trim(self, held: _Held, lux: float, now_s: float) -> None:
        """A lamp that came, but not quite, is asked for a little more or less."""
        goal = held.goes[0]
        asked = held.asked * goal / max(lux, 1e-6)
        if now_s - held.asked_s < TRIM_S or self._lamp.by_hand or not goal / MOST_TRIM <= asked <= goal * MOST_TRIM:
            return
        held.asked, held.asked_s = asked, now_s
        self._lamp.set_lux(asked)

    def _light(self, held: _Held, now_s: float) -> None:
        """Until the lamp has come to what was asked, or a person says so."""
        if self._lamp.is_told:
            if self._is_told:
                held.since_s = now_s
                self._say("cell", "waits for the cell")
            return
        light = self._lamp.light()
        if light is None:
            self._wait("the lux meter shows nothing: look at its link")
            return
        lux = light.value
        off = abs(math.log2(max(lux, 1e-6) / held.goes[0]))
        if off > self._near:
            if now_s - held.since_s > self._lamp_s:
                self._wait(f"the lamp does not follow: {_lx(held.goes[0])} asked, {_lx(lux)} there")
            else:
                self._trim(held, lux, now_s)
            return
        held.since_s, held.lux = now_s, lux
        self._say("cell", "waits for the cell")

    def _cell(self, held: _Held, now_s: float) -> None:
        """A cell that remembers is given its time; then the light after it, or the needle."""
        if now_s - held.since_s < (MEMORY_S if self._remembers else 0.6):
            return
        held.since_s = now_s
        if len(held.goes) > 1:
            self._last_lux = held.goes.popleft()
            self._set(held, now_s)
            return
        held.readings, held.refused, held.detector = 0, 0, needle_detector(self._scale)
        self._say("needle", "reads the needle")

    def _needle(self, held: _Held, now_s: float) -> None:
        """Until looks agree; the light must have held meanwhile."""
        seen = self._camera.look()
        if seen is None:
            if now_s - self._pictures_s > PICTURE_S:
                self._wait("the camera gives no pictures: look at its cable")
            return
        self._pictures_s = now_s
        if seen.trouble:
            self._wait(seen.trouble)
            return
        read = seen.read
        if not isinstance(read, NeedleReading):
            held.readings, held.detector = 0, needle_detector(self._scale)
            held.refused, held.reason = (held.refused + 1, read.reason if isinstance(read, Refused) else "no needle is read")
            if held.refused >= LOOKS:
                self._wait(held.reason)
            return
        held.refused = 0
        held.readings += 1
        verdict = held.detector.feed(Sample(now_s, read.value, "needle"))
        if verdict.kind == "steady" and held.readings >= STEADY:
            u = math.hypot(read.u, verdict.u)  # of reading a dial, and of the needle's own unrest
            window = tuple((round(one.at_s - now_s, 3), one.value) for one in verdict.window[-MOST_WINDOW:])
            held.needle = Measured.of(Capture(CAMERA, "needle", verdict.value, u, window=window))
            self._take(held, now_s)
        elif now_s - held.since_s > NEEDLE_S:
            self._wait("the needle does not come to rest")

    def _take(self, held: _Held, now_s: float) -> None:
        light = Measured(held.wanted.lux, unit="lx") if self._lamp.is_told else self._lamp.light()
        is_held = self._lamp.is_told or (
            light is not None and abs(math.log2(max(light.value, 1e-6) / max(held.lux, 1e-6))) < HOLDS_STOPS
        )
        if light is None or not is_held:
            held.since_s = now_s
            held.goes = deque([held.wanted.lux])
            self._set(held, now_s)
            self._say("light", "the light did not hold: once more")
            return
        self._last_lux, self._held = held.wanted.lux, None
        if not self._seat.take(held.wanted, light, held.needle):
            self._wait("the reading was refused")
            return
        self.stands = Stands("light", f"took {held.needle.value:.2f}", self.stands.taken + 1)
