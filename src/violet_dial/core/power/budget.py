"""How long a battery lasts in the hands of its user: currents by state, how often each is on, and what the cell loses by itself.

Source: Charge = current times time. How much capacities differ from what is printed: common practice, no source.
"""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cells import AT_C, OPENED_SPREAD, Size
from violet_dial.core.power.meter_error import LIFE_ENDS
from violet_dial.core.power.states import STATE_NAMES, BatteryState, StateName
from violet_dial.core.quantities import parse_number, parse_with_unit

HOURS_A_YEAR, HOURS_A_WEEK = 8766.0, 168.0
SPREAD = 0.2  # one standard deviation of a capacity, as a share; common practice, no source
COVERS = 1.96  # standard deviations of a band of 95 %
UNITS = (("years", HOURS_A_YEAR, 1.0), ("months", HOURS_A_YEAR / 12, 2.0), ("weeks", HOURS_A_WEEK, 1.5), ("days", 24.0, 1.5))


def span_words(low: float, high: float) -> str:
    """A span of hours as a person says it: ``6 to 15 months``. ``low``, ``high``: hours, 0 or more."""
    unit, size = next(((unit, size) for unit, size, least in UNITS if low >= least * size), ("hours", 1.0))
    said = [plain(one / size) for one in (low, high)]
    return f"{said[0]} to {said[1]} {unit}" if said[0] != said[1] else f"{said[0]} {unit}"


def plain(value: float) -> str:
    """A figure of two digits, or whole. ``value``: 0 or more."""
    return f"{value:.0f}" if value >= 9.5 else f"{value:.2g}"


def band_of(hours: float) -> tuple[float, float]:
    """A band of 95 % about hours reckoned with the capacity that is printed."""
    return hours * math.exp(-COVERS * SPREAD), hours * math.exp(COVERS * SPREAD)


HOURS_A_MONTH = HOURS_A_YEAR / 12
SHELF_YEARS = 10.0  # no small cell is left in a device for longer: it leaks; common practice, no source
COLD_SHARE = 0.01  # of the capacity lost for each degree below 20 C; common practice, no source
LEAST_CAPACITY = 0.3
_TIMES = {"s": 1 / 3600, "sec": 1 / 3600, "min": 1 / 60, "h": 1.0, "hour": 1.0, "hours": 1.0}


@dataclass(frozen=True)
class Use:
    """How a device is used. ``hours_a_roll`` by state; ``typed_a`` currents that were measured, by state; ``leak_a`` what a dirty
    board lets through, at all times; ``longest_open_s`` the longest a shutter is held open; ``cold_c`` where it is used."""

    rolls_a_month: float = 1.0
    hours_a_roll: tuple[tuple[StateName, float], ...] = (("metering", 0.5), ("magnet held", 36 / 3600), ("lamps", 36 / 3600))
    typed_a: tuple[tuple[StateName, float], ...] = ()
    leak_a: float = 0.0
    longest_open_s: float = 0.0
    cold_c: float = AT_C

    def __post_init__(self) -> None:
        for name, value, most in (
            ("Rolls a month", self.rolls_a_month, 1000.0), ("Leak", self.leak_a, 1.0), ("Longest open", self.longest_open_s, 1e5),
            *((one, hours, 500.0) for one, hours in self.hours_a_roll), *((one, amp, 20.0) for one, amp in self.typed_a),
        ):  # fmt: skip
            if not (math.isfinite(value) and 0.0 <= value <= most):
                raise InvalidInput(name, value, f"0 to {most:g}")
        if not -10.0 <= self.cold_c <= 40.0:
            raise InvalidInput("Cold", self.cold_c, "-10 to 40 °C")


@dataclass(frozen=True)
class Share:
    """What one state takes: its current, hours a month, charge a month in Ah, and its share of all that goes."""

    name: str
    amp: float
    hours: float
    ah: float
    share: float
    typed: bool = False


@dataclass(frozen=True)
class Budget:
    """What goes where, and how long the battery lasts: weeks with a band of 95 %, rolls likewise; how long the shutter may be
    held open on a fresh battery before the magnet lets go, hours (None without a magnet)."""

    shares: tuple[Share, ...]
    weeks: float
    weeks_low: float
    weeks_high: float
    rolls: float
    rolls_low: float
    rolls_high: float
    open_hours: float | None
    warnings: tuple[str, ...] = ()


def currents(states: Sequence[BatteryState]) -> dict[StateName, float]:
    """The current of each state: the most of those that are called so, A."""
    found: dict[StateName, float] = {}
    for state in states:
        found[state.name] = max(found.get(state.name, 0.0), state.amp)
    return found


def budget(size: Size, use: Use, by_circuit: Mapping[StateName, float], gives_up: float = LIFE_ENDS) -> Budget:
    """How long a battery lasts.

    Parameters
    ----------
    use : how the device is used
    by_circuit : current of each state, A
    gives_up : charge left when the device stops, 0 to 1
    """
    typed = dict(use.typed_a)
    amps = {**by_circuit, **typed}
    hours = {name: each * use.rolls_a_month for name, each in use.hours_a_roll}
    awake = sum(each for name, each in hours.items() if name in amps)
    hours["asleep"] = max(HOURS_A_MONTH - awake, 0.0)
    loss_a = size.ah * size.chemistry.yearly_loss / HOURS_A_YEAR
    rows: list[tuple[str, float, float]] = [(name, amps.get(name, 0.0), hours.get(name, 0.0)) for name in STATE_NAMES]
    rows += [("leak", use.leak_a, HOURS_A_MONTH), ("the cell's own loss", loss_a, HOURS_A_MONTH)]
    whole = sum(amp * on for _, amp, on in rows) or 1e-12
    each = (Share(name, amp, on, amp * on, amp * on / whole, name in typed) for name, amp, on in rows if amp * on > 0)
    shares = sorted(each, key=lambda one: -one.ah)
    usable = size.ah * (1.0 - gives_up) * max(LEAST_CAPACITY, 1.0 - COLD_SHARE * max(AT_C - use.cold_c, 0.0))
    weeks = usable / whole * HOURS_A_MONTH / HOURS_A_WEEK
    low, high = (weeks * math.exp(sign * COVERS * SPREAD) for sign in (-1, 1))
    opened = size.chemistry.opened_weeks or SHELF_YEARS * HOURS_A_YEAR / HOURS_A_WEEK / (1 + OPENED_SPREAD)
    weeks, low, high = (
        min(one, opened * share) for one, share in ((weeks, 1.0), (low, 1 - OPENED_SPREAD), (high, 1 + OPENED_SPREAD))
    )
    rolls = use.rolls_a_month * HOURS_A_WEEK / HOURS_A_MONTH
    held = amps.get("magnet held")
    open_hours = usable / held if held else None
    return Budget(
        tuple(shares),
        weeks,
        low,
        high,
        weeks * rolls,
        low * rolls,
        high * rolls,
        open_hours,
        _warnings(use, amps, usable, open_hours),
    )


def _warnings(use: Use, amps: Mapping[StateName, float], usable: float, open_hours: float | None) -> tuple[str, ...]:
    found = []
    if open_hours is not None and use.longest_open_s / 3600 > 0.5 * open_hours:
        share = use.longest_open_s / 3600 / open_hours
        found.append(f"Held open {use.longest_open_s:g} s, it takes {100 * share:.0f} % of a fresh battery.")
    on = {name: amp for name, amp in amps.items() if name != "asleep" and amp > 0}
    if on:
        name = max(on, key=lambda one: on[one])
        found.append(f"Left on {name}, a fresh battery is empty in {span_words(*band_of(usable / on[name]))}.")
    return tuple(found)


EXPECTED = "2 rolls a month · metering 20 min a roll · magnet held 40 s a roll · metering 120 uA · leak 3 uA · cold 0 C"


def understand_use(use: Use, text: str) -> Use:
    """The use with one more line said about it.

    ``text``: as ``2 rolls a month``, ``metering 20 min a roll``, ``magnet held 31 mA``. Raises InvalidInput: not understood.
    """
    said = " ".join(text.lower().split())
    if match := re.fullmatch(r"(\S+) rolls? a month", said):
        return replace(use, rolls_a_month=parse_number(match[1], "Rolls a month"))
    if match := re.fullmatch(r"longest open (\S+) ?(s|sec|min|h)", said):
        return replace(use, longest_open_s=parse_number(match[1], "Longest open") * _TIMES[match[2]] * 3600)
    if match := re.fullmatch(r"(?:cold|at) (\S+) ?°?c?", said):
        return replace(use, cold_c=parse_number(match[1], "Cold"))
    if match := re.fullmatch(r"leak (.+)", said):
        return replace(use, leak_a=parse_with_unit(match[1], ("A",), "Leak", "A").value)
    names = "|".join(STATE_NAMES)
    if match := re.fullmatch(rf"({names}) (\S+) ?(s|sec|min|h|hours?) a roll", said):
        return replace(use, hours_a_roll=_put(use.hours_a_roll, match[1], parse_number(match[2], match[1]) * _TIMES[match[3]]))
    if match := re.fullmatch(rf"({names}) (.+)", said):
        return replace(use, typed_a=_put(use.typed_a, match[1], parse_with_unit(match[2], ("A",), match[1]).value))
    raise InvalidInput("Use", text, EXPECTED)


def _put(pairs: tuple[tuple[StateName, float], ...], name: str, value: float) -> tuple[tuple[StateName, float], ...]:
    rest = tuple(pair for pair in pairs if pair[0] != name)
    return (*rest, (name, value))  # type: ignore[arg-type]
