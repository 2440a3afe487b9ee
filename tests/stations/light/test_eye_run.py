"""A run beside a camera that stops giving pictures: an old picture is never read for a new light."""

import math
import threading
import time
import unittest
from dataclasses import replace

import numpy as np

from violet_dial.core.eye.face import face_of
from violet_dial.core.eye.needle import eye_of, grey
from violet_dial.core.records.light import Chain, LuxMeter
from violet_dial.core.steady.samples import Capture
from violet_dial.instruments.simulated.dial import DialShot
from violet_dial.instruments.simulated.meter import MeterTruth, SimulatedCamera, SimulatedMeter
from violet_dial.job.act import Act
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.light import LightSetup
from violet_dial.services.camera import Frame
from violet_dial.stations.light.dial_watch import DialReader, DialWatch, SeenDial
from violet_dial.stations.light.eye_run import RunBench, run_of

AT = "2026-11-27T09:00:00+00:00"


class Freezes:
    """A source that gives the same needle as long as it is frozen, and nothing new."""

    name = "freezes"

    def __init__(self, camera: SimulatedCamera) -> None:
        self.camera, self.is_frozen = camera, False

    def picture(self) -> Frame | None:
        return None if self.is_frozen else self.camera.picture()

    def end(self) -> None:
        """It never waits."""

    def close(self) -> None:
        """Nothing is held open."""


class Counting(DialReader):
    """Says which pictures it read, and where."""

    def __init__(self) -> None:
        super().__init__(None)
        self.read: list[tuple[int, str]] = []

    def look(self, frame: Frame, at_s: float) -> SeenDial:
        self.read.append((id(frame), threading.current_thread().name))
        return super().look(frame, at_s)


class Watches(unittest.TestCase):
    def test_each_picture_is_read_once_on_the_thread_that_fetches_it(self) -> None:
        source = Freezes(SimulatedCamera(SimulatedMeter(MeterTruth(), lambda: 640.0, time.monotonic)))
        first, other = Counting(), Counting()
        watch = DialWatch(source, first, 0.01)
        self.addCleanup(watch.stop)
        watch.start()
        while watch.count < 4:
            time.sleep(0.01)
        source.is_frozen = True
        time.sleep(0.1)
        self.assertEqual(len(first.read), watch.count)
        self.assertEqual({where for _frame, where in first.read}, {"watching"})
        seen = watch.seen
        assert seen is not None
        self.assertIs(seen.frame, watch.frame)
        watch.read_by(other)
        self.assertIsNone(watch.seen, "what another reader saw is not given")
        source.is_frozen = False
        while watch.seen is None:
            time.sleep(0.01)
        self.assertEqual(other.read[0][1], "watching")


class Runs(unittest.TestCase):
    def setUp(self) -> None:
        self.job = Job("r1", 1, Device("Bench meter", kind="hand meter", cell="selenium"), Intake("to be checked"))
        self.job = replace(self.job, light=replace(self.job.light, setup=LightSetup(chain=Chain(LuxMeter(u_relative=0.03)))))
        self.lux = 640.0
        meter = SimulatedMeter(MeterTruth(offset=0.5, hertz=4.0), lambda: self.lux, time.monotonic)
        self.source = Freezes(SimulatedCamera(meter))
        self.watch = DialWatch(self.source, DialReader(None), 0.02)
        self.addCleanup(self.watch.stop)

    def perform(self, act: Act) -> bool:
        self.job = act(self.job, AT).job
        return True

    def light(self) -> Capture:
        return Capture("lux meter", "lux", self.lux, 0.01 * self.lux)

    def set_lux(self, lux: float) -> bool:
        self.lux = lux
        return True

    def test_a_frozen_picture_is_not_read(self) -> None:
        self.watch.start()
        while self.watch.count < 2:
            time.sleep(0.02)
        face = face_of(self.source.camera.dial.marks)
        empty = grey(self.source.camera.dial.frame((), DialShot(noise=0.004)))
        bench = RunBench(lambda: self.job, self.perform, self.light, self.set_lux, lambda: "flat")
        run = run_of(bench, self.watch, eye_of(face, empty), empty)
        while run.tick(time.monotonic()).taken < 1:
            self.assertNotIn(run.stands.stage, ("waits", "done"), run.stands)
            time.sleep(0.03)
        self.source.is_frozen = True
        while run.tick(time.monotonic()).stage not in ("waits", "done"):
            time.sleep(0.03)
        self.assertEqual((run.stands.stage, run.stands.taken), ("waits", 1), run.stands)
        self.assertIn("no pictures", run.stands.words)
        taken = self.job.light.current.readings[0]
        self.assertEqual(taken.reading.attitude, "flat")
        self.assertLess(abs(taken.reading.indicated_ev100 - taken.reading.reference_ev100 - 0.5), 0.1)
        self.assertTrue(taken.picture)
        self.assertIsNotNone(taken.needle)  # the reading keeps what the eye states, not what a person at the needle would
        self.assertEqual(taken.reading.u_reading, taken.needle.u)
        self.assertLess(taken.reading.u_reading, 0.04)
        self.assertGreater(len(taken.needle.window), 3)
        self.assertEqual(taken.capture.instrument, "lux meter")
        self.assertAlmostEqual(taken.reading.u_reference, 0.01 / math.log(2), delta=1e-4)
        self.assertTrue(np.isfinite(taken.reading.indicated_ev100))


if __name__ == "__main__":
    unittest.main()
