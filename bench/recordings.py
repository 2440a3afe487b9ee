"""Long recordings: ten minutes with firings in them, beside a plain threshold written with SciPy; drawing; what is heard live."""

import io
import resource
import time

import numpy as np
from scipy import signal
from scipy.io import wavfile

from bench.measure import row
from violet_dial.core.signals.pyramid import Pyramid
from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter
from violet_dial.instruments.sound_card import RATE_HZ
from violet_dial.services.listening import Listener
from violet_dial.services.recordings import recording_of
from violet_dial.services.shutter import Channels, shutter_of

MINUTES, FIRINGS, FRAMES, COLUMNS, HEARD = 10, 10, 200, 1200, 12


def ten_minutes() -> bytes:
    """A WAV of 16 bits, with ten firings from 1 s to 1/500."""
    card, rng = SimulatedCard(SimulatedShutter("leaf")), np.random.default_rng(1)
    count, block = MINUTES * 60 * RATE_HZ, RATE_HZ // 10
    samples = np.zeros(count, dtype=np.int16)
    due = sorted(rng.uniform(5, MINUTES * 60 - 10, FIRINGS))
    fired = 0
    for place in range(count // block):
        if fired < FIRINGS and place * 0.1 >= due[fired]:
            card.fire(2.0**-fired, 1 / 512)
            fired += 1
        samples[place * block : (place + 1) * block] = np.clip(card.block(block)[:, 0] * 20_000, -32768, 32767)
    out = io.BytesIO()
    wavfile.write(out, RATE_HZ, samples)
    return out.getvalue()


def plain(data: bytes) -> int:
    """The same by a filter and a threshold: how many crossings there are."""
    rate, samples = wavfile.read(io.BytesIO(data))
    high = signal.sosfilt(signal.butter(2, 20, "highpass", fs=rate, output="sos"), samples.astype(float))
    size = np.abs(high)
    return int((np.diff((size > 0.5 * size.max()).astype(int)) > 0).sum())


def heard_after() -> list[float]:
    """Seconds from when the light had gone until each firing was worked out."""
    card = SimulatedCard(SimulatedShutter("leaf"))
    listener, found = Listener(card, lambda: Channels(("light",))), []
    listener.start()
    try:
        for number in range(HEARD):
            card.fire((1 / 60, 1 / 250, 1 / 15)[number % 3], 1 / 512)
            end = time.monotonic() + 5
            while time.monotonic() < end:
                if taken := listener.drain():
                    found += [one.after_s for one in taken]
                    break
                time.sleep(0.005)
    finally:
        listener.stop()
    return found


def report() -> None:
    """All of it."""
    data = ten_minutes()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    begun = time.perf_counter()
    read = shutter_of(recording_of(data, "ten.wav"), Channels(("light",)))
    ours = time.perf_counter() - begun
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    begun = time.perf_counter()
    plain(data)
    theirs = time.perf_counter() - begun
    row(f"ten minutes at 48 kHz, {len(read.seen)} of {FIRINGS} firings", f"{ours:.2f} s, plain SciPy {theirs:.2f} s", "goal: 1 s")
    row("memory it took besides the file", f"{grown:.0f} MB", "goal: 300 MB in all")
    samples = np.random.default_rng(0).normal(0, 1000, MINUTES * 60 * 96_000).astype(np.int16)
    pyramid = Pyramid(lambda first, last: samples[first:last].astype(float), len(samples))
    frames = []
    for number in range(FRAMES):
        span = int(len(samples) * 0.97**number) + 1000
        begun = time.perf_counter()
        pyramid.shown((len(samples) - span) // 2, (len(samples) + span) // 2, COLUMNS)
        frames.append(time.perf_counter() - begun)
    row(
        "figures of one frame of ten minutes at 96 kHz",
        f"{1e3 * np.median(frames):.2f} ms, worst {1e3 * max(frames):.2f}",
        "16 ms",
    )
    late = heard_after()
    row(f"{len(late)} firings heard live: after the light had gone", f"{1e3 * np.median(late):.0f} ms", "goal: 150 ms shown")


if __name__ == "__main__":
    report()
