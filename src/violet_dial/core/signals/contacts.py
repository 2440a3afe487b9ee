"""A flash contact beside the light of the same firing: when it closes, how often it bounces, how long it stays closed.

Source: Two levels with a dead band between them; usual bounce below a millisecond or two: common practice, no source.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import NotEnoughData
from violet_dial.core.signals.firings import RecordedFiring

Array = npt.NDArray[np.float64]
BAND = 0.2  # of the swing, about its middle, in which nothing changes
BOUNCE_S = 0.003  # changes within this of the closing are bounces
NEAR_S = 0.25  # a contact further from a firing than this is not of it


@dataclass(frozen=True)
class ContactClosing:
    """One closing: when, how long until it opened for good, how often it opened again at first, how long that went on, s."""

    close_s: float
    closed_s: float
    bounces: int
    bounced_s: float


@dataclass(frozen=True)
class Synchrony:
    """A contact against its firing: how long after the shutter was fully open (negative: before), and how long it was to stay
    open then; ``right`` when it closes in between."""

    after_full_s: float
    left_open_s: float

    @property
    def right(self) -> bool:
        """Whether all of a short flash goes through."""
        return self.after_full_s >= 0 and self.left_open_s > 0


def contacts(samples: Array, rate_hz: float) -> tuple[ContactClosing, ...]:
    """Every closing of a contact; closed is whichever level is the rarer.

    Raises NotEnoughData: fewer than eight samples.

    Parameters
    ----------
    samples : of the contact's channel, shape (n,)
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    if len(y) < 8:
        raise NotEnoughData("Samples", len(y), 8)
    low, high = float(np.percentile(y, 0.05)), float(np.percentile(y, 99.95))
    noise = 1.4826 * float(np.median(np.abs(np.diff(y)))) + 1e-12
    if high - low < 12 * noise:
        return ()
    middle, half = (high + low) / 2, BAND * (high - low) / 2
    state = np.where(y > middle + half, 1, np.where(y < middle - half, -1, 0))
    known = np.flatnonzero(state)
    held = state[known[np.maximum(np.searchsorted(known, np.arange(len(y)), side="right") - 1, 0)]]
    rest = 1 if (held == 1).mean() > 0.5 else -1
    closed = np.concatenate([[False], held != rest, [False]])
    edges = np.flatnonzero(np.diff(closed.astype(int)))
    runs = [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    groups: list[list[tuple[int, int]]] = []
    for run in runs:
        if groups and run[0] - groups[-1][-1][1] < BOUNCE_S * rate_hz:
            groups[-1].append(run)
        else:
            groups.append([run])
    return tuple(
        ContactClosing(
            some[0][0] / rate_hz, (some[-1][1] - some[0][0]) / rate_hz, len(some) - 1, (some[-1][0] - some[0][0]) / rate_hz
        )
        for some in groups
    )


def synchrony(contact: ContactClosing, firing: RecordedFiring) -> Synchrony:
    """A contact against the firing it belongs to."""
    full = firing.open_s + firing.rise_s / 2
    return Synchrony(contact.close_s - full, firing.close_s - firing.fall_s / 2 - contact.close_s)


def of_firing(firing: RecordedFiring, closings: tuple[ContactClosing, ...]) -> ContactClosing | None:
    """The contact that belongs to a firing; None where there is none near."""
    near = [closing for closing in closings if firing.open_s - NEAR_S < closing.close_s < firing.close_s + NEAR_S]
    return min(near, key=lambda one: abs(one.close_s - firing.open_s), default=None)
