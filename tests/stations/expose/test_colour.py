"""Test shots under another light count by what the cell's colour makes of it."""

import unittest
from dataclasses import replace

from violet_dial.job.document import Device, Job
from violet_dial.job.exposing import Exposing, ShotTaken
from violet_dial.job.light import Colour
from violet_dial.stations.expose.shots_state import coloured, shots_shown


class Shots(unittest.TestCase):
    def test_silicon_sees_tungsten_bright_and_makes_its_pictures_dark(self) -> None:
        shots = (ShotTaken(5, 0, -1.0), ShotTaken(6, 0, -1.0, "indoors"), ShotTaken(6, 0, 0.5, "indoors", flash=True))
        job = Job("c1", 1, Device("Bench instant", kind="instant camera"), exposing=Exposing(shots=shots[:2]))
        self.assertEqual(coloured(job), shots[:2])  # the cell is not known
        job = replace(job, light=replace(job.light, colour=Colour(cell="silicon")))
        self.assertAlmostEqual(coloured(job)[0].stops, -2.6, delta=0.1)
        self.assertIn("D55 −1.62 stop", shots_shown(job).reason)
        self.assertEqual(shots_shown(job).rows[0][3], "−1.0 dark")  # as it came out
        flashed = replace(job, exposing=Exposing(shots=shots))
        self.assertGreater(coloured(flashed)[1].stops, 0.0)
        eye = replace(job, light=replace(job.light, colour=Colour(cell="V(lambda)")))
        self.assertAlmostEqual(coloured(eye)[0].stops, -1.0, places=9)


if __name__ == "__main__":
    unittest.main()
