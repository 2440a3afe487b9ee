"""Two traces beside each other: which leads and by how much; and a sick one against that of a working sister.

Source: Delay: the peak of the cross-correlation, sharpened by a parabola (Knapp and Carter 1976 [memory]). From which
differences traces are called the same: common practice, no source.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import NotEnoughData
from violet_dial.core.scipy_rooms import signal
from violet_dial.core.signals.shapes import Trace, trace_of

Array = npt.NDArray[np.float64]
Beside = Literal["same", "other", "missing"]
LEAST_SAMPLES, MOST_SAMPLES = 16, 200_000
SAME_SHARE = 0.2  # of the sister's ripple, that may be left when both are laid over each other
LEVEL_SHARE, LEVEL_V = 0.06, 0.05  # of the sister's level, and least, by which levels may differ
MISSING_SHARE = 0.12  # of the sister's ripple or level, below which it is missing
FREQUENCY_SHARE = 0.02
LEAST_ALIKE = 0.3  # of correlation, below which no delay is told


@dataclass(frozen=True)
class Delay:
    """By how much the second comes after the first (negative: before), s; how alike they are then, 0 to 1."""

    seconds: float
    alike: float


@dataclass(frozen=True)
class Sister:
    """A sick trace against a sister's: verdict, what was found in words, and what is left of the difference when laid over each
    other (root mean square, unit of the samples)."""

    verdict: Beside
    words: str
    left: float
    delay_s: float


def delay_of(first: Array, second: Array, rate_hz: float) -> Delay | None:
    """Which of two traces leads; None where they are not alike.

    Raises NotEnoughData: fewer than 16 samples.

    Parameters
    ----------
    first, second : samples of the same stretch of time, shape (n,) each
    rate_hz : samples a second
    """
    n = min(len(first), len(second), MOST_SAMPLES)
    if n < LEAST_SAMPLES:
        raise NotEnoughData("Samples of a trace", n, LEAST_SAMPLES)
    a, b = (np.asarray(one[:n], dtype=float) - float(np.mean(one[:n])) for one in (first, second))
    size = math.sqrt(float(a @ a) * float(b @ b))
    if size <= 0:
        return None
    around = signal.correlate(b, a, method="fft")
    lags = signal.correlation_lags(n, n)
    inside = np.abs(lags) <= n // 2  # of what is left beyond half there is too little to tell
    around, lags = around[inside], lags[inside]
    peak = int(np.argmax(around))
    alike = float(around[peak]) / size
    if alike < LEAST_ALIKE:
        return None
    shift = 0.0
    if 0 < peak < len(around) - 1:
        low, middle, high = around[peak - 1 : peak + 2]
        bend = low - 2 * middle + high
        shift = 0.5 * float((low - high) / bend) if bend else 0.0
    return Delay((float(lags[peak]) + shift) / rate_hz, min(alike, 1.0))


def beside_sister(
    sick: Array, sick_hz: float, sister: Array, sister_hz: float, known: tuple[Trace, Trace] | None = None
) -> Sister:
    """A trace against that of a working unit at the same point.

    Raises NotEnoughData: fewer than 16 samples of either.

    Parameters
    ----------
    sick, sister : samples, shape (n,) and (m,), in the same unit
    sick_hz, sister_hz : samples a second of each
    """
    one, other = known or (trace_of(sick, sick_hz), trace_of(sister, sister_hz))
    fast = max(sick_hz, sister_hz)
    a, b = (_resampled(samples, rate, fast) for samples, rate in ((sick, sick_hz), (sister, sister_hz)))
    n = min(len(a), len(b))
    delay = delay_of(b[:n], a[:n], fast)
    moved = 0 if delay is None else round(delay.seconds * fast)
    left = _left(a[:n], b[:n], moved)
    verdict, words = _judged(one, other, left)
    return Sister(verdict, words, left, 0.0 if delay is None else delay.seconds)


def _resampled(samples: Array, rate_hz: float, wanted_hz: float) -> Array:
    if rate_hz == wanted_hz:
        return np.asarray(samples, dtype=float)
    t = np.arange(0.0, len(samples) / rate_hz, 1.0 / wanted_hz)
    found: Array = np.interp(t, np.arange(len(samples)) / rate_hz, samples)
    return found


def _left(a: Array, b: Array, moved: int) -> float:
    """Root mean square of the difference where the second is moved by so many samples."""
    if moved > 0:
        a, b = a[moved:], b[: len(b) - moved]
    elif moved < 0:
        a, b = a[:moved], b[-moved:]
    return float(np.sqrt(np.mean((a - b) ** 2))) if len(a) else math.inf


def _judged(sick: Trace, sister: Trace, left: float) -> tuple[Beside, str]:
    level = max(abs(sister.mean), sister.ripple_rms)
    figures = (
        f"{sick.shape}, mean {sick.mean:.3g} and {sick.peak_to_peak:.3g} peak to peak; sister {sister.shape}, "
        f"{sister.mean:.3g} and {sister.peak_to_peak:.3g}"
    )
    if max(abs(sick.mean), sick.ripple_rms) < MISSING_SHARE * level:
        return "missing", f"Missing: {figures}"
    if sister.shape not in ("flat", "noise") and sick.ripple_rms < MISSING_SHARE * sister.ripple_rms:
        return "missing", f"It stands still where the sister's moves: {figures}"
    if sick.frequency_hz and sister.frequency_hz:
        share = abs(sick.frequency_hz / sister.frequency_hz - 1)
        if share > FREQUENCY_SHARE:
            return "other", f"Other frequency, {sick.frequency_hz:.4g} against {sister.frequency_hz:.4g} Hz: {figures}"
    if abs(sick.mean - sister.mean) > max(LEVEL_SHARE * abs(sister.mean), LEVEL_V):
        return "other", f"Other level: {figures}"
    allowed = max(SAME_SHARE * sister.ripple_rms, LEVEL_V) if sister.shape != "flat" else LEVEL_V + LEVEL_SHARE * abs(sister.mean)
    if left <= allowed:
        return "same", f"The same, {left:.2g} left between them: {figures}"
    return "other", f"Other: {figures}"
