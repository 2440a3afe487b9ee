"""Lamps of an automatic: the time by hand, causes named on invented ones, thresholds within their bands."""

import math
import unittest

from bench.lamp_looks import looked
from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.lamps import LampObservation, Law, Seen, cause_said, lamps

LAW = Law(film_speed=400.0)
LIGHTS = (2.0, 20.0, 200.0, 500.0, 900.0, 4000.0, 9000.0, 20000.0, 100000.0)


def seen(look_at: float = 1.0, dead: bool = False) -> list[LampObservation]:
    """Every light at f/5.6; the lamps answer to so much of the light."""
    made = []
    for lux in LIGHTS:
        meant: Seen = "none" if dead else LAW.meant(5.657, lux * look_at)
        made.append(LampObservation(5.657, lux, meant))
    return made


class Lamps(unittest.TestCase):
    def test_the_time_by_hand(self) -> None:
        # N^2 C / (E S) = 32 * 250 / (640 * 400) = 1/32 s (ISO 2720:1974 [memory])
        self.assertAlmostEqual(float(LAW.time_s(math.sqrt(32), 640.0)), 1 / 32)
        self.assertEqual([LAW.meant(5.657, lux) for lux in (600.0, 2000.0, 11000.0)], ["slow", "none", "over"])

    def test_a_dial_that_is_off_by_two_stops(self) -> None:
        found = lamps(seen(0.25), LAW)
        self.assertEqual(found.causes[0].kind, "shifted")
        self.assertAlmostEqual(found.causes[0].figure, 2.0, delta=0.6)
        self.assertIn("film-speed dial is off", cause_said(found.causes[0]))

    def test_neither_lamp_whatever_the_light(self) -> None:
        found = lamps(seen(dead=True), LAW)
        self.assertEqual((found.causes[0].kind, found.next), ("contact", None))
        self.assertAlmostEqual(sum(one.weight for one in found.causes), 1.0)
        self.assertIn("none", [one.kind for one in found.causes])

    def test_nothing_seen_yet(self) -> None:
        found = lamps([], LAW, (5.6,))
        self.assertIsNotNone(found.next)
        self.assertEqual(found.causes[0].kind, "as meant")
        self.assertFalse(found.slow.known)

    def test_invented_automatics(self) -> None:
        found = looked(64, seed=2)
        self.assertGreater(found["right"], 0.9)
        self.assertGreater(found["inside"], 0.9)
        self.assertLess(found["looks"], 16)

    def test_what_is_no_look_is_refused(self) -> None:
        for f_number, lux, lamp in ((0.1, 10.0, "slow"), (4.0, 0.0, "slow"), (4.0, 10.0, "red")):
            with self.assertRaises(InvalidInput):
                LampObservation(f_number, lux, lamp)  # type: ignore[arg-type]
        with self.assertRaises(InvalidInput):
            Law(slow_s=1e-4)
        with self.assertRaises(InvalidInput):
            lamps([], LAW, ())


if __name__ == "__main__":
    unittest.main()
