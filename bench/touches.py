"""Invented touches of a probe, to judge by whether a reading is steady: what a meter shows from the air to the air again."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from violet_dial.core.steady.samples import Function
from violet_dial.instruments.simulated.bench import Air, Array, Noise, shown

TouchKind = Literal["clean", "noisy", "hum", "drift", "bouncing", "overload", "open", "near zero"]
KINDS: tuple[TouchKind, ...] = ("clean", "noisy", "hum", "drift", "bouncing", "overload", "open", "near zero")
SETTLED_SHARE, SETTLED_FLOOR = 2e-3, 1e-3


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
    final = float(10 ** rng.uniform(1.5, 6.0)) if function == "ohm" else float(rng.choice([-1, 1]) * rng.uniform(0.25, 6))
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
