"""What a trace is like: its figures, its frequency, and its shape in words with a weight for each.

Shapes: flat, sawtooth, square, sine, rectified (half or full wave), bursts, spikes, noise, dropout, slow change. Each is fitted
in the way it is made, and weighed by what it leaves unexplained; what none explains is none of these.

Source: Ripple: root of the mean square about the mean. Frequency: the strongest line of a Hann-windowed spectrum, sharpened by
fitting harmonics by least squares (Kay, Modern Spectral Estimation, 1988 [memory]). A sawtooth's ripple is Vpp / (2 sqrt 3), a
sine's Vpp / (2 sqrt 2), a square's Vpp / 2. From which figures a shape is said: common practice, no source.
"""

import math
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import optimize

Array = npt.NDArray[np.float64]
Shape = Literal[
    "flat", "sawtooth", "square", "sine", "rectified", "bursts", "spikes", "noise", "dropout", "slow change", "none of these"
]  # fmt: skip
SHAPES: tuple[Shape, ...] = get_args(Shape)
LEAST_SAMPLES, MOST_FITTED = 16, 20_000
FLAT_SHARE = 0.02  # ripple over the level, below which a trace is flat
FLAT_V = 1e-4  # and ripple below this is flat whatever the level
DEAD_V = 0.005  # a rail that does no more, and nothing that repeats, is flat: a meter's and a probe's own noise
NONE, NOISE, COLOURED = 0.45, 0.25, 0.6  # what none of these, noise, and noise that hangs together leave
FADES = 1.6  # times as loud at first as at last: what fades is no burst
SETTLES = (0.05, 0.1, 0.2, 0.4, 1.0, 10.0)  # of the trace, in which a slow change is over to 1 / e
LEAST_CYCLES = 2.5
HARMONICS, MOST_POINTS = 3, 1200
BINS = 48  # of one period, folded
SPIKE_SIGMAS, SPIKE_SHARE = 7.0, 0.06  # how far, and at most how much of the time, a spike stands out
LEVEL_SHARE = 0.12  # of the span, within which a sample belongs to a level
RUN_SAMPLES = 4  # shorter stretches at the low level are spikes
SHARP = 14.0  # how much a tenth less explained weighs


@dataclass(frozen=True)
class Trace:
    """One channel: figures in the unit of the samples; ``frequency_hz`` None where nothing repeats; ``duty`` share of the time
    above the middle, None where there are no two levels; ``weights`` by shape, together 1."""

    shape: Shape
    weights: tuple[tuple[Shape, float], ...]
    mean: float
    peak_to_peak: float
    ripple_rms: float
    frequency_hz: float | None
    duty: float | None


def trace_of(samples: Array, rate_hz: float) -> Trace:
    """What a trace is like.

    Raises InvalidInput: samples or rate that are no figures; NotEnoughData: fewer than 16 samples.

    Parameters
    ----------
    samples : shape (n,), any unit
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    if not (math.isfinite(rate_hz) and rate_hz > 0):
        raise InvalidInput("Rate", rate_hz, "samples a second, above 0")
    if y.ndim != 1 or not np.isfinite(y).all():
        raise InvalidInput("Samples", "not all figures", "finite figures, one after the other")
    if len(y) < LEAST_SAMPLES:
        raise NotEnoughData("Samples of a trace", len(y), LEAST_SAMPLES)
    whole = y
    y = y[: MOST_FITTED * 4] if len(y) > MOST_FITTED * 4 else y
    costs, cycles_hz = _costs(y, rate_hz)
    low = min(costs.values())
    raw = {shape: math.exp(-SHARP * (cost - low)) for shape, cost in costs.items()}
    total = sum(raw.values())
    weights = tuple(sorted(((shape, raw.get(shape, 0.0) / total) for shape in SHAPES), key=lambda pair: -pair[1]))
    shape = weights[0][0]
    periodic = shape in ("sine", "square", "sawtooth", "rectified", "bursts")
    mean = float(whole.mean())
    middle = (np.percentile(y, 99) + np.percentile(y, 1)) / 2
    duty = float((y > middle).mean()) if shape in ("square", "dropout") else None
    return Trace(shape, weights, mean, float(np.ptp(whole)), float(whole.std()), cycles_hz if periodic else None, duty)


def _costs(y: Array, rate_hz: float) -> tuple[dict[Shape, float], float | None]:
    """Share of the ripple that each shape leaves unexplained, with what speaks against it; and the frequency."""
    level, ripple = abs(float(np.median(y))), float(y.std())
    noise = _noise_of(y)
    if ripple < FLAT_V or (ripple < FLAT_SHARE * max(level, 1e-12) and not _stands_out(y, noise)):
        return {"flat": 0.0, "noise": 0.35}, None
    alone = min(noise**2 / max(ripple**2, 1e-300), 1.0)  # of white noise one sample tells nothing of the next
    costs: dict[Shape, float] = {
        "noise": NOISE + COLOURED * (1.0 - alone), "flat": 0.55 + 2.0 * ripple / max(level, 1e-9), "none of these": NONE,
        "slow change": _slow_change(y),
    }  # fmt: skip
    if ripple < DEAD_V:
        costs["flat"] = min(costs["flat"], NOISE / 2)
    frequency = fundamental_hz(y, rate_hz)
    if frequency is not None:
        folded, left = _folded(y, rate_hz, frequency)
        costs |= {shape: left + (1.0 - left) * off for shape, off in _templates(folded).items()}
    costs["spikes"] = _spikes(y, noise)
    costs["dropout"], costs["bursts"] = _dropout(y), _bursts(y)
    if costs["bursts"] < min(cost for shape, cost in costs.items() if shape != "bursts"):
        gated = _gate(y)
        inner = fundamental_hz(_longest(y, gated), rate_hz)
        frequency = inner if inner is not None else frequency
    return costs, frequency


def _noise_of(y: Array) -> float:
    """Standard deviation of what jumps from sample to sample, by the median: steps and spikes do not count."""
    return float(np.median(np.abs(np.diff(y)))) / (0.6745 * math.sqrt(2.0)) + 1e-12


def _stands_out(y: Array, noise: float) -> bool:
    """Whether anything rises far above the noise of a trace that is flat otherwise."""
    return bool(np.abs(y - np.median(y)).max() > 8.0 * max(noise, 1e-9))


# what repeats


def fundamental_hz(y: Array, rate_hz: float) -> float | None:
    """The frequency of what repeats, Hz; None where nothing does.

    Parameters
    ----------
    y : samples, shape (n,)
    rate_hz : samples a second
    """
    n = len(y)
    if n < LEAST_SAMPLES:
        return None
    window = np.hanning(n)
    spectrum = np.abs(np.fft.rfft((y - y.mean()) * window)) ** 2
    spectrum[: max(int(LEAST_CYCLES), 1)] = 0.0
    peak = int(np.argmax(spectrum))
    if peak < LEAST_CYCLES or peak >= len(spectrum) - 1:
        return None
    a, b, c = np.log(spectrum[peak - 1 : peak + 2] + 1e-300)
    shift = 0.5 * (a - c) / (a - 2 * b + c) if a - 2 * b + c else 0.0
    near = (peak + float(np.clip(shift, -0.5, 0.5))) * rate_hz / n
    return _sharpened(y[:MOST_FITTED], rate_hz, near)


def _sharpened(y: Array, rate_hz: float, near_hz: float) -> float:
    """The frequency about one found at which a few harmonics explain most."""
    width = 0.6 * rate_hz / len(y)
    found = optimize.minimize_scalar(
        lambda one: _unexplained(y, rate_hz, float(one)), bounds=(max(near_hz - width, 1e-9), near_hz + width),
        method="bounded", options={"maxiter": 14},
    )  # fmt: skip
    return float(found.x)


def _unexplained(y: Array, rate_hz: float, frequency_hz: float) -> float:
    """What a few harmonics leave, on some hundred points spread over all of it."""
    count = max(1, min(HARMONICS, int(0.45 * rate_hz / frequency_hz)))
    at = np.unique(np.linspace(0, len(y) - 1, min(len(y), MOST_POINTS)).astype(int))
    phase = 2.0 * math.pi * frequency_hz / rate_hz * at
    columns = [np.ones(len(at)), *(wave(k * phase) for k in range(1, count + 1) for wave in (np.sin, np.cos))]
    base, part = np.stack(columns, axis=1), y[at]
    found = np.linalg.solve(base.T @ base + 1e-9 * len(at) * np.eye(base.shape[1]), base.T @ part)
    return float(((part - base @ found) ** 2).sum())


def _folded(y: Array, rate_hz: float, frequency_hz: float) -> tuple[Array, float]:
    """One period, scaled to a mean of nothing and a standard deviation of one; and the share of ripple it leaves unexplained."""
    phase = (frequency_hz / rate_hz * np.arange(len(y))) % 1.0
    place = np.minimum((phase * BINS).astype(int), BINS - 1)
    count = np.bincount(place, minlength=BINS)
    mean = np.bincount(place, weights=y, minlength=BINS) / np.maximum(count, 1)
    there = count > 0
    if not there.all():
        mean = np.interp(np.arange(BINS), np.flatnonzero(there), mean[there], period=BINS)
    left = float(((y - mean[place]) ** 2).mean() / max(y.var(), 1e-300))
    spread = mean.std()
    return ((mean - mean.mean()) / spread if spread > 0 else mean * 0.0), min(left, 1.0)


def _templates(folded: Array) -> dict[Shape, float]:
    """What sine, square and sawtooth leave of a period, each at its best phase (and duty)."""
    at = np.arange(BINS) / BINS
    best: dict[Shape, float] = {"sine": _least(folded, np.sin(2 * math.pi * at))}
    half = np.maximum(np.sin(2 * math.pi * at), 0.0)
    best["rectified"] = min(_least(folded, sign * wave) for wave in (np.abs(np.sin(math.pi * at)), half) for sign in (1, -1))
    best["square"] = min(_least(folded, (at < duty).astype(float)) for duty in np.arange(0.1, 0.91, 0.05))
    best["sawtooth"] = min(_least(folded, at), _least(folded, -at))
    return best


def _least(folded: Array, template: Array) -> float:
    """Share left at the best phase: one less the square of the best correlation around the circle."""
    shape = (template - template.mean()) / template.std()
    around = np.fft.irfft(np.fft.rfft(folded) * np.conj(np.fft.rfft(shape)), BINS) / BINS
    return float(max(1.0 - max(around.max(), 0.0) ** 2, 0.0))


# what does not


def _slow_change(y: Array) -> float:
    """What is left of the ripple by a level that goes to another and stays, fast at first or evenly."""
    at = np.unique(np.linspace(0, len(y) - 1, min(len(y), MOST_POINTS)).astype(int))
    part = y[at]
    left = [
        float(np.square(part - np.polyval(np.polyfit(shape, part, 1), shape)).sum())
        for shape in (np.exp(-at / (share * len(y))) for share in SETTLES)
    ]
    return min(left) / max(float(np.square(part - part.mean()).sum()), 1e-300)


def _spikes(y: Array, noise: float) -> float:
    """What is left of the ripple once the few samples far off are taken away."""
    middle = np.median(y)
    sigma = max(float(np.median(np.abs(y - middle))) / 0.6745, noise, 1e-12)
    far = np.abs(y - middle) > SPIKE_SIGMAS * sigma
    share = float(far.mean())
    if not 0 < share <= SPIKE_SHARE:
        return 1.0
    runs = _runs(far)
    if max(length for _, length in runs) > max(0.02 * len(y), RUN_SAMPLES):
        return 0.9
    return float(((y[~far] - middle) ** 2).sum() / max(((y - middle) ** 2).sum(), 1e-300))


def _runs(flags: npt.NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where stretches begin, and how long they are."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(int)))
    return [(int(first), int(last - first)) for first, last in zip(edges[::2], edges[1::2], strict=True)]


def _dropout(y: Array) -> float:
    """What a level that is lost now and then leaves: most of the time up, stretches near the other level, not evenly spaced."""
    high, low = float(np.median(y)), float(np.percentile(y, 0.5))
    if high - low < 0:
        return 1.0
    down = y < (high + low) / 2
    runs = _runs(down)
    if not runs or not 0.003 < down.mean() < 0.5 or np.median([length for _, length in runs]) < RUN_SAMPLES:
        return 1.0
    model = np.where(down, y[down].mean(), y[~down].mean())
    left = float(((y - model) ** 2).mean() / max(y.var(), 1e-300))
    whole = [run for run in runs if run[0] > 0 and sum(run) < len(y)]  # not cut off by the ends
    gaps = np.diff([first for first, _ in whole])
    lengths = np.array([length for _, length in whole], dtype=float)
    even = len(whole) >= 3 and gaps.std() < 0.05 * gaps.mean() and lengths.std() < 0.1 * lengths.mean() + 1
    return left + (0.5 if even else 0.0)


def _gate(y: Array) -> npt.NDArray[np.bool_]:
    """When something is going on: the moving size above a third of its most."""
    size = max(len(y) // 100, 4)
    moved = np.abs(y - np.median(y))
    moving = np.convolve(moved, np.ones(size) / size, mode="same")
    found: npt.NDArray[np.bool_] = moving > 0.35 * np.percentile(moving, 98)
    return found


def _longest(y: Array, flags: npt.NDArray[np.bool_]) -> Array:
    runs = _runs(flags)
    if not runs:
        return y
    first, length = max(runs, key=lambda run: run[1])
    return y[first : first + length]


def _bursts(y: Array) -> float:
    """What bursts leave: still for a part of the time, and swinging about the middle many times in the rest."""
    gate = _gate(y)
    share = float(gate.mean())
    if not 0.05 < share < 0.85 or not len(_runs(gate)):
        return 1.0
    outside = y[~gate]
    quiet = float(np.median(np.abs(outside - np.median(outside)))) / 0.6745
    inside = _longest(y, gate)
    loud = float(inside.std())
    middle = inside.mean()
    crossings = int((np.diff(np.sign(inside - middle)) != 0).sum())
    third = max(len(inside) // 3, 1)
    if crossings < 6 or quiet > 0.35 * loud or float(inside[:third].std()) > FADES * float(inside[-third:].std()):
        return 1.0
    frequency = fundamental_hz(inside, 1.0)
    if frequency is None:
        return 0.9
    points = min(len(inside), MOST_POINTS) / len(inside)
    left = _unexplained(inside, 1.0, frequency) / max(points * ((inside - middle) ** 2).sum(), 1e-300)
    calm = float(((outside - np.median(outside)) ** 2).sum() / max(((y - np.median(y)) ** 2).sum(), 1e-300))
    return float(min(0.6 * left + calm, 1.0))
