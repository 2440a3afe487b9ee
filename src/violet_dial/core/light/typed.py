"""One light quantity as typed, converted to all others."""

import re
from dataclasses import asdict, dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light import exposure, marks
from violet_dial.core.quantities import format_grouped, parse_number, parse_with_unit

_EV = re.compile(r"(?:ev\s*(100)?\s*[=:]?\s*(?P<after>[+\-−]?[\d.,½⅓⅔¼¾ /]+)|(?P<before>.+?)\s*ev\s*(100)?)\Z", re.IGNORECASE)
EV100_LIMITS = (-20.0, 40.0)  # beyond any light a meter meets; a slip of the finger, not a reading


@dataclass(frozen=True)
class LightValue:
    """One light in every quantity.

    ``ev`` is at ``film_speed``; ``luminance_cd_m2`` with K, ``illuminance_lx`` with C; ``settings`` pairs marked
    apertures with the true and the nearest marked time.
    """

    understood: str
    film_speed: float
    film_speed_degrees: float
    ev: float
    ev100: float
    luminance_cd_m2: float
    illuminance_lx: float
    k_cd_s_m2: float
    c_lx_s: float
    settings: tuple[dict[str, float | str], ...]

    def as_json(self) -> dict[str, object]:
        """All its readings with their units in the keys."""
        return asdict(self)


def parse_light(text: str, film_speed: float, constants: exposure.Constants) -> tuple[float, str]:
    """EV100 of one typed light quantity, and how it was understood.

    Raises InvalidInput: no unit (a bare number may be EV, lux or cd/m^2), or out of reach of any meter.

    Parameters
    ----------
    text : str; ``EV 12`` (at ``film_speed``), ``EV100 12``, ``512 cd/m2``, ``10 240 lx`` or ``f/8 1/125``
    film_speed : float; arithmetic ISO speed, > 0
    constants : Constants; K and C
    """
    plain = text.strip()
    if match := _EV.match(plain):
        ev100, understood = _from_ev(match, plain, film_speed)
    elif re.search(r"f\s*/?\s*\d", plain, re.IGNORECASE):
        ev100, understood = _from_settings(plain, film_speed)
    else:
        ev100, understood = _from_photometry(plain, constants)
    if not EV100_LIMITS[0] <= ev100 <= EV100_LIMITS[1]:
        raise InvalidInput("Light", text, f"a light between EV100 {EV100_LIMITS[0]:g} and {EV100_LIMITS[1]:g}")
    return ev100, understood


def _from_ev(match: re.Match[str], text: str, film_speed: float) -> tuple[float, str]:
    number = parse_number(match["after"] or match["before"], "EV")
    if re.search(r"ev\s*100(?![\d.,])\s*[=:]?\s*\S|ev\s*100\Z", text, re.IGNORECASE):
        return number, f"EV100 {number:g}"
    ev100 = float(exposure.ev100_from_ev(number, film_speed))
    return ev100, f"EV {number:g} at ISO {film_speed:g}"


def _from_settings(text: str, film_speed: float) -> tuple[float, str]:
    parts = [part for part in re.split(r"[\s,;@]+(?!s\b|ms\b)", text) if part]
    if len(parts) != 2:
        raise InvalidInput("Light", text, "an aperture and a time, for instance f/8 1/125")
    first_is_aperture = parts[0].lower().startswith("f")
    aperture, time = (parts[0], parts[1]) if first_is_aperture else (parts[1], parts[0])
    f_number, f_text = marks.parse_aperture(aperture)
    time_s, time_text = marks.parse_time(time)
    ev100 = float(exposure.ev100_from_ev(exposure.ev_from_settings(f_number, time_s), film_speed))
    return ev100, f"{f_text} at {time_text}, ISO {film_speed:g}"


def _from_photometry(text: str, constants: exposure.Constants) -> tuple[float, str]:
    if not re.search(r"[a-zA-Z²]", text):
        parse_number(text, "Light")
        raise InvalidInput("Light", text, f"a unit: {text} EV, {text} lx or {text} cd/m2 are three different lights")
    quantity = parse_with_unit(text, ("cd/m²", "lx"), "Light")
    if quantity.unit == "lx":
        ev100 = float(exposure.ev100_from_illuminance(quantity.value, constants.c_lx_s))
    else:
        ev100 = float(exposure.ev100_from_luminance(quantity.value, constants.k_cd_s_m2))
    return ev100, f"{format_grouped(quantity.value, 0 if quantity.value >= 100 else 3)} {quantity.unit}"


def convert_light(text: str, film_speed: float, constants: exposure.Constants | None = None) -> LightValue:
    """Every light quantity that belongs to one typed quantity at one film speed.

    Parameters
    ----------
    film_speed : ISO, arithmetic
    constants : calibration constants K (cd s/m²) and C (lx s); the usual ones when None
    """
    used = constants or exposure.Constants()
    ev100, understood = parse_light(text, film_speed, used)
    ev = float(exposure.ev_from_ev100(ev100, film_speed))
    return LightValue(
        understood=understood,
        film_speed=film_speed,
        film_speed_degrees=float(exposure.degrees_from_speed(film_speed)),
        ev=ev,
        ev100=ev100,
        luminance_cd_m2=float(exposure.luminance_from_ev100(ev100, used.k_cd_s_m2)),
        illuminance_lx=float(exposure.illuminance_from_ev100(ev100, used.c_lx_s)),
        k_cd_s_m2=used.k_cd_s_m2,
        c_lx_s=used.c_lx_s,
        settings=_settings_for(ev),
    )


def _settings_for(ev: float) -> tuple[dict[str, float | str], ...]:
    rows: list[dict[str, float | str]] = []
    times = marks.time_marks(3)
    for aperture in marks.aperture_marks(1):
        time_s = float(exposure.time_for(ev, aperture.true_value))
        mark, off_stops = marks.nearest_mark(time_s, times)
        if abs(off_stops) <= 0.5:
            rows.append({"aperture": aperture.text, "time_s": time_s, "time_mark": mark.text, "off_stops": off_stops})
    return tuple(rows)
