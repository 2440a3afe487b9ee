"""A sound card listened to: each firing taken by itself, whatever comes in blocks; three sensors; what was recorded."""

import time
import unittest

import numpy as np

from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter, hidden_faults
from violet_dial.instruments.sound_card import RATE_HZ, SoundCard
from violet_dial.services.listening import Listener, Taken, Trigger
from violet_dial.services.recordings import recording_of, wav_of
from violet_dial.services.shutter import Channels, channels_said


def taken(listener: Listener, count: int, seconds: float = 20.0) -> list[Taken]:
    found: list[Taken] = []
    end = time.monotonic() + seconds
    while len(found) < count and time.monotonic() < end:
        found += listener.drain()
        time.sleep(0.01)
    return found


class Listening(unittest.TestCase):
    def listen(self, card: SimulatedCard, channels: Channels) -> Listener:
        listener = Listener(card, lambda: channels)
        self.addCleanup(listener.stop)
        listener.start()
        return listener

    def test_firings_one_after_the_other(self) -> None:
        card = SimulatedCard(SimulatedShutter("leaf", hidden_faults("ratio 0.5")))
        listener = self.listen(card, Channels(("light",)))
        for mark in (1 / 60, 1 / 4):
            card.fire(mark, 1 / 500)
            (one,) = taken(listener, 1)
            assert one.seen is not None
            self.assertAlmostEqual(np.log2(one.seen.firing.time_s / mark), 0.5, delta=0.25)
            self.assertGreater(len(one.picture[0]), 100)
        listener.stop()
        recording = recording_of(wav_of(listener.recorded(), RATE_HZ), "live.wav")
        self.assertEqual((recording.rate_hz, len(recording.names)), (RATE_HZ, 1))
        self.assertGreater(recording.count, RATE_HZ // 2)

    def test_three_sensors_show_both_curtains(self) -> None:
        card = SimulatedCard(SimulatedShutter("focal plane", hidden_faults("taper 0.8"), 3))
        listener = self.listen(card, channels_said("travel", 3))
        card.fire(1 / 500, 1 / 1000)
        (one,) = taken(listener, 1)
        assert one.seen is not None and one.seen.passage is not None
        self.assertAlmostEqual(one.seen.passage.first_s, 0.011, delta=0.0003)
        self.assertAlmostEqual(one.seen.passage.second_s, 0.011 + 0.0008 / 0.8 * 0.8, delta=0.0004)
        self.assertGreater(one.seen.passage.taper_stops, 0.2)

    def test_noise_is_no_firing_whatever_the_size_of_blocks(self) -> None:
        rng = np.random.default_rng(5)
        trigger = Trigger(RATE_HZ)
        for size in (1, 7, 480, 5000, 48000):
            self.assertEqual(trigger.feed(rng.normal(0, 0.01, size)), [])
        self.assertTrue(trigger.knows_rest)
        light = np.zeros(RATE_HZ)
        light[20000:20400] = 1.0
        (cut,) = trigger.feed(light + rng.normal(0, 0.01, len(light)))
        self.assertAlmostEqual(cut.first, 53488 + 20000 - 4800, delta=100)
        self.assertAlmostEqual(cut.opened, 53488 + 20000, delta=48)
        self.assertAlmostEqual(cut.closed, 53488 + 20400, delta=48)

    def test_no_card_is_said(self) -> None:
        import miniaudio

        from violet_dial.core.errors import InvalidInput

        with self.assertRaises(InvalidInput):
            SoundCard(1, [miniaudio.Backend.JACK]).start(lambda block: None)


if __name__ == "__main__":
    unittest.main()
