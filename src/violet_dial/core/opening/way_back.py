"""The way back: a valid order of refitting with test stops before the point of no return."""

import heapq
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import Literal

from violet_dial.core.errors import ImpossibleOrder
from violet_dial.core.opening.relations import Relations, refit_before, relate
from violet_dial.core.opening.steps import FASTENERS, Sealant, Step
from violet_dial.core.receiving.places import DeviceKind

_TESTS: dict[str, str] = {
    "hand meter": "needle under light and under a cap, zero, ring to both hard stops",
    "rangefinder compact": "wind, fire at three speeds; needle or lamps under light and under a cap",
    "reflex": "wind, fire at three speeds; mirror; needle under light and under a cap",
    "instant camera": "two blank cycles with an empty pack; lamps; shade the photocell",
    "medium-format body": "wind, fire; mirror; meter contacts",
}
CLOSING_TEST = "Two or three screws only, then: {tests}. Close it when that is right."


@dataclass(frozen=True)
class BackItem:
    """One line of the way back: a step to refit, or a stop for a test."""

    kind: Literal["refit", "test"]
    place: int
    text: str


def order_back(steps: tuple[Step, ...], relations: Relations | None = None) -> tuple[int, ...]:
    """Places of the steps in a valid order of refitting: the last one off first wherever nothing else is said.

    ``relations``: which steps keep which under; made from the steps when None. Raises ImpossibleOrder: the steps ask for each
    other in a ring; ``parts`` names them.
    """
    needs = refit_before(steps, relations or relate(steps))
    sorter = TopologicalSorter({place: needs[place] for place in range(len(steps))})
    try:
        sorter.prepare()
    except CycleError as error:
        ring: list[int] = error.args[1]
        raise ImpossibleOrder(tuple(steps[place].name for place in ring)) from error
    order: list[int] = []
    ready: list[int] = []
    while sorter.is_active():
        for place in sorter.get_ready():
            heapq.heappush(ready, -place)
        place = -heapq.heappop(ready)
        order.append(place)
        sorter.done(place)
    return tuple(order)


def way_back(steps: tuple[Step, ...], device: DeviceKind, sealant: Sealant = "") -> tuple[BackItem, ...]:
    """The list of refitting, with the stops. Steps not off yet are left out. ``device``: kind of device."""
    off = tuple(step for step in steps if not step.planned)
    index = [place for place, step in enumerate(steps) if not step.planned]
    items: list[BackItem] = []
    closed = False
    for place in order_back(off):
        step = off[place]
        if step.test_before:
            items.append(BackItem("test", index[place], f"Before {step.name} goes on: {step.test_before}."))
        elif step.kind == "cover" and not closed:
            items.append(BackItem("test", index[place], CLOSING_TEST.format(tests=_TESTS.get(device, "every function once"))))
        closed = closed or step.kind == "cover"
        items.append(BackItem("refit", index[place], how_back(step, sealant)))
    return tuple(items)


def how_back(step: Step, sealant: Sealant = "") -> str:
    """Everything to mind when this step goes back, in one line; ``sealant`` where the step itself says nothing."""
    sealed = step.sealant or (sealant if step.kind in ("screw", "nut") else "")
    parts = [
        f"home: {step.home}" if step.kind in FASTENERS else "",
        step.orientation,
        f"marks: {step.marks}" if step.marks else "",
        f"preset: {step.preset}" if step.preset else "",
        f"resolder {step.wire_colour}: {step.wire_from} to {step.wire_to}" if step.wire_colour else "",
        {"left": "left-hand thread", "unknown": "thread hand not known"}.get(step.hand, ""),
        f"sealant: {sealed}" if sealed else "",
        "no fingers" if step.no_fingers else "",
    ]
    return " · ".join(part for part in parts if part)
