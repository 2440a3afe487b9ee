"""A needle against a ring's pointer on invented dials: apart, one over the other, alone, and what cannot be told."""

import unittest

import numpy as np

from bench.dials import invented, put
from violet_dial.core.eye.needle import eye_of, grey
from violet_dial.core.eye.pair import NeedlePair, read_pair
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial, dial_like


class Pairs(unittest.TestCase):
    def test_apart_within_what_is_stated(self) -> None:
        rng = np.random.default_rng(8)
        errors, stated, wrong, total = [], [], 0, 0
        for _dial in range(5):
            look = dial_like(invented(rng), law="linear", first=0.0, last=10.0, is_blade=False, needle_wide=0.011)
            dial = SimulatedDial(look, 5)
            eye = put(dial, rng)
            for _frame in range(6):
                ring = float(rng.uniform(1.5, 8.5))
                off = float(rng.choice([-1.0, 1.0]) * rng.uniform(0.9, 1.5))
                found = read_pair(eye, grey(dial.frame((ring + off,), DialShot(blur_px=0.8, noise=0.008, pointer=ring))))
                total += 1
                if isinstance(found, NeedlePair):
                    errors.append(found.apart - off)
                    stated.append(found.u)
                    wrong += abs(found.apart - off) > max(4 * found.u, 0.15)
        self.assertGreater(len(errors) / total, 0.9)
        self.assertEqual(wrong, 0)
        self.assertGreater(float(np.mean(np.abs(errors) < 2 * np.array(stated))), 0.9)
        self.assertLess(float(np.median(np.abs(errors))), 0.04)

    def test_one_over_the_other_and_one_alone(self) -> None:
        dial = SimulatedDial(DialLook(640, 480, first=0.0, last=10.0))
        eye = eye_of(put(dial, np.random.default_rng(1)).face, grey(dial.frame((), DialShot(noise=0.004))))
        both = read_pair(eye, grey(dial.frame((4.0,), DialShot(pointer=6.0))))
        assert isinstance(both, NeedlePair)
        self.assertAlmostEqual(both.apart, -2.0, delta=0.1)
        for off in (-0.08, 0.0, 0.08):
            met = read_pair(eye, grey(dial.frame((6.0 + off,), DialShot(pointer=6.0))), both.pointer_px)
            assert isinstance(met, NeedlePair), met
            self.assertEqual(met.apart, 0.0)
            self.assertLess(abs(off), 2 * met.u)
        for picture in (
            dial.frame((6.0,), DialShot()),
            dial.frame((), DialShot(pointer=6.0)),
            dial.frame((3.0, 7.0), DialShot()),
        ):
            with self.subTest(picture.mean()):
                self.assertNotIsInstance(read_pair(eye, grey(picture)), NeedlePair)
        self.assertNotIsInstance(read_pair(eye, grey(dial.frame((6.0,), DialShot())), both.pointer_px), NeedlePair)
        self.assertNotIsInstance(read_pair(eye, grey(dial.frame((), DialShot())), both.pointer_px), NeedlePair)


if __name__ == "__main__":
    unittest.main()
