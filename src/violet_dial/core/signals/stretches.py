"""Stretches of a long recording in which something happens, found on coarse means, so that only they are gone over finely.

A firing longer than a stretch shows as two: its opening and its closing; stretches near each other are therefore joined up to the
longest firing asked for, and the finder is handed the middle thinned only where it has to be.

Source: Median and its spread as a measure of noise: any textbook of statistics.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.signals.firings import LEAST_SAMPLES, RecordedFiring, find_firings

Array = npt.NDArray[np.float64]
WHOLE_S = 20.0  # a recording up to this is gone over whole
COARSE_S = 0.00033  # of a mean
SPAN = 3  # means that a step spans
SIGMAS, OF_LARGEST = 9.0, 0.25  # of a step between means, and its share of the largest
BOTH = 0.4  # of the larger step, from which light came and went
AROUND_S = 0.15  # before and behind a step
JOINED_S = 9.0  # a firing is no longer than this, unless it is alone
PIECE = 1 << 20  # samples read at a time
MOST_SECONDS = 7_200.0

Read = Callable[[int, int], Array]  # samples from one place to another, shape (n,)


def firings_of(read: Read, count: int, rate_hz: float) -> tuple[RecordedFiring, ...]:
    """Every firing in a recording of any length, read piece by piece.

    Raises InvalidInput: longer than two hours, or samples that are no figures; NotEnoughData: fewer than 64 samples.

    Parameters
    ----------
    read : gives samples of one sensor from a place to another
    rate_hz : samples a second
    """
    if count < LEAST_SAMPLES:
        raise NotEnoughData("Samples", count, LEAST_SAMPLES)
    if count / rate_hz > MOST_SECONDS:
        raise InvalidInput("Recording", f"{count / rate_hz:.0f} s", f"at most {MOST_SECONDS:.0f} s: cut it into pieces")
    if count / rate_hz <= WHOLE_S:
        return find_firings(read(0, count), rate_hz)
    found: list[RecordedFiring] = []
    for first, last in stretches(read, count, rate_hz):
        begun = first / rate_hz
        for firing in find_firings(read(first, last), rate_hz):
            found.append(replace(firing, open_s=firing.open_s + begun, close_s=firing.close_s + begun))
    return tuple(found)


def stretches(read: Read, count: int, rate_hz: float) -> list[tuple[int, int]]:
    """Where something happens: first and last sample, in order.

    Parameters
    ----------
    read : gives samples of one sensor from a place to another
    rate_hz : samples a second
    """
    step = max(int(COARSE_S * rate_hz), 1)
    means = np.concatenate(list(_means(read, count, step)))
    jumps = means[SPAN:] - means[:-SPAN]
    sizes = np.abs(jumps)
    spread = 1.4826 * float(np.median(np.abs(sizes - np.median(sizes)))) + float(np.median(sizes)) + 1e-15
    places = np.flatnonzero(sizes > max(SIGMAS * spread, OF_LARGEST * float(sizes.max(initial=0.0))))
    if not len(places):
        return []
    around = AROUND_S * rate_hz
    apart = np.flatnonzero(np.diff(places) * step > 2 * around)
    groups = []
    for part in np.split(places, apart + 1):
        first, last = (int(part[end]) * step + SPAN * step // 2 for end in (0, -1))
        up, down = float(jumps[part].max(initial=0.0)), float(-jumps[part].min(initial=0.0))
        sign = 0 if min(up, down) > BOTH * max(up, down) else 1 if up > down else -1
        groups.append((max(int(first - around), 0), min(int(last + around), count), sign))
    return _joined(groups, JOINED_S * rate_hz)


def _means(read: Read, count: int, step: int) -> Iterator[Array]:
    piece = PIECE - PIECE % step
    for first in range(0, count - step + 1, piece):
        part = read(first, min(first + piece, count))
        part = part[: len(part) - len(part) % step]
        yield part.reshape(-1, step).mean(axis=1)


def _joined(groups: list[tuple[int, int, int]], longest: float) -> list[tuple[int, int]]:
    """Where the light only came, or only went, it is one firing with the next that goes the other way, as long as that may be."""
    found: list[tuple[int, int]] = []
    waits = 0
    for first, last, sign in groups:
        if waits and sign == -waits and last - found[-1][0] <= longest:
            found[-1] = (found[-1][0], last)
            waits = 0
        else:
            found.append((first, last))
            waits = sign
    return found
