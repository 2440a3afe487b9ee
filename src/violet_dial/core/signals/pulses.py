"""What stands out of a trace: how fast its edges are, how many spikes, how high, with how much energy.

Source: Rise from a tenth to nine tenths: IEC 60469 [memory]. From which height a spike is one: common practice, no source.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
SIGMAS = 8.0  # of noise, above which a sample is of a spike
LONGEST_SHARE = 0.02  # of the trace, that one spike may last
LEAST_SWING = 12.0  # of noise, between two levels that edges lead from and to


@dataclass(frozen=True)
class Spikes:
    """How many, the highest (from the level about it, unit of the samples), energy of all (unit squared times s)."""

    count: int
    highest: float
    energy: float


def rise_s(samples: Array, rate_hz: float) -> float | None:
    """Median time of rising edges from a tenth to nine tenths of the swing, s; None where there is none.

    Parameters
    ----------
    samples : shape (n,)
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    low, high = float(np.percentile(y, 2)), float(np.percentile(y, 98))
    if high - low < LEAST_SWING * _noise(y):
        return None
    tenth, nine = low + 0.1 * (high - low), low + 0.9 * (high - low)
    below, above = np.flatnonzero(y <= tenth), np.flatnonzero(y >= nine)
    if not len(below) or not len(above):
        return None
    found = []
    tops = above[np.diff(above, prepend=-2) > 1]  # where each stay above begins
    for top in tops[:2000]:
        place = int(np.searchsorted(below, top)) - 1
        if place >= 0 and y[below[place] : top].size:
            start, end = int(below[place]), int(top)
            if above.size and not ((above > start) & (above < end)).any():
                found.append(_crossing(y, end, nine) - _crossing(y, start + 1, tenth))
    return float(np.median(found)) / rate_hz if found else None


def _crossing(y: Array, at: int, level: float) -> float:
    """Where the line from the sample before to this one passes a level, in samples."""
    if at <= 0 or y[at] == y[at - 1]:
        return float(at)
    return at - 1 + float(np.clip((level - y[at - 1]) / (y[at] - y[at - 1]), 0.0, 1.0))


def spikes_of(samples: Array, rate_hz: float) -> Spikes:
    """What stands far off its level for a short time.

    Parameters
    ----------
    samples : shape (n,)
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    off = y - np.median(y)
    spread = max(float(np.median(np.abs(off))) / 0.6745, _noise(y), 1e-12)
    far = np.abs(off) > SIGMAS * spread
    edges = np.flatnonzero(np.diff(np.concatenate([[False], far, [False]]).astype(int)))
    runs = [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a <= max(LONGEST_SHARE * len(y), 3)]
    if not runs:
        return Spikes(0, 0.0, 0.0)
    energy = sum(float((off[a:b] ** 2).sum()) for a, b in runs) / rate_hz
    return Spikes(len(runs), max(float(np.abs(off[a:b]).max()) for a, b in runs), energy)


def _noise(y: Array) -> float:
    return float(np.median(np.abs(np.diff(y)))) / (0.6745 * 2**0.5) + 1e-12
