"""Both curtains of a focal-plane shutter, from the same firing as two or three sensors across the frame saw it.

The first curtain passes a sensor when the light there comes, the second when it goes. Exposure at a place is the slit's width
there over the speed there; the taper is the last side of the frame over the first, in stops.

Source: Kinematics; from which taper a tension is turned, and usual travel times (10 to 13 ms over 36 mm for cloth, 5 to 9 ms
over 24 mm for blades): common practice, no source.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.signals.firings import RecordedFiring

SAME_FIRING_S = 0.06  # edges further apart than any curtain takes belong to other firings
TAPER_STOPS = 0.2  # from which a side is seen to be brighter
LEAST_APART_MM = 2.0


@dataclass(frozen=True)
class FrameGate:
    """Where the sensors sit along the way of the curtains, and how long that way is, mm."""

    length_mm: float
    sensors_mm: tuple[float, ...]

    def __post_init__(self) -> None:
        if not 5 <= self.length_mm <= 200:
            raise InvalidInput("Frame", f"{self.length_mm:g} mm", "5 to 200 mm along the curtains' way")
        if not 2 <= len(self.sensors_mm) <= 8 or any(not 0 <= at <= self.length_mm for at in self.sensors_mm):
            raise InvalidInput("Sensors", list(self.sensors_mm), f"two to eight places from 0 to {self.length_mm:g} mm")
        if min(np.diff(sorted(self.sensors_mm))) < LEAST_APART_MM:
            raise InvalidInput("Sensors", list(self.sensors_mm), f"places {LEAST_APART_MM:g} mm apart at least")


@dataclass(frozen=True)
class Passage:
    """One firing over the frame: travel of each curtain (s over the frame), exposure (s) and slit (mm) at each sensor in the
    order the curtains pass them, taper from the first side to the last (stops) with its standard uncertainty; ``capped``: the
    light of a sensor that never came, or is gone before the end of the frame."""

    open_s: float
    first_s: float
    second_s: float
    places_mm: tuple[float, ...]
    times_s: tuple[float, ...]
    slits_mm: tuple[float, ...]
    taper_stops: float
    u_taper_stops: float
    capped: bool

    @property
    def words(self) -> str:
        """Which way it tapers and what to turn."""
        return taper_said(self.taper_stops, self.u_taper_stops, self.capped)


def taper_said(taper_stops: float, u_stops: float, capped: bool) -> str:
    """Which way a shutter tapers and what to turn. ``u_stops``: its standard uncertainty."""
    if capped:
        return (
            "The second curtain catches the first before the end: the last side gets no light. Less tension on the second, "
            "or more on the first."
        )
    if abs(taper_stops) - 2 * u_stops <= TAPER_STOPS:
        return "Both curtains take the same time: no taper to be seen."
    slower, faster = ("second", "first") if taper_stops > 0 else ("first", "second")
    side = "last" if taper_stops > 0 else "first"
    return (
        f"The {side} side gets {abs(taper_stops):.1f} stop more: the {slower} curtain is slower than the {faster}. "
        f"A little more tension on the {slower}, or less on the {faster}; then the speed anew."
    )


def passages(channels: Sequence[Sequence[RecordedFiring]], frame: FrameGate) -> tuple[Passage, ...]:
    """Every firing that two sensors at least saw. Raises InvalidInput: not as many channels as sensors."""
    if len(channels) != len(frame.sensors_mm):
        raise InvalidInput("Channels", len(channels), f"one for each of the {len(frame.sensors_mm)} sensors")
    every = sorted((one.open_s, place, one) for place, some in enumerate(channels) for one in some)
    groups: list[dict[int, RecordedFiring]] = []
    for at, place, one in every:
        near = groups and at - min(other.open_s for other in groups[-1].values()) < SAME_FIRING_S
        if near and place not in groups[-1]:
            groups[-1][place] = one
        else:
            groups.append({place: one})
    return tuple(_passage(seen, frame) for seen in groups if len(seen) > 1)


def _passage(seen: dict[int, RecordedFiring], frame: FrameGate) -> Passage:
    where = np.array([frame.sensors_mm[place] for place in seen])
    opened = np.array([one.open_s for one in seen.values()])
    closed = np.array([one.close_s for one in seen.values()])
    turned = float(np.polyfit(where, opened, 1)[0]) < 0  # the curtains run towards smaller places
    way = frame.length_mm - where if turned else where
    order = np.argsort(way)
    way, opened, closed = way[order], opened[order], closed[order]
    u = np.array([one.u_s for one in seen.values()])[order]
    first, second = (float(np.polyfit(way, edge, 1)[0]) for edge in (opened, closed))  # s a mm
    times = closed - opened
    slits = times / max((first + second) / 2, 1e-9)
    at_end = float(times[-1] + (frame.length_mm - way[-1]) * (second - first))
    over = frame.length_mm / (way[-1] - way[0])  # the sensors stand inside the frame
    taper = math.log2(times[-1] / times[0])
    doubt = math.hypot(u[0] / times[0], u[-1] / times[-1]) / math.log(2.0)
    unseen = len(seen) < len(frame.sensors_mm) and way[-1] < max(
        frame.length_mm - at if turned else at for at in frame.sensors_mm
    )
    return Passage(
        float(opened[0]), first * frame.length_mm, second * frame.length_mm, tuple(way.tolist()), tuple(times.tolist()),
        tuple(slits.tolist()), taper * over, doubt * over, bool(unseen or at_end <= 0),
    )  # fmt: skip
