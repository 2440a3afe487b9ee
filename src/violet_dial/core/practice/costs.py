"""What work on an exercise costs: minutes and money of a part that is put right or replaced, and of a slip.

All figures are common practice, no source; money is without a currency, in round units of which a button cell is two.
"""

from dataclasses import dataclass

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.records.circuit import Fault

WORKS_MIN = 2.0  # the function check after something was mended
# Minutes and money by kind of part; covers that are still on come on top of the minutes.
PARTS: dict[str, tuple[float, float]] = {
    "battery": (1.0, 2.0), "clip": (8.0, 3.0), "contact": (8.0, 2.0), "switch": (20.0, 9.0), "wire": (6.0, 1.0),
    "joint": (5.0, 0.0), "flex": (35.0, 25.0), "connector": (12.0, 6.0), "track": (8.0, 1.0), "movement": (45.0, 40.0),
    "photocell": (30.0, 25.0), "leak": (30.0, 25.0), "cds": (30.0, 12.0), "trimmer": (15.0, 4.0), "capacitor": (12.0, 2.0),
    "lamp": (12.0, 3.0), "led": (12.0, 2.0), "coil": (25.0, 12.0), "solenoid": (30.0, 18.0), "motor": (40.0, 22.0),
    "transistor": (15.0, 3.0), "diode": (10.0, 1.0), "junction": (10.0, 1.0), "regulator": (18.0, 5.0), "block": (40.0, 30.0),
    "resistor": (10.0, 1.0),
}  # fmt: skip
# Minutes and money of what is put right in a device judged by readings: cord, pivots, cell; escapement, magnet, contact.
MENDED: dict[str, tuple[float, float]] = {"needle": (25.0, 4.0), "speeds": (40.0, 6.0)}
BLOB = (6.0, 0.0)  # something that touches, taken away


@dataclass(frozen=True)
class Slip:
    """Something done that has its price: what, what it led to, minutes and money; ``ends`` the exercise."""

    kind: str
    words: str
    minutes: float = 0.0
    money: float = 0.0
    ends: bool = False
    is_work: bool = False  # no slip but what had to be done


POWERED = Slip(
    "ohms with the supply in",
    "Ohms with the supply in: what lies there is taken for the meter's own volts, and a meter can be hurt. Cells out first.",
    minutes=2.0,
)
LIT = Slip("ohms at a lit cell", "A lit cell drives the ohmmeter, and the figure says nothing: cap it first (0 lx).", minutes=1.0)
BENT = Slip(
    "ohms across a movement",
    "An ohmmeter across a movement drives its pointer against the stop and bends it: straightened, balanced, set to zero.",
    minutes=25.0,
)
BURNT = Slip(
    "power before the short was found",
    "With a short in it the supply was put on before ohms were measured: something smoked and is replaced.",
    minutes=15.0,
    money=8.0,
)
SHOCK = Slip(
    "flash capacitor not discharged",
    "Here stood a charged flash capacitor: some hundred volts. Discharge it through a resistor, measure that it is empty, touch "
    "only then. The exercise ends here; at the bench it could have been worse.",
    ends=True,
)
DISCHARGED = Slip(
    "flash capacitor discharged",
    "Discharged through a resistor of some kilohms, and measured that it is empty: once more each time it was fed.",
    minutes=3.0,
    is_work=True,
)
SLIPS: dict[str, Slip] = {one.kind: one for one in (POWERED, LIT, BENT, BURNT, SHOCK, DISCHARGED)}


def mending(circuit: Circuit, fault: Fault) -> tuple[float, float]:
    """Minutes and money of putting a fault right, its covers left out; the same where nothing was wrong there."""
    if fault.to_node or not circuit.has(fault.part):
        return BLOB
    return PARTS.get(kind_of(circuit, circuit.part(fault.part)), PARTS["resistor"])
