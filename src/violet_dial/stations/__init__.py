"""The stations, in the order of the work. Adding one is a folder and a line here."""

from violet_dial.services.station import Station
from violet_dial.stations import expose, hand_back, light, open, power, practise, prove, receive, trace

STATIONS: tuple[Station, ...] = (
    receive.STATION,
    open.STATION,
    trace.STATION,
    power.STATION,
    light.STATION,
    expose.STATION,
    prove.STATION,
    hand_back.STATION,
)
# The line of the practice workshop: the same, and where its exercises are worked and looked back over.
PRACTICE_LINE: tuple[Station, ...] = (*STATIONS, practise.STATION)
