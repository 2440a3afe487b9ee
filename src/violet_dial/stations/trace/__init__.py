"""Trace: the fault found, by readings and looks, each chosen for what it tells."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.trace import check, state, table
from violet_dial.stations.trace.check import MAP_COMMANDS
from violet_dial.stations.trace.paper import paper

STATION = Station(
    name="Trace",
    page="violet_dial.stations.trace.page:TracePage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    finding=state.finding,
    members=state.members,
    paper=paper,
    file_in=table.FILE_IN,
    file_out=table.FILE_OUT,
    print_out=table.PRINT_OUT,
    commands=(*check.COMMANDS, *MAP_COMMANDS),
    keys=(
        Key(("F4",), "choose or edit the circuit (Ctrl+I opens a .cir file, evidence as CSV or a map, Ctrl+E writes one)"),
        Key(("Ctrl+Tab",), "from the map to the suspects, to the sister unit, and round"),
        Key(("F9",), "to the figure of the next test; Enter takes it"),
        Key(
            ("Ctrl+R",),
            "tests for least minutes, or fewest tests; on the map photo, drawing, list, switches; beside a sister the order",
            "turn_preference",
        ),
        Key(("F3",), "the evidence opened: what instruments gave, with the raw samples"),
        Key(("Up", "Down", "R"), "on the suspects: choose one, it was put right"),
        Key(
            ("Arrows", "Shift+Arrows"),
            "on the drawing (F5): from spot to spot, move and pin a spot (+ − larger, all of it); on a photo: move the cross",
        ),
        Key(("Enter", "+ -", "N M T [ ]"), "on a photo: put a spot, zoom, next photo, mirror, turn, darken, brighten"),
        Key(("Del",), "on the evidence: strike out"),
        Key(("Ctrl+P", "Ctrl+S"), "the map as a poster over several pages, printed or as PDF"),
    ),
    shots=(Screenshot("trace-map", "Puffin motor compact"), Screenshot("trace", "Gannet reflex", page=1)),
)
