"""A trace fetched from an oscilloscope that speaks SCPI: one channel, as figures in text.

Source: ``:WAV:SOUR``, ``:WAV:FORM ASC``, ``:WAV:XINC?``, ``:WAV:DATA?`` with or without an IEEE 488.2 block head: common
practice among such instruments, no source.
"""

import re

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import BadAnswer
from violet_dial.instruments.channel import Channel
from violet_dial.instruments.dialects import number_of
from violet_dial.instruments.kept import Kept

MOST_LINE, ANSWER_MS, MOST_POINTS, LEAST_POINTS = 2_000_000, 8_000, 200_000, 16
_HEAD = re.compile(r"^#(\d)(\d*)")


def fetch(kept: Kept, channel: int = 1) -> tuple[npt.NDArray[np.float64], float]:
    """Volts of one channel, shape (n,), and samples a second. For a worker: it waits for the instrument.

    Raises InstrumentError: it does not answer, or with something else than a trace.
    """
    link = Channel(kept, most_line=MOST_LINE, answer_ms=ANSWER_MS)
    try:
        link.write(f":WAV:SOUR CHAN{channel}")
        link.write(":WAV:FORM ASC")
        step_s = number_of(link.query(":WAV:XINC?"), link, ":WAV:XINC?")
        said = link.query(":WAV:DATA?")
    finally:
        link.close()
    head = _HEAD.match(said)
    if head:
        said = said[2 + int(head[1]) :]
    try:
        volts = np.array([float(part) for part in said.split(",") if part.strip()])
    except ValueError as error:
        raise BadAnswer(f":WAV:DATA? was answered with {said[:40]!r}, not figures.", kept.address, ":WAV:DATA?") from error
    if not 0 < step_s < 1e3 or not LEAST_POINTS <= len(volts) <= MOST_POINTS or not np.isfinite(volts).all():
        raise BadAnswer(
            f"{len(volts)} samples {step_s:g} s apart came, expected {LEAST_POINTS} to {MOST_POINTS}.", kept.address, ":WAV:DATA?"
        )
    return volts, 1.0 / step_s
