"""A log of firings: each one's setting, how it went, and what the device stood on."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

KINDS = ("did not open", "stayed open", "second curtain missing", "mirror up", "no magnet", "wrong time", "jammed")
Supply = Literal["", "battery", "bench supply"]
MORNING_H = 6.0  # of rest, from which a firing is the first of the morning; common practice, no source


@dataclass(frozen=True)
class Firing:
    """One firing. ``failed`` is the kind of failure in words, empty when it was clean; ``after`` names the repair that stood
    before it, empty as it came; ``battery_v`` volts under the device, ``rest_h`` hours of rest before it, where known."""

    setting: str
    failed: str = ""
    after: str = ""
    battery_v: float | None = None
    rest_h: float | None = None
    supply: Supply = ""
    cold: bool = False
    position: str = ""
    lens: bool | None = None


def epochs(log: Iterable[Firing]) -> tuple[tuple[str, tuple[Firing, ...]], ...]:
    """The log parted by the repairs, in the order they came.

    Returns
    -------
    tuple of (name of the repair, empty as it came; its firings)
    """
    found: dict[str, list[Firing]] = {}
    for one in log:
        found.setdefault(one.after, []).append(one)
    return tuple((name, tuple(several)) for name, several in found.items())


def by_setting(log: Iterable[Firing]) -> dict[str, tuple[Firing, ...]]:
    """The log parted by the setting, in the order settings were first fired."""
    found: dict[str, list[Firing]] = {}
    for one in log:
        found.setdefault(one.setting, []).append(one)
    return {name: tuple(several) for name, several in found.items()}


def failures(log: Iterable[Firing]) -> int:
    """How many failed."""
    return sum(bool(one.failed) for one in log)


School = Literal["sequential", "fixed", "film"]
