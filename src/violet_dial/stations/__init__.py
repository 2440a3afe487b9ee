"""The stations, in the order of the work, each brought in when it is first asked for. Adding one is a folder and a line here."""

from functools import cache
from importlib import import_module

from violet_dial.services.station import Command, Station

_ORDER = ("receive", "open", "trace", "power", "light", "expose", "prove", "hand_back")
# Which of them brings a command, so that a command loads no other.
_BRINGS = {
    "expose": ("shutter", "lamps", "compare", "scope", "trim"), "light": ("check", "colour", "eye"), "power": ("power",),
    "prove": ("prove", "exercise"), "trace": ("trace", "bench", "map", "sister"),
}  # fmt: skip

STATIONS: tuple[Station, ...]  # the line of the work


@cache
def _station(name: str) -> Station:
    found: Station = import_module(f"{__name__}.{name}").STATION
    return found


@cache
def _line() -> tuple[Station, ...]:
    return tuple(_station(name) for name in _ORDER)


def __getattr__(name: str) -> tuple[Station, ...]:
    if name != "STATIONS":
        raise AttributeError(name)
    return _line()


def commands_of(named: str) -> tuple[Command, ...]:
    """The commands of the station that brings this one; of all stations where none does."""
    bringing = next((station for station, commands in _BRINGS.items() if named in commands), None)
    return tuple(command for station in (_line() if bringing is None else (_station(bringing),)) for command in station.commands)
