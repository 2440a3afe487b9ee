"""Return: the sheet the owner gets, and the lesson that stays at the bench."""

from violet_dial.services.keys import Key
from violet_dial.services.station import Screenshot, Station
from violet_dial.stations.hand_back import state
from violet_dial.stations.hand_back.paper import card, paper

STATION = Station(
    name="Return",
    page="violet_dial.stations.hand_back.page:ReturnPage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    paper=paper,
    card=card,
    keys=(
        Key(("Ctrl+P", "Ctrl+S"), "print the sheet or the card in view; write it as PDF or HTML"),
        Key(("Ctrl+R",), "the short card in place of the sheet, and back", "turn_view"),
        Key(("+", "-", "0"), "on the sheet (F5): larger, smaller, the whole page or its whole width; arrows scroll"),
        Key(("Ctrl+L",), "A4 or Letter", "turn_paper"),
        Key(("Ctrl+Shift+L",), "labels with a barcode, for the device and its trays", "labels", anywhere=True),
        Key(("Ctrl+Tab",), "from the sheet to the bench and the workshop"),
    ),
    shots=(Screenshot("return", "Shearwater compact"),),
)
