"""Timing and printing."""

import statistics
import time
from collections.abc import Callable


def median_s(work: Callable[[], object], runs: int) -> float:
    """Median wall time of ``work`` in seconds over ``runs`` after one uncounted run."""
    work()
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def row(name: str, figure: str, goal: str = "") -> None:
    """One line of the report."""
    print(f"  {name:<58} {figure:<28} {goal}")
