"""Recordings of an oscilloscope or a sound card as samples: CSV of time and volts, or WAV."""

import io
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.io import wavfile

from violet_dial.core.errors import InvalidInput

Array = npt.NDArray[np.float64]
MOST_BYTES = 200_000_000
MOST_HEAD, MOST_CHANNELS, MOST_SAMPLES = 60, 16, 40_000_000
SEPARATORS = (";", "\t", ",")


@dataclass(frozen=True)
class Recording:
    """Channels by name, samples shape (n, channels), samples a second."""

    names: tuple[str, ...]
    samples: Array
    rate_hz: float


def recording_of(data: bytes, name: str) -> Recording:
    """A recording from the bytes of a file.

    Raises
    ------
    InvalidInput
        Empty, cut short, no recording, uneven times, or samples that are no figures.
    """
    if not data:
        raise InvalidInput("Recording", name, "a file with something in it")
    found = _wav(data, name) if data[:4] in (b"RIFF", b"RIFX", b"RF64") else _csv(data, name)
    if not np.isfinite(found.samples).all():
        raise InvalidInput("Recording", name, "samples that are all figures (no NaN)")
    if len(found.samples) < 2:
        raise InvalidInput("Recording", f"{len(found.samples)} samples", "two at least")
    return found


def _wav(data: bytes, name: str) -> Recording:
    if data[:4] == b"RIFF" and int.from_bytes(data[4:8], "little") + 8 > len(data):
        raise InvalidInput("Recording", f"{name}, {len(data)} bytes", "a whole WAV file: this one is cut short")
    try:
        rate, samples = wavfile.read(io.BytesIO(data))
    except (ValueError, EOFError, OSError, MemoryError) as error:
        raise InvalidInput("Recording", name, f"a whole WAV file ({error})") from error
    whole = samples.reshape(len(samples), -1)
    if whole.shape[1] > MOST_CHANNELS:
        raise InvalidInput("Recording", f"{whole.shape[1]} channels", f"at most {MOST_CHANNELS}")
    full = {"u": 128.0, "i": float(2 ** (8 * whole.itemsize - 1)), "f": 1.0}[whole.dtype.kind]
    shifted = whole.astype(float) - (128.0 if whole.dtype.kind == "u" else 0.0)
    return Recording(tuple(f"channel {n + 1}" for n in range(whole.shape[1])), shifted / full, float(rate))


def _csv(data: bytes, name: str) -> Recording:
    if b"\0" in data[:10_000]:
        raise InvalidInput("Recording", name, "WAV, or CSV of time and volts")
    text = data.decode("utf-8", "replace").lstrip("\ufeff")
    lines = text.splitlines()
    head = lines[:MOST_HEAD]  # a comma may stand in figures: it parts cells only where nothing else does
    separator = next(
        (one for one in SEPARATORS[:2] if sum(one in line for line in head) > len(head) / 2), SEPARATORS[2]
    )
    first = next((n for n, line in enumerate(lines[:MOST_HEAD]) if _figures(line, separator) >= 2), None)
    if first is None:
        raise InvalidInput("Recording", name, f"rows of time and volts within the first {MOST_HEAD} lines")
    columns = len(lines[first].rstrip(separator).split(separator))
    rows = (_plain(line, separator) for line in lines[first:] if line.strip())
    try:
        table = np.loadtxt(rows, delimiter=separator, usecols=range(columns), ndmin=2)
    except ValueError as error:
        raise InvalidInput("Recording", name, f"rows of {columns} figures ({error})") from error
    if not 2 <= columns <= MOST_CHANNELS + 1 or len(table) > MOST_SAMPLES:
        raise InvalidInput(
            "Recording", f"{columns} columns, {len(table)} rows", f"time and at most {MOST_CHANNELS} channels"
        )
    return Recording(_names(lines[:first], separator, columns - 1), table[:, 1:], _rate(table[:, 0], name))


def _plain(line: str, separator: str) -> str:
    return line.rstrip().rstrip(separator) if separator == "," else line.rstrip().rstrip(separator).replace(",", ".")


def _figures(line: str, separator: str) -> int:
    """How many cells of a line are figures; 0 where any is not."""
    cells = [cell.strip() for cell in _plain(line, separator).split(separator)]
    try:
        return len([float(cell) for cell in cells])
    except ValueError:
        return 0


def _names(head: list[str], separator: str, count: int) -> tuple[str, ...]:
    """Names of the channels from the line of the head that has as many, the first of them."""
    for line in head:
        cells = [cell.strip().strip('"') for cell in line.split(separator)]
        if len(cells) >= count + 1 and all(cells[1 : count + 1]):
            return tuple(cell[:40] for cell in cells[1 : count + 1])
    return tuple(f"channel {n + 1}" for n in range(count))


def _rate(time_s: Array, name: str) -> float:
    steps = np.diff(time_s)
    if not len(steps) or not np.isfinite(steps).all() or steps.min() <= 0:
        raise InvalidInput("Recording", name, "times in the first column, each later than the one before")
    step = float(np.median(steps))
    if np.abs(steps - step).max() > 0.6 * step:  # printed times are rounded; a missing sample is a whole step
        raise InvalidInput("Recording", name, "samples at even times; some are missing or doubled")
    return float((len(time_s) - 1) / (time_s[-1] - time_s[0]))
