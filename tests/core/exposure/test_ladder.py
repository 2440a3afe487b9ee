"""The ladder of speeds against sums by hand, verdicts of invented shutters that are true, patterns that are told apart."""

import math
import unittest

import numpy as np

from bench.ladders import decided, named
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.exposure.ladder import COMMON_U, MOST_AT_ONE, SpeedTolerance, Timed, ladder, next_speed, to_decide
from violet_dial.core.exposure.pattern import patterns
from violet_dial.core.exposure.said import headline, pattern_said, time_said, weight_said

SPEEDS = tuple(2.0**-n for n in range(10))


class Ladders(unittest.TestCase):
    def test_one_speed_by_hand(self) -> None:
        fired = [Timed(1 / 128, time, 1e-5) for time in (0.0090, 0.0092, 0.0094)]
        found = ladder(SPEEDS, fired)
        rung = next(one for one in found.rungs if one.errors)
        errors = [math.log2(one.time_s * 128) for one in fired]
        mean = sum(errors) / 3
        squares = sum((one - mean) ** 2 for one in errors)
        pooled = math.sqrt((4 * 0.06**2 + squares) / (4 + 2))
        own = math.sqrt((2 * pooled**2 + squares) / (2 + 2))
        self.assertAlmostEqual(rung.mean_stops, mean, places=12)
        self.assertAlmostEqual(rung.scatter_stops, own, places=12)
        measured = 1e-5 / math.log(2) * math.sqrt(sum(one.time_s**-2 for one in fired)) / 3
        self.assertAlmostEqual(rung.u_stops, math.hypot(own / math.sqrt(3), measured, COMMON_U), places=9)
        self.assertEqual((rung.state, found.fired), ("inside", 3))

    def test_the_two_fastest_are_allowed_more_and_guard_bands_leave_it_open(self) -> None:
        found = ladder(SPEEDS, [Timed(SPEEDS[-1], SPEEDS[-1] * 2**0.36), Timed(SPEEDS[3], SPEEDS[3] * 2**0.36)])
        states = {one.marked_s: one.state for one in found.rungs if one.errors}
        self.assertEqual((states[SPEEDS[-1]], states[SPEEDS[3]]), ("inside", "undecided"))
        self.assertEqual(ladder(SPEEDS, [Timed(0.125, 0.25)]).rungs[3].state, "high")
        self.assertEqual(ladder(SPEEDS, [Timed(0.125, 0.0625)], SpeedTolerance(0.1, 0.1)).rungs[3].state, "low")

    def test_next_goes_to_both_ends_and_the_middle_and_then_to_what_is_open(self) -> None:
        fired: list[Timed] = []
        order = []
        while (ask := next_speed(ladder(SPEEDS, fired))) is not None:
            order.append(ask.marked_s)
            fired.append(Timed(ask.marked_s, ask.marked_s * (2**0.33 if ask.marked_s == 0.25 else 1.0)))
        self.assertEqual(order[:3], [SPEEDS[-1], 1.0, SPEEDS[4]])
        self.assertEqual(sorted(order[:10]), sorted(SPEEDS))
        self.assertEqual(order[10:], [0.25] * (MOST_AT_ONE - 1))  # it stands at its tolerance, and is left there
        self.assertEqual(to_decide(ladder(SPEEDS, fired[:10]).rungs[2]), MOST_AT_ONE - 1)

    def test_what_is_no_firing_is_refused(self) -> None:
        for marked, time, u in ((0.5, math.nan, 0.0), (0.5, 0.0, 0.0), (500.0, 0.5, 0.0), (0.5, 0.5, 0.6)):
            with self.assertRaises(InvalidInput):
                Timed(marked, time, u)
        with self.assertRaises(InvalidInput):
            ladder((), ())
        with self.assertRaises(InvalidInput):
            SpeedTolerance(0.0)

    def test_fewer_firings_than_three_at_each_and_verdicts_that_are_true(self) -> None:
        found = decided(40, seed=5)
        self.assertLess(found["share"], 2 / 3)
        self.assertGreater(found["true"], 0.99)


def off(stops: dict[int, float], seed: int = 3, each: int = 3) -> list[Timed]:
    rng = np.random.default_rng(seed)
    return [
        Timed(mark, mark * 2.0 ** (stops.get(place, 0.0) + rng.normal(0, 0.03)), 0.0, 5)
        for place, mark in enumerate(SPEEDS)
        for _ in range(each)
    ]


class Patterns(unittest.TestCase):
    def test_told_apart_as_the_bench_has_it(self) -> None:
        found = named(90, seed=4)
        self.assertGreater(found["right"], 0.9)
        self.assertGreater(found["none"], 0.8)  # what is on no list is not made to be something

    def test_weights_are_chances_and_none_of_these_is_among_them(self) -> None:
        found = patterns(off({}))
        self.assertAlmostEqual(sum(one.weight for one in found), 1.0)
        self.assertEqual(found[0].kind, "true")
        self.assertIn("none", [one.kind for one in found])
        rng = np.random.default_rng(1)
        odd = patterns(off(dict(enumerate(rng.normal(0, 0.8, 10)))))
        self.assertEqual(odd[0].kind, "none")

    def test_a_constant_delay_is_given_in_seconds(self) -> None:
        delay = 0.0008
        best = patterns(off({place: math.log2((mark + delay) / mark) for place, mark in enumerate(SPEEDS)}))[0]
        self.assertEqual(best.kind, "constant")
        self.assertAlmostEqual(best.figure, delay, delta=0.0002)
        self.assertIn("added to every time", pattern_said(best, "leaf"))

    def test_one_speed_beside_an_even_error(self) -> None:
        best = patterns(off({place: 0.6 + 1.1 * (place == 5) for place in range(10)}))[0]
        self.assertEqual((best.kind, best.beside_s), ("ratio", SPEEDS[5]))
        self.assertAlmostEqual(best.beside_stops, 1.1, delta=0.15)
        self.assertIn("all speeds slow by one ratio, and 1/30 slow", headline((best,)))
        self.assertIn("the contact of that position", pattern_said(best, "electronic"))

    def test_two_speeds_tell_nothing(self) -> None:
        with self.assertRaises(NotEnoughData):
            patterns([Timed(1.0, 1.1), Timed(0.5, 0.5)])

    def test_words(self) -> None:
        self.assertEqual((time_said(1 / 128), time_said(2.0), weight_said(0.999)), ("1/125", "2 s", "over 99 %"))


if __name__ == "__main__":
    unittest.main()
