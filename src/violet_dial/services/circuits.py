"""Circuits: those that ship with the application, and the one of a job."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.compiled import compiled
from violet_dial.job.document import Job
from violet_dial.services.remembered import remembered

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
    """A circuit from its text, its notes checked. Raises InvalidInput: a line or note that is not understood, by its number."""
    return checked_circuit(text)


TRACED = "Traced board"


@remembered(lambda job: (job.tracing.board, job.tracing.circuit_text, job.tracing.circuit_name, job.practising.ended))
def circuit_text_of(job: Job) -> str:
    """The job's circuit as text: made of its map where one was traced, else as it was chosen; empty for none. An exercise that is
    over shows the circuit of its device. Raises InvalidInput: the map makes no circuit.
    """
    board, chosen = job.tracing.board, job.tracing.circuit_text
    if (job.practising.ended and chosen) or not (board.items or len(board.spots) > 1):
        return chosen
    return compiled(board, job.tracing.circuit_name or TRACED).text


def has_circuit(job: Job) -> bool:
    """Whether there is a circuit, chosen or traced."""
    board = job.tracing.board
    return bool(job.tracing.circuit_text or board.items or len(board.spots) > 1)


def circuit_of(job: Job) -> Circuit:
    """The job's circuit. Raises InvalidInput: none was chosen yet, or its text is not understood."""
    text = circuit_text_of(job)
    if not text:
        raise InvalidInput("Circuit", "nothing", "a circuit: choose a template or open a .cir file")
    return circuit_from(text)
