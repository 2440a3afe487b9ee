"""What a meter shows while a probe touches, bounces, settles and leaves: the signal behind simulated instruments.

All figures are invented to be like a bench; common practice, no source.
"""

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.steady.samples import Function

Array = npt.NDArray[Any]
TouchKind = Literal["clean", "noisy", "hum", "drift", "bouncing", "overload", "open", "near zero"]
KINDS: tuple[TouchKind, ...] = ("clean", "noisy", "hum", "drift", "bouncing", "overload", "open", "near zero")
AIR_V, AIR_DRIFT_V = 4e-3, 8e-3  # noise of leads in the air on volts, and how far they wander in a second
COUNTS = 20_000  # of the simulated meter's display
LEAST_SCALES: dict[Function, float] = {  # its lowest ranges, in the unit of the function
    "volt": 0.2, "ohm": 200.0, "amp": 200e-6, "continuity": 200.0, "capacitance": 2e-9, "diode": 2.0, "lux": 20.0,
}  # fmt: skip
SETTLED_SHARE, SETTLED_FLOOR = 2e-3, 1e-3


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


@dataclass(frozen=True)
class ProbeTouch:
    """An invented touch: samples at times, s; when it began, truly settled and ended; the figure it ends on.

    ``takeable`` is False where nothing may be taken by itself.
    """

    kind: TouchKind
    function: Function
    times_s: Array
    values: Array
    touched_s: float
    settled_s: float
    lifted_s: float
    final: float
    takeable: bool


def some_touch(kind: TouchKind, rng: np.random.Generator, rate_hz: float) -> ProbeTouch:
    """One invented touch of a kind: leads in the air, touching for some seconds, in the air again."""
    function: Function = "ohm" if kind == "drift" or (kind in ("clean", "noisy") and rng.random() < 0.4) else "volt"
    touched, held = float(rng.uniform(1.5, 3.0)), float(rng.uniform(3.5, 6.0))
    final = (
        float(10 ** rng.uniform(1.5, 6.0)) if function == "ohm" else float(rng.choice([-1, 1]) * rng.uniform(0.25, 6))
    )
    noise, tau, start = Noise(), float(rng.uniform(0.02, 0.3)), float(rng.uniform(0.3, 0.9))
    if kind == "noisy":
        noise = Noise(float(rng.uniform(1e-3, 4e-3)), 3e-4)
    if kind == "hum":
        noise = Noise(1e-4, 5e-5, float(rng.uniform(1e-3, 6e-3)), float(rng.uniform(0.8, 4.5)))
    if kind == "drift":  # a photoresistor creeping after the light changed
        tau, start, held = float(rng.uniform(1.5, 3.0)), float(rng.uniform(1.1, 1.5)), float(rng.uniform(16, 24))
    if kind == "near zero":
        final = float(rng.normal(0.0, 2e-3))
    if kind == "overload":
        final = math.inf
    lifted = touched + held
    times = np.arange(0.0, lifted + 1.5, 1.0 / rate_hz) + rng.uniform(-0.2, 0.2) / rate_hz
    gaps = _bounces(rng, touched, lifted) if kind == "bouncing" else []
    air = Air(rng)
    values = []
    for at in times:
        on = kind != "open" and touched <= at < lifted and not any(a <= at < b for a, b in gaps)
        true = final * (1.0 + (start - 1.0) * math.exp(-(at - touched) / tau)) if math.isfinite(final) else final
        values.append(shown(noise.on(true, at, rng) if on else air.value(function, at), function))
    away = math.log(abs(start - 1.0) / max(SETTLED_SHARE, SETTLED_FLOOR / max(abs(final), 1e-9)))
    settled = touched + max(tau * away, 0.0) if math.isfinite(final) else touched
    settled = max([settled, *(end for _, end in gaps)])
    takeable = kind not in ("open", "overload")
    return ProbeTouch(kind, function, times, np.array(values), touched, settled, lifted, final, takeable)


def _bounces(rng: np.random.Generator, touched: float, lifted: float) -> list[tuple[float, float]]:
    """Short gaps in the contact in the first second."""
    begins = touched + np.sort(rng.uniform(0.02, 0.9, int(rng.integers(2, 6))))
    return [(float(begin), min(float(begin + rng.uniform(0.02, 0.2)), lifted)) for begin in begins]
