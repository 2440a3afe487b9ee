"""What is wrong with the devices of the demo, for its simulated bench, gathered from the stations."""

from violet_dial.stations import STATIONS

HIDDEN: dict[str, str] = {circuit: fault for station in STATIONS for circuit, fault in station.hidden.items()}
