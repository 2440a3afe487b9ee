"""Expose: the times a shutter gives against its marks, and the setting at which an automatic exposes rightly."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.expose import check, state, table
from violet_dial.stations.expose.paper import card, paper

STATION = Station(
    name="Expose",
    page="violet_dial.stations.expose.page:ExposePage",
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
        Key(("Ctrl+Tab",), "from the speeds to the lamps, the test shots, the traces, and round"),
        Key(("Ctrl+R",), "on the test shots: two pictures of the same scene, in stops", "turn_view"),
        Key(("F8",), "arm the sound card, or let go of it: each firing is then taken by itself"),
        Key(("Up", "Down", "Enter", "Del"), "on the ladder (F5): another speed, fire it next, leave its last firing out"),
        Key(("Ctrl+T",), "with the simulated bench: fire the shutter at the speed that is asked for"),
        Key(("Ctrl+I", "Ctrl+E"), "firings from a recording in; firings as CSV, or the last live recording as WAV, out"),
        Key(("F3",), "the judgement on the speeds down to its arithmetic"),
    ),
    shots=(Screenshot("expose", "Turnstone compact"), Screenshot("expose-lamps", "Turnstone compact", page=1)),
)
