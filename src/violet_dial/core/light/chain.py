"""Reference chains: from something trusted to the EV100 that falls on the meter, with its uncertainty.

A chain is one source and any number of further links. Each contributes a `Term`: so many stops, with a standard
uncertainty and the sum that gave it. The terms add up to EV100; their uncertainties combine by root sum of squares.

Source: JCGM 100:2008, 5.1.2 (combined standard uncertainty of independent inputs).
"""

import math
from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light import exposure
from violet_dial.core.quantities import format_grouped, format_signed, parse_number
from violet_dial.core.records.light import (
    Chain,
    DensityStep,
    LampAtDistance,
    Link,
    LuminancePanel,
    LuxMeter,
    Source,
    TrustedMeter,
)

STOPS_PER_RELATIVE = 1.0 / math.log(2.0)  # a relative error r is r / ln 2 stops, to first order


@dataclass(frozen=True)
class Term:
    """One link's share: stops, standard uncertainty in stops, and the sum with the values put in."""

    label: str
    stops: float
    u_stops: float
    arithmetic: str


@dataclass(frozen=True)
class ReferenceLight:
    """What falls on the meter: EV100, its standard uncertainty in stops, and the terms behind it."""

    ev100: float
    u_stops: float
    terms: tuple[Term, ...]
    understood: str

    def opened(self) -> tuple[str, ...]:
        """The sum, a line per term and one for the total."""
        lines = [f"{term.label}: {term.arithmetic} (u {term.u_stops:.3f})" for term in self.terms]
        squares = " + ".join(f"{term.u_stops:.3f}²" for term in self.terms)
        return (*lines, f"EV100 = {self.ev100:.2f}, u = √({squares}) = {self.u_stops:.3f} stop")


UNIT_TYPED = {"trusted meter": "EV100", "lux meter": "lx", "luminance panel": "cd/m²", "lamp at a distance": "m"}


def reference_figure(chain: Chain, typed: str) -> float:
    """What the source was read or set to, in its own unit (EV100, lx, cd/m^2 or m), as typed; the unit may be left out.

    Raises InvalidInput: not a number, a unit that belongs to another kind of source, or not above zero where it must be.
    """
    return _possible(chain.source, _number_in(typed, UNIT_TYPED[chain.source.kind]), typed)


def _possible(source: Source, figure: float, said: object) -> float:
    if figure <= 0 and not isinstance(source, TrustedMeter):
        raise InvalidInput("Reference", said, f"a figure above zero, in {UNIT_TYPED[source.kind]}")
    return figure


def reference_light(chain: Chain, figure: float, u: float = 0.0) -> ReferenceLight:
    """EV100 on the meter under test from the chain and what its source was read or set to.

    Raises InvalidInput: not above zero where it must be.

    Parameters
    ----------
    figure : in the source's own unit
    u : standard uncertainty of it in the same unit as a lux meter stated it; 0: the chain's own
    """
    source = chain.source
    _possible(source, figure, f"{figure:g}")
    if isinstance(source, LuxMeter) and u > 0:
        source = replace(source, u_relative=u / figure)
    first, understood = _source_term(source, figure)
    terms = (first, *(_link_term(link) for link in chain.links))
    ev100 = sum(term.stops for term in terms)
    u_stops = math.sqrt(sum(term.u_stops**2 for term in terms))
    return ReferenceLight(ev100, u_stops, terms, understood)


def typed_for(chain: Chain, ev100: float) -> float:
    """The figure the source must be read or set to so that ``ev100`` falls on the meter under test."""
    at_source = ev100 - sum(_link_term(link).stops for link in chain.links)
    source = chain.source
    if isinstance(source, TrustedMeter):
        return at_source + source.known_error_stops
    if isinstance(source, LuxMeter):
        return float(exposure.illuminance_from_ev100(at_source, source.c_lx_s))
    if isinstance(source, LuminancePanel):
        return float(exposure.luminance_from_ev100(at_source, source.k_cd_s_m2))
    lux = float(exposure.illuminance_from_ev100(at_source, source.c_lx_s))
    if source.radius_m == 0:
        return math.sqrt(source.strength / lux)
    squared = source.radius_m**2 * (math.pi * source.strength / lux - 1.0)
    if squared <= 0:
        raise InvalidInput("Distance", ev100, "a light the lamp can give; it is not bright enough for this EV")
    return math.sqrt(squared)


def _number_in(typed: str, unit: str) -> float:
    text = typed.strip()
    spellings = {"lx": ("lux", "lx"), "cd/m²": ("cd/m2", "cd/m²", "cd/m^2"), "m": ("m",), "EV100": ("ev100", "ev")}
    for spelling in spellings[unit]:
        if text.lower().endswith(spelling):
            return parse_number(text[: -len(spelling)], "Reference")
        if unit == "EV100" and text.lower().startswith(spelling):
            return parse_number(text[len(spelling) :], "Reference")
    for other, names in spellings.items():
        if other not in (unit, "m") and any(name in text.lower() for name in names):
            raise InvalidInput("Reference", typed, f"a figure in {unit}, as the reference chain is set up")
    return parse_number(text, "Reference")


def _source_term(source: Source, number: float) -> tuple[Term, str]:
    unit = UNIT_TYPED[source.kind]
    if isinstance(source, TrustedMeter):
        stops = number - source.known_error_stops
        arithmetic = f"{number:.2f} − ({format_signed(source.known_error_stops)}) = {stops:.2f}"
        return Term("trusted meter less its own error", stops, source.u_stops, arithmetic), f"EV100 {number:g}"
    if isinstance(source, LampAtDistance):
        return _lamp_term(source, number), f"{number:g} m"
    shown = f"{format_grouped(number, 0 if number >= 100 else 2)} {unit}"
    u_stops = source.u_relative * STOPS_PER_RELATIVE
    if isinstance(source, LuxMeter):
        stops = float(exposure.ev100_from_illuminance(number, source.c_lx_s))
        arithmetic = f"log2({number:g} lx × 100 / {source.c_lx_s:g}) = {stops:.2f}"
        return Term("lux meter", stops, u_stops, arithmetic), shown
    stops = float(exposure.ev100_from_luminance(number, source.k_cd_s_m2))
    arithmetic = f"log2({number:g} cd/m² × 100 / {source.k_cd_s_m2:g}) = {stops:.2f}"
    return Term("luminance panel", stops, u_stops, arithmetic), shown


def _lamp_term(source: LampAtDistance, distance_m: float) -> Term:
    if source.radius_m > 0:
        lux = float(exposure.disc_source_illuminance(source.strength, source.radius_m, distance_m))
        law = f"π × {source.strength:g} × {source.radius_m:g}² / ({source.radius_m:g}² + {distance_m:g}²)"
        slope = 2.0 * distance_m / (source.radius_m**2 + distance_m**2)
    else:
        lux = float(exposure.point_source_illuminance(source.strength, distance_m))
        law = f"{source.strength:g} cd / {distance_m:g}²"
        slope = 2.0 / distance_m
    stops = float(exposure.ev100_from_illuminance(lux, source.c_lx_s))
    u_stops = math.hypot(source.u_relative, slope * source.u_distance_m) * STOPS_PER_RELATIVE
    arithmetic = f"{law} = {lux:.4g} lx; log2({lux:.4g} × 100 / {source.c_lx_s:g}) = {stops:.2f}"
    return Term("lamp at a distance", stops, u_stops, arithmetic)


def _link_term(link: Link) -> Term:
    if isinstance(link, DensityStep):
        stops = -float(exposure.stops_of_density(link.density))
        u_stops = link.u_density * exposure.STOPS_PER_DENSITY
        return Term(f"density {link.density:g}", stops, u_stops, f"−{link.density:g} / 0.30103 = {stops:.2f}")
    return Term(link.reason, link.stops, link.u_stops, format_signed(link.stops))
