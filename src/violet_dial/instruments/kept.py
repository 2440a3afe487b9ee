"""An instrument as the bench knows it: name, address, what it speaks, its stated accuracy."""

import re
from dataclasses import dataclass, field

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.core.steady.samples import UNITS, Accuracy, Function
from violet_dial.instruments.dialects import DIALECTS, LAMP_SUPPLY
from violet_dial.instruments.lamp_curve import understood_curve
from violet_dial.instruments.pattern import USUAL_PATTERN, LinePattern

# Limits of an ordinary instrument where nothing is stated; common practice, no source.
USUAL_ACCURACY: dict[Function, Accuracy] = {
    "volt": Accuracy(0.005, 0.002), "ohm": Accuracy(0.01, 0.3), "amp": Accuracy(0.015, 1e-7), "diode": Accuracy(0.01, 0.002),
    "continuity": Accuracy(0.02, 1.0), "capacitance": Accuracy(0.03, 2e-11), "lux": Accuracy(0.03, 0.05),
}  # fmt: skip
_NETWORK = re.compile(r"^(?P<host>\[[0-9a-fA-F:]+\]|[\w.-]+):(?P<port>\d{1,5})$")
_VISA = re.compile(r"^(TCPIP\d*::[^:]+::\d{1,5}::SOCKET|TCPIP\d*::[^:]+(::[^:]+)?::INSTR|ASRL.+::INSTR|USB\d*::.+::INSTR)$")


@dataclass(frozen=True)
class Kept:
    """One instrument.

    ``address`` is a VISA resource; ``pattern`` and ``function`` are for lines of text alone, the latter for lines without
    a unit; ``settable`` marks a light meter whose lamp can be set (``SOUR:ILL``) and a supply that feeds the lamp, whose
    light by volts or amps is ``curve``; ``stated`` accuracy by function.
    """

    name: str
    address: str
    speaks: str = "SCPI multimeter"
    pattern: str = USUAL_PATTERN
    function: Function = "volt"
    baud: int = 9600
    settable: bool = False
    curve: str = ""
    stated: tuple[tuple[Function, Accuracy], ...] = field(default_factory=tuple)

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise InvalidInput("Name", self.name, "a name to know the instrument by, for instance bench meter")
        if not _VISA.match(self.address):
            raise InvalidInput("Address", self.address, ADDRESS_EXPECTED)
        if self.speaks not in DIALECTS:
            raise InvalidInput("Speaks", self.speaks, f"one of {', '.join(DIALECTS)}")
        if not 300 <= self.baud <= 4_000_000:
            raise InvalidInput("Baud", self.baud, "300 to 4000000")
        LinePattern(self.pattern)
        if self.speaks == LAMP_SUPPLY:
            understood_curve(self.curve)

    def can_give(self, lux: float) -> bool:
        """Whether its lamp can be asked for a light."""
        return self.settable and (self.speaks != LAMP_SUPPLY or understood_curve(self.curve).reaches(lux))

    def accuracy(self, function: Function) -> Accuracy:
        """Stated accuracy in a function, or what is usual."""
        return dict(self.stated).get(function, USUAL_ACCURACY[function])


ADDRESS_EXPECTED = (
    "host:port (192.168.1.20:5025), a serial port (/dev/ttyUSB0), or a VISA address "
    "(TCPIP::host::port::SOCKET, ASRL/dev/ttyUSB0::INSTR, USB::…::INSTR)"
)


def understood_address(typed: str) -> str:
    """A VISA resource from what is typed or picked.

    Raises InvalidInput: neither host and port, nor a serial port, nor a VISA resource.
    """
    text = typed.strip()
    network = _NETWORK.match(text)
    if network:
        if not 1 <= int(network.group("port")) <= 65_535:
            raise InvalidInput("Address", typed, "a port from 1 to 65535")
        return f"TCPIP::{network.group('host')}::{network.group('port')}::SOCKET"
    if text.startswith("/dev/"):
        return f"ASRL{text}::INSTR"
    if _VISA.match(text):
        return text
    raise InvalidInput("Address", typed, ADDRESS_EXPECTED)


def understood_accuracy(typed: str) -> tuple[tuple[Function, Accuracy], ...]:
    """Stated accuracy as typed: ``volt 0.5 % + 2m; ohm 1 % + 0.3``.

    Raises InvalidInput: a function that is not known, or no figures.
    """
    found: list[tuple[Function, Accuracy]] = []
    expected = "for instance: volt 0.5 % + 2m; lux 3 % (a share of the reading, and what is added, in the unit)"
    for part in (part.strip() for part in typed.split(";")):
        if not part:
            continue
        name, _, rest = part.partition(" ")
        if name.lower() not in UNITS:
            raise InvalidInput("Accuracy", name, f"one of {', '.join(UNITS)}; {expected}")
        share, _, floor = rest.partition("+")
        if not share.strip().endswith("%"):
            raise InvalidInput("Accuracy", part, expected)
        accuracy = Accuracy(
            parse_number(share.strip().removesuffix("%").strip(), "Accuracy") / 100,
            parse_number(floor.strip(), "Accuracy") if floor.strip() else 0.0,
        )
        found.append((name.lower(), accuracy))  # type: ignore[arg-type]
    return tuple(found)


def accuracy_words(stated: tuple[tuple[Function, Accuracy], ...]) -> str:
    """Stated accuracy as it would be typed."""
    return "; ".join(f"{name} {one.share * 100:g} %" + (f" + {one.floor:g}" if one.floor else "") for name, one in stated)
