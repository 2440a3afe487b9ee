"""Firings of a shutter from a recording's channels: light at one to several places, a flash contact, or sound alone."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.curtains import FrameGate, Passage, passages
from violet_dial.core.signals.clicks import SHORTEST_S, heard
from violet_dial.core.signals.contacts import Synchrony, contacts, of_firing, synchrony
from violet_dial.core.signals.firings import RecordedFiring
from violet_dial.core.signals.stretches import firings_of
from violet_dial.services.recordings import Array, Recording

Role = Literal["light", "flash", "sound", "none"]
ROLES: tuple[Role, ...] = ("light", "flash", "sound", "none")
USUAL_FRAME_MM, USUAL_SENSORS = 36.0, {2: (0.1, 0.9), 3: (0.1, 0.5, 0.9)}
OF_CUT = 0.25  # of rise and fall, in doubt where the top of the light is cut off
PICTURE_POINTS, MARGIN = 320, 0.25  # and what is shown of the time before and behind


@dataclass(frozen=True)
class Channels:
    """What each channel is of, and where the sensors sit, where several see the light."""

    roles: tuple[Role, ...]
    frame: FrameGate | None = None


@dataclass(frozen=True)
class FiringSeen:
    """One firing: light at the middle sensor, or clicks; both curtains, and the contact, where channels show them."""

    firing: RecordedFiring
    passage: Passage | None = None
    sync: Synchrony | None = None
    bounces: int | None = None
    by_sound: bool = False


@dataclass(frozen=True)
class ShutterReadout:
    """All firings of a recording, and what there is to be said of it."""

    seen: tuple[FiringSeen, ...]
    notes: tuple[str, ...]


def channels_said(text: str, count: int, frame_mm: float = USUAL_FRAME_MM, sensors: tuple[float, ...] = ()) -> Channels:
    """What a recording's channels are of: ``light``, ``travel`` (light at every channel), ``light,flash``, ``sound``; empty:
    light. Raises InvalidInput: another word, or not as many as there are channels.
    """
    words = [word.strip().lower() for word in text.split(",") if word.strip()]
    if words == ["travel"]:
        words = ["light"] * count
    if not words:
        words = ["light"] + ["none"] * (count - 1)
    words += ["none"] * (count - len(words))
    if len(words) > count or any(word not in ROLES for word in words):
        raise InvalidInput("Channels", text, f"travel, or for each of the {count} channels one of {', '.join(ROLES)}")
    roles: tuple[Role, ...] = tuple(word for word in words)  # type: ignore[misc]
    lights = roles.count("light")
    if not lights and "sound" not in roles:
        raise InvalidInput("Channels", text, "light or sound among them")
    if lights < 2:
        return Channels(roles)
    places = sensors or tuple(frame_mm * share for share in USUAL_SENSORS.get(lights, np.linspace(0.1, 0.9, lights)))
    if len(places) != lights:
        raise InvalidInput("Sensors", list(places), f"{lights} places, one for each channel of light")
    return Channels(roles, FrameGate(frame_mm, places))


def shutter_of(recording: Recording, channels: Channels) -> ShutterReadout:
    """Every firing in a recording. Raises InvalidInput, NotEnoughData: no firing at all, or too few samples."""
    lights = [place for place, role in enumerate(channels.roles) if role == "light"]
    found = _by_light(recording, channels, lights) if lights else _by_sound(recording, channels.roles.index("sound"))
    if not found.seen:
        raise InvalidInput("Recording", "no firing", f"light that comes and goes at least once{_hint(recording, found)}")
    return found


def _hint(recording: Recording, found: ShutterReadout) -> str:
    return f" ({'; '.join(found.notes)})" if found.notes else ""


def _by_sound(recording: Recording, place: int) -> ShutterReadout:
    clicks = heard(recording.read(place), recording.rate_hz)
    seen = tuple(FiringSeen(RecordedFiring(click.open_s, click.close_s, click.u_s, 0.0), by_sound=True) for click in clicks)
    return ShutterReadout(seen, (f"by sound alone: nothing shorter than {SHORTEST_S * 1e3:.0f} ms is told",))


def _by_light(recording: Recording, channels: Channels, lights: list[int]) -> ShutterReadout:
    every = [_firings(recording, place) for place in lights]
    cut = [recording.names[place] for place in lights if recording.clipped(place)]
    notes = tuple(f"{name} is cut off at the top: turn the level down" for name in cut)
    middle = every[len(every) // 2]
    through = passages(every, channels.frame) if channels.frame is not None else ()
    if "flash" not in channels.roles:
        return ShutterReadout(tuple(FiringSeen(one, _passage_of(one, through)) for one in middle), notes)
    place = channels.roles.index("flash")
    closings = contacts(recording.read(place), recording.rate_hz)
    seen = []
    for one in middle:
        contact = of_firing(one, closings)
        sync = synchrony(contact, one) if contact is not None else None
        seen.append(FiringSeen(one, _passage_of(one, through), sync, contact.bounces if contact is not None else None))
    if not closings:
        notes = (*notes, "the flash contact never closes")
    return ShutterReadout(tuple(seen), notes)


def _firings(recording: Recording, place: int) -> tuple[RecordedFiring, ...]:
    """Firings of one channel, their doubt wider where the light is cut off."""
    found = firings_of(lambda first, last: recording.read(place, first, last), recording.count, recording.rate_hz)
    if not recording.clipped(place):
        return found
    return tuple(replace(one, u_s=one.u_s + OF_CUT * (one.rise_s + one.fall_s)) for one in found)


def _passage_of(firing: RecordedFiring, through: tuple[Passage, ...]) -> Passage | None:
    near = [one for one in through if abs(one.open_s - firing.open_s) < 0.06]
    return min(near, key=lambda one: abs(one.open_s - firing.open_s), default=None)


def picture_of(recording: Recording, place: int, firing: RecordedFiring) -> tuple[tuple[float, ...], float, float]:
    """The light about a firing for drawing: least and most by turns, seconds before the opening, seconds between points."""
    margin = MARGIN * firing.time_s + 0.002
    first = max(int((firing.open_s - margin) * recording.rate_hz), 0)
    last = min(int((firing.close_s + margin) * recording.rate_hz) + 1, recording.count)
    part = recording.read(place, first, last)
    points = part if len(part) <= PICTURE_POINTS else least_and_most(part, PICTURE_POINTS // 2)
    step = len(part) / recording.rate_hz / max(len(points), 1)
    shown = tuple(float(round(value, 5)) for value in points)
    return shown, firing.open_s - first / recording.rate_hz, step


def least_and_most(samples: Array, pieces: int) -> Array:
    """Least and most of each of so many equal stretches, by turns: what a long trace looks like, spikes and all."""
    edges = np.linspace(0, len(samples), pieces + 1).astype(int)[:-1]
    return np.stack([np.minimum.reduceat(samples, edges), np.maximum.reduceat(samples, edges)], axis=1).ravel()
