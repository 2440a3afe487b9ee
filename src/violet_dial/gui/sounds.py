"""Three sounds made by us: a reading taken, refused, a link lost. Silent where there is no sound device."""

import logging
import threading
from typing import Any, Literal

import numpy as np

from violet_dial.instruments.sound_card import has_sound

Sound = Literal["taken", "refused", "lost"]
RATE_HZ = 44_100
LOUDNESS = 0.25
# Notes as (hertz, seconds): up for taken, one low note twice for refused, down for lost.
NOTES: dict[Sound, tuple[tuple[float, float], ...]] = {
    "taken": ((660.0, 0.07), (990.0, 0.12)),
    "refused": ((220.0, 0.10), (0.0, 0.06), (220.0, 0.12)),
    "lost": ((520.0, 0.12), (390.0, 0.12), (260.0, 0.22)),
}
_log = logging.getLogger(__name__)


def tone(sound: Sound) -> np.ndarray:
    """Samples of a sound: float32, shape (n,), within ±`LOUDNESS`, each note faded in and out so that nothing clicks."""
    pieces = []
    for hertz, seconds in NOTES[sound]:
        times = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
        fade = np.minimum(1.0, np.minimum(times, times[::-1]) / 0.008)
        pieces.append(LOUDNESS * fade * np.sin(2.0 * np.pi * hertz * times))
    return np.concatenate(pieces).astype(np.float32)


class Sounds:
    """Plays in a thread of its own; ``backends`` as miniaudio names them, None for whatever the machine has."""

    def __init__(self, backends: list[Any] | None = None) -> None:
        self._backends = backends
        self._thread: threading.Thread | None = None
        self.silent = False
        self.failed = "" if backends or has_sound("p") else "no sound device"  # why nothing can be heard, once that is known
        self.played: list[Sound] = []

    def play(self, sound: Sound) -> None:
        """Let a sound be heard; one that comes while another plays is dropped: the newest counts in sight."""
        if self.silent or self.failed or (self._thread is not None and self._thread.is_alive()):
            return
        self.played.append(sound)
        del self.played[:-50]
        self._thread = threading.Thread(target=self._run, args=(sound,), name="sound", daemon=True)
        self._thread.start()

    def wait(self, seconds: float) -> None:
        """Until what plays has been heard."""
        if self._thread is not None:
            self._thread.join(seconds)

    def _run(self, sound: Sound) -> None:
        import miniaudio

        done = threading.Event()

        def stream() -> Any:
            wanted = yield b""
            samples, place = tone(sound), 0
            while place < len(samples):
                piece = samples[place : place + wanted]
                place += len(piece)
                wanted = yield piece.tobytes()
            done.set()

        try:
            device = miniaudio.PlaybackDevice(
                output_format=miniaudio.SampleFormat.FLOAT32, nchannels=1, sample_rate=RATE_HZ, backends=self._backends
            )
        except (miniaudio.MiniaudioError, OSError) as error:
            self.failed = f"no sound device ({error})"
            _log.info("sounds are off: %s", self.failed)
            return
        try:
            playing = stream()
            next(playing)
            device.start(playing)
            done.wait(2.0)
        finally:
            device.close()
