"""Recordings of an oscilloscope or a sound card as samples: CSV of time and volts, WAV, FLAC or Ogg Vorbis."""

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.scipy_rooms import wavfile
from violet_dial.services.child import Child, ChildError, ChildSlow
from violet_dial.services.sound_child import HEAD
from violet_dial.services.sound_child import MOST_BYTES as MOST_COMPRESSED
from violet_dial.services.sound_child import MOST_SAMPLES as SOUND_SAMPLES

Array = npt.NDArray[np.float64]
MOST_BYTES = 200_000_000
MOST_DECODE_S = 30.0
LEAST_FLAT = 8  # samples at the same last figure
MOST_HEAD, MOST_CHANNELS, MOST_SAMPLES = 60, 16, 40_000_000
SEPARATORS = (";", "\t", ",")


@dataclass(frozen=True)
class Recording:
    """Channels by name; ``raw`` samples as they were kept, shape (n, channels), of which ``zero`` is nothing and ``full`` is one;
    samples a second."""

    names: tuple[str, ...]
    raw: npt.NDArray[Any]
    rate_hz: float
    zero: float = 0.0
    full: float = 1.0

    @property
    def count(self) -> int:
        """Samples of a channel."""
        return len(self.raw)

    def read(self, channel: int, first: int = 0, last: int | None = None) -> Array:
        """Samples of a channel from one place to another."""
        part = self.raw[first:last, channel].astype(float)
        part -= self.zero
        part /= self.full
        return part

    def clipped(self, channel: int) -> bool:
        """Whether the top or the bottom of what was recorded is cut off: many samples on end at the last figure there is."""
        whole = self.raw[:, channel]
        return any(_flat_runs(whole, end) for end in (whole.max(), whole.min()))


def _flat_runs(whole: npt.NDArray[Any], end: Any) -> bool:
    """Whether so many on end stand at an end of the figures as only a cut makes; a channel at rest has nothing cut."""
    at = np.flatnonzero(whole == end)
    if len(at) < LEAST_FLAT or len(at) > 0.9 * len(whole):
        return False
    together = np.diff(at) == 1
    return bool(len(together) and together.mean() > 0.8 and len(at) > LEAST_FLAT)


def recording_of(data: bytes, name: str) -> Recording:
    """A recording from the bytes of a file.

    Raises InvalidInput: empty, cut short, no recording, uneven times, or samples that are no figures.
    """
    if not data:
        raise InvalidInput("Recording", name, "a file with something in it")
    if data[:4] in (b"RIFF", b"RIFX", b"RF64"):
        found = _wav(data, name)
    elif data[:4] in (b"fLaC", b"OggS"):
        found = _compressed(data, name)
    else:
        found = _csv(data, name)
    if found.raw.dtype.kind == "f" and not np.isfinite(found.raw).all():
        raise InvalidInput("Recording", name, "samples that are all figures (no NaN)")
    if found.count < 2:
        raise InvalidInput("Recording", f"{found.count} samples", "two at least")
    return found


def wav_of(samples: npt.NDArray[np.float32], rate_hz: int) -> bytes:
    """Samples as a WAV file of 32-bit floats."""
    out = io.BytesIO()
    wavfile.write(out, rate_hz, samples.astype(np.float32))
    return out.getvalue()


def _wav(data: bytes, name: str) -> Recording:
    if data[:4] == b"RIFF" and int.from_bytes(data[4:8], "little") + 8 > len(data):
        raise InvalidInput("Recording", f"{name}, {len(data)} bytes", "a whole WAV file: this one is cut short")
    try:
        rate, samples = wavfile.read(io.BytesIO(data))
    except (ValueError, EOFError, OSError, MemoryError) as error:
        raise InvalidInput("Recording", name, f"a whole WAV file ({error})") from error
    whole = samples.reshape(len(samples), -1)
    full = {"u": 128.0, "i": float(2 ** (8 * whole.itemsize - 1)), "f": 1.0}[whole.dtype.kind]
    return _made(whole, rate, 128.0 if whole.dtype.kind == "u" else 0.0, full)


def _made(whole: npt.NDArray[Any], rate: int, zero: float, full: float) -> Recording:
    if whole.shape[1] > MOST_CHANNELS:
        raise InvalidInput("Recording", f"{whole.shape[1]} channels", f"at most {MOST_CHANNELS}")
    if whole.shape[0] > MOST_SAMPLES:
        raise InvalidInput("Recording", f"{whole.shape[0]} samples", f"at most {MOST_SAMPLES}")
    names = tuple(f"channel {n + 1}" for n in range(whole.shape[1]))
    return Recording(names, whole, float(rate), zero, full)


def _compressed(data: bytes, name: str) -> Recording:
    """FLAC or Ogg Vorbis, decoded in a process of its own."""
    if len(data) > MOST_COMPRESSED:
        raise InvalidInput("Recording", f"{name}, {len(data)} bytes", f"at most {MOST_COMPRESSED} bytes of FLAC or Ogg")
    child = Child("violet_dial.services.sound_child")
    try:
        _, sound = child.ask(data, MOST_DECODE_S, HEAD.size + 4 * SOUND_SAMPLES)
    except ChildSlow as error:
        raise InvalidInput("Recording", name, f"one that is decoded within {MOST_DECODE_S:g} s") from error
    except ChildError as error:
        why = str(error)[:100] or "it could not be decoded"
        raise InvalidInput("Recording", name, f"a whole FLAC or Ogg Vorbis file ({why})") from error
    finally:
        child.close()
    rate, channels, frames = HEAD.unpack_from(sound)
    samples = np.frombuffer(sound, dtype="<f4", offset=HEAD.size)
    if not channels or len(samples) != channels * frames:
        raise InvalidInput("Recording", name, "a whole FLAC or Ogg Vorbis file: this one is cut short")
    return _made(samples.reshape(-1, channels), rate, 0.0, 1.0)


def _csv(data: bytes, name: str) -> Recording:
    if b"\0" in data[:10_000]:
        raise InvalidInput("Recording", name, "WAV, or CSV of time and volts")
    text = data.decode("utf-8", "replace").lstrip("\ufeff")
    lines = text.splitlines()
    head = lines[:MOST_HEAD]  # a comma may stand in figures: it parts cells only where nothing else does
    separator = next((one for one in SEPARATORS[:2] if sum(one in line for line in head) > len(head) / 2), SEPARATORS[2])
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
        raise InvalidInput("Recording", f"{columns} columns, {len(table)} rows", f"time and at most {MOST_CHANNELS} channels")
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
