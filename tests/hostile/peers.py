"""Sixty peers that are no instruments: each answers in its own wrong way, by seed."""

import contextlib
import random
import socketserver
import threading
import time
from collections.abc import Callable

PEERS = 60
Pieces = list[tuple[bytes, float]]  # what is sent, and the pause after it
GREETING = b"Good,Meter,1,1\n"
WAYS: tuple[Callable[[random.Random], Pieces], ...] = (
    lambda draw: [],  # closes at once
    lambda draw: [(b"", 3.0)],  # says nothing
    lambda draw: [(b"1", 0.3)] * 12,  # a byte now and then
    lambda draw: [(b"9" * 3_000_000, 0.0)],  # a line without an end
    lambda draw: [(draw.randbytes(3_000) + b"\n", 0.0)],
    lambda draw: [(GREETING + b"no figure\n" * 50, 0.0)],  # a good greeting, then nonsense
    lambda draw: [(b"\n" * 5_000, 0.0)],
    lambda draw: [(b"1.0e9999999\n" * 20, 0.0)],
    lambda draw: [(GREETING + b"NaN\n" * 20, 0.0)],
    lambda draw: [(("Mêter " * 50).encode() + b"\n", 0.0)],
    lambda draw: [(b"HTTP/1.1 400 Bad Request\r\nContent-Length: 0\r\n\r\n", 0.0)],
    lambda draw: [(b'"' * 1_900 + b"\n" + b"-" * 1_900 + b"\n", 0.0)],
)


class _Peer(socketserver.BaseRequestHandler):
    def handle(self) -> None:
        way, draw = self.server.way, self.server.draw  # type: ignore[attr-defined]
        with contextlib.suppress(OSError):
            self.request.settimeout(3.0)
            self.request.recv(200)
            self.answer(way % len(WAYS), draw)

    def answer(self, way: int, draw: random.Random) -> None:
        for piece, pause_s in WAYS[way](draw):
            self.request.sendall(piece)
            time.sleep(pause_s)


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = daemon_threads = True

    def __init__(self, number: int) -> None:
        self.way, self.draw = number, random.Random(number)
        super().__init__(("127.0.0.1", 0), _Peer)


@contextlib.contextmanager
def peer(number: int):  # type: ignore[no-untyped-def]
    """The address of a peer, as VISA names it, while the block runs."""
    with _Server(number) as server:
        thread = threading.Thread(target=server.serve_forever, args=(0.02,), daemon=True)
        thread.start()
        yield f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET"
        server.shutdown()
