"""Pictures decoded in a process of its own: bounded in memory and time, ended when it does not answer, begun anew.

Parent and child speak in lengths and bytes: four bytes of length, two of pixels and the picture one way; one byte for what it is
(J, P, W, or E for a refusal), four of length and a small PNG or the reason the other.
"""

import atexit
import contextlib
import os
import select
import struct
import subprocess
import sys
import threading
import time

MOST_S = 20.0  # for one picture, the start of the process among it
KINDS = {b"J": "JPEG", b"P": "PNG", b"W": "WEBP"}
_HEAD = struct.Struct(">IH")
SMALL = 320  # pixels either way
_REPLY = struct.Struct(">cI")
_PIECE = 1 << 16


class CannotDecode(Exception):
    """The picture cannot be opened; why, in a few words."""


class TooSlow(CannotDecode):
    """It took longer than any picture may; it is not tried again."""


class Decoder:
    """One child, asked for one picture at a time; any thread may ask."""

    def __init__(self, most_s: float = MOST_S) -> None:
        self._most_s = most_s
        self._lock = threading.Lock()
        self._child: subprocess.Popen[bytes] | None = None

    def decode(self, content: bytes, pixels: int = SMALL) -> tuple[str, bytes]:
        """The kind of a picture and a PNG of it of at most so many pixels either way. Raises CannotDecode."""
        with self._lock:
            fresh = self._child is None
            try:
                said, answer = self._asked(content, pixels)
            except TooSlow:
                raise
            except CannotDecode:
                if fresh:
                    raise
                # the child had died since it was last asked: once more, with another
                said, answer = self._asked(content, pixels)
        if said not in KINDS:
            raise CannotDecode(answer.decode("utf-8", "replace"))
        return KINDS[said], answer

    def _asked(self, content: bytes, pixels: int) -> tuple[bytes, bytes]:
        deadline = time.monotonic() + self._most_s
        child = self._running()
        try:
            self._send(child, _HEAD.pack(len(content), pixels) + content, deadline)
            said, length = _REPLY.unpack(self._receive(child, _REPLY.size, deadline))
            return said, self._receive(child, length, deadline)
        except TimeoutError as error:
            self._end()
            raise TooSlow(f"not decoded within {self._most_s:g} s") from error
        except (OSError, EOFError, struct.error) as error:
            self._end()
            raise CannotDecode("it could not be decoded") from error

    def _running(self) -> subprocess.Popen[bytes]:
        if self._child is None or self._child.poll() is not None:
            command = [sys.executable, "-m", "violet_dial.services.decoder_child"]
            quiet = subprocess.DEVNULL
            self._child = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=quiet)
            for pipe in (self._child.stdin, self._child.stdout):
                if pipe is not None:
                    os.set_blocking(pipe.fileno(), False)
        return self._child

    def _send(self, child: subprocess.Popen[bytes], data: bytes, deadline: float) -> None:
        assert child.stdin is not None
        view = memoryview(data)
        while view:
            _, ready, _ = select.select([], [child.stdin], [], max(deadline - time.monotonic(), 0))
            if not ready:
                raise TimeoutError
            view = view[os.write(child.stdin.fileno(), view[:_PIECE]) :]

    def _receive(self, child: subprocess.Popen[bytes], length: int, deadline: float) -> bytes:
        assert child.stdout is not None
        pieces, left = [], length
        while left:
            ready, _, _ = select.select([child.stdout], [], [], max(deadline - time.monotonic(), 0))
            if not ready:
                raise TimeoutError
            piece = os.read(child.stdout.fileno(), min(left, _PIECE))
            if not piece:
                raise EOFError
            pieces.append(piece)
            left -= len(piece)
        return b"".join(pieces)

    def _end(self) -> None:
        if self._child is not None:
            self._child.kill()
            self._child.wait()
            for pipe in (self._child.stdin, self._child.stdout):
                with contextlib.suppress(OSError):
                    if pipe is not None:
                        pipe.close()
            self._child = None

    def close(self) -> None:
        """End the child; another picture begins another."""
        with self._lock:
            self._end()


DECODER = Decoder()
atexit.register(DECODER.close)
