"""A dial that is watched: each picture read once, on the thread that fetches it."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.eye.face import make_ready
from violet_dial.core.eye.needle import Eye, NeedleReading, Refused, grey, read_needle
from violet_dial.core.eye.pair import MOVED_PX, NeedlePair, moved, read_pair, shifted
from violet_dial.services.camera import Frame, FramePoller, FrameSource
from violet_dial.services.camera_child import ASKED_HZ
from violet_dial.stations.light.eyes import packed

Picture = npt.NDArray[np.float64]
Read = NeedleReading | Refused | NeedlePair | None
OTHER_SIZE = Refused("the pictures have another size than those the dial was set up with")


@dataclass(frozen=True)
class SeenDial:
    """One picture with what was read in it.

    ``frame`` as it came, ``picture`` its brightness 0 to 1, both of shape (h, w); ``at_s`` of the monotonic clock; ``read`` None
    where no dial was set up; ``trouble``: why the dial cannot be followed, ``small``: the picture as a reading keeps it, both
    where the dial is followed.
    """

    frame: Frame
    picture: Picture
    at_s: float
    read: Read
    trouble: str = ""
    small: str = ""


class DialReader:
    """Reads a dial in one picture after the other; ``eye`` None before one is set up, with pictures of shape ``shape``."""

    def __init__(self, eye: Eye | None, shape: tuple[int, ...] = (), has_ring: bool = False) -> None:
        self._eye, self._shape, self._has_ring = eye, shape, has_ring
        self._pointer_px: float | None = None  # the width of a ring's pointer, as it was read

    def look(self, frame: Frame, at_s: float) -> SeenDial:
        """The needle, or why it is not read."""
        picture = grey(frame)
        return SeenDial(frame, picture, at_s, self._read(picture))

    def _read(self, picture: Picture) -> Read:
        eye = self._eye
        if eye is None:
            make_ready()  # for the marks that are about to be put
            return None
        if picture.shape != self._shape:
            return OTHER_SIZE
        if not self._has_ring:
            return read_needle(eye, picture)
        pair = read_pair(eye, picture, self._pointer_px)
        if isinstance(pair, NeedlePair):
            self._pointer_px = pair.pointer_px
        return pair


class FollowingReader(DialReader):
    """Finds a dial again that was moved a little; ``empty`` the picture it was set up with."""

    def __init__(self, eye: Eye, empty: Picture) -> None:
        super().__init__(eye, empty.shape)
        self._known, self._empty = eye, empty
        self._shift = (0.0, 0.0)

    def look(self, frame: Frame, at_s: float) -> SeenDial:
        picture = grey(frame)
        trouble = self._follow(picture)
        read = Refused(trouble) if trouble else self._read(picture)
        return SeenDial(frame, picture, at_s, read, trouble, packed(frame, is_small=True))

    def _follow(self, picture: Picture) -> str:
        """Why the dial cannot be followed to where it is now; empty where it can."""
        if picture.shape != self._empty.shape:
            return "the pictures have another size now: set the dial up anew"
        shift = moved(self._empty, picture)
        if shift is None:
            return "the dial was moved too far: set it up anew"
        if math.hypot(shift[0] - self._shift[0], shift[1] - self._shift[1]) > MOVED_PX:
            self._eye = shifted(self._known, shift)
            self._shift = shift
        return ""


class DialWatch(FramePoller):
    """The newest picture of a source as its reader saw it; another reader reads from the next picture on."""

    def __init__(self, source: FrameSource, reader: DialReader, period_s: float = 1 / ASKED_HZ) -> None:
        super().__init__(source, period_s)
        self._reader = reader
        self._seen: tuple[DialReader, SeenDial] | None = None

    def read_by(self, reader: DialReader) -> None:
        """From now on; what the last one saw is no longer given."""
        self._reader = reader

    @property
    def seen(self) -> SeenDial | None:
        """The newest picture that this reader saw; None where there is none now."""
        seen = self._seen
        return None if seen is None or self.fault or seen[0] is not self._reader else seen[1]

    def _came(self, frame: Frame, at_s: float) -> None:
        reader = self._reader
        self._seen = (reader, reader.look(frame, at_s))
