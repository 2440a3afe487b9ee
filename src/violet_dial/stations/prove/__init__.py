"""Prove: is it really fixed, and will it stay fixed: firings counted, contacts, exercise, light seals, readings over time."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.prove import check, state, table
from violet_dial.stations.prove.paper import card, paper
from violet_dial.stations.prove.rounds_acts import ticked

STATION = Station(
    name="Prove",
    page="violet_dial.stations.prove.page:ProvePage",
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
    ticked=ticked,
    keys=(
        Key(("Ctrl+Tab",), "from the firings to contacts, exercise, seals, soak, and round"),
        Key(("Up", "Down"), "on the lanes (F5): the setting it stands at"),
        Key(("Enter", "F8"), "a clean firing"),
        Key(("Shift+F8",), "a failed one (a second foot switch)", "fail"),
        Key(("F", "1 to 7", "Del"), "on the lanes: failed; its kind; the last firing there left out"),
        Key(("F10",), "the sound card counts firings by itself; at Contacts and Soak the meter fills the rows"),
        Key(("Ctrl+I", "Ctrl+E"), "a log of firings, at Seals a scan, in; firings as CSV, exercise as a calendar, out"),
        Key(("F3",), "the judgement of the page in view down to its arithmetic"),
    ),
    shots=(
        Screenshot("prove", "Razorbill reflex"),
        Screenshot("prove-seals-night", "Phalarope compact", page=state.SEALS, theme="night"),
    ),
)
