"""Spans of time as a person says them, and the band about a life that was reckoned.

Source: How much capacities differ from what is printed: common practice, no source.
"""

import math

HOURS_A_YEAR, HOURS_A_WEEK = 8766.0, 168.0
SPREAD = 0.2  # one standard deviation of a capacity, as a share; common practice, no source
COVERS = 1.96  # standard deviations of a band of 95 %
UNITS = (
    ("years", HOURS_A_YEAR, 1.0),
    ("months", HOURS_A_YEAR / 12, 2.0),
    ("weeks", HOURS_A_WEEK, 1.5),
    ("days", 24.0, 1.5),
)


def span_words(low: float, high: float) -> str:
    """A span of hours as a person says it: ``6 to 15 months``. ``low``, ``high``: hours, 0 or more."""
    unit, size = next(((unit, size) for unit, size, least in UNITS if low >= least * size), ("hours", 1.0))
    said = [plain(one / size) for one in (low, high)]
    return f"{said[0]} to {said[1]} {unit}" if said[0] != said[1] else f"{said[0]} {unit}"


def plain(value: float) -> str:
    """A figure of two digits, or whole. ``value``: 0 or more."""
    return f"{value:.0f}" if value >= 9.5 else f"{value:.2g}"


def band_of(hours: float) -> tuple[float, float]:
    """A band of 95 % about hours reckoned with the capacity that is printed."""
    return hours * math.exp(-COVERS * SPREAD), hours * math.exp(COVERS * SPREAD)
