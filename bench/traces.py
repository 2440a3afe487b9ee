"""Invented traces of every shape, and of none of them: how often the shape is named right, and how far off the frequency is."""

import numpy as np
import numpy.typing as npt
from scipy import signal

from bench.measure import row
from violet_dial.core.signals.shapes import SHAPES, Shape, trace_of

Array = npt.NDArray[np.float64]
COUNT, SEED = 600, 23
RATE_HZ = 10_000.0


def invented(shape: Shape, rng: np.random.Generator) -> tuple[Array, float | None]:
    """Samples of a shape with noise, level, phase, duty and cycles drawn; and its frequency where it has one."""
    n = int(rng.integers(600, 6000))
    t = np.arange(n) / RATE_HZ
    cycles, span = rng.uniform(4, n / 40), float(10 ** rng.uniform(-1.0, 1.0))
    frequency = cycles / (n / RATE_HZ)
    phase = rng.uniform(0, 2 * np.pi)
    level, noise = rng.uniform(-1, 3) * span, rng.uniform(0.002, 0.05) * span
    angle = 2 * np.pi * frequency * t + phase
    if shape == "flat":
        level = float(10 ** rng.uniform(-0.5, 1.0))
        return level + rng.normal(0, rng.uniform(0.0005, 0.01) * level, n), None
    if shape == "noise":
        return level + rng.normal(0, span * rng.uniform(0.2, 1.0), n), None
    if shape in ("sine", "square", "sawtooth", "rectified"):
        wave = _repeating(shape, angle, rng)
    elif shape == "slow change":
        wave, frequency = np.exp(-t / t[-1] / rng.uniform(0.08, 2.0)) * rng.choice([-1.0, 1.0]), np.nan
    elif shape == "none of these":
        wave, frequency = _unlike(n, angle, rng), np.nan
    elif shape == "bursts":
        gate = signal.square(2 * np.pi * rng.uniform(1.5, 5) / (n / RATE_HZ) * t + rng.uniform(0, 6), rng.uniform(0.2, 0.6)) > 0
        frequency = rng.uniform(400, 1500)
        wave = np.sin(2 * np.pi * frequency * t) / 2 * gate
    elif shape == "spikes":
        wave = np.zeros(n)
        for at in rng.integers(0, n - 3, int(rng.integers(3, 15))):
            wave[at : at + int(rng.integers(1, 3))] += rng.uniform(0.5, 1.0) * rng.choice([-1.0, 1.0])
        noise = rng.uniform(0.002, 0.03) * span
        level, frequency = level * 0.5, np.nan
    else:
        wave = np.ones(n)
        for _ in range(int(rng.integers(1, 5))):
            at, length = int(rng.integers(0, n - 60)), int(rng.integers(15, max(n // 12, 30)))
            wave[at : at + length] = rng.uniform(0.0, 0.2)
        level, frequency = 0.0, np.nan
    return level + span * wave + rng.normal(0, noise, n), None if np.isnan(frequency) else float(frequency)


def _repeating(shape: Shape, angle: Array, rng: np.random.Generator) -> Array:
    if shape == "sine":
        return np.sin(angle) / 2
    if shape == "square":
        return np.asarray(signal.square(angle, rng.uniform(0.2, 0.8)) / 2)
    if shape == "sawtooth":
        return np.asarray(signal.sawtooth(angle, rng.choice([0.0, 1.0])) / 2)
    return np.abs(np.sin(angle / 2)) if rng.random() < 0.5 else np.maximum(np.sin(angle), 0.0)


def _unlike(n: int, angle: Array, rng: np.random.Generator) -> Array:
    """What is no shape of the list: what wanders, a clock that dies, two tones."""
    wanders = np.cumsum(rng.normal(0, 1, n))
    dies = np.sign(np.sin(angle)) * np.exp(-np.linspace(0, 1, n) * rng.uniform(2.0, 5.0)) / 2
    tones = np.sin(angle) / 3 + np.sin(angle * 1.618) / 3
    return (wanders / np.ptp(wanders), dies, tones)[int(rng.integers(3))]


def judged(count: int = COUNT, seed: int = SEED) -> tuple[float, float, dict[str, int]]:
    """Share named right, share of frequencies within half a per cent, and what was taken for what."""
    rng = np.random.default_rng(seed)
    right, near, periodic = 0, 0, 0
    wrong: dict[str, int] = {}
    for number in range(count):
        shape = SHAPES[number % len(SHAPES)]
        samples, frequency = invented(shape, rng)
        found = trace_of(samples, RATE_HZ)
        right += found.shape == shape
        if found.shape != shape:
            wrong[f"{shape} as {found.shape}"] = wrong.get(f"{shape} as {found.shape}", 0) + 1
        elif frequency is not None and found.frequency_hz is not None:
            periodic += 1
            near += abs(found.frequency_hz / frequency - 1) <= 0.005
    return right / count, near / max(periodic, 1), wrong


def report() -> None:
    """All of it."""
    right, near, wrong = judged()
    row(f"{COUNT} traces of every shape: named right", f"{right:.1%}", "goal: 97 %")
    row("frequency within half a per cent", f"{near:.1%}")
    row("taken for another", ", ".join(f"{name} {count}" for name, count in wrong.items()) or "none")


if __name__ == "__main__":
    report()
