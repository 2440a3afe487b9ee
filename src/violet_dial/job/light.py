"""Light's records: how the meter is checked, and readings in runs between adjustments."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.records.light import DEFAULT_U_READING, Adjuster, Chain, LightReading, Tolerance
from violet_dial.core.steady.samples import Capture
from violet_dial.job.contents import DialPicture, SmallPicture, SpectrumNm, SpectrumValues
from violet_dial.job.text import Line

AS_FOUND = "as found"
Place = Annotated[float, Ge(0), Le(4096)]  # px from the left or from the top


@dataclass(frozen=True)
class TakenReading:
    """A reading with what was typed and the sum of the reference chain at that time; ``capture`` is of the light, ``needle`` of
    the needle where a camera read it; ``picture`` is what it saw of the dial, small."""

    reading: LightReading
    taken_at: Line = ""
    typed_reference: Line = ""
    reference_sum: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    capture: Capture | None = None
    picture: SmallPicture = ""
    needle: Capture | None = None


@dataclass(frozen=True)
class Run:
    """Readings taken in one state of the meter; ``shift_stops`` is what was done to the scale just before."""

    name: Line = AS_FOUND
    readings: Annotated[tuple[TakenReading, ...], MaxLen(2000)] = ()  # far beyond a day's work, judged in bounded time
    shift_stops: Annotated[float, Ge(-20), Le(20)] = 0.0

    @property
    def bare(self) -> tuple[LightReading, ...]:
        """The readings as the core takes them."""
        return tuple(taken.reading for taken in self.readings)


@dataclass(frozen=True)
class LightSetup:
    """How this meter is checked: film speed, reference chain, tolerance, adjuster, range, reading uncertainty."""

    film_speed: Annotated[float, Ge(1), Le(100_000)] = 100.0
    light_source: Line = "tungsten 2856 K"
    chain: Chain = field(default_factory=Chain)
    tolerance: Tolerance = field(default_factory=Tolerance)
    adjuster: Adjuster = field(default_factory=Adjuster)
    range_from_ev100: Annotated[float, Ge(-20), Le(40)] = 5.0
    range_to_ev100: Annotated[float, Ge(-20), Le(40)] = 15.0
    u_reading: Annotated[float, Ge(0.001), Le(5)] = DEFAULT_U_READING


@dataclass(frozen=True)
class OwnSpectrum:
    """A spectrum brought in: what it is of, wavelengths in nm and values at them."""

    name: Line
    kind: Literal["light", "filter", "cell"]
    nm: SpectrumNm
    values: SpectrumValues


@dataclass(frozen=True)
class Colour:
    """The colour of the light: the lamp of the check and what it stands behind, the light that the meter is meant for, its cell
    (empty: by the kind of device) and what lies over it, lamps and filters at hand, spectra brought in."""

    lamp: Line = "A"
    behind: Annotated[tuple[Line, ...], MaxLen(8)] = ()
    meant_for: Line = "D55"
    cell: Line = ""
    over: Annotated[tuple[Line, ...], MaxLen(8)] = ()
    lamps: Annotated[tuple[Line, ...], MaxLen(20)] = ("A", "3200 K", "LED-B3")
    filters: Annotated[tuple[Line, ...], MaxLen(20)] = ("80A", "80B")
    own: Annotated[tuple[OwnSpectrum, ...], MaxLen(20)] = ()


@dataclass(frozen=True)
class DialMark:
    """A mark of a scale in a camera's picture, with its value."""

    x: Place
    y: Place
    value: Annotated[float, Ge(-1e6), Le(1e6)]


@dataclass(frozen=True)
class LampPlace:
    """A lamp in a camera's picture: its radius in px, and by how much of full white it is brighter than its ground when off."""

    name: Literal["slow", "over"]
    x: Place
    y: Place
    radius: Annotated[float, Ge(1), Le(200)] = 6.0
    off: Annotated[float, Ge(-1), Le(1)] = 0.0


@dataclass(frozen=True)
class DialSetUp:
    """The dial before a camera: marks of its scale, the size of the pictures in px, the dial without its needle (WebP in base64;
    empty where there is no such picture), lamps beside it, and whether a ring's pointer is turned
    to meet its needle."""

    marks: Annotated[tuple[DialMark, ...], MaxLen(60)] = ()
    wide: Annotated[int, Ge(0), Le(4096)] = 0
    tall: Annotated[int, Ge(0), Le(4096)] = 0
    empty: DialPicture = ""
    lamps: Annotated[tuple[LampPlace, ...], MaxLen(2)] = ()
    has_ring: bool = False


@dataclass(frozen=True)
class NeedleNote:
    """What a needle did while it was watched: settling, creeping, at rest; in words, and the figures behind them."""

    kind: Literal["settles", "creeps", "rests"]
    words: Line
    rows: Annotated[tuple[Line, ...], MaxLen(12)] = ()
    taken_at: Line = ""


@dataclass(frozen=True)
class LightCheck:
    """The Light station's share of the job."""

    setup: LightSetup = field(default_factory=LightSetup)
    runs: Annotated[tuple[Run, ...], MaxLen(100)] = (Run(),)
    colour: Colour = field(default_factory=Colour)
    dial: DialSetUp = field(default_factory=DialSetUp)
    needle: Annotated[tuple[NeedleNote, ...], MaxLen(60)] = ()

    @property
    def current(self) -> Run:
        """The run readings are taken into now."""
        return self.runs[-1] if self.runs else Run()
