"""Synthetic meters with known truth, shared by the calibration tests (seeded)."""

import numpy as np

from violet_dial.core.calibration.readings import Array
from violet_dial.core.records.light import Direction, LightReading

LIGHTS = np.arange(5.0, 16.0)


def readings_of(
    error: Array, lights: Array = LIGHTS, scatter: float = 0.0, seed: int = 1, direction: Direction = ""
) -> tuple[LightReading, ...]:
    """Readings of a meter with the given error at each light, shape (n,), plus Gaussian scatter in stops."""
    noise = np.random.default_rng(seed).normal(0.0, scatter, len(lights)) if scatter else np.zeros(len(lights))
    shown = lights + error + noise
    return tuple(LightReading(float(x), float(y), direction) for x, y in zip(lights, shown, strict=True))
