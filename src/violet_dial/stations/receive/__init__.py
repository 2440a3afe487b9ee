"""Receive: what came in, what is seen on it, what it does, and what to make sure of before it is opened."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.receive import state
from violet_dial.stations.receive.paper import paper

STATION = Station(
    name="Receive",
    page="violet_dial.stations.receive.page:ReceivePage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    paper=paper,
    keys=(
        Key(("Ctrl+O",), "attach photos (or drop them on the page)", "attach_photos", anywhere=True),
        Key(("Arrows", "PageUp", "PageDown"), "on the drawing (F5): from place to place, to the next view"),
        Key(("Enter", "Del"), "write what is there, strike it out; Enter in the list of findings says one better"),
        Key(("W", "X", "D", "N", "S"), "in the walk: works, wrong, dead, not tried; next supply"),
    ),
    shots=(Screenshot("receive-look", "Shearwater compact", page=1),),
)
