"""A shutter by its sound alone: the first and the last click of a firing. Good for slow speeds, with a wide and stated doubt.

What is heard is not light: blades begin before they bare anything, and both clicks ring on. So no time below what clicks can be
told apart at is given, and the doubt is never below two milliseconds.

Source: Energy of the rectified signal in short stretches; sound travels 0.34 m in a millisecond (dry air, 20 °C [memory]). How
long a click rings and what may be told apart: common practice, no source.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import signal

Array = npt.NDArray[np.float64]
STRETCH_S = 0.0005
ABOVE_HZ = 1_000.0  # voices and hum lie below
RING_S = 0.012  # of one click: nothing within it is another
SHORTEST_S = 0.03  # below it two clicks are one
LEAST_U_S = 0.002
REST_S = 12.0  # clicks further apart belong to other firings, the longest marked time being 8 s
WOUND_S = 0.4  # from one firing to the next at least; common practice, no source
SIGMAS = 8.0
OF_LOUDEST = 0.12  # of amplitude, below which it is a rattle


@dataclass(frozen=True)
class Heard:
    """Two clicks: when the first and the last came, and the standard uncertainty of the time between, s."""

    open_s: float
    close_s: float
    u_s: float

    @property
    def time_s(self) -> float:
        """What lies between."""
        return self.close_s - self.open_s


def heard(samples: Array, rate_hz: float) -> tuple[Heard, ...]:
    """Every pair of clicks that can be told apart; where a third is near, which two are the firing's is not known, and none is
    given.

    Raises InvalidInput: too slow a rate for clicks; NotEnoughData: less than a twentieth of a second.

    Parameters
    ----------
    samples : of a microphone, shape (n,)
    rate_hz : samples a second, 8 kHz at least
    """
    y = np.asarray(samples, dtype=float)
    if rate_hz < 8_000:
        raise InvalidInput("Sample rate", f"{rate_hz:g} Hz", "8 kHz at least: below it a click has no edge")
    if len(y) < rate_hz / 20:
        raise NotEnoughData("Samples", len(y), int(rate_hz / 20))
    shrill = signal.sosfilt(signal.butter(2, ABOVE_HZ, "highpass", fs=rate_hz, output="sos"), y - y.mean())
    step = max(int(STRETCH_S * rate_hz), 1)
    whole = len(shrill) - len(shrill) % step
    loud = np.sqrt((shrill[:whole].reshape(-1, step) ** 2).mean(axis=1))
    at = _onsets(loud, step / rate_hz)
    found: list[Heard] = []
    place = 0
    while place + 1 < len(at):
        first, last = at[place], at[place + 1]
        before, after = (at[place - 1] if place else -np.inf), (at[place + 2] if place + 2 < len(at) else np.inf)
        is_alone = min(first - before, after - last) > WOUND_S
        if is_alone and SHORTEST_S <= last - first <= REST_S:
            found.append(Heard(first, last, max(LEAST_U_S, 0.004 if last - first < 0.06 else 0.0025)))
            place += 2
        else:
            place += 1
    return tuple(found)


def _onsets(loud: Array, stretch_s: float) -> list[float]:
    """When clicks begin, s."""
    quiet = float(np.median(loud))
    spread = 1.4826 * float(np.median(np.abs(loud - quiet))) + 1e-12
    least = max(quiet + SIGMAS * spread, OF_LOUDEST * float(loud.max()))
    at = np.flatnonzero(loud > least) * stretch_s
    begins = np.diff(at, prepend=-np.inf) > RING_S
    found: list[float] = at[begins].tolist()
    return found
