"""A circuit from the bytes or the text of a file, its notes checked."""

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import check_notes, set_circuit, usual_setting
from violet_dial.core.errors import InvalidInput


def circuit_text(data: bytes, name: str) -> str:
    """SPICE text from a file. Raises InvalidInput: binary data."""
    if b"\0" in data:
        raise InvalidInput("Circuit", name, "SPICE text, not binary data")
    return data.decode("utf-8", "replace")


def checked_circuit(text: str) -> Circuit:
    """A circuit from its text, its notes checked. Raises InvalidInput: a line or note that is not understood, by its number."""
    circuit = read_spice(text)
    if not circuit.parts:
        raise InvalidInput("Circuit", circuit.title, "at least one part under the title line")
    check_notes(circuit)
    set_circuit(circuit, usual_setting(circuit))
    return circuit
