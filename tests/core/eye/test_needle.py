"""Needles read on invented dials, refused where they cannot be; the dial from its marks; lamps."""

import math
import unittest

import numpy as np

from bench.dials import hidden, invented, put, read
from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import ScaleMark, face_of
from violet_dial.core.eye.lamps import LampSpot, glow, lamp_state
from violet_dial.core.eye.needle import NeedleReading, Refused, eye_of, grey, read_needle
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial


def on_arc(
    values: tuple[float, ...], centre: tuple[float, float] = (320.0, 300.0), radius: float = 200.0
) -> tuple[ScaleMark, ...]:
    """Marks evenly over 100 degrees."""
    angles = np.radians(np.linspace(-140, -40, len(values)))
    return tuple(
        ScaleMark(centre[0] + radius * math.cos(at), centre[1] + radius * math.sin(at), value)
        for at, value in zip(angles, values, strict=True)
    )


class Faces(unittest.TestCase):
    def test_three_marks_make_a_circle(self) -> None:
        face = face_of(on_arc((0.0, 5.0, 10.0)))
        np.testing.assert_allclose(face.pivot, (320.0, 300.0), atol=0.05)
        self.assertAlmostEqual(face.radius_px, 200.0, delta=0.1)
        self.assertAlmostEqual(face.value_at(0.5 * (face.angles[0] + face.angles[-1])), 5.0, places=6)

    def test_logarithmic_and_falling_scales(self) -> None:
        face = face_of(on_arc((1.0, 2.0, 4.0, 8.0, 16.0)))
        self.assertTrue(face.is_log)
        self.assertAlmostEqual(face.value_at(0.5 * (face.angles[0] + face.angles[1])), math.sqrt(2), places=4)
        self.assertLess(face.worst_check, 1e-3)
        falling = face_of(on_arc((10.0, 7.0, 5.0, 0.0)))
        self.assertLess(falling.slope_at(falling.angles[1]), 0)

    def test_a_slanted_dial_is_laid_flat(self) -> None:
        look = DialLook(marks=11, slant_deg=(5.0, -4.0))
        face = face_of(SimulatedDial(look).marks)
        self.assertLess(face.residual_px, 0.8)
        self.assertLess(face.worst_check, 0.004)

    def test_marks_that_make_no_dial(self) -> None:
        arc = on_arc((0.0, 5.0, 10.0, 15.0))
        line = tuple(ScaleMark(10.0 * n, 20.0 * n, float(n)) for n in range(4))
        for marks, word in (
            (arc[:2], "3 to 60"), (line, "along the arc"), ((*arc[:3], arc[0]), "apart"),
            (tuple(ScaleMark(one.x, one.y, value) for one, value in zip(arc, (0, 9, 3, 12), strict=True)), "rise, or fall"),
            ((*arc[:3], ScaleMark(math.nan, 0, 1)), "finite"),
        ):  # fmt: skip
            with self.subTest(word), self.assertRaisesRegex(InvalidInput, word):
                face_of(marks)


class Needles(unittest.TestCase):
    def test_invented_dials(self) -> None:
        """A twentieth of the bench's frames with another seed; drawn by a camera, not by what reads them."""
        got = read(80, 8, 91)
        errors, stated = np.abs(np.array(got.errors)), np.array(got.stated)
        self.assertLess(float(np.median(errors)), 0.003)
        self.assertGreater(float(np.mean(errors <= 2 * stated)), 0.9)
        self.assertLess(float(np.mean((errors > 0.02) & (errors > 3 * stated))), 0.02)
        self.assertLess(len(got.refused), 6)

    def test_what_cannot_be_read_is_refused(self) -> None:
        none, two, covered = hidden(8, 92)
        self.assertEqual((none, two, covered), (1.0, 1.0, 1.0))

    def test_without_the_empty_picture_a_bare_dial_is_read_as_well(self) -> None:
        dial = SimulatedDial(DialLook(marks=7, first=0.0, last=10.0))
        eye = eye_of(face_of(dial.marks))
        for value in (1.3, 5.0, 8.7):
            found = read_needle(eye, grey(dial.frame((value,), DialShot())))
            assert isinstance(found, NeedleReading), found
            self.assertAlmostEqual(found.value, value, delta=0.05)

    def test_two_needles_are_named_and_a_dial_that_was_moved_is_not_read(self) -> None:
        dial = SimulatedDial(DialLook(marks=7, first=0.0, last=10.0))
        eye = eye_of(face_of(dial.marks), grey(dial.frame((), DialShot())))
        found = read_needle(eye, grey(dial.frame((2.0, 6.0), DialShot())))
        assert isinstance(found, Refused)
        self.assertIn("two needles", found.reason)
        moved = read_needle(eye, grey(dial.frame((4.0,), DialShot(moved_px=(60.0, 30.0)))))
        self.assertTrue(isinstance(moved, Refused), moved)
        with self.assertRaisesRegex(InvalidInput, "as large as"):
            read_needle(eye, np.zeros((100, 100)))
        with self.assertRaisesRegex(InvalidInput, "32 by 32"):
            grey(np.zeros((4, 4)))

    def test_every_kind_of_dial_is_set_up(self) -> None:
        rng = np.random.default_rng(3)
        for _one in range(4):
            self.assertIsNotNone(put(SimulatedDial(invented(rng)), rng).wide_px)


class Lamps(unittest.TestCase):
    def test_on_off_winking_and_glare(self) -> None:
        """400 invented lamps: brightness, noise and ground at random."""
        rng = np.random.default_rng(6)
        y, x = np.mgrid[0:80, 0:80]
        right = 0
        for place in range(400):
            ground, off = rng.uniform(0.05, 0.5), rng.uniform(-0.02, 0.05)
            spot = LampSpot("slow", 40.0, 40.0, float(rng.uniform(4, 9)), off)
            inside = np.hypot(x - 40, y - 40) < spot.radius
            kind = ("on", "off", "winking")[place % 3]
            lit = {"on": [1] * 8, "off": [0] * 8, "winking": [1, 0, 1, 0, 1, 0, 1, 0]}[kind]
            strength = rng.uniform(0.12, 0.4)
            frames = [np.clip(ground + inside * (off + one * strength) + rng.normal(0, 0.02, x.shape), 0, 1) for one in lit]
            right += lamp_state(spot, tuple(glow(spot, one) for one in frames)) == kind
        self.assertGreaterEqual(right / 400, 0.99)
        glared = glow(LampSpot("slow", 40.0, 40.0, 5.0), np.ones((80, 80)))
        self.assertTrue(math.isnan(glared))
        self.assertEqual(lamp_state(LampSpot("slow", 40.0, 40.0, 5.0), (glared,)), "not told")
        put_while_lit = LampSpot("slow", 40.0, 40.0, 5.0, off=0.4)
        self.assertEqual(lamp_state(put_while_lit, (0.05, 0.06, 0.04)), "not told")
        with self.assertRaisesRegex(InvalidInput, "inside the picture"):
            glow(LampSpot("slow", 2.0, 40.0, 5.0), np.zeros((80, 80)))


if __name__ == "__main__":
    unittest.main()
