"""Invented firings of a shutter: how many are found, how many invented, how far off the times are, whether the band is true."""

import numpy as np
import numpy.typing as npt
from scipy import signal

from bench.measure import row
from violet_dial.core.signals.firings import find_firings

Array = npt.NDArray[np.float64]
COUNT, SEED, FINE = 2000, 31, 16


def invented(rng: np.random.Generator) -> tuple[Array, float, float, float]:
    """A recording with one firing: samples, rate, when it opened, how long it was open."""
    rate = float(rng.choice([8000, 16000, 22050, 44100, 48000, 96000]))
    time_s = float(
        np.exp(rng.uniform(np.log(1 / 1000), np.log(8.0)) if rng.random() < 0.5 else rng.uniform(np.log(1 / 1000), np.log(0.25)))
    )
    time_s = max(time_s, 8 / rate)
    before, after = rng.uniform(0.08, 0.2), rng.uniform(0.1, 0.2)
    n = int((before + time_s + after) * rate)
    rise, fall = (min(rng.uniform(0.0001, 0.002), 0.6 * time_s) for _ in range(2))
    fine = min(FINE, max(1, int(4e6 / (n + 1))))
    t = (np.arange(n * fine) + 0.5) / (rate * fine)
    opened = before + rng.uniform(0, 1 / rate)
    light = np.clip((t - opened + rise / 2) / rise, 0, 1) - np.clip((t - opened - time_s + fall / 2) / fall, 0, 1)
    if rng.random() < 0.3:  # a bounce
        begun = opened + time_s + fall + rng.uniform(0.0008, 0.003)
        light += 0.15 * ((t > begun) & (t < begun + rng.uniform(0.0005, 0.002)))
    if rng.random() < 0.4:
        light *= 1 + rng.uniform(0, 0.2) * np.sin(2 * np.pi * rng.choice([100.0, 120.0]) * t + rng.uniform(0, 6))
    y: Array = light.reshape(n, fine).mean(axis=1)
    if rng.random() < 0.5:
        coupling_s = rng.uniform(0.005, 0.05)
        b, a = signal.bilinear([coupling_s, 0.0], [coupling_s, 1.0], rate)
        y = signal.lfilter(b, a, y)
    at = np.arange(n) / rate
    if rng.random() < 0.4:
        y = y + rng.uniform(0, 0.15) * np.sin(2 * np.pi * rng.choice([50.0, 60.0]) * at + rng.uniform(0, 6))
    y = y + rng.uniform(-0.2, 0.2) * at / at[-1] + rng.normal(0, 10 ** (-rng.uniform(10, 45) / 20), n)
    return float(rng.choice([-1.0, 1.0])) * rng.uniform(0.01, 1.0) * y + rng.uniform(-0.5, 0.5), rate, opened, time_s


def judged(count: int = COUNT, seed: int = SEED) -> dict[str, float]:
    """Shares found and invented, median error in stops, share of true times within two standard deviations."""
    rng = np.random.default_rng(seed)
    found, more, stops, inside = 0, 0, [], 0
    for _ in range(count):
        samples, rate, opened, time_s = invented(rng)
        several = find_firings(samples, rate)
        near = [one for one in several if abs(one.open_s - opened) < 0.3 * time_s + 0.001]
        more += len(several) - len(near[:1])
        if near:
            found += 1
            stops.append(abs(np.log2(near[0].time_s / time_s)) if near[0].time_s > 0 else 9.0)
            inside += abs(near[0].time_s - time_s) <= 1.96 * near[0].u_s
    return {
        "found": found / count,
        "invented": more / count,
        "median_stops": float(np.median(stops)),
        "inside": inside / max(found, 1),
    }


def report() -> None:
    """All of it."""
    got = judged()
    row(f"{COUNT} firings: found", f"{got['found']:.1%}", "goal: 99.5 %")
    row("invented, for each there was", f"{got['invented']:.2%}", "goal: none")
    row("error of the time, median", f"{got['median_stops']:.4f} stop", "goal: 0.02")
    row("within the stated band of 95 %", f"{got['inside']:.1%}", "goal: 95 %")


if __name__ == "__main__":
    report()
