"""Pictures of a dial as a job keeps them: small enough for any picture, opened again, damage said."""

import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.needle import grey
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial
from violet_dial.job.light import DialSetUp
from violet_dial.stations.light.eyes import MOST_SMALL, MOST_WHOLE, empty_of, packed, unpacked


class Pictures(unittest.TestCase):
    def test_whole_ones_come_back_as_they_were(self) -> None:
        frame = SimulatedDial(DialLook(640, 480)).frame((), DialShot(noise=0.01))
        found = empty_of(DialSetUp((), 640, 480, packed(frame)))
        assert found is not None
        self.assertLess(float(np.abs(found - grey(frame)).mean()), 0.01)
        self.assertIsNone(empty_of(DialSetUp((), 320, 240, packed(frame))))

    def test_the_noisiest_picture_fits(self) -> None:
        noise = np.random.default_rng(1).integers(0, 256, (1080, 1920), dtype=np.uint8)
        self.assertLessEqual(len(packed(noise, is_small=True)), MOST_SMALL)
        self.assertLessEqual(len(packed(noise)), MOST_WHOLE)

    def test_damage_is_said(self) -> None:
        for text in ("no picture", "aGVsbG8=", "*"):
            with self.subTest(text), self.assertRaisesRegex(InvalidInput, "Picture of the dial"):
                unpacked(text)


if __name__ == "__main__":
    unittest.main()
