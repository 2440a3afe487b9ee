"""How a long computation reports progress and is told to stop."""

from typing import Protocol


class Task(Protocol):
    """What a long computation is given by whoever started it."""

    def report(self, fraction: float, text: str) -> None:
        """Say how far it is, ``fraction`` from 0 to 1."""

    def check(self) -> None:
        """Raise `TaskCancelled` when the work should stop; call it at least every 50 ms."""


class SilentTask:
    """A task nobody watches and nobody cancels."""

    def report(self, fraction: float, text: str) -> None:
        """Nobody is told."""

    def check(self) -> None:
        """It goes on to the end."""
