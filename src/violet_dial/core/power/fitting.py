"""Fitting a diode into the battery's lead, and whether it was fitted right: the diode test both ways, volts before and behind.

Source: What is read under each of the ways it can have gone is solved from the circuit; Bayes' rule over them, "none of these"
among them. How leads are cut and sleeved: common practice, no source.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import Port
from violet_dial.core.power.fed import feed_many
from violet_dial.core.power.feeds import DIODES, BatteryChoice
from violet_dial.core.power.meter_error import AskedLights

Array = npt.NDArray[np.float64]
Verdict = Literal["fitted right", "wrong way round", "shorted", "open", "another diode", "none of these"]
Lead = Literal["positive", "negative"]
TEST_A = 1e-3  # what a meter's diode test sends; common practice, no source
METER_SHARE, METER_V = 0.005, 0.002  # of the meter in the hand, one standard deviation; common practice, no source
DROP_V = 0.02  # by which two diodes of one kind differ, one standard deviation; common practice, no source
SPAN_V = 2.0  # over which a figure lies anywhere where none of these is true
PRIOR: dict[Verdict, float] = {
    "fitted right": 0.75, "wrong way round": 0.08, "shorted": 0.04, "open": 0.04, "another diode": 0.06, "none of these": 0.03,
}  # common practice, no source  # fmt: skip
SURE = 0.9
MOST_READ_V = 30.0


@dataclass(frozen=True)
class FitReadout:
    """One figure of the check: the diode test ``forward`` or ``reverse`` (volts; infinite for overload), or volts ``before`` and
    ``behind`` the diode in a light, EV100."""

    what: Literal["forward", "reverse", "behind"]
    volts: float
    before_v: float = 0.0
    ev100: float = 0.0

    def __post_init__(self) -> None:
        for field, value in (("Volts", self.volts), ("Volts before it", self.before_v)):
            overload = math.isinf(value) and self.what != "behind"
            if not overload and not 0.0 <= value <= MOST_READ_V:
                raise InvalidInput(field, value, f"0 to {MOST_READ_V:g} V, or OL for the diode test")


@dataclass(frozen=True)
class Checked:
    """How likely each way is after what was read, likeliest first; ``expected`` what is read where it is fitted right."""

    chances: tuple[tuple[Verdict, float], ...]
    expected: tuple[str, ...]

    @property
    def verdict(self) -> Verdict | None:
        """The way that is sure enough; None: take it again."""
        return self.chances[0][0] if self.chances and self.chances[0][1] >= SURE else None

    @property
    def words(self) -> str:
        """The verdict in one sentence."""
        if self.verdict is None:
            (first, one), (second, two) = self.chances[:2]
            return f"Undecided: {first} {one:.0%}, {second} {two:.0%}. Read volts behind it in another light."
        return f"{self.verdict[0].upper()}{self.verdict[1:]} ({self.chances[0][1]:.0%})."


def steps_of(choice: BatteryChoice, lead: Lead = "positive") -> tuple[str, ...]:
    """How the diode of a choice is fitted, a line each; empty where it has none. ``choice``: what feeds the device."""
    if not choice.diodes:
        return ()
    several = len(choice.diodes) > 1
    band = "towards the circuit, away from the battery" if lead == "positive" else "towards the battery, away from the circuit"
    return (
        f"Take the cell out. Open the {lead} lead of the battery, where a sleeve has room.",
        f"{'Diodes one behind the other, each b' if several else 'B'}and {band}: current runs from plus to minus.",
        "Cut its leads to about 3 mm, tin them, hold the heat off with tweezers; no solder on a cell.",
        "Slip a sleeve over the whole of it: no bare metal may touch body or lever.",
        "Lay it clear of levers and of the rewind clutch; close, wind and fire once, look again.",
        "The wrong way round nothing is hurt and nothing works: turn it.",
    )


def expected_v(port: Port, asked: AskedLights, choice: BatteryChoice, read: FitReadout, temperature_c: float) -> float:
    """Volts behind what stands in the lead, given the volts read before it.

    Parameters
    ----------
    port : the device
    asked : for the volts it is solved at
    read : volts before, and the light
    """
    table = port.table(np.array([read.ev100]), asked.volts())
    stiff = BatteryChoice(None, choice.diodes, choice.resistor_ohm, 0.0, max(read.before_v, 1e-3))
    found = feed_many(table, [stiff], np.ones(1), temperature_c)
    return float(found.clip_v[0, 0])


def check_fitting(
    port: Port, asked: AskedLights, choice: BatteryChoice, reads: Sequence[FitReadout], temperature_c: float = 20.0
) -> Checked:
    """How the diode of a choice was fitted, by what was read.

    Raises InvalidInput: the choice has no diode.

    Parameters
    ----------
    port : the device
    asked : for the volts it is solved at
    reads : the diode test both ways, volts before and behind; any of them
    """
    if not choice.diodes:
        raise InvalidInput("Choice", choice.name, "one with a diode in the lead")
    others = [diode for diode in DIODES.values() if diode not in choice.diodes]
    ways: dict[Verdict, list[BatteryChoice]] = {
        "fitted right": [choice], "shorted": [BatteryChoice(choice.size, (), choice.resistor_ohm, supply_v=1.0)],
        "another diode": [BatteryChoice(choice.size, (other,), choice.resistor_ohm) for other in others],
    }  # fmt: skip
    logs = {way: math.log(share) for way, share in PRIOR.items()}
    for read in reads:
        for way in PRIOR:
            logs[way] += math.log(max(_density(port, asked, (way, ways.get(way, [choice])), read, temperature_c), 1e-12))
    most = max(logs.values())
    weights = {way: math.exp(log - most) for way, log in logs.items()}
    whole = sum(weights.values())
    chances = sorted(((way, weight / whole) for way, weight in weights.items()), key=lambda pair: -pair[1])
    return Checked(tuple(chances), _expected_lines(port, asked, choice, reads, temperature_c))


def _density(
    port: Port, asked: AskedLights, way: tuple[Verdict, list[BatteryChoice]], read: FitReadout, temperature_c: float
) -> float:
    """How densely a figure lies where it was read, where a way is true."""
    name, choices = way
    flat = 1.0 / SPAN_V
    if name == "none of these":
        return flat
    if read.what == "behind":
        if name in ("wrong way round", "open"):
            return _normal(read.volts, 0.0, 0.03)
        return float(np.mean([_behind(port, asked, choice, read, temperature_c, name) for choice in choices]))
    if name == "open":
        return 1.0 if math.isinf(read.volts) else 0.02 * flat
    if name == "shorted":
        return 0.0 if math.isinf(read.volts) else _normal(read.volts, 0.0, 0.01)
    conducts = (read.what == "forward") != (name == "wrong way round")
    if not conducts:
        return 0.97 if math.isinf(read.volts) else 0.03 * flat
    if math.isinf(read.volts):
        return 0.01
    drops = [sum(float(part.drop_v(np.array(TEST_A), temperature_c)) for part in choice.diodes) for choice in choices]
    return float(np.mean([_normal(read.volts, drop, math.hypot(0.03 * len(choices[0].diodes), METER_V)) for drop in drops]))


def _behind(
    port: Port, asked: AskedLights, choice: BatteryChoice, read: FitReadout, temperature_c: float, name: Verdict
) -> float:
    there = expected_v(port, asked, choice, read, temperature_c)
    meter = math.hypot(METER_SHARE * read.before_v, METER_V)
    own = 0.0 if name == "shorted" else DROP_V * len(choice.diodes)
    return _normal(read.volts, there, math.hypot(meter, own))


def _normal(x: float, mean: float, u: float) -> float:
    return math.exp(-0.5 * ((x - mean) / u) ** 2) / (u * math.sqrt(2 * math.pi))


def _expected_lines(
    port: Port, asked: AskedLights, choice: BatteryChoice, reads: Sequence[FitReadout], temperature_c: float
) -> tuple[str, ...]:
    drop = sum(float(diode.drop_v(np.array(TEST_A), temperature_c)) for diode in choice.diodes)
    found = [f"diode test, red on the end without a band: {drop:.2f} V; the other way: OL"]
    behind = [read for read in reads if read.what == "behind"]
    if not behind:  # two lights far apart, on a fresh cell
        fresh = float(choice.emf_v(np.ones(1), temperature_c)[0])
        for share in (0.25, 0.75):
            ev100 = round(asked.ev_from + share * (asked.ev_to - asked.ev_from))
            there = expected_v(port, asked, choice, FitReadout("behind", 0.0, fresh, ev100), temperature_c)
            found.append(f"Ev {ev100:g}, {fresh:.2f} V before it: {there:.2f} V behind it")
    for read in behind:
        there = expected_v(port, asked, choice, read, temperature_c)
        said = f"Ev {read.ev100:g}, {read.before_v:.3f} V before it: {there:.3f} V behind it"
        found.append(f"{said}; read {read.volts:.3f} V")
    return tuple(found)
