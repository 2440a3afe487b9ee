"""Listens to a sound card and takes each firing by itself, as soon as the light has gone: works in a thread of its own."""

import logging
import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass
from time import monotonic

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import VioletDialError
from violet_dial.core.signals.firings import firing_at
from violet_dial.instruments.sound_card import Block, SoundSource
from violet_dial.services.recordings import Recording
from violet_dial.services.shutter import Channels, FiringSeen, picture_of, shutter_of

MEAN_S, OVER = 1 / 3000, 3  # of a mean, and how many of them a step spans
SIGMAS, CLOSES = 9.0, 0.4  # of a step; its share by which the light goes again
QUIET_S, BEFORE_S, MOST_S = 0.016, 0.1, 70.0
LEARNS_S = 0.25  # of rest before the first firing: what is noise
KEPT_S = 90.0  # of the recording, for writing it out
_log = logging.getLogger(__name__)
Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Taken:
    """One firing as it was heard: what was seen, its picture (points, seconds before, seconds apart), and how long after the
    light had gone it was worked out, s; ``fault`` says why nothing was."""

    seen: FiringSeen | None
    picture: tuple[tuple[float, ...], float, float] = ((), 0.0, 0.0)
    after_s: float = 0.0
    fault: str = ""


@dataclass(frozen=True)
class Cut:
    """Samples of one firing, counted from the beginning: first and last of what is gone over, about where it opened and
    closed."""

    first: int
    last: int
    opened: int
    closed: int


class Trigger:
    """Finds where a firing begins and ends in samples that come block by block."""

    def __init__(self, rate_hz: float) -> None:
        self._rate = rate_hz
        self._step = max(int(MEAN_S * rate_hz), 1)
        self._left = np.zeros(0)
        self._means: list[float] = []
        self._gone = 0  # means that were let go of, before those at hand
        self._seen = 0  # steps gone over
        self._open: tuple[int, float] | None = None  # where the light came, with its step
        self._last = 0  # mean at which something moved last
        self._closing = False
        self._level = float("inf")

    def feed(self, samples: Array) -> list[Cut]:
        """Every firing that has ended by now."""
        both = np.concatenate([self._left, samples])
        whole = len(both) - len(both) % self._step
        self._means += both[:whole].reshape(-1, self._step).mean(axis=1).tolist()
        self._left = both[whole:]
        found: list[Cut] = []
        noise = self._noise()
        while self._seen + OVER < self._gone + len(self._means):
            at = self._seen - self._gone
            if (cut := self._stepped(self._means[at + OVER] - self._means[at], noise)) is not None:
                found.append(cut)
            self._seen += 1
        self._forget()
        return found

    def _noise(self) -> float:
        """What a step of nothing is, from the rest before; without bound until enough of it was seen."""
        if self._open is not None:
            return self._level
        means = np.array(self._means[-int(2.0 / MEAN_S) :])
        if len(means) < LEARNS_S / MEAN_S:
            return float("inf")
        steps = np.abs(means[OVER:] - means[:-OVER])
        self._level = float(np.median(steps)) / 0.6745 + 1e-9
        return self._level

    def _stepped(self, step: float, noise: float) -> Cut | None:
        if self._open is None:
            if abs(step) > SIGMAS * noise:
                self._open, self._last, self._closing = (self._seen, step), self._seen, False
            return None
        begun, height = self._open
        if (self._seen - begun) * MEAN_S < 0.003 and abs(step) > abs(height) and step * height > 0:
            self._open = (begun, step)
        if step * height < 0 and abs(step) > CLOSES * abs(height):
            self._closing, self._last = True, self._seen
        if self._closing and (self._seen - self._last) * self._step > QUIET_S * self._rate:
            self._open = None
            half = OVER * self._step // 2 + self._step  # a step lies amid the means it spans
            first = max(begun * self._step - int(BEFORE_S * self._rate), 0)
            return Cut(first, (self._seen + OVER) * self._step, begun * self._step + half, self._last * self._step + half)
        if (self._seen - begun) * self._step > MOST_S * self._rate:
            self._open = None
        return None

    def _forget(self) -> None:
        """Means that no firing can need any more."""
        most = int(4.0 / MEAN_S)
        if self._open is None and len(self._means) > 2 * most:
            gone = len(self._means) - most
            del self._means[:gone]
            self._gone += gone

    @property
    def knows_rest(self) -> bool:
        """Whether enough rest was seen to tell a firing from noise."""
        return self._level < float("inf")

    @property
    def is_open(self) -> bool:
        """Whether light is coming through now."""
        return self._open is not None and not self._closing


class Listener:
    """One card listened to; what was taken is fetched by ``drain``."""

    def __init__(self, card: SoundSource, channels: Callable[[], Channels]) -> None:
        self.card = card
        self._channels = channels
        self._blocks: queue.SimpleQueue[Block | None] = queue.SimpleQueue()
        self._taken: queue.SimpleQueue[Taken] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None
        self._kept: list[Block] = []
        self._first = 0  # sample of the first block that is kept
        self.is_open = self.is_ready = False

    def start(self) -> None:
        """Listen from now on. Raises InvalidInput: there is no card."""
        if self._thread is not None:
            return
        self._kept, self._first, self.is_open, self.is_ready = [], 0, False, False
        self._blocks = queue.SimpleQueue()
        self.card.start(self._blocks.put)
        self._thread = threading.Thread(target=self._run, args=(self._blocks,), name="listening", daemon=True)
        self._thread.start()

    @property
    def listening(self) -> bool:
        return self._thread is not None

    def stop(self) -> None:
        """Listen no more; what was taken can still be fetched."""
        if self._thread is None:
            return
        self.card.stop()
        self._blocks.put(None)
        self._thread.join(2.0)
        self._thread = None
        self.is_open = False

    def drain(self) -> list[Taken]:
        """What was taken since the last call."""
        found = []
        while not self._taken.empty():
            found.append(self._taken.get())
        return found

    def recorded(self) -> npt.NDArray[np.float32]:
        """What was recorded last, shape (n, channels); at most a minute and a half."""
        kept = list(self._kept)
        return np.concatenate(kept) if kept else np.zeros((0, self.card.channels), dtype=np.float32)

    def _run(self, blocks: "queue.SimpleQueue[Block | None]") -> None:
        trigger = Trigger(self.card.rate_hz)
        middle = self.card.channels // 2
        while (block := blocks.get()) is not None:
            came = monotonic()
            self._keep(block)
            for cut in trigger.feed(block[:, middle].astype(float)):
                self._take(cut, came)
            self.is_open, self.is_ready = trigger.is_open, trigger.knows_rest

    def _keep(self, block: Block) -> None:
        self._kept.append(block)
        most = int(KEPT_S * self.card.rate_hz / max(len(block), 1))
        if len(self._kept) > most + 500:
            gone = self._kept[:-most]
            self._kept = self._kept[-most:]
            self._first += sum(len(one) for one in gone)

    def _between(self, first: int, last: int) -> Block:
        """Samples from one place to another, of those that are kept: only the newest blocks are gone over."""
        end = self._first + sum(len(one) for one in self._kept)
        place, begins = len(self._kept), end
        while place and begins > first:
            place -= 1
            begins -= len(self._kept[place])
        return np.concatenate(self._kept[place:])[max(first - begins, 0) : last - begins]

    def _take(self, cut: Cut, came: float) -> None:
        whole = self._between(cut.first, cut.last)
        names = tuple(f"channel {n + 1}" for n in range(whole.shape[1]))
        recording = Recording(names, whole, float(self.card.rate_hz))
        try:
            channels = self._channels()
            alone = firing_at(recording.read(0), recording.rate_hz, cut.opened - cut.first, cut.closed - cut.first) if (
                channels.roles == ("light",)
            ) else None  # fmt: skip
            seen = FiringSeen(alone) if alone is not None else shutter_of(recording, channels).seen[0]
        except VioletDialError as error:
            self._taken.put(Taken(None, fault=str(error)))
            return
        except Exception as error:  # noqa: BLE001 - the thread goes on listening, and the fault is said
            _log.exception("fault while a firing was worked out")
            self._taken.put(Taken(None, fault=f"Fault in the program ({type(error).__name__}: {error}). Nothing was changed."))
            return
        picture = picture_of(recording, whole.shape[1] // 2, seen.firing)
        self._taken.put(Taken(seen, picture, QUIET_S + monotonic() - came))
