"""One open VISA resource: whole lines in bounded time and length, every failure by its name."""

import time
from collections.abc import Callable
from typing import Any

import pyvisa
from pyvisa import constants, errors

from violet_dial.core.errors import AnswerTimeout, BadAnswer, LinkLost
from violet_dial.instruments.kept import Kept

MOST_LINE = 2_000  # characters; a longer line is no answer
OPEN_MS, ANSWER_MS, LOOK_MS = 1_500, 1_500, 100
PIECES = {"ASRL": 1, "TCPIP": 16}  # bytes asked for at once; other buses carry whole messages
_ENDINGS = "\r\n"


class Channel:
    """Opened in the thread that uses it. After any failure it must be closed and opened anew: then nothing late or
    left over can be taken for an answer."""

    def __init__(
        self, kept: Kept, stopped: Callable[[], bool] = lambda: False, most_line: int = MOST_LINE, answer_ms: int = ANSWER_MS
    ) -> None:
        self.address, self._stopped = kept.address, stopped
        self._most_line, self._answer_ms = most_line, answer_ms
        self._piece = next((size for start, size in PIECES.items() if kept.address.upper().startswith(start)), MOST_LINE)
        self._resource: Any = None
        try:
            manager = pyvisa.ResourceManager("@py")
            self._resource = manager.open_resource(kept.address, open_timeout=OPEN_MS)
            self._resource.timeout = LOOK_MS if self._piece < MOST_LINE else ANSWER_MS
            self._resource.write_termination = "\n"
            self._resource.read_termination = "\n"
            if kept.address.startswith("ASRL"):
                self._resource.baud_rate = kept.baud
        except (errors.Error, OSError, ValueError) as error:
            raise LinkLost(f"{kept.name} does not answer at {kept.address}: {_plain(error)}.", self.address) from error

    def write(self, command: str) -> None:
        """Send a line."""
        try:
            self._resource.write(command)
        except (errors.Error, OSError) as error:
            raise LinkLost(f"The link to {self.address} broke: {_plain(error)}.", self.address, command) from error

    def read_line(self, command: str = "") -> str:
        """The next whole line without its ending.

        Raises AnswerTimeout, BadAnswer, LinkLost: nothing came in time; too long or not text; the link broke.
        """
        began, line = time.monotonic(), b""
        while not line.endswith(b"\n"):
            if len(line) >= self._most_line:
                raise BadAnswer(f"{self.address} sent a line without an end.", self.address, command)
            if time.monotonic() - began > self._answer_ms / 1000:
                said = "sent no whole line in time" if line else f"gave no answer to {command or 'listening'}"
                raise AnswerTimeout(f"{self.address} {said} ({self._answer_ms / 1000:g} s).", self.address, command)
            if self._stopped():
                raise LinkLost(f"{self.address} is let go.", self.address, command)
            line += self._next_piece(command)
        try:
            return line.decode("ascii").strip(_ENDINGS + " ")
        except UnicodeDecodeError as error:
            raise BadAnswer(f"{self.address} sent {line[:20]!r}, which is not text.", self.address, command) from error

    def _next_piece(self, command: str) -> bytes:
        """What comes within a moment; nothing when nothing does. Pieces are small, so that no slow sender holds us."""
        try:
            with self._resource.ignore_warning(constants.StatusCode.success_max_count_read):
                data, _ = self._resource.visalib.read(self._resource.session, self._piece)
        except errors.VisaIOError as error:
            if error.error_code == constants.StatusCode.error_timeout:
                return b""
            raise LinkLost(f"The link to {self.address} broke: {_plain(error)}.", self.address, command) from error
        except (errors.Error, OSError) as error:
            raise LinkLost(f"The link to {self.address} broke: {_plain(error)}.", self.address, command) from error
        if not data:
            raise LinkLost(f"{self.address} closed the link.", self.address, command)
        return bytes(data)

    def query(self, command: str) -> str:
        """Send a line and read one back."""
        self.write(command)
        return self.read_line(command)

    def close(self) -> None:
        """Let go of the resource; a broken one is let go all the same."""
        try:
            self._resource.close()
        except (errors.Error, OSError):
            return


def _plain(error: BaseException) -> str:
    """The cause in a few words."""
    if isinstance(error, errors.VisaIOError):
        return str(error.description).rstrip(".").lower()
    return str(error).splitlines()[0].rstrip(".") if str(error) else type(error).__name__


def found_addresses() -> tuple[str, ...]:
    """Serial ports and USB instruments of this machine; nothing is sent anywhere."""
    from pyvisa_py import sessions

    manager = pyvisa.ResourceManager("@py")
    found: list[str] = []
    for key, session in sessions.Session.iter_valid_session_classes():
        if key[0] in (constants.InterfaceType.asrl, constants.InterfaceType.usb):
            try:
                found += session.list_resources()
            except (errors.Error, OSError, ValueError):
                continue  # no such bus here
    del manager
    return tuple(dict.fromkeys(found))
