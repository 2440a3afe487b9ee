"""A walk through the lights on lamps of known thresholds: also where a look cannot be told, or the bench's lamp does
not come."""

import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.simulated.meter import MeterTruth
from violet_dial.job.exposing import LampLook
from violet_dial.job.light import LampPlace
from violet_dial.stations.light.eye_lamps import LOOKS, LampWatch, Walk, walk_of

PLACES = (LampPlace("slow", 20, 20, 6, 0.0), LampPlace("over", 60, 20, 6, 0.0))


class Bench:
    """A lamp that comes at once, lamps of a device in its light, pictures of them."""

    def __init__(self, lamps: float = 0.5) -> None:
        self.truth, self.light, self.now_s, self.covers = MeterTruth(lamps=lamps), 20_000.0, 0.0, 0
        self.most = 1e9
        self.lamps = LampWatch(PLACES)
        for _look in range(LOOKS):
            self.lamps.look(self.picture())

    def set_lux(self, lux: float) -> bool:
        self.light = min(lux, self.most)
        return True

    def picture(self) -> "np.ndarray[tuple[int, int], np.dtype[np.float64]]":
        found = np.full((40, 80), 0.5)
        y, x = np.mgrid[0:40, 0:80]
        for place, is_lit in zip(PLACES, self.truth.lit(self.light), strict=True):
            found[np.hypot(x - place.x, y - place.y) < place.radius] = 0.95 if is_lit else 0.5
        if self.covers:
            self.covers -= 1
            found[:] = 1.0
        return found

    def walked(self, walk: Walk) -> list[LampLook]:
        found = []
        for _tick in range(4_000):
            self.now_s += 0.15
            self.lamps.look(self.picture())
            look = walk.look(self.now_s)
            found += [look] if look is not None else []
            if walk.is_done:
                walk.end()
                return found
        raise AssertionError(walk.words)


class Walks(unittest.TestCase):
    def right(self, bench: Bench, looks: list[LampLook]) -> None:
        for one in looks:
            slow, over = bench.truth.lit(one.lux)
            self.assertEqual(one.seen, "slow" if slow else "over" if over else "none", one)
        dark, bright = (sorted(one.lux for one in looks if one.seen == seen) for seen in ("slow", "none"))
        self.assertLess(bright[0] / dark[-1], 1.25)

    def test_thresholds_are_closed_in_on_and_the_light_is_put_back(self) -> None:
        bench = Bench()
        looks = bench.walked(walk_of("f/8", bench.lamps, lambda: bench.light, bench.set_lux))
        self.right(bench, looks)
        self.assertEqual(bench.light, 20_000.0)
        self.assertEqual({one.f_number for one in looks}, {8.0})

    def test_what_cannot_be_told_is_looked_at_again_and_never_noted(self) -> None:
        bench = Bench()
        walk = walk_of("f/8", bench.lamps, lambda: bench.light, bench.set_lux)
        bench.covers = 60
        self.right(bench, bench.walked(walk))

    def test_a_lamp_that_does_not_come_is_not_noted(self) -> None:
        bench = Bench()
        bench.most = 15_000.0
        looks = bench.walked(walk_of("f/8", bench.lamps, lambda: bench.light, bench.set_lux))
        self.assertLess(max(one.lux for one in looks), 15_001)
        self.right(bench, looks)

    def test_what_is_missing_is_said(self) -> None:
        bench = Bench()
        for lamps, lux, has_lamp, said in (
            (LampWatch(()), 100.0, True, "none put"), (bench.lamps, None, True, "that can be set"),
            (bench.lamps, 100.0, False, "F12"),
        ):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said):
                walk_of("f/8", lamps, lambda now=lux: now, lambda _lux, has=has_lamp: has)
        with self.assertRaises(InvalidInput):
            walk_of("f/none", bench.lamps, lambda: 100.0, bench.set_lux)


if __name__ == "__main__":
    unittest.main()
