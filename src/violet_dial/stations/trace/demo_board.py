"""The demo's half-traced board: an invented motor-drive compact that does nothing, its spots on two drawn photos."""

from dataclasses import dataclass

from violet_dial.core.mapping.board import Ground, Pin
from violet_dial.job.act import Act
from violet_dial.services.doing import Doing
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.trace.map_acts import lay_photo, pin_on_photo, say_line

ASPECT = 1.5
# where the spots are on the photos, as shares of width and height
FRONT: dict[str, tuple[float, float]] = {
    "clip+": (0.08, 0.20), "lead": (0.20, 0.20), "rail0": (0.34, 0.16), "rail": (0.52, 0.16), "vreg": (0.50, 0.36),
    "ctl": (0.66, 0.40), "Q1 base": (0.78, 0.50), "coil-": (0.86, 0.34), "run": (0.66, 0.58), "m+": (0.30, 0.76),
    "m-": (0.46, 0.84), "wake": (0.62, 0.76), "chassis": (0.12, 0.84), "gnd tab": (0.28, 0.92), "slow": (0.86, 0.72),
}  # fmt: skip
FLEX: dict[str, tuple[float, float]] = {
    "rail": (0.14, 0.34),
    "slow": (0.80, 0.30),
    "wake": (0.78, 0.64),
    "sw common": (0.20, 0.68),
}
TRACKS: tuple[tuple[str, str], ...] = (  # as they run on the drawn board, for the picture alone
    ("lead", "rail0"), ("rail0", "rail"), ("vreg", "ctl"), ("ctl", "run"), ("run", "wake"), ("chassis", "gnd tab"),
    ("m-", "gnd tab"), ("Q1 base", "ctl"), ("slow", "wake"),
)  # fmt: skip
LINES = (
    "battery 6 clip+ to chassis, battery cover",
    "red wire clip+ to lead, battery cover",
    "track lead to rail0, under the battery leak",
    "S1 off/on: rail0 to -, rail",
    "regulator in rail out vreg gnd chassis 2.6 V",
    "IC3 pins 1 vreg, 2 chassis, 7 ctl, 5 wake, 9 run",
    "sister IC3 7 2.4 V, asleep 0 V",
    "IC3 pin 7 drives",
    "IC3 64 Hz between pins 5 and 9 while awake, nothing when asleep",
    "R4 2k2 from ctl to Q1 base",
    "R5 822 Q1 base to chassis",
    "Q1 npn e chassis b Q1 base c coil-",
    "magnet rail to coil- 180 ohm, shutter",
    "D2 schottky coil- to rail, band to rail",
    "C7 226 vreg to chassis",
    "motor m+ to m-, 6 ohm",
    "orange wire rail to m+",
    "track m- to gnd tab",
    "track chassis to gnd tab, guessed",
    "lamp slow from rail to slow",
    "flex slow to wake, under rigid at the lens, guessed",
)
COMPARED = (
    "S1 on", "sister clip+ to gnd 5.96 V", "clip+ to gnd 6.04 V", "sister rail0 to gnd 5.87 V", "rail0 to gnd 8 mV",
    "sister vreg to gnd 2.61 V", "vreg to gnd 4 mV",
)  # fmt: skip
SCALE = "scale clip+ to slow 46 mm"
TOUCHES = ("clip+ to lead 0.2", "rail to m+ beep", "lead to rail0 4k7", "m- to gnd tab beep")


@dataclass(frozen=True)
class Sheets:
    """The two photos, by hash."""

    front: str
    flex: str


def _saying(line: str) -> Act:
    return lambda job, at: say_line(job, line, at)


def _reading(line: str) -> Act:
    return lambda job, at: type_evidence(job, line, at)


def _putting(name: str, photo: str, at_share: tuple[float, float]) -> Act:
    pin = Pin(photo, *at_share)
    return lambda job, at: pin_on_photo(job, name, pin, at)


def half_traced(on: Doing, sheets: Sheets) -> None:
    """Two photos laid down, twenty lines said, spots put on the photos, the first touches made, a sister unit beside."""
    on.each(_saying, LINES)
    for photo, name in ((sheets.front, "board, front"), (sheets.flex, "flex to the lens")):
        ground = Ground(photo, name, aspect=ASPECT)
        on.do(lambda job, at, ground=ground: lay_photo(job, ground, at))  # type: ignore[misc]
    for photo, places in ((sheets.front, FRONT), (sheets.flex, FLEX)):
        for name, place in places.items():
            on.do(_putting(name, photo, place))
    on.each(_saying, (SCALE, *TOUCHES))
    on.each(_reading, COMPARED)
