"""Return: the sheet the owner gets, and the lesson that stays at the bench."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Shot, Station
from violet_dial.stations.hand_back import state
from violet_dial.stations.hand_back.paper import paper

STATION = Station(
    name="Return",
    page="violet_dial.stations.hand_back.page:ReturnPage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    paper=paper,
    keys=(Key(("Ctrl+P", "Ctrl+S"), "print the sheet; write it as PDF or HTML"),),
    shots=(Shot("return", "Shearwater compact"),),
)
