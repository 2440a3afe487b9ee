"""Carries the simulated bench's lines over loopback, and breaks the link in every way it is told to."""

import contextlib
import socketserver
import threading
import time
from types import TracebackType

from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.simulated.bench import SimulatedBench

HOST = "127.0.0.1"
MOST_LINE = 2_000
FLOOD_LINES = 5_000


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int, bench: SimulatedBench) -> None:
        self.bench = bench
        self.away_until = 0.0
        self.open: set[_Carrier] = set()
        super().__init__((HOST, port), _Carrier)

    def verify_request(self, request: object, client_address: object) -> bool:
        return time.monotonic() >= self.away_until


class _Carrier(socketserver.StreamRequestHandler):
    """One connection: a line in, a line out."""

    server: _Server

    def handle(self) -> None:
        self.server.open.add(self)
        try:
            with contextlib.suppress(ConnectionError, TimeoutError):
                while self._one():
                    pass
        finally:
            self.server.open.discard(self)

    def _one(self) -> bool:
        line = self.rfile.readline(MOST_LINE)
        if not line.endswith(b"\n"):
            return False
        answer = self.server.bench.answer(line.decode("ascii", "replace"))
        trouble = self.server.bench.trouble
        if answer is None:
            return not (trouble and trouble[0][0] == "AWAY" and self._broken(*trouble.popleft(), b""))
        data = answer.encode("ascii", "replace") + b"\n"
        if trouble and line.strip().upper() == b"READ?":
            kind, figure = trouble.popleft()
            return not self._broken(kind, figure, data)
        self.wfile.write(data)
        return True

    def _broken(self, kind: str, figure: float, data: bytes) -> bool:
        """Do the wrong thing; True when the connection is over."""
        if kind == "LATE":
            time.sleep(figure)
            self.wfile.write(data)
        elif kind == "GARBAGE":
            self.wfile.write(b"\xff\x00#@!" * max(int(figure), 1) + b"\n")
        elif kind == "HALF":
            self.wfile.write(data[: len(data) // 2])
            return True
        elif kind == "FLOOD":
            self.wfile.write(data * FLOOD_LINES)
        else:
            self.server.away_until = time.monotonic() + (figure if kind == "AWAY" else 0.0)
            return True
        return False


class BenchServer:
    """The simulated bench on a port of this machine alone; 0 takes a free one."""

    def __init__(self, bench: SimulatedBench, port: int = 0) -> None:
        self.bench = bench
        try:
            self._server = _Server(port, bench)
        except (OSError, OverflowError) as error:
            raise InvalidInput("Port", port, f"a free port from 1 to 65535, or 0 for any ({error})") from error
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), name="simulated bench", daemon=True)

    @property
    def port(self) -> int:
        return int(self._server.server_address[1])

    @property
    def address(self) -> str:
        """As VISA names it."""
        return f"TCPIP::{HOST}::{self.port}::SOCKET"

    def start(self) -> None:
        self._thread.start()

    def serve(self) -> None:
        """Serve in this thread until interrupted."""
        self._server.serve_forever(0.2)

    def close(self) -> None:
        """No more connections; those there are end."""
        if self._thread.is_alive():
            self._server.shutdown()
        for carrier in tuple(self._server.open):
            with contextlib.suppress(OSError):
                carrier.connection.shutdown(2)
        self._server.server_close()

    def __enter__(self) -> "BenchServer":
        self.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()
