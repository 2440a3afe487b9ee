"""Open: what comes off, the way back, the cheapest way in, and what may be done to what."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.open import state, table
from violet_dial.stations.open.paper import FILE_OUT, PRINT_OUT, paper

STATION = Station(
    name="Open",
    page="violet_dial.stations.open.page:OpenPage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    members=state.members,
    paper=paper,
    file_in=table.FILE_IN,
    file_out=FILE_OUT,
    print_out=PRINT_OUT,
    keys=(
        Key(("Tab", "Down", "Enter"), "in a typed line: take the completion, mark the next, take the line"),
        Key(("Enter", "Del", "C", "P"), "on a step (F5): its form, strike out, the same again, take a planned one off"),
        Key(("Enter", "R", "L", "U"), "on the way back: back, replaced by, left out because, off again"),
        Key(("Ctrl+L",), "begin from an earlier strip-down of this model", "adopt"),
        Key(("Ctrl+I", "Ctrl+E", "Ctrl+P", "Ctrl+S"), "CSV in, CSV or Markdown out, the checklist printed or as PDF"),
    ),
    shots=(Screenshot("open-back-night", "Shearwater compact", page=1, theme="night"),),
)
