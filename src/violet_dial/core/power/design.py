"""Which of the diodes and resistors at hand, alone or two in series, makes a cell read best; and where the trimmer goes with it.

Source: Every part and every pair is tried; nothing is searched cleverly. All are solved side by side on the device's table.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.feeds import BatteryChoice, Diode
from violet_dial.core.power.lanes import Judge
from violet_dial.core.power.meter_error import AskedLights, Reader
from violet_dial.core.quantities import format_engineering
from violet_dial.core.task import SilentTask, Task

Array = npt.NDArray[np.float64]
MOST_PARTS = 200
AT_ONCE = 150  # combinations solved side by side
LIFE = (1.0, 0.7, 0.4, 0.1)
TRIM_STEPS, TRIM_SPAN = 41, 4.0  # positions of a trimmer that are tried, and how far it goes either way


@dataclass(frozen=True)
class InDrawer:
    """A part at hand: a diode, or a resistor of so many ohms; how many there are."""

    name: str
    diode: Diode | None = None
    ohm: float = 0.0
    count: int = 2

    def __post_init__(self) -> None:
        if self.diode is None and not (math.isfinite(self.ohm) and 0.0 < self.ohm <= 1e6):
            raise InvalidInput(self.name, self.ohm, "a diode, or a resistor above 0 Ω and up to 1 MΩ")
        if self.count < 1:
            raise InvalidInput(f"{self.name}: how many", self.count, "1 or more")


@dataclass(frozen=True)
class Designed:
    """The best of the drawer: ``parts`` none, one or two; ``worst_stops`` over range, temperature and life; ``plain_stops`` of
    the cell alone; ``tried`` how many combinations."""

    choice: BatteryChoice
    parts: tuple[str, ...]
    worst_stops: float
    plain_stops: float
    tried: int


@dataclass(frozen=True)
class Trimmed:
    """Where a trimmer goes with a choice: ``ohm`` from ``now_ohm``, and the worst error then."""

    name: str
    now_ohm: float
    ohm: float
    worst_stops: float


def design_words(found: Designed, turned: Trimmed | None) -> str:
    """What the drawer gives, in a sentence or two. ``turned``: where the trimmer goes with it; None for none."""
    alone = f"the cell alone {found.plain_stops:.2g}"
    said = f"{found.choice.name}, within {found.worst_stops:.2g} stop ({alone}); {found.tried} ways tried."
    if turned is None:
        return said
    return f"{said} With {turned.name} at {format_engineering(turned.ohm, 3)}Ω: within {turned.worst_stops:.2g} stop."


def combinations(drawer: Sequence[InDrawer]) -> list[tuple[int, ...]]:
    """None, each part, each pair; a part twice where there are two of it."""
    each = range(len(drawer))
    pairs = [(first, second) for first in each for second in each[first:] if first != second or drawer[first].count > 1]
    return [(), *((one,) for one in each), *pairs]


def with_parts(choice: BatteryChoice, parts: Sequence[InDrawer]) -> BatteryChoice:
    """A choice with parts of the drawer in its lead."""
    diodes = tuple(part.diode for part in parts if part.diode is not None)
    ohm = sum(part.ohm for part in parts if part.diode is None)
    return replace(choice, diodes=(*choice.diodes, *diodes), resistor_ohm=choice.resistor_ohm + ohm)


def design(readers: Sequence[Reader], choice: BatteryChoice, drawer: Sequence[InDrawer], task: Task | None = None) -> Designed:
    """The part, or the pair in series, with the smallest worst error; nothing at all where that is best.

    A combination with which the device stops following a light that it follows on its design voltage is none. Raises
    InvalidInput: an empty drawer, or too much in it.

    Parameters
    ----------
    readers : the device at each temperature asked
    drawer : the parts at hand, at most 200
    """
    if not 1 <= len(drawer) <= MOST_PARTS:
        raise InvalidInput("Drawer", f"{len(drawer)} parts", f"1 to {MOST_PARTS} diodes and resistors")
    task = task or SilentTask()
    every = combinations(drawer)
    worst = np.zeros(len(every))
    for first in range(0, len(every), AT_ONCE):
        task.check()
        task.report(first / len(every), "Every part and every pair is tried")
        some = every[first : first + AT_ONCE]
        for reader in readers:
            many = [with_parts(choice, [drawer[part] for part in parts]) for parts in some]
            worst[first : first + len(some)] = np.maximum(worst[first : first + len(some)], reader.worst_of(many, np.array(LIFE)))
    best = int(np.argmin(worst))
    chosen = [drawer[one] for one in every[best]]
    return Designed(
        with_parts(choice, chosen), tuple(one.name for one in chosen), float(worst[best]), float(worst[0]), len(every)
    )


def trim(judge: Judge, choice: BatteryChoice, task: Task | None = None) -> Trimmed | None:
    """Where the device's first trimmer leaves the smallest worst error with a choice; None where it has none.

    The scale stays that of the trimmer as it stands at the design voltage. ``judge``: the device, read.
    """
    device = judge.device
    if not device.arms or judge.mode == "null":
        return None
    task = task or SilentTask()
    name = device.arms[0]
    now = device.circuit.part(name).value
    factors = np.exp(np.linspace(-math.log(TRIM_SPAN), math.log(TRIM_SPAN), TRIM_STEPS))
    found = []
    asked = replace(judge.asked, left=LIFE)
    for factor in (*factors, 1.0):
        task.check()
        found.append(max(_worst_at(reader, asked, name, now * factor, choice) for reader in judge.readers))
    best = int(np.argmin(found))
    ohm = now * float((*factors, 1.0)[best])
    return Trimmed(name, now, ohm, found[best])


def _worst_at(reader: Reader, asked: AskedLights, name: str, ohm: float, choice: BatteryChoice) -> float:
    return float(reader.turned(name, ohm).worst_of([choice], np.array(asked.left))[0])
