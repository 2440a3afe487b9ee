"""A simulated shutter with a hidden fault behind a simulated sound card: light at one to three sensors, coupled, humming,
noisy."""

import math
import threading
import time
from dataclasses import dataclass

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.core.scipy_rooms import signal
from violet_dial.instruments.sound_card import BLOCK_MS, RATE_HZ, Block, Take

COUPLING_S, NOISE, HUM, LEVEL = 0.04, 0.004, 0.01, 0.55
LEAF_RAMP_S, SLIT_RAMP_S = 0.0011, 0.00025
TRAVEL_S = 0.011  # of each curtain over the frame
SETTLES = 2.5  # firings after which old grease is loose to a third
WAIT_S = 0.12  # from the finger to the light
REST_S = 0.35  # after the card was started, before anything is fired
FAULTS = ("true", "ratio", "constant", "slow", "position", "grease", "taper", "fastest", "misses")


@dataclass(frozen=True)
class HiddenFault:
    """What is wrong: a kind, its figure (stops; ms for a constant time and a taper; a share for misses), and the mark it is
    about or begins at, s."""

    kind: str = "true"
    figure: float = 0.0
    marked_s: float = 0.0


def hidden_faults(text: str) -> tuple[HiddenFault, ...]:
    """Faults said as ``slow 0.9 from 1/15; constant 0.6 ms``. Raises InvalidInput: another kind, or no figure."""
    found = []
    for one in filter(None, (part.strip() for part in text.split(";"))):
        words = one.replace(" from ", " ").replace(" at ", " ").replace(" ms", "").split()
        if words[0] not in FAULTS or len(words) < 2:
            raise InvalidInput("Fault", one, f"a figure after one of {', '.join(FAULTS)}")
        mark = parse_number(words[2], "Fault") if len(words) > 2 else 0.0
        found.append(HiddenFault(words[0], parse_number(words[1], "Fault"), mark))
    return tuple(found)


class SimulatedShutter:
    """Fires at a mark: the time it then takes, and what sensors behind it show."""

    def __init__(self, works: str, faults: tuple[HiddenFault, ...] = (), sensors: int = 1, seed: int = 5) -> None:
        self.works, self.faults, self.sensors = works, faults, sensors
        self._rng = np.random.default_rng(seed)
        self._fired = 0
        self._own: dict[float, float] = {}

    def time_of(self, marked_s: float, fastest_s: float) -> float:
        """The time a firing at a mark takes in the middle of the frame, s."""
        rng = self._rng
        own = self._own.setdefault(marked_s, float(rng.normal(0.0, 0.04)))
        stops, added = own + float(rng.normal(0.0, 0.03)), 0.0
        for fault in self.faults:
            if fault.kind == "ratio" or (fault.kind == "slow" and marked_s >= 0.99 * fault.marked_s):
                stops += fault.figure
            elif fault.kind == "grease":
                stops += fault.figure * math.exp(-self._fired / SETTLES)
            elif fault.kind in ("position", "fastest"):
                about = fault.marked_s or fastest_s
                stops += fault.figure if abs(math.log2(marked_s / about)) < 0.1 else 0.0
            elif fault.kind == "constant":
                added += fault.figure * 1e-3
            elif fault.kind == "taper":
                added += fault.figure * 0.5e-3
        self._fired += 1
        return float(max(marked_s * 2.0**stops + added, 2e-4))

    def _misses(self, marked_s: float) -> bool:
        """Whether nothing comes this time."""
        return any(
            fault.kind == "misses" and (not fault.marked_s or abs(math.log2(marked_s / fault.marked_s)) < 0.1)
            and self._rng.random() < fault.figure
            for fault in self.faults
        )  # fmt: skip

    def light(self, marked_s: float, fastest_s: float) -> Block:
        """What the sensors show of one firing, before noise; shape (n, sensors)."""
        time_s = self.time_of(marked_s, fastest_s)
        if self._misses(marked_s):
            return np.zeros((RATE_HZ // 2, self.sensors), dtype=np.float32)
        late = sum(fault.figure * 1e-3 for fault in self.faults if fault.kind == "taper")
        ramp = LEAF_RAMP_S if self.works != "focal plane" else SLIT_RAMP_S
        ramp = min(ramp, 0.7 * time_s)
        t = np.arange(int((WAIT_S + time_s + 4 * TRAVEL_S + 0.05) * RATE_HZ)) / RATE_HZ
        shown = []
        for share in np.linspace(0.1, 0.9, self.sensors) if self.sensors > 1 else (0.5,):
            apart = TRAVEL_S * share if self.works == "focal plane" else 0.0
            opened = WAIT_S + apart
            closed = opened + time_s + (share - 0.5) * late
            up, down = (np.clip((t - at + ramp / 2) / ramp, 0.0, 1.0) for at in (opened, closed))
            shown.append(LEVEL * np.clip(up - down, 0.0, 1.0))
        return np.stack(shown, axis=1).astype(np.float32)


class SimulatedCard:
    """Brings blocks in real time: hum and noise, and a firing when the shutter is fired."""

    name = "simulated sound card"
    rate_hz = RATE_HZ

    def __init__(self, shutter: SimulatedShutter, seed: int = 9) -> None:
        self.shutter, self.channels = shutter, shutter.sensors
        self._rng = np.random.default_rng(seed)
        self._waiting: list[Block] = []
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        b, a = signal.bilinear([COUPLING_S, 0.0], [COUPLING_S, 1.0], RATE_HZ)
        self._filter = np.atleast_1d(b), np.atleast_1d(a)
        self._state = np.zeros((1, self.channels))
        self._at = 0
        self._begun = -RATE_HZ  # sample at which it was started: the finger comes a little later

    def fire(self, marked_s: float, fastest_s: float) -> None:
        """The shutter is fired at a mark."""
        with self._lock:
            self._waiting.append(self.shutter.light(marked_s, fastest_s))

    def start(self, take: Take) -> None:
        """Begin to bring blocks."""
        if self._thread is None:
            self._stop.clear()
            self._begun = self._at
            self._thread = threading.Thread(target=self._run, args=(take,), name="simulated card", daemon=True)
            self._thread.start()

    def stop(self) -> None:
        """Bring no more."""
        if self._thread is not None:
            self._stop.set()
            self._thread.join(1.0)
            self._thread = None

    def _run(self, take: Take) -> None:
        due = time.monotonic()
        while not self._stop.is_set():
            take(self.block(RATE_HZ * BLOCK_MS // 1000))
            due += BLOCK_MS / 1000
            self._stop.wait(max(due - time.monotonic(), 0.0))

    def block(self, count: int) -> Block:
        """The next samples, shape (count, channels)."""
        light = np.zeros((count, self.channels))
        with self._lock:
            if self._waiting and self._at - self._begun > REST_S * RATE_HZ:
                head, rest = self._waiting[0][:count], self._waiting[0][count:]
                light[: len(head)] = head
                self._waiting[0] = rest
                if not len(rest):
                    self._waiting.pop(0)
        b, a = self._filter
        coupled, self._state = signal.lfilter(b, a, light, axis=0, zi=self._state)
        t = (self._at + np.arange(count)) / RATE_HZ
        self._at += count
        hum = HUM * np.sin(2 * math.pi * 50.0 * t)
        shown: Block = (coupled + hum[:, None] + self._rng.normal(0.0, NOISE, light.shape)).astype(np.float32)
        return shown
