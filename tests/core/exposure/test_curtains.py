"""Both curtains from three sensors: travel, slit and taper of a shutter whose truth is known; capping; which to turn."""

import unittest

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.curtains import FrameGate, passages
from violet_dial.core.signals.firings import RecordedFiring

FRAME = FrameGate(36.0, (3.6, 18.0, 32.4))


def channels(first_s: float, second_s: float, slit_s: float, reverse: bool = False) -> list[list[RecordedFiring]]:
    """Each curtain at an even speed; the second let go ``slit_s`` after the first."""
    made = []
    for at in FRAME.sensors_mm:
        share = (36.0 - at if reverse else at) / 36.0
        opened, closed = 0.5 + share * first_s, 0.5 + slit_s + share * second_s
        made.append([RecordedFiring(opened, closed, 1e-5, 1.0)] if closed > opened else [])
    return made


class Curtains(unittest.TestCase):
    def test_travel_slit_and_taper(self) -> None:
        for reverse in (False, True):
            (one,) = passages(channels(0.011, 0.0125, 0.002, reverse), FRAME)
            self.assertAlmostEqual(one.first_s, 0.011, places=9)
            self.assertAlmostEqual(one.second_s, 0.0125, places=9)
            self.assertAlmostEqual(one.times_s[1], 0.002 + 0.5 * 0.0015, places=9)
            self.assertAlmostEqual(one.slits_mm[1], one.times_s[1] * 36 / 0.01175, places=6)
            self.assertGreater(one.taper_stops, 0.4)
            self.assertIn("last side", one.words)
            self.assertIn("more tension on the second", one.words)

    def test_even_curtains_have_no_taper(self) -> None:
        (one,) = passages(channels(0.011, 0.011, 0.001), FRAME)
        self.assertAlmostEqual(one.taper_stops, 0.0, places=9)
        self.assertFalse(one.capped)
        self.assertIn("no taper", one.words)

    def test_capping_is_seen_before_the_end_of_the_frame(self) -> None:
        (one,) = passages(channels(0.012, 0.009, 0.0022), FRAME)
        self.assertTrue(one.capped)
        self.assertIn("Less tension on the second", one.words)

    def test_firings_are_kept_apart_and_places_are_checked(self) -> None:
        twice = [[*one, RecordedFiring(one[0].open_s + 1, one[0].close_s + 1, 1e-5, 1.0)] for one in channels(0.01, 0.01, 0.002)]
        self.assertEqual(len(passages(twice, FRAME)), 2)
        with self.assertRaises(InvalidInput):
            passages(twice[:2], FRAME)
        for places in ((1.0,), (1.0, 1.5), (1.0, 40.0)):
            with self.assertRaises(InvalidInput):
                FrameGate(36.0, places)


if __name__ == "__main__":
    unittest.main()
