"""What a sound card brings: blocks of samples of light behind a shutter, from the machine's own card."""

import os
import sys
from collections.abc import Callable, Generator
from pathlib import Path
from typing import Any, Literal, Protocol

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput

Block = npt.NDArray[np.float32]  # shape (n, channels), of which one is full
Take = Callable[[Block], None]  # called on the card's own thread
RATE_HZ = 48_000
BLOCK_MS = 10
EXPECTED = "one to record with, or the simulated bench (F12)"


def has_sound(way: Literal["p", "c"]) -> bool:
    """Whether this machine may have a device to play (p) or to capture (c): asking the libraries where there is none fills the
    terminal."""
    if sys.platform != "linux":
        return True
    run = os.environ.get("XDG_RUNTIME_DIR", "/run/user/none")
    served = ("PULSE_SERVER" in os.environ, Path(run, "pulse", "native").exists(), Path(run, "pipewire-0").exists())
    return any(served) or any(Path("/dev/snd").glob(f"pcm*{way}"))


class SoundSource(Protocol):
    """A source of samples."""

    name: str
    rate_hz: int
    channels: int

    def start(self, take: Take) -> None:
        """Begin to bring blocks."""

    def stop(self) -> None:
        """Bring no more; may be started again."""


class SoundCard:
    """The machine's card for recording."""

    name = "sound card"
    rate_hz = RATE_HZ

    def __init__(self, channels: int = 1, backends: list[Any] | None = None) -> None:
        self.channels = channels
        self._backends = backends
        self._device: Any = None

    def start(self, take: Take) -> None:
        """Begin to bring blocks. Raises InvalidInput: there is no card, or another program has it."""
        import miniaudio

        if self._device is not None:
            return
        if not self._backends and not has_sound("c"):
            raise InvalidInput("Sound card", "none", EXPECTED)
        try:
            device = miniaudio.CaptureDevice(
                input_format=miniaudio.SampleFormat.FLOAT32, nchannels=self.channels, sample_rate=RATE_HZ,
                buffersize_msec=BLOCK_MS, backends=self._backends,
            )  # fmt: skip
            receiving = self._receiving(take)
            next(receiving)
            device.start(receiving)
        except (miniaudio.MiniaudioError, OSError) as error:
            raise InvalidInput("Sound card", "none", f"{EXPECTED} ({error})") from error
        self._device = device

    def _receiving(self, take: Take) -> Generator[None, bytes, None]:
        while True:
            data = yield
            take(np.frombuffer(bytes(data), dtype=np.float32).reshape(-1, self.channels))

    def stop(self) -> None:
        """Let go of the card."""
        if self._device is not None:
            self._device.close()
            self._device = None
