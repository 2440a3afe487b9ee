"""The child of `camera`: opens a video device, a film or a folder of pictures and answers one picture for each request. What the
process may use is bounded before anything is opened; a driver that hangs is ended with it. A picture is two shorts, height and
width, and the brightness of each point.
"""

import os
import struct
import sys
import time
from pathlib import Path
from typing import Any, Protocol

from violet_dial.services.child import Reply, serve

MOST_WIDE, MOST_TALL = 1_920, 1_080
MOST_BYTES, MOST_PICTURES = 40_000_000, 100_000
MOST_MEMORY = 3_000_000_000
ASKED_HZ = 8.0  # of a film: so many pictures are asked for in a second of it
STALE, FRESH_S = 6, 0.004  # pictures a driver keeps back; one that came at once was kept back
SUFFIXES = (".jpg", ".jpeg", ".png", ".webp")
SIZE = struct.Struct(">HH")
FRAME, NOTHING_NEW = b"F", b"N"
MOST_ANSWER = SIZE.size + MOST_WIDE * MOST_TALL


class OpenedSource(Protocol):
    """Something that gives pictures."""

    def next(self) -> Any:
        """A picture, or None where there is nothing new."""


class VideoDevice:
    """A video device by its driver."""

    def __init__(self, address: str) -> None:
        import cv2

        self._capture = cv2.VideoCapture(address, cv2.CAP_V4L2)
        if not self._capture.isOpened():
            raise ValueError("it does not open: is it a camera, and is no other program using it?")
        self._capture.set(cv2.CAP_PROP_BUFFERSIZE, 1)

    def next(self) -> Any:
        for _kept_back in range(STALE):
            begun = time.monotonic()
            if not self._capture.grab():
                raise ValueError("it gives no pictures any more")
            if time.monotonic() - begun > FRESH_S:
                break
        return self._capture.retrieve()[1]


class Film:
    """A film, a picture for each eighth of a second of it."""

    def __init__(self, address: str) -> None:
        import cv2

        self._capture = cv2.VideoCapture(address, cv2.CAP_FFMPEG)
        if not self._capture.isOpened():
            raise ValueError("it does not open as a film")
        rate = float(self._capture.get(cv2.CAP_PROP_FPS))
        self._step = max(round((rate if 1 <= rate <= 1_000 else 25.0) / ASKED_HZ), 1)
        self._first = True

    def next(self) -> Any:
        for _over in range(1 if self._first else self._step):
            if not self._capture.grab():
                return None
        self._first = False
        return self._capture.retrieve()[1]


class Folder:
    """Pictures of a folder by their names, each once; new ones as they come."""

    def __init__(self, address: str) -> None:
        self._folder = Path(address)
        self._given: set[str] = set()

    def next(self) -> Any:
        import cv2
        import numpy as np

        with os.scandir(self._folder) as entries:
            names = [entry.name for _place, entry in zip(range(MOST_PICTURES), entries, strict=False)]
        waiting = sorted(name for name in names if name.lower().endswith(SUFFIXES) and name not in self._given)
        if not waiting:
            return None
        path = self._folder / waiting[0]
        self._given.add(waiting[0])
        if not path.is_file() or path.stat().st_size > MOST_BYTES:
            raise ValueError(f"{waiting[0]} is no picture of at most {MOST_BYTES // 10**6} MB")
        found = cv2.imdecode(np.frombuffer(path.read_bytes(), np.uint8), cv2.IMREAD_COLOR)
        if found is None:
            raise ValueError(f"{waiting[0]} cannot be opened as a picture")
        return found


def opened(kind: str, address: str) -> OpenedSource:
    """What is to be looked through."""
    kinds: dict[str, type[VideoDevice] | type[Film] | type[Folder]] = {"device": VideoDevice, "film": Film, "folder": Folder}
    return kinds[kind](address)


def answer_of(source: OpenedSource) -> Reply:
    """The next picture as an answer."""
    import cv2

    picture = source.next()
    if picture is None:
        return NOTHING_NEW, b""
    tall, wide = picture.shape[:2]
    if wide > MOST_WIDE or tall > MOST_TALL:
        raise ValueError(f"its pictures are {wide} x {tall}; at most {MOST_WIDE} x {MOST_TALL}")
    grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY) if picture.ndim == 3 else picture
    return FRAME, SIZE.pack(tall, wide) + bytes(grey.tobytes())


class SourceWhenAsked:
    """A source that is opened when it is first asked for a picture."""

    def __init__(self, kind: str, address: str) -> None:
        self._kind, self._address = kind, address
        self._source: OpenedSource | None = None

    def answer(self, _request: bytes) -> Reply:
        """The next picture."""
        try:
            self._source = self._source or opened(self._kind, self._address)
            return answer_of(self._source)
        except Exception:
            if not isinstance(self._source, Folder):  # another picture may be sound; a device is opened anew
                self._source = None
            raise


if __name__ == "__main__":
    os.environ["OPENCV_IO_MAX_IMAGE_PIXELS"] = str(MOST_WIDE * MOST_TALL * 8)
    os.environ["OPENCV_FFMPEG_LOGLEVEL"], os.environ["OPENCV_LOG_LEVEL"] = "-8", "OFF"
    sys.exit(serve(SourceWhenAsked(*sys.argv[1:3]).answer, 0, MOST_MEMORY))
