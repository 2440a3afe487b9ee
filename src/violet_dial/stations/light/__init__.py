"""Light: the meter checked against reference light."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.light import check, state, table
from violet_dial.stations.light.check import COLOUR_COMMANDS
from violet_dial.stations.light.check_eye import EYE_COMMANDS
from violet_dial.stations.light.paper import card, paper

STATION = Station(
    name="Light",
    page="violet_dial.stations.light.page:LightPage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    finding=state.finding,
    members=state.members,
    paper=paper,
    card=card,
    file_in=table.FILE_IN,
    file_out=table.FILE_OUT,
    commands=(*check.COMMANDS, *COLOUR_COMMANDS, *EYE_COMMANDS),
    fallback=True,
    opened=state.opened,
    keys=(
        Key(("F6",), "to the reference light", "to_reference", anywhere=True),
        Key(("F7",), "to the needle reading", "to_reading", anywhere=True),
        Key(("Left", "Right", "Home", "End"), "from reading to reading on the dial (F5 goes there)"),
        Key(("Del",), "strike out the reading under the cursor on the dial"),
        Key(("F4",), "set-up: reference chain, tolerance, adjuster, range"),
        Key(("Ctrl+Tab",), "from the dial to the colour of the light, to the eye, and back"),
        Key(("F8",), "at the eye: light and needle taken as they are seen"),
        Key(("F10",), "at the eye: the check runs by itself, or no more"),
        Key(("Arrows", "Del"), "on the camera's picture: the cross (Shift ten points, Ctrl a fifth), the mark under it away"),
        Key(("Ctrl+I", "Ctrl+E"), "readings in from CSV (at Colour a spectrum), out to CSV"),
    ),
    shots=(
        Screenshot("light-even", "Kittiwake hand meter"),
        Screenshot("light-colour", "Kittiwake hand meter", page=1),
        Screenshot("light-eye", "Garganey hand meter", page=2),
    ),
)
