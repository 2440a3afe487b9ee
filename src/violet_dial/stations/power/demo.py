"""Batteries judged in the demo jobs: a series meter in which the diode matters, a shutter whose stack sags. All invented."""

from violet_dial.job.act import Act
from violet_dial.services.circuits import templates
from violet_dial.services.doing import Doing
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.power.acts import say_line, say_use, type_cell

HIDDEN: dict[str, str] = {  # by the circuit's name
    "Magnet shutter timed by a silicon cell": "Vbat:high internal resistance:94",
}
# A smaller CdS cell: seven times the ohms, so that the scale reaches further up.
SMALL_CELL = ("r10=200k", "r10=1.4meg")


def circuit_text(stem: str) -> str:
    """The text of a circuit that ships."""
    return next(template.text for template in templates() if template.stem == stem)


def _saying(line: str) -> Act:
    return lambda job, at: say_line(job, line, at)


def _reading(line: str) -> Act:
    return lambda job, at: type_cell(job, line, at)


def _using(line: str) -> Act:
    return lambda job, at: say_use(job, line, at)


def series_meter(on: Doing) -> None:
    """Made for 1.35 V, came with 1.55 V: the choices, the drawer, the use; nothing taken yet."""
    on.each(_saying, ("design 1.35 V", "drawer schottky", "drawer germanium", "drawer 1 k", "drawer 470 ohm"))
    on.each(_using, ("2 rolls a month", "metering 25 min a roll", "cold 5 C"))


def sagging_shutter(on: Doing) -> None:
    """Six volts at rest, and a magnet that lets go now and then."""
    on.each(_reading, ("4LR44 6.21 5.45 180", "4LR44 4.72 3.10 180"))
    on.each(_using, ("1 rolls a month", "magnet held 60 s a roll", "longest open 120 s"))
    on.do(lambda job, at: type_evidence(job, "shutter magnet dead", at))
