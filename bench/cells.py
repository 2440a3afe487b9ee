"""Invented cells read at rest and under a load: how often the charge left lies inside the band of 95 % that is stated."""

import statistics
import sys

import numpy as np

from bench.measure import row
from violet_dial.core.power.cell_state import METER_SHARE, METER_V, CellState, judge_cell
from violet_dial.core.power.cells import COLDEST_C, SIZES, WARMEST_C, Size

CELLS, SEED = 500, 13_000


def drawn(size: Size, rng: np.random.Generator, loaded: bool = True) -> tuple[float, CellState]:
    """A cell of a size with any charge left, in any cold, and what is made of its readings."""
    cell, count = size.chemistry, size.cells
    left, at_c = float(rng.uniform(0, 1)), float(rng.uniform(COLDEST_C, WARMEST_C))
    own = cell.rest_spread_v * np.sqrt(count) * rng.standard_normal()
    rest_v = float(cell.rest_v(np.array([left]), at_c)[0]) * count + own
    rise = float(cell.rise_at(np.array([left]), at_c)[0])
    ohm = size.ohm * count * rise * float(np.exp(cell.ohm_spread * rng.standard_normal()))
    load_ohm = ohm * float(10 ** rng.uniform(0.5, 1.6))
    gain = 1 + METER_SHARE * rng.standard_normal()
    shown = [volts * gain + METER_V * rng.standard_normal() for volts in (rest_v, rest_v * load_ohm / (load_ohm + ohm))]
    rest, load = max(shown[0], 0.0), max(min(shown), 0.0)
    return left, judge_cell(size, rest, load, load_ohm, at_c) if loaded else judge_cell(size, rest, at_c=at_c)


def report(count: int = CELLS) -> None:
    """All cells, with a load and at rest alone."""
    sizes = list(SIZES.values())
    for loaded in (True, False):
        rng = np.random.default_rng(SEED)
        found = [drawn(sizes[n % len(sizes)], rng, loaded) for n in range(count)]
        inside = [one.left_low <= left <= one.left_high for left, one in found]
        width = statistics.median(one.left_high - one.left_low for _, one in found)
        how = "at rest and under a load" if loaded else "at rest alone"
        row(f"{count} cells, {how}: charge inside its band", f"{100 * statistics.mean(inside):.1f} %", "goal: 93 to 97 %")
        row("   the band's width, median; said to be no such cell", f"{width:.2f}",
            f"{100 * statistics.mean(one.is_strange for _, one in found):.1f} %")  # fmt: skip


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else CELLS)
