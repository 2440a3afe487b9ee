"""The simulated bench: one meter at the device, a light meter, a lamp that can be set, and how each behaves in time.

What a meter shows while a probe touches, bounces, settles and leaves is invented to be like a bench; common practice, no source.
"""

import math
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.core.steady.samples import Function
from violet_dial.instruments.simulated.device import DeviceUnderTest

Array = npt.NDArray[Any]


AIR_V, AIR_DRIFT_V = 4e-3, 8e-3  # noise of leads in the air on volts, and how far they wander in a second
COUNTS = 20_000  # of the simulated meter's display
LEAST_SCALES: dict[Function, float] = {  # its lowest ranges, in the unit of the function
    "volt": 0.2, "ohm": 200.0, "amp": 200e-6, "continuity": 200.0, "capacitance": 2e-9, "diode": 2.0, "lux": 20.0,
}  # fmt: skip


@dataclass(frozen=True)
class Noise:
    """What lies on a figure: ``share`` of it and ``floor`` as white noise, and hum as a share at an alias frequency."""

    share: float = 1e-4
    floor: float = 5e-5
    hum_share: float = 0.0
    hum_hz: float = 1.7

    def on(self, value: float, at_s: float, rng: np.random.Generator) -> float:
        """The figure as one reading shows it."""
        if not math.isfinite(value):
            return value
        hum = self.hum_share * value * math.sin(2.0 * math.pi * self.hum_hz * at_s)
        return value + hum + float(rng.normal(0.0, math.hypot(self.share * value, self.floor)))


class Air:
    """Leads in the air: overload on ohms, a restless nothing that wanders on volts, zero on the others."""

    def __init__(self, rng: np.random.Generator) -> None:
        self._rng, self._wander, self._last_s = rng, float(rng.normal(0.0, 0.01)), 0.0

    def value(self, function: Function, at_s: float) -> float:
        """What the meter shows at a time, s; times do not run back."""
        if function in ("ohm", "continuity", "diode"):
            return math.inf
        if function == "volt":
            passed, self._last_s = max(at_s - self._last_s, 0.0), at_s
            self._wander += float(self._rng.normal(0.0, AIR_DRIFT_V * math.sqrt(min(passed, 1.0))))
            self._wander *= math.exp(-passed / 3.0)
            return self._wander + float(self._rng.normal(0.0, AIR_V))
        return float(self._rng.normal(0.0, {"amp": 1e-8, "capacitance": 1e-12}.get(function, 0.0)))


def full_scale_of(value: float, function: Function = "volt") -> float:
    """The range a meter that seeks its own would choose: decades of 2, from the lowest it has."""
    least = LEAST_SCALES[function]
    if not math.isfinite(value) or abs(value) <= least:
        return least
    return float(2.0 * 10.0 ** math.ceil(math.log10(abs(value) / 2.0)))


def shown(value: float, function: Function = "volt") -> float:
    """Rounded to what the display has figures for."""
    step = full_scale_of(value, function) / COUNTS
    return round(value / step) * step if math.isfinite(value) else value


IDENTITY = "Violet Dial,Simulated bench,0,1"
BEYOND = "+9.90000000E+37"
SETTLE_S, SLOW_S, LAMP_S = 0.06, 1.2, 0.35  # leads and meter; a photoresistor after the light changed; the lamp
LEAD_WANDER_OHM = 0.02
STICKS = 0.03  # share of full scale by which a sticky pointer lags
FAULTS = ("DROP", "LATE", "GARBAGE", "HALF", "FUNCTION", "FLOOD", "AWAY")
MOST_FIGURE = {"DROP": 1, "LATE": 30, "GARBAGE": 2_000, "HALF": 1, "FUNCTION": 1, "FLOOD": 1, "AWAY": 60}
MOST_TROUBLE = 100  # faults waiting
_FUNCTIONS: dict[str, Function] = {
    "VOLT:DC": "volt", "VOLT": "volt", "RES": "ohm", "CURR:DC": "amp", "CURR": "amp", "CONT": "continuity", "CAP": "capacitance",
    "DIOD": "diode",
}  # fmt: skip
_STANDS = {"volt": "VOLT", "ohm": "RES", "amp": "CURR", "continuity": "CONT", "capacitance": "CAP", "diode": "DIOD"}
NOISE: dict[Function, Noise] = {
    "volt": Noise(1.5e-4, 6e-5, hum_share=2e-4), "ohm": Noise(3e-4, 0.02), "continuity": Noise(3e-4, 0.02),
    "amp": Noise(3e-4, 2e-8), "lux": Noise(1.2e-3, 0.01),
}  # fmt: skip


@dataclass(frozen=True)
class _Change:
    """A level on its way from one value to the next."""

    at_s: float = -math.inf
    old: float = 0.0
    tau_s: float = SETTLE_S

    def value(self, new: float, now_s: float) -> float:
        """Where it stands: an exponential from old to new, in logarithms where both are positive and far apart."""
        left = math.exp(-(now_s - self.at_s) / self.tau_s) if math.isfinite(self.at_s) else 0.0
        if left < 1e-9 or not math.isfinite(new) or not math.isfinite(self.old):
            return new
        if self.old > 0 and new > 0:
            return float(math.exp(math.log(new) + (math.log(self.old) - math.log(new)) * left))
        return new + (self.old - new) * left


TRACE_POINTS, TRACE_S, TRACE_NOISE_V, SWINGS_HZ = 2_000, 0.1, 0.004, 172.0


class SimulatedBench:
    """Answers SCPI lines; safe to ask from several connections.

    ``trouble`` holds faults to come on the link (one of `FAULTS` with a figure), for whoever carries the lines.
    """

    def __init__(self, device: DeviceUnderTest, seed: int = 1, clock: Callable[[], float] = time.monotonic) -> None:
        self.device = device
        self.trouble: deque[tuple[str, float]] = deque()
        self._clock, self._lock = clock, threading.RLock()
        self._rng = np.random.default_rng(seed)
        self._air, self._began = Air(self._rng), clock()
        self._function: Function = "volt"
        self._points: tuple[str, str] | None = None
        self._touch, self._lamp = _Change(), _Change(tau_s=LAMP_S)
        self._pointer = 0.0
        self._errors: deque[str] = deque(maxlen=20)
        self._hands: dict[str, Callable[[str], None]] = {
            "SIM:TOUCH": self._touched, "SIM:LIFT": self._lifted, "SIM:LIGHT": self._lit, "SOUR:ILL": self._lit,
            "WAV:SOUR": _nothing, "WAV:FORM": _nothing, "SIM:SET": self._set, "SIM:SUPPLY": self._supply, "SIM:FAULT":
            self._to_come,
        }  # fmt: skip

    # lines

    def answer(self, line: str) -> str | None:
        """The answer to one line, None where there is none; what is not understood goes to ``SYST:ERR?``."""
        command, _, rest = line.strip().partition(" ")
        command = command.upper().removeprefix(":")
        with self._lock:
            try:
                return self._obeyed(command, rest.strip())
            except (InvalidInput, CannotSolve) as error:
                self._errors.append(_error(-224, str(error)))
                return None

    def _obeyed(self, command: str, rest: str) -> str | None:
        if command.endswith("?"):
            return self._asked(command[:-1], rest)
        if command.startswith("CONF:") and command[5:] in _FUNCTIONS:
            self._function = _FUNCTIONS[command[5:]]
            self._begin_touch(SETTLE_S)
        elif command in self._hands:
            self._hands[command](rest)
        elif command in ("*CLS", "*RST"):
            self._errors.clear()
            self._function = "volt" if command == "*RST" else self._function
        else:
            self._errors.append(_error(-113, f"Undefined header; {command[:60]}"))
        return None

    def _asked(self, command: str, rest: str) -> str | None:
        plain: dict[str, Callable[[], str]] = {
            "*IDN": lambda: IDENTITY,
            "*OPC": lambda: "1",
            "SYST:ERR": lambda: self._errors.popleft() if self._errors else '0,"No error"',
            "READ": lambda: _figure(self._reading(self._function)),
            "CONF": self._stands,
            "MEAS:ILL": lambda: _figure(self._lux()),
            "SOUR:ILL": lambda: _figure(self.device.setting.light_lx),
            "WAV:XINC": lambda: _figure(TRACE_S / TRACE_POINTS),
            "WAV:DATA": self._trace,
            "SIM:NEEDLE": lambda: _figure(self._needle()),
            "SIM:TOUCH": lambda: ",".join(self._points) if self._points else "AIR",
        }
        if command in plain:
            return plain[command]()
        if command.startswith("MEAS:") and command[5:] in _FUNCTIONS:
            self._function = _FUNCTIONS[command[5:]]
            return _figure(self._reading(self._function))
        self._errors.append(_error(-113, f"Undefined header; {command[:60]}?"))
        return None

    def _stands(self) -> str:
        full_scale = full_scale_of(self._true(self._function), self._function)
        return f'"{_STANDS[self._function]} {full_scale:+.6E},{full_scale / COUNTS:+.6E}"'

    # hands

    def _touched(self, rest: str) -> None:
        self._points = self.device.points(rest)
        self._touch = _Change(self._clock(), 0.0 if self._function != "ohm" else math.inf)

    def _lifted(self, rest: str) -> None:
        self._points = None

    def _lit(self, rest: str) -> None:
        lux = parse_number(rest.lower().removesuffix("lx").strip(), "Light")
        if not 0.0 <= lux <= 1e6:
            raise InvalidInput("Light", rest, "0 to 1000000 lx")
        self._lamp = _Change(self._clock(), self._lamp.value(self.device.setting.light_lx, self._clock()), LAMP_S)
        self._begin_touch(SLOW_S)
        self.device.stand(replace(self.device.setting, light_lx=lux))

    def _set(self, rest: str) -> None:
        self._begin_touch(SETTLE_S)
        self.device.turn(rest)

    def _supply(self, rest: str) -> None:
        state = rest.lower()
        if state not in ("battery", "bench", "off"):
            raise InvalidInput("Supply", rest, "battery, bench or off")
        self._begin_touch(SETTLE_S)
        self.device.stand(replace(self.device.setting, supply=state))  # type: ignore[arg-type]

    def _to_come(self, rest: str) -> None:
        kind, _, figure = rest.upper().partition(",")
        if kind not in FAULTS:
            raise InvalidInput("Fault", rest, f"one of {', '.join(FAULTS)}, with a figure after a comma where it needs one")
        if kind == "FUNCTION":
            self._function = "ohm" if self._function == "volt" else "volt"
            return
        size = parse_number(figure, "Fault figure") if figure else 1.0
        if not 0 <= size <= MOST_FIGURE[kind]:
            raise InvalidInput("Fault figure", figure, f"0 to {MOST_FIGURE[kind]} for {kind}")
        if len(self.trouble) >= MOST_TROUBLE:
            raise InvalidInput("Fault", rest, f"at most {MOST_TROUBLE} faults to come")
        self.trouble.append((kind, size))

    def put(self, points: tuple[str, str] | None) -> None:
        """The probes put to two nodes, or lifted: for hands in the same program."""
        with self._lock:
            if points is None:
                self._points = None
            else:
                self._touched(",".join(point if point != "0" else "gnd" for point in points))

    # what the instruments show

    def _begin_touch(self, tau_s: float) -> None:
        """The level under the probes starts moving from where it is."""
        if self._points is not None:
            now = self._true(self._function)
            self._touch = _Change(self._clock(), now, tau_s)

    def _true(self, function: Function) -> float:
        if self._points is None:
            return self._air_value(function)
        end = self.device.shows(function, *self._points)
        change = self._touch if end.slow or self._touch.tau_s < SLOW_S else replace(self._touch, tau_s=SETTLE_S)
        return change.value(end.value, self._clock())

    def _air_value(self, function: Function) -> float:
        return math.inf if function in ("ohm", "continuity", "diode") else 0.0

    def _reading(self, function: Function) -> float:
        now = self._clock() - self._began
        if self._points is None:
            return shown(self._air.value(function, now), function)
        value = NOISE.get(function, Noise()).on(self._true(function), now, self._rng)
        if function in ("ohm", "continuity") and math.isfinite(value):
            value = abs(value + LEAD_WANDER_OHM * math.sin(now / 7.0))
        return shown(value, function)

    def _trace(self) -> str:
        """What an oscilloscope shows at the points touched: the level, and a sawtooth where what steadies it has gone."""
        t = np.arange(TRACE_POINTS) * TRACE_S / TRACE_POINTS
        level, swing = 0.0, 0.0
        if self._points is not None:
            level, swing = self.device.shows("volt", *self._points).value, self.device.swings(*self._points)
        volts = level + swing * ((t * SWINGS_HZ + self._rng.random()) % 1.0 - 0.5) + self._rng.normal(0.0, TRACE_NOISE_V, len(t))
        return ",".join(f"{volt:.4E}" for volt in volts)

    def _lux(self) -> float:
        now = self._clock()
        return max(NOISE["lux"].on(self._lamp.value(self.device.setting.light_lx, now), now, self._rng), 0.0)

    def _needle(self) -> float:
        """The pointer sticks until it is pulled far enough."""
        pulled = self.device.needle()
        if abs(pulled - self._pointer) > STICKS:
            self._pointer = pulled - math.copysign(STICKS / 2, pulled - self._pointer)
        return self._pointer


def _nothing(rest: str) -> None:
    """What is as it should be already."""


def _error(number: int, words: str) -> str:
    """An error as SCPI has it: a quote within the text is doubled (IEEE 488.2, string response data [memory])."""
    plain = " ".join(words.split())[:200].encode("ascii", "replace").decode().replace('"', '""')
    return f'{number},"{plain}"'


def _figure(value: float) -> str:
    """As SCPI writes it; beyond the range as 9.9E37."""
    return f"{value:+.8E}" if math.isfinite(value) else BEYOND
