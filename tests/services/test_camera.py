"""Cameras: films, folders and devices in a process of their own; what is broken, gone, too large or no camera is one sentence."""

import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial
from violet_dial.services.camera import CameraProcess, Frame, FramePoller


class Cameras(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.dial = SimulatedDial(DialLook(320, 240, first=0.0, last=10.0))

    def frames(self, count: int) -> list[Frame]:
        return [self.dial.frame((value,), DialShot(noise=0.0)) for value in np.linspace(1, 9, count).tolist()]

    def camera(self, address: Path | str) -> CameraProcess:
        camera = CameraProcess(str(address))
        self.addCleanup(camera.close)
        return camera

    def film(self, frames: list[Frame]) -> Path:
        path = self.folder / "needle.avi"
        tall, wide = frames[0].shape
        written = cv2.VideoWriter(str(path), cv2.VideoWriter.fourcc(*"MJPG"), 8.0, (wide, tall), False)
        for one in frames:
            written.write(one)
        written.release()
        return path

    def test_a_film_picture_by_picture(self) -> None:
        frames = self.frames(4)
        camera = self.camera(self.film(frames))
        for one in frames:
            got = camera.picture()
            assert got is not None
            self.assertLess(float(np.abs(got.astype(float) - one).mean()), 3.0)
        self.assertIsNone(camera.picture())

    def test_a_folder_in_the_order_of_its_names_and_what_comes_later(self) -> None:
        frames = self.frames(3)
        for place in (1, 0):
            Image.fromarray(frames[place]).save(self.folder / f"p{place}.png")
        (self.folder / "notes.txt").write_text("no picture")
        camera = self.camera(self.folder)
        for place in (0, 1):
            np.testing.assert_array_equal(camera.picture(), frames[place])
        self.assertIsNone(camera.picture())
        Image.fromarray(frames[2]).save(self.folder / "p2.png")
        np.testing.assert_array_equal(camera.picture(), frames[2])

    def test_what_is_no_camera_is_one_sentence(self) -> None:
        broken, text, large = self.folder / "b.avi", self.folder / "t.txt", self.folder / "large"
        broken.write_bytes(b"RIFF" + bytes(range(256)) * 40)
        text.write_text("x")
        large.mkdir()
        Image.fromarray(np.zeros((1200, 2000), np.uint8)).save(large / "l.png")
        for address in ("", "camera", str(text), str(self.folder / "none.mp4")):
            with self.subTest(address), self.assertRaisesRegex(InvalidInput, "/dev/video0"):
                CameraProcess(address)
        for made, said in (
            (self.camera(broken), "film"), (self.camera("/dev/video199"), "open"), (self.camera(large), "2000 x 1200"),
        ):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said):
                made.picture()

    def test_a_broken_picture_is_said_and_the_next_is_given(self) -> None:
        frame = self.frames(1)[0]
        (self.folder / "a.png").write_bytes(b"none")
        Image.fromarray(frame).save(self.folder / "b.png")
        watch = FramePoller(self.camera(self.folder), 0.01)
        self.addCleanup(watch.stop)
        watch.start()
        self.until(lambda: bool(watch.fault))
        self.assertIn("a.png", watch.fault)
        self.assertIsNone(watch.picture())
        self.until(lambda: watch.count == 1)
        self.assertEqual(watch.fault, "")
        np.testing.assert_array_equal(watch.frame, frame)

    def test_a_film_cut_off_and_a_watch_that_holds_the_newest(self) -> None:
        path = self.film(self.frames(30))
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        watch = FramePoller(self.camera(path), 0.01)
        self.addCleanup(watch.stop)
        watch.start()
        self.until(lambda: watch.count >= 5)
        picture = watch.picture()
        assert picture is not None
        self.assertEqual(picture.shape, (240, 320))
        watch.stop()
        held = watch.count
        time.sleep(0.1)
        self.assertEqual(watch.count, held)

    def until(self, there: Callable[[], bool]) -> None:
        begun = time.monotonic()
        while not there():
            self.assertLess(time.monotonic() - begun, 60)
            time.sleep(0.02)


if __name__ == "__main__":
    unittest.main()
