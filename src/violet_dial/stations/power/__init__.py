"""Power: which battery, what it does to the reading, how long it lasts, whether this one is still good."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.power import check, state, table
from violet_dial.stations.power.paper import card, paper

STATION = Station(
    name="Power",
    page="violet_dial.stations.power.page:PowerPage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    finding=state.finding,
    members=state.members,
    paper=paper,
    card=card,
    file_in=table.FILE_IN,
    file_out=table.FILE_OUT,
    commands=check.COMMANDS,
    keys=(
        Key(("Ctrl+Tab",), "from the choices to this cell, the use, the diode, the supply, and round"),
        Key(("Up", "Down", "Enter", "Del"), "on the lanes (F5): another choice, take it, leave it out"),
        Key(("Left", "Right", "PgUp", "PgDn"), "on the lanes: another light, another temperature"),
        Key(("Ctrl+R",), "every part and every pair of the drawer tried with the cell under the cursor", "turn_view"),
        Key(("F3",), "the choice under the cursor down to its arithmetic"),
        Key(("Ctrl+I", "Ctrl+E"), "cells or a measured discharge in; all cells as CSV, or a calendar entry out"),
    ),
    shots=(Screenshot("power", "Tystie clip-on meter"),),
)
