"""The timing capacitor of an electronic shutter, as the circuit notes it."""

from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.errors import InvalidInput


def timing(circuit: Circuit) -> tuple[Part, str]:
    """The timing capacitor and the magnet it times. Raises InvalidInput: none is noted."""
    for part in circuit.parts:
        magnet = circuit.note(part.name).get("times", "")
        if part.letter == "C" and magnet:
            return part, circuit.part(magnet).name
    raise InvalidInput(
        "Time", "no timing capacitor", "a capacitor noted with the magnet it times (times=PART) in the circuit"
    )
