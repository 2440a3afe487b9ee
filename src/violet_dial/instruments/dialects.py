"""What instruments speak: how a figure is asked for, and how its answer is read. One dialect is one record of ``DIALECTS``.

Commands are those of SCPI-99 (volume 2) [memory]; 9.9E37 stands for beyond the range there. After each figure a second
question is asked whose answer cannot be mistaken for a figure: late or stray lines are then noticed at once.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal, Protocol

from violet_dial.core.errors import BadAnswer, InvalidInput
from violet_dial.core.steady.samples import FUNCTION_WORDS, Function
from violet_dial.core.units import Unit, prefixed_unit
from violet_dial.instruments.lamp_curve import LampCurve, understood_curve
from violet_dial.instruments.pattern import LinePattern

if TYPE_CHECKING:
    from violet_dial.instruments.channel import Channel
    from violet_dial.instruments.kept import Kept

BEYOND, NO_FIGURE = 9.0e37, 9.905e37  # SCPI: 9.9E37 is beyond the range, 9.91E37 is no figure at all
_CONFIGURE: dict[Function, str] = {
    "volt": "VOLT:DC", "ohm": "RES", "amp": "CURR:DC", "continuity": "CONT", "capacitance": "CAP", "diode": "DIOD",
}  # fmt: skip
_CONFIGURED: dict[str, Function] = {
    "VOLT": "volt", "VOLT:DC": "volt", "RES": "ohm", "CURR": "amp", "CURR:DC": "amp", "CONT": "continuity", "CAP": "capacitance",
    "DIOD": "diode",
}  # fmt: skip
_STANDS = re.compile(r'^"?(?P<function>[A-Z:]+)(?:\s+(?P<range>[-+0-9.eE]+)(?:,[-+0-9.eE]+)*)?"?$')
_FIGURE = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", re.ASCII)
_UNIT_FUNCTIONS: dict[Unit, Function] = {"V": "volt", "A": "amp", "Ω": "ohm", "F": "capacitance", "lx": "lux"}
Figure = tuple[float, Function, float]  # value, function, full scale (0: not known)


class Speaker(Protocol):
    """Speaks to one instrument. ``functions`` are those it can be set to."""

    functions: tuple[Function, ...]

    def begin(self, channel: Channel) -> str:
        """Say hello; what it says it is."""

    def read(self, channel: Channel) -> Figure:
        """The next figure."""

    def set_function(self, channel: Channel, function: Function) -> None:
        """Turn it to a function it has."""

    def set_light(self, channel: Channel, lux: float) -> None:
        """Ask its lamp for a light; nothing where it has none."""


def number_of(answer: str, channel: Channel, command: str) -> float:
    """A figure from an answer; infinite beyond the range. Raises BadAnswer: not a figure."""
    said = answer.strip()
    if not _FIGURE.fullmatch(said):
        raise BadAnswer(f"{command} was answered with {answer[:30]!r}, not a figure.", channel.address, command)
    value = float(said)
    if abs(value) >= NO_FIGURE:
        raise BadAnswer(f"{command} was answered with {answer[:30]!r}: no figure.", channel.address, command)
    return math.copysign(math.inf, value) if abs(value) >= BEYOND else value


def _hello(channel: Channel) -> str:
    said = channel.query("*IDN?")
    if "," not in said:
        raise BadAnswer(f"*IDN? was answered with {said[:40]!r}, not a name.", channel.address, "*IDN?")
    return said[:120]


class _Lampless:
    """No lamp hangs on it."""

    def set_light(self, channel: Channel, lux: float) -> None:
        return None


class ScpiMultimeter(_Lampless):
    """``CONF:…``, ``READ?``; ``CONF?`` says the function and range the figure was taken with."""

    functions: tuple[Function, ...] = tuple(_CONFIGURE)

    def begin(self, channel: Channel) -> str:
        return _hello(channel)

    def set_function(self, channel: Channel, function: Function) -> None:
        channel.write(f"CONF:{_CONFIGURE[function]}")

    def read(self, channel: Channel) -> Figure:
        value = number_of(channel.query("READ?"), channel, "READ?")
        stands = channel.query("CONF?")
        met = _STANDS.match(stands)
        if met is None or met.group("function") not in _CONFIGURED:
            raise BadAnswer(f"CONF? was answered with {stands[:40]!r}.", channel.address, "CONF?")
        full_scale = number_of(met.group("range"), channel, "CONF?") if met.group("range") else 0.0
        return value, _CONFIGURED[met.group("function")], full_scale


class _Checked(_Lampless):
    """Instruments without a question of their own to follow the figure: ``*OPC?`` must be answered with 1."""

    def begin(self, channel: Channel) -> str:
        return _hello(channel)

    @staticmethod
    def _ask(channel: Channel, command: str) -> float:
        value = number_of(channel.query(command), channel, command)
        done = channel.query("*OPC?")
        if done != "1":
            raise BadAnswer(f"*OPC? was answered with {done[:30]!r}, not 1.", channel.address, "*OPC?")
        return value


class ScpiLightMeter(_Checked):
    """``MEAS:ILL?``, lux; where the lamp can be set, ``SOUR:ILL``."""

    functions: tuple[Function, ...] = ("lux",)

    def set_function(self, channel: Channel, function: Function) -> None:
        return None

    def read(self, channel: Channel) -> Figure:
        return self._ask(channel, "MEAS:ILL?"), "lux", 0.0

    def set_light(self, channel: Channel, lux: float) -> None:
        channel.write(f"SOUR:ILL {lux:.6g}")


class ScpiSupply(_Checked):
    """``MEAS:VOLT?`` or ``MEAS:CURR?``; it is only read, never set."""

    functions: tuple[Function, ...] = ("volt", "amp")

    def __init__(self, function: Function) -> None:
        self._function: Function = function if function in self.functions else "volt"

    def set_function(self, channel: Channel, function: Function) -> None:
        self._function = function

    def read(self, channel: Channel) -> Figure:
        return self._ask(channel, "MEAS:CURR?" if self._function == "amp" else "MEAS:VOLT?"), self._function, 0.0


class ScpiLampSupply(_Checked):
    """A supply that feeds the lamp: ``VOLT`` or ``CURR`` sets it, ``MEAS:VOLT?`` or ``MEAS:CURR?`` says what it gives, the lamp's
    own curve says the light."""

    functions: tuple[Function, ...] = ("lux",)

    def __init__(self, curve: LampCurve) -> None:
        self._curve = curve
        self._word = "CURR" if curve.unit == "A" else "VOLT"

    def set_function(self, channel: Channel, function: Function) -> None:
        return None

    def set_light(self, channel: Channel, lux: float) -> None:
        channel.write(f"{self._word} {self._curve.setting(lux):.5g}")

    def read(self, channel: Channel) -> Figure:
        return self._curve.light(self._ask(channel, f"MEAS:{self._word}?")), "lux", 0.0


class LinesOfText(_Lampless):
    """A meter that sends lines by itself, read with the person's own pattern."""

    functions: tuple[Function, ...] = ()

    def __init__(self, pattern: str, function: Function) -> None:
        self._pattern, self._function = LinePattern(pattern), function

    def begin(self, channel: Channel) -> str:
        channel.read_line()  # the first line may have lost its head
        return "sends lines of text"

    def set_function(self, channel: Channel, function: Function) -> None:
        raise InvalidInput("Function", FUNCTION_WORDS[function], "the meter's own knob: it cannot be set from here")

    def read(self, channel: Channel) -> Figure:
        line = channel.read_line()
        met = self._pattern.search(line)
        if met is None:
            raise BadAnswer(f"The line {line[:40]!r} does not fit the pattern.", channel.address)
        factor, function = self._unit(met.groupdict().get("unit") or "", channel)
        text = (met.groupdict().get("value") or "").strip()
        if text.upper().startswith("OL"):
            return math.inf, function, 0.0
        return number_of(text, channel, "line") * factor, function, 0.0

    def _unit(self, unit: str, channel: Channel) -> tuple[float, Function]:
        if not unit:
            return 1.0, self._function
        try:
            factor, named = prefixed_unit(unit)
            return factor, _UNIT_FUNCTIONS[named]
        except (InvalidInput, KeyError) as error:
            raise BadAnswer(f"The unit {unit[:20]!r} is not known.", channel.address) from error


LAMP_SUPPLY = "SCPI supply of the lamp"
Field = Literal["pattern", "baud", "lamp", "curve"]


@dataclass(frozen=True)
class Dialect:
    """One way to speak with instruments.

    ``probes`` are the functions it can be chosen for: ``None`` where that is seen from what it sends. ``fields`` are what
    it must be told beside its address. ``speaker`` makes one for an instrument.
    """

    name: str
    probes: tuple[Function, ...] | None
    speaker: Callable[[Kept], Speaker]
    fields: tuple[Field, ...] = ()


DIALECTS: dict[str, Dialect] = {
    one.name: one
    for one in (
        Dialect("SCPI multimeter", ScpiMultimeter.functions, lambda kept: ScpiMultimeter()),
        Dialect("SCPI light meter", ScpiLightMeter.functions, lambda kept: ScpiLightMeter(), ("lamp",)),
        Dialect("SCPI bench supply", (), lambda kept: ScpiSupply(kept.function)),  # it feeds the device, it does not probe it
        Dialect(LAMP_SUPPLY, ScpiLampSupply.functions, lambda kept: ScpiLampSupply(understood_curve(kept.curve)), ("curve",)),
        Dialect("lines of text", None, lambda kept: LinesOfText(kept.pattern, kept.function), ("pattern", "baud")),
    )
}


def speaker_of(kept: Kept) -> Speaker:
    """A speaker for an instrument, by its dialect."""
    return DIALECTS[kept.speaks].speaker(kept)
