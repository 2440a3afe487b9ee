"""A meter's readings and how it is checked: plain records, nothing computed."""

import math
from dataclasses import dataclass, field
from typing import Literal

from violet_dial.core.errors import InvalidInput

DEFAULT_C_FLAT = 250.0
DEFAULT_K = 12.5


@dataclass(frozen=True)
class Adjuster:
    """How this meter is moved. A figure of 0 means: not there, or not measured.

    ``notch_stops`` stops per drum notch; ``degrees_per_stop`` of drum or dial; ``drum_diameter_mm`` where the cord
    lies; ``step_stops`` smallest step the adjuster can take (0: free); ``cord_left_mm`` cord still on the drum when
    the ring is at its hard stop, as found; ``film_speed`` the mark the dial is set to.
    """

    notch_stops: float = 0.0
    degrees_per_stop: float = 0.0
    drum_diameter_mm: float = 0.0
    step_stops: float = 0.0
    cord_left_mm: float = 0.0
    film_speed: float = 100.0

    def __post_init__(self) -> None:
        for name, value, most in (
            ("Stops per notch", self.notch_stops, 5.0),
            ("Degrees per stop", self.degrees_per_stop, 180.0),
            ("Drum diameter", self.drum_diameter_mm, 200.0),
            ("Smallest step", self.step_stops, 2.0),
            ("Cord left", self.cord_left_mm, 2000.0),
        ):
            if not (math.isfinite(value) and 0 <= value <= most):
                raise InvalidInput(name, value, f"0 (not known) to {most:g}")
        if not (math.isfinite(self.film_speed) and 1 <= self.film_speed <= 100_000):
            raise InvalidInput("Film speed", self.film_speed, "an arithmetic speed from 1 to 100 000")

    @property
    def cord_mm_per_stop(self) -> float:
        """Cord that runs for one stop: pi d (degrees per stop)/360."""
        return math.pi * self.drum_diameter_mm * self.degrees_per_stop / 360.0


Direction = Literal["rising", "falling", ""]
COVERAGE_FACTOR = 2.0  # expanded U = 2u
EV100_LIMITS = (-20.0, 40.0)


MOST_UNCERTAINTY = 5.0  # stops; beyond this a figure is a slip
DEFAULT_U_REFERENCE = 0.05
DEFAULT_U_READING = 0.06  # a needle read to a tenth of a stop: half-width 0.1, rectangular, 0.1/sqrt(3)


@dataclass(frozen=True)
class LightReading:
    """One reading: EV100 sent in, EV100 shown, standard uncertainties in stops.

    ``direction`` is how the light came to its level; ``attitude`` how the meter was held ("" when not noted).
    """

    reference_ev100: float
    indicated_ev100: float
    direction: Direction = ""
    attitude: str = ""
    u_reference: float = DEFAULT_U_REFERENCE
    u_reading: float = DEFAULT_U_READING

    def __post_init__(self) -> None:
        _checked_ev("Reference", self.reference_ev100)
        _checked_ev("Reading", self.indicated_ev100)
        for name, value in (("Reference uncertainty", self.u_reference), ("Reading uncertainty", self.u_reading)):
            if not (math.isfinite(value) and 0 < value <= MOST_UNCERTAINTY):
                raise InvalidInput(name, value, f"a standard uncertainty above 0 and up to {MOST_UNCERTAINTY:g} stops")

    @property
    def error_stops(self) -> float:
        return self.indicated_ev100 - self.reference_ev100

    @property
    def standard_uncertainty_stops(self) -> float:
        return math.hypot(self.u_reference, self.u_reading)

    @property
    def expanded_uncertainty_stops(self) -> float:
        return COVERAGE_FACTOR * self.standard_uncertainty_stops


def _checked_ev(field: str, value: float) -> None:
    if not (math.isfinite(value) and EV100_LIMITS[0] <= value <= EV100_LIMITS[1]):
        raise InvalidInput(field, value, f"an EV between {EV100_LIMITS[0]:g} and {EV100_LIMITS[1]:g}")


@dataclass(frozen=True, kw_only=True)
class TrustedMeter:
    """A meter trusted by the technician: its EV100 reading less its own known error (stops, positive: high)."""

    kind: Literal["trusted meter"] = "trusted meter"
    known_error_stops: float = 0.0
    u_stops: float = 0.05


@dataclass(frozen=True, kw_only=True)
class LuxMeter:
    """A lux meter beside the meter under test; ``c_lx_s`` is the receptor constant of the meter under test."""

    kind: Literal["lux meter"] = "lux meter"
    c_lx_s: float = DEFAULT_C_FLAT
    u_relative: float = 0.03


@dataclass(frozen=True, kw_only=True)
class LuminancePanel:
    """An evenly lit panel of known luminance that fills the view of the meter."""

    kind: Literal["luminance panel"] = "luminance panel"
    k_cd_s_m2: float = DEFAULT_K
    u_relative: float = 0.03


@dataclass(frozen=True, kw_only=True)
class LampAtDistance:
    """A lamp at a typed distance in metres: point-like when ``radius_m`` is 0, else a matt disc.

    ``strength`` is candela for a point and cd/m^2 for a disc.
    """

    kind: Literal["lamp at a distance"] = "lamp at a distance"
    strength: float = 100.0
    radius_m: float = 0.0
    c_lx_s: float = DEFAULT_C_FLAT
    u_relative: float = 0.05
    u_distance_m: float = 0.005


Source = TrustedMeter | LuxMeter | LuminancePanel | LampAtDistance


@dataclass(frozen=True, kw_only=True)
class DensityStep:
    """A neutral density between light and meter."""

    kind: Literal["density"] = "density"
    density: float = 0.3
    u_density: float = 0.01


@dataclass(frozen=True, kw_only=True)
class Correction:
    """A known difference in stops, for instance for the colour of the light; ``reason`` says what for."""

    kind: Literal["correction"] = "correction"
    stops: float = 0.0
    u_stops: float = 0.05
    reason: str = "colour of the light"


Link = DensityStep | Correction


@dataclass(frozen=True)
class Chain:
    """A source and the links between it and the meter under test."""

    source: Source = field(default_factory=TrustedMeter)
    links: tuple[Link, ...] = ()


@dataclass(frozen=True)
class Tolerance:
    """Permitted error in stops: ``mid_stops``, and ``ends_stops`` within ``end_width_ev`` of either end of the range."""

    mid_stops: float = 1 / 3
    ends_stops: float = 1 / 2
    end_width_ev: float = 1.0

    def __post_init__(self) -> None:
        for name, value in (("Tolerance", self.mid_stops), ("Tolerance at the ends", self.ends_stops)):
            if not (math.isfinite(value) and 0 < value <= MOST_UNCERTAINTY):
                raise InvalidInput(name, value, f"more than 0 and up to {MOST_UNCERTAINTY:g} stops")
        if not (math.isfinite(self.end_width_ev) and 0 <= self.end_width_ev <= 10):
            raise InvalidInput("Width of the ends", self.end_width_ev, "0 to 10 EV")
