"""Cameras: a video device, a film, a folder of pictures, each in a process of its own, watched by a thread that holds the newest
picture."""

import re
import threading
import time
from pathlib import Path
from typing import Protocol

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.needle import grey
from violet_dial.services.camera_child import ASKED_HZ, FRAME, MOST_ANSWER, SIZE
from violet_dial.services.child import Child, ChildError, ChildSlow

Frame = npt.NDArray[np.uint8]
Picture = npt.NDArray[np.float64]
FILMS = (".mp4", ".avi", ".mkv", ".webm", ".mov", ".ogv", ".m4v")
EXPECTED = f"/dev/video0, a film ({', '.join(FILMS)}), or a folder of pictures"
OPENS_S, MOST_S = 15.0, 5.0  # for the first picture, for each other one
AGAIN_S, ENDS_S = 1.5, 0.5  # after a fault it is tried again; a thread is waited for


class FrameSource(Protocol):
    """What gives pictures, asked for one at a time on a thread of its own."""

    name: str

    def picture(self) -> Frame | None:
        """The next picture, shape (h, w), 0 to 255; None where there is nothing new. Raises `InvalidInput` when it fails."""

    def end(self) -> None:
        """Wait no longer for what was asked; called from another thread."""

    def close(self) -> None:
        """Let go of it."""


def kind_of(address: str) -> tuple[str, str]:
    """What an address means: device, film or folder, and its path. Raises InvalidInput: none of these."""
    said = address.strip()
    path = Path(said).expanduser()
    if re.fullmatch(r"/dev/(video\d{1,3}|v4l/[\w/.:-]+)", said):
        return "device", said
    if said and path.is_dir():
        return "folder", str(path)
    if path.suffix.lower() in FILMS and path.is_file():
        return "film", str(path)
    raise InvalidInput("Camera", said or "nothing", EXPECTED)


def found_cameras() -> tuple[str, ...]:
    """Video devices of this machine."""
    return tuple(str(path) for path in sorted(Path("/dev").glob("video*"))[:16])


class CameraProcess:
    """A camera by its address; begun with the first picture that is asked for, and anew after a fault."""

    def __init__(self, address: str) -> None:
        kind, path = kind_of(address)
        self.name = Path(path).name or path
        self._child = Child("violet_dial.services.camera_child", kind, path)

    def picture(self) -> Frame | None:
        """The next picture; None where there is nothing new.

        Raises InvalidInput: it cannot be opened, gives none any more, or takes too long.
        """
        try:
            letter, content = self._child.ask(b"", MOST_S if self._child.runs else OPENS_S, MOST_ANSWER)
        except ChildSlow as error:
            raise InvalidInput("Camera", self.name, "pictures in time") from error
        except ChildError as error:
            raise InvalidInput("Camera", self.name, str(error) or "a camera that goes on giving pictures") from error
        if letter != FRAME:
            return None
        tall, wide = SIZE.unpack_from(content)
        return np.frombuffer(content, dtype=np.uint8, offset=SIZE.size).reshape(tall, wide)

    def end(self) -> None:
        """Wait no longer for what was asked."""
        self._child.kill()

    def close(self) -> None:
        """End the process; another picture begins another."""
        self._child.close()


class FramePoller:
    """One source watched: the newest picture, how many came, and why there is none."""

    def __init__(self, source: FrameSource, period_s: float = 1 / ASKED_HZ) -> None:
        self._source, self._period_s = source, period_s
        self._end = threading.Event()
        self._thread: threading.Thread | None = None
        self._held: tuple[int, Frame] | None = None
        self.fault = ""

    @property
    def name(self) -> str:
        return self._source.name

    @property
    def count(self) -> int:
        """Pictures that came."""
        held = self._held
        return 0 if held is None else held[0]

    @property
    def frame(self) -> Frame | None:
        """The newest picture as it came; None before the first."""
        held = self._held
        return None if held is None else held[1]

    def picture(self) -> Picture | None:
        """The newest picture as brightness 0 to 1; None where there is none now."""
        held = self._held
        return None if held is None or self.fault else grey(held[1])

    def start(self) -> None:
        """Watch from now on."""
        if self._thread is None:
            self._end.clear()
            self._thread = threading.Thread(target=self._run, name="watching", daemon=True)
            self._thread.start()

    def stop(self) -> None:
        """Watch no more."""
        self._end.set()
        self._source.end()
        if self._thread is not None:
            self._thread.join(ENDS_S)
            self._thread = None

    def _run(self) -> None:
        try:
            while not self._end.is_set():
                begun = time.monotonic()
                self._look(begun)
                self._end.wait(AGAIN_S if self.fault else max(self._period_s - (time.monotonic() - begun), 0.005))
        finally:
            self._source.close()

    def _look(self, begun: float) -> None:
        """One picture."""
        try:
            frame = self._source.picture()
            if frame is not None:
                self._came(frame, begun)
        except InvalidInput as error:
            self.fault = str(error)
            return
        if frame is not None:
            self._held, self.fault = (self.count + 1, frame), ""

    def _came(self, frame: Frame, at_s: float) -> None:
        """A picture, on the thread that watches, before it is given to anybody."""
