"""Circuits: those that ship with the application, and the one of a job."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Job

CIRCUITS = Path(__file__).parent.parent / "assets" / "circuits"


@dataclass(frozen=True)
class Template:
    """A circuit to start from: the stem of its file, its title, its text."""

    stem: str
    title: str
    text: str


@lru_cache(maxsize=1)
def templates() -> tuple[Template, ...]:
    """The circuits that ship with the application."""
    found = []
    for path in sorted(CIRCUITS.glob("*.cir")):
        text = path.read_text(encoding="utf-8")
        found.append(Template(path.stem, text.split("\n", 1)[0].lstrip("* "), text))
    return tuple(found)


@lru_cache(maxsize=32)
def circuit_from(text: str) -> Circuit:
    """A circuit from its text, its notes checked.

    Raises
    ------
    InvalidInput
        A line or note that is not understood, by its number.
    """
    return checked_circuit(text)


def circuit_of(job: Job) -> Circuit:
    """The job's circuit.

    Raises
    ------
    InvalidInput
        None was chosen yet, or its text is not understood.
    """
    if not job.tracing.circuit_text:
        raise InvalidInput("Circuit", "nothing", "a circuit: choose a template or open a .cir file")
    return circuit_from(job.tracing.circuit_text)
