"""Work that a damaged file or a hanging driver may spoil, in a process of its own: bounded in memory and time, ended when it does
not answer, begun anew.

Parent and child speak in lengths and bytes: four bytes of length and the request one way; a letter for what it is (E: a sentence
why not), four of length and the answer the other.
"""

import contextlib
import os
import resource
import select
import struct
import subprocess
import sys
import time
from collections.abc import Callable

Reply = tuple[bytes, bytes]  # a letter, and what it is about
REFUSED = b"E"
_ASKED, _REPLY = struct.Struct(">I"), struct.Struct(">cI")
_PIECE = 1 << 16


class ChildError(Exception):
    """The child said why not; or it is gone, when there are no words."""


class ChildSlow(ChildError):
    """It took longer than it may, and was ended; it is not tried again."""


class Child:
    """A module of ours run as a process, asked for one thing at a time; begun with the first request, and anew after its end."""

    def __init__(self, module: str, *arguments: str) -> None:
        self._command = [sys.executable, "-m", module, *arguments]
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def runs(self) -> bool:
        """Whether it was begun, and was not ended since."""
        return self._process is not None

    @property
    def process_id(self) -> int:
        """Of the operating system; 0 when none runs."""
        return self._process.pid if self._process is not None else 0

    def ask(self, request: bytes, most_s: float, most_bytes: int) -> Reply:
        """What it answers. Raises ChildError: it refuses, has died, or answers more than may be; ChildSlow."""
        deadline = time.monotonic() + most_s
        try:
            process = self._begun()
            self._send(process, _ASKED.pack(len(request)) + request, deadline)
            letter, length = _REPLY.unpack(self._receive(process, _REPLY.size, deadline))
            if length > most_bytes:
                raise EOFError
            answer = self._receive(process, length, deadline)
        except TimeoutError as error:
            self.close()
            raise ChildSlow from error
        except (OSError, EOFError) as error:
            self.close()
            raise ChildError from error
        if letter == REFUSED:
            raise ChildError(answer.decode("utf-8", "replace"))
        return letter, answer

    def _begun(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            pipe = subprocess.PIPE
            self._process = subprocess.Popen(self._command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL)
            assert self._process.stdin is not None
            os.set_blocking(self._process.stdin.fileno(), False)
        return self._process

    @staticmethod
    def _send(process: subprocess.Popen[bytes], data: bytes, deadline: float) -> None:
        assert process.stdin is not None
        view = memoryview(data)
        while view:
            _, ready, _ = select.select([], [process.stdin], [], max(deadline - time.monotonic(), 0))
            if not ready:
                raise TimeoutError
            view = view[os.write(process.stdin.fileno(), view[:_PIECE]) :]

    @staticmethod
    def _receive(process: subprocess.Popen[bytes], length: int, deadline: float) -> bytes:
        assert process.stdout is not None
        pieces, left = [], length
        while left:
            ready, _, _ = select.select([process.stdout], [], [], max(deadline - time.monotonic(), 0))
            if not ready:
                raise TimeoutError
            piece = os.read(process.stdout.fileno(), min(left, _PIECE))
            if not piece:
                raise EOFError
            pieces.append(piece)
            left -= len(piece)
        return b"".join(pieces)

    def kill(self) -> None:
        """Whoever waits for an answer waits no longer; called from another thread."""
        if (process := self._process) is not None:
            process.kill()

    def close(self) -> None:
        """End it; another request begins another."""
        process, self._process = self._process, None
        if process is None:
            return
        process.kill()
        process.wait()
        for pipe in (process.stdin, process.stdout):
            with contextlib.suppress(OSError):
                if pipe is not None:
                    pipe.close()


def serve(
    answer: Callable[[bytes], Reply],
    most_bytes: int,
    most_memory: int,
    refusals: tuple[type[Exception], ...] = (ValueError, OSError),
) -> int:
    """The child's side: answer until the parent goes away. Of what ``answer`` raises, ``refusals`` are sentences to be said."""
    resource.setrlimit(resource.RLIMIT_AS, (most_memory, most_memory))
    asked, out = sys.stdin.buffer, sys.stdout.buffer
    while head := asked.read(_ASKED.size):
        request = asked.read(min(_ASKED.unpack(head)[0], most_bytes))
        try:
            letter, content = answer(request)
        except MemoryError:
            letter, content = REFUSED, b"too large to be decoded"
        except refusals as error:
            letter, content = REFUSED, str(error).encode()[:_PIECE]
        except Exception:  # noqa: BLE001 - packages raise many kinds on damaged files
            letter, content = REFUSED, b"damaged, or another format"
        out.write(_REPLY.pack(letter, len(content)) + content)
        out.flush()
    return 0
