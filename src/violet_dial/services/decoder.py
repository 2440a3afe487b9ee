"""Pictures decoded in a process of its own (`decoder_child`): what a damaged one does, it does there."""

import atexit
import struct
import threading

from violet_dial.services.child import Child, ChildError, ChildSlow
from violet_dial.services.decoder_child import PIXELS

MOST_S = 20.0  # for one picture, the start of the process among it
MOST_BYTES = 100_000_000  # of a small PNG, never reached
KINDS = {b"J": "JPEG", b"P": "PNG", b"W": "WEBP"}
SMALL = 320  # pixels either way


class CannotDecode(Exception):
    """The picture cannot be opened; why, in a few words."""


class Decoder:
    """One child, asked for one picture at a time; any thread may ask."""

    def __init__(self, most_s: float = MOST_S) -> None:
        self._most_s = most_s
        self._lock = threading.Lock()
        self.child = Child("violet_dial.services.decoder_child")

    def decode(self, content: bytes, pixels: int = SMALL) -> tuple[str, bytes]:
        """The kind of a picture and a PNG of it of at most so many pixels either way. Raises CannotDecode."""
        with self._lock:
            was_running = self.child.runs
            try:
                return self._asked(content, pixels)
            except ChildSlow as error:
                raise CannotDecode(f"not decoded within {self._most_s:g} s") from error
            except ChildError as error:
                if str(error) or not was_running:
                    raise CannotDecode(str(error) or "it could not be decoded") from error
            try:  # it had died since it was last asked: once more, with another
                return self._asked(content, pixels)
            except ChildError as error:
                raise CannotDecode(str(error) or "it could not be decoded") from error

    def _asked(self, content: bytes, pixels: int) -> tuple[str, bytes]:
        letter, small = self.child.ask(struct.pack(PIXELS, pixels) + content, self._most_s, MOST_BYTES)
        return KINDS[letter], small

    def close(self) -> None:
        """End the child; another picture begins another."""
        with self._lock:
            self.child.close()


DECODER = Decoder()
atexit.register(DECODER.close)
