"""The drawing of a job's circuit, its pinned spots where they were put; made once for each circuit."""

from functools import lru_cache

from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.drawing import BoardDrawing, drawn
from violet_dial.job.document import Job
from violet_dial.services.circuits import circuit_from, circuit_text_of, has_circuit


@lru_cache(maxsize=8)
def _drawn(text: str, pinned: tuple[tuple[str, float, float], ...]) -> BoardDrawing:
    return drawn(circuit_from(text), {node: (column, row) for node, column, row in pinned})


def drawing_of(job: Job) -> BoardDrawing:
    """The drawing; an empty one where there is no circuit that can be read."""
    pinned = tuple((spot.node, spot.column, spot.row) for spot in job.tracing.pinned)
    try:
        return _drawn(circuit_text_of(job), pinned) if has_circuit(job) else BoardDrawing()
    except VioletDialError:
        return BoardDrawing()
