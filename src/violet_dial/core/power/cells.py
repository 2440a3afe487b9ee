"""Cells that meters and shutters take: voltage at rest and internal resistance over the charge that is left, and in the cold.

Source: Letters, sizes and nominal voltages: IEC 60086-2 [memory]. Curves, internal resistances, spreads and losses: usual at
the bench, common practice, no source. Mercury cells (letter M) can no longer be had; they are what many meters were made for.
"""

import math
import re
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput

Array = npt.NDArray[np.float64]
Curve = tuple[tuple[float, float], ...]
AT_C, COLDEST_C, WARMEST_C = 20.0, -10.0, 40.0
OPENED_SPREAD = 0.25  # by which the life of an opened cell differs, as a share, either way; common practice, no source


@dataclass(frozen=True)
class Chemistry:
    """One kind of cell: ``rest`` volts at rest and ``rise`` of its resistance (times the fresh one) over the charge left, both
    from empty to full; by how much single ones differ (``rest_spread_v``, ``ohm_spread`` as a share)."""

    letter: str
    name: str
    nominal_v: float
    rest: Curve
    rise: Curve
    rest_spread_v: float
    ohm_spread: float = 0.3
    v_per_c: float = 0.0  # of the voltage at rest
    colder: float = 0.02  # by which share the resistance grows for each degree below 20 C
    yearly_loss: float = 0.03
    opened_weeks: float = 0.0  # life once it was opened; 0 for those that need no air
    caution: str = ""
    source: str = "common practice"  # of its curves and losses

    def rest_v(self, left: Array, at_c: float = AT_C) -> Array:
        """Volts at rest, shape of ``left``.

        Parameters
        ----------
        left : share of the charge, 0 to 1
        at_c : temperature, C
        """
        found: Array = np.interp(left, *np.array(self.rest).T) + self.v_per_c * (at_c - AT_C)
        return found

    def rise_at(self, left: Array, at_c: float = AT_C) -> Array:
        """Internal resistance, times that of a fresh cell at 20 C, shape of ``left``.

        Parameters
        ----------
        left : share of the charge, 0 to 1
        at_c : temperature, C
        """
        found: Array = np.interp(left, *np.array(self.rise).T) * math.exp(self.colder * (AT_C - at_c))
        return found


ALKALINE = Chemistry(
    "L", "alkaline", 1.5,
    ((0.0, 0.90), (0.05, 1.06), (0.1, 1.13), (0.3, 1.24), (0.5, 1.31), (0.7, 1.38), (0.9, 1.48), (1.0, 1.58)),
    ((0.0, 8.0), (0.1, 3.5), (0.3, 2.0), (0.6, 1.3), (1.0, 1.0)), 0.02, v_per_c=0.0004, colder=0.022, yearly_loss=0.03,
    caution="Leaks when it is left in empty; the residue is caustic: gloves and eye protection.",
)  # fmt: skip
SILVER = Chemistry(
    "S", "silver oxide", 1.55,
    ((0.0, 0.90), (0.03, 1.40), (0.08, 1.53), (0.5, 1.56), (0.9, 1.57), (1.0, 1.59)),
    ((0.0, 8.0), (0.05, 2.5), (0.2, 1.3), (1.0, 1.0)), 0.008, v_per_c=0.0002, colder=0.02, yearly_loss=0.02,
)  # fmt: skip
ZINC_AIR = Chemistry(
    "P", "zinc-air", 1.4,
    ((0.0, 0.90), (0.03, 1.15), (0.1, 1.27), (0.3, 1.31), (0.8, 1.36), (1.0, 1.43)),
    ((0.0, 6.0), (0.1, 2.0), (0.4, 1.2), (1.0, 1.0)), 0.015, v_per_c=0.0004, colder=0.03, yearly_loss=0.03, opened_weeks=8.0,
    caution="Needs air: do not tape over its holes. Once opened it lasts weeks, used or not.",
)  # fmt: skip
LITHIUM = Chemistry(
    "C", "lithium", 3.0,
    ((0.0, 2.0), (0.03, 2.4), (0.1, 2.75), (0.3, 2.95), (0.7, 3.05), (0.9, 3.12), (1.0, 3.25)),
    ((0.0, 8.0), (0.1, 3.0), (0.3, 1.6), (1.0, 1.0)), 0.03, v_per_c=0.0008, colder=0.018, yearly_loss=0.01,
    caution="Never charge a lithium cell, and never solder to one: it can burst.",
)  # fmt: skip
MERCURY = Chemistry(
    "M", "mercury", 1.35,
    ((0.0, 0.90), (0.03, 1.20), (0.08, 1.33), (0.5, 1.348), (1.0, 1.36)),
    ((0.0, 8.0), (0.05, 2.5), (0.2, 1.3), (1.0, 1.0)), 0.005, v_per_c=0.0001, colder=0.03, yearly_loss=0.03,
    caution="Mercury is toxic and withdrawn from sale: hand the cell in, do not throw it away.",
)  # fmt: skip
HYDRIDE = Chemistry(
    "H", "nickel-metal hydride", 1.2,
    ((0.0, 1.00), (0.05, 1.17), (0.2, 1.24), (0.5, 1.28), (0.9, 1.34), (1.0, 1.40)),
    ((0.0, 3.0), (0.1, 1.5), (1.0, 1.0)), 0.012, v_per_c=0.0, colder=0.015, yearly_loss=0.3,
)  # fmt: skip


@dataclass(frozen=True)
class Size:
    """A cell or a stack as it is bought: ``ohm`` of one fresh cell at 20 C, ``ah`` to its cut-off under a light load."""

    name: str
    chemistry: Chemistry
    cells: int
    ah: float
    ohm: float
    source: str = "name and nominal volts IEC 60086-2 [memory]; capacity and resistance common practice"


SIZES: dict[str, Size] = {
    one.name: one
    for one in (
        Size("LR44", ALKALINE, 1, 0.12, 6.0), Size("SR44", SILVER, 1, 0.165, 7.0), Size("LR43", ALKALINE, 1, 0.08, 8.0),
        Size("SR43", SILVER, 1, 0.115, 9.0), Size("LR9", ALKALINE, 1, 0.20, 4.0), Size("MR9", MERCURY, 1, 0.35, 4.0),
        Size("PR44", ZINC_AIR, 1, 0.60, 4.5), Size("PR48", ZINC_AIR, 1, 0.28, 6.0), Size("LR1", ALKALINE, 1, 0.85, 0.6),
        Size("LR03", ALKALINE, 1, 1.1, 0.25), Size("LR6", ALKALINE, 1, 2.6, 0.18), Size("HR03", HYDRIDE, 1, 0.8, 0.06),
        Size("HR6", HYDRIDE, 1, 2.0, 0.04), Size("CR2032", LITHIUM, 1, 0.22, 14.0), Size("CR11108", LITHIUM, 1, 0.16, 9.0),
        Size("CR17345", LITHIUM, 1, 1.5, 0.4), Size("CR15H270", LITHIUM, 1, 0.85, 0.5), Size("2CR5", LITHIUM, 2, 1.5, 0.4),
        Size("4LR44", ALKALINE, 4, 0.12, 6.0), Size("4SR44", SILVER, 4, 0.165, 7.0), Size("2LR44", ALKALINE, 2, 0.12, 6.0),
        Size("2SR44", SILVER, 2, 0.165, 7.0), Size("2MR9", MERCURY, 2, 0.35, 4.0), Size("2LR6", ALKALINE, 2, 2.6, 0.18),
        Size("4LR6", ALKALINE, 4, 2.6, 0.18),
    )
}  # fmt: skip


ALIASES = {
    "CR123A": "CR17345",
    "CR123": "CR17345",
    "CR2": "CR15H270",
    "CR1/3N": "CR11108",
    "AA": "LR6",
    "AAA": "LR03",
    "N": "LR1",
}


MOST_STACKED = 6


def size_of(name: str) -> Size:
    """A cell, or a stack of up to six, by the name on it.

    ``name``: as ``LR44``, ``4SR44`` or ``2 x CR11108``. Raises InvalidInput: no such size is known, or no such stack is made.
    """
    wanted = "".join(name.upper().replace("×", "X").split())
    known = ALIASES.get(wanted, wanted)
    if known in SIZES:
        return SIZES[known]
    stacked = re.match(r"^([1-6])X?([A-Z].*)$", wanted)
    one = ALIASES.get(stacked[2], stacked[2]) if stacked else ""
    if not stacked or one not in SIZES:
        raise InvalidInput("Size", name, f"one of {', '.join(SIZES)}, or up to {MOST_STACKED} of one (3xLR44)")
    return stack_of(SIZES[one], int(stacked[1]))


def stack_of(one: Size, count: int) -> Size:
    """Several of a cell in series, under the name of the stack where it is bought as one.

    Parameters
    ----------
    one : a single cell
    count : 1 to 6
    """
    if not 1 <= count * one.cells <= MOST_STACKED:
        raise InvalidInput("Cells", count, f"1 to {MOST_STACKED} in series")
    whole = SIZES.get(f"{count}{one.name}")
    return one if count == 1 else whole or replace(one, name=f"{count} × {one.name}", cells=one.cells * count)
