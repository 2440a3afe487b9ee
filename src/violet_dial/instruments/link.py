"""A link: one thread owns one instrument, reads it without pause, and heals itself.

A failure closes the channel, says what happened, waits a little longer each time (half a second to eight) until it has
read well for a while, and begins anew. Nothing that was read before the failure is mixed with what comes after it.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from violet_dial.core.errors import AnswerTimeout, BadAnswer, InstrumentError
from violet_dial.core.steady.samples import Function, Sample
from violet_dial.instruments.dialects import Speaker, speaker_of
from violet_dial.instruments.kept import Kept

if TYPE_CHECKING:
    from violet_dial.instruments.channel import Channel

LinkState = Literal["connecting", "live", "lost", "closed"]
PAUSES_S = (0.5, 1.0, 2.0, 4.0, 8.0)
STEADY = 10  # figures read without a failure: the next failure is a first one again
PERIOD_S = 0.1
MOST_WAITING = 1_000_000  # samples nobody fetched: a day and more at ten a second
CLOSE_WAIT_S = 0.3  # a thread that is still opening an address is left to end by itself


@dataclass(frozen=True)
class LinkStatus:
    """How a link stands; ``words`` what was said last, ``identity`` what the instrument says it is."""

    state: LinkState
    words: str = ""
    identity: str = ""
    failures: int = 0  # since it was opened


class Link:
    """Samples gather until they are fetched with `drain`, in order and each once."""

    def __init__(self, kept: Kept, period_s: float = PERIOD_S) -> None:
        self.kept = kept
        self._period_s = period_s
        self._samples: deque[Sample] = deque(maxlen=MOST_WAITING)
        self._lock = threading.Lock()
        self._status = LinkStatus("connecting", "looking for it")
        self._wanted: Function | None = None
        self._light_lx: float | None = None
        self._stop = threading.Event()
        self._good = 0  # figures since the last failure
        self._thread = threading.Thread(target=self._run, name=f"link {kept.name}", daemon=True)

    # called from anywhere

    def start(self) -> None:
        self._thread.start()

    @property
    def status(self) -> LinkStatus:
        with self._lock:
            return self._status

    def drain(self) -> tuple[Sample, ...]:
        """Every sample since the last call, oldest first."""
        found = []
        while self._samples:
            found.append(self._samples.popleft())
        return tuple(found)

    def want(self, function: Function | None) -> None:
        """The function the next test needs; set at the next chance where the instrument can be set."""
        with self._lock:
            self._wanted = function

    def set_light(self, lux: float) -> None:
        """The light a settable lamp is to give."""
        with self._lock:
            self._light_lx = lux

    def stop(self) -> None:
        """Tell the thread to let go, without waiting for it."""
        self._stop.set()

    def close(self) -> bool:
        """Stop and let go; False when the thread did not end in time."""
        self.stop()
        if self._thread.ident is not None:
            self._thread.join(CLOSE_WAIT_S)
        return not self._thread.is_alive()

    # the thread

    def _say(self, state: LinkState, words: str, identity: str = "", failures: int = 0) -> None:
        with self._lock:
            self._status = LinkStatus(state, words, identity, failures)

    def _run(self) -> None:
        from violet_dial.instruments.channel import Channel  # loads PyVISA, in this thread: the window does not wait

        failures = tries = 0
        while not self._stop.is_set():
            channel = None
            try:
                channel = Channel(self.kept, self._stop.is_set)
                speaker = speaker_of(self.kept)
                identity = speaker.begin(channel)
                self._say("live", identity, identity, failures)
                self._good = 0
                self._read_on(channel, speaker)
            except InstrumentError as error:
                failures += 1
                tries = 0 if self._good >= STEADY else tries
                self._good = 0
                pause = PAUSES_S[min(tries, len(PAUSES_S) - 1)]
                # an answer that was late or odd leaves the instrument where it is: begin anew at once
                pause = 0.05 if tries == 0 and isinstance(error, (AnswerTimeout, BadAnswer)) else pause
                tries += 1
                self._say("lost", f"{error} Next try in {pause:g} s.", failures=failures)
                self._stop.wait(pause)
            finally:
                if channel is not None:
                    channel.close()
        self._say("closed", "let go")

    def _read_on(self, channel: Channel, speaker: Speaker) -> None:
        next_at = time.monotonic()
        while not self._stop.is_set():
            self._set(channel, speaker)
            value, function, full_scale = speaker.read(channel)
            self._samples.append(Sample(time.monotonic(), value, function, full_scale))
            self._good += 1
            next_at += self._period_s
            now = time.monotonic()
            if next_at > now:
                self._stop.wait(next_at - now)
            else:
                next_at = now

    def _set(self, channel: Channel, speaker: Speaker) -> None:
        """Do what was asked for since: each wish once."""
        with self._lock:
            wanted, light = self._wanted, self._light_lx
            self._wanted = self._light_lx = None
        if light is not None and self.kept.settable:
            speaker.set_light(channel, light)
        if wanted is not None and wanted in speaker.functions:
            speaker.set_function(channel, wanted)
