"""Expose's records: the ladder of speeds and every firing, lamps as they were seen, test shots, traces of an oscilloscope."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.job.contents import Curve
from violet_dial.job.text import Line

Seconds = Annotated[float, Ge(0), Le(120)]
Stops = Annotated[float, Ge(-20), Le(20)]
ShutterWorks = Literal["leaf", "focal plane", "electronic"]


@dataclass(frozen=True)
class Fired:
    """One firing: true time of its mark, time measured and its standard uncertainty, s; rise and fall of the light, and both
    curtains' travel, where they were seen; ``picture`` of the light, evenly from ``from_s`` before the opening on, ``step_s``
    apart."""

    marked_s: Annotated[float, Ge(1e-5), Le(120)]
    time_s: Annotated[float, Ge(1e-5), Le(120)]
    u_s: Seconds = 0.0
    source: Line = "typed"
    at: Line = ""
    rested: bool = False
    rise_s: Seconds | None = None
    fall_s: Seconds | None = None
    first_s: Seconds | None = None
    second_s: Seconds | None = None
    taper_stops: Stops | None = None
    capped: bool = False
    contact_after_s: Annotated[float, Ge(-10), Le(10)] | None = None
    contact_bounces: Annotated[int, Ge(0), Le(1000)] | None = None
    picture: Curve = ()
    from_s: Seconds = 0.0
    step_s: Annotated[float, Ge(0), Le(10)] = 0.0


@dataclass(frozen=True)
class LampLook:
    """Which lamps were lit at an aperture and a light."""

    f_number: Annotated[float, Ge(0.5), Le(256)]
    lux: Annotated[float, Ge(1e-4), Le(1e7)]
    seen: Literal["slow", "over", "none", "both", "flicker"]
    at: Line = ""


@dataclass(frozen=True)
class AutoTimed:
    """A time the automatic chose at an aperture and a light."""

    f_number: Annotated[float, Ge(0.5), Le(256)]
    lux: Annotated[float, Ge(1e-4), Le(1e7)]
    time_s: Annotated[float, Ge(1e-5), Le(120)]
    u_s: Seconds = 0.0
    at: Line = ""


@dataclass(frozen=True)
class LampLaw:
    """What the automatic is meant to do: film speed, the time from which the slow lamp lights, the shortest and the longest time,
    s."""

    film_speed: Annotated[float, Ge(1), Le(100_000)] = 100.0
    slow_s: Annotated[float, Ge(1e-4), Le(60)] = 0.03125
    shortest_s: Annotated[float, Ge(1e-5), Le(1)] = 0.001953125
    longest_s: Annotated[float, Ge(1e-3), Le(120)] = 8.0
    apertures: Annotated[tuple[float, ...], MaxLen(30)] = ()
    c_lx_s: Annotated[float, Ge(1), Le(100_000)] = 250.0


@dataclass(frozen=True)
class ShotTaken:
    """One frame burnt: where wheel and slider stood, stops too bright (negative: dark), scene and light."""

    wheel: Annotated[float, Ge(-100), Le(100)]
    slider: Annotated[float, Ge(-100), Le(100)]
    stops: Annotated[float, Ge(-8), Le(8)]
    scene: Literal["outdoors", "indoors"] = "outdoors"
    flash: bool = False
    at: Line = ""


@dataclass(frozen=True)
class TraceTaken:
    """One channel of a capture: figures as worked out then, V, Hz, s; ``picture`` least and most by turns along ``span_s``;
    ``switched_s`` when a contact or a lamp went the other way, and back, by turns."""

    name: Line
    source: Line
    shape: Line
    weight: Annotated[float, Ge(0), Le(1)]
    mean: float
    peak_to_peak: Annotated[float, Ge(0)]
    ripple_rms: Annotated[float, Ge(0)]
    frequency_hz: Annotated[float, Ge(0)] | None
    duty: Annotated[float, Ge(0), Le(1)] | None
    rise_s: Annotated[float, Ge(0)] | None = None
    spikes: Annotated[int, Ge(0)] = 0
    span_s: Annotated[float, Ge(0)] = 0.0
    picture: Curve = ()
    sister: bool = False
    channel: Annotated[int, Ge(0), Le(64)] = 0
    switched_s: Annotated[tuple[float, ...], MaxLen(80)] = ()
    at: Line = ""


@dataclass(frozen=True)
class Exposing:
    """The Expose station's share of the job. ``speeds`` are true times of the marks; empty for the usual of its kind."""

    works: ShutterWorks | None = None
    speeds: Annotated[tuple[float, ...], MaxLen(40)] = ()
    tolerance_stops: Annotated[float, Ge(0.02), Le(3)] = 1 / 3
    fastest_tolerance_stops: Annotated[float, Ge(0.02), Le(3)] = 0.5
    frame_mm: Annotated[float, Ge(5), Le(200)] = 36.0
    sensors_mm: Annotated[tuple[float, ...], MaxLen(8)] = ()
    channels: Line = ""  # what each channel of a recording is of; empty: light, of every sensor
    fired: Annotated[tuple[Fired, ...], MaxLen(1000)] = ()
    lamps: Annotated[tuple[LampLook, ...], MaxLen(500)] = ()
    law: LampLaw = field(default_factory=LampLaw)
    auto: Annotated[tuple[AutoTimed, ...], MaxLen(500)] = ()
    wheel: Annotated[tuple[float, ...], MaxLen(40)] = ()
    slider: Annotated[tuple[float, ...], MaxLen(40)] = ()
    film_left: Annotated[int, Ge(0), Le(200)] | None = None
    shots: Annotated[tuple[ShotTaken, ...], MaxLen(60)] = ()
    traces: Annotated[tuple[TraceTaken, ...], MaxLen(60)] = ()
