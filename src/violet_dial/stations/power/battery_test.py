"""The device's own battery test: what its needle or lamp should show by the circuit, and what is wrong where it shows otherwise
although the cell is good."""

from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.trade import switches_of
from violet_dial.core.diagnosis.posterior import Case, Diagnostician
from violet_dial.core.errors import VioletDialError
from violet_dial.core.power.device import Device, Points, Port
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.task import Task

TEST_WORDS = ("test", "batt", "check")
CLOSE_SHARE = 0.06  # of the scale, within which a needle shows what it should; common practice, no source
MOST_NAMED = 3
TEST_EV100 = 9.0


@dataclass(frozen=True)
class BatteryTest:
    """``setting`` with the test pressed; ``shares`` what each movement and lamp should show of its full current at ``volts``;
    what is suspected where ``read`` differs, likeliest first."""

    setting: Setting
    volts: float
    shares: tuple[tuple[str, float], ...]
    read: float | None
    suspects: tuple[tuple[str, float], ...]

    @property
    def agrees(self) -> bool | None:
        """Whether what was read is what should show; None where nothing was read."""
        if self.read is None or not self.shares:
            return None
        return abs(self.read - min(self.shares[0][1], 1.0)) <= CLOSE_SHARE


def test_setting(device: Device) -> Setting | None:
    """The switch turned to its battery test; None where it has none."""
    for name, switch in switches_of(device.circuit).items():
        for position in switch.positions:
            if any(word in position for word in TEST_WORDS):
                return device.setting.with_switch(name, position)
    return None


def battery_test(device: Device, volts: float, read: float | None, task: Task) -> BatteryTest | None:
    """What the battery test should show at volts of a cell, and what is wrong where it shows otherwise; None without a test."""
    setting = test_setting(device)
    if setting is None:
        return None
    port = Port(replace(device, setting=setting).at(20.0))
    shown = port.points(Points(np.array([TEST_EV100]), np.array([volts])), task).shown[0]
    shares = [
        (one.words, float(abs(amp) / one.full_a))
        for one, amp in zip(device.watched, shown, strict=True)
        if one.full_a and one.shows in ("needle", "lamp") and np.isfinite(amp)
    ]
    found = BatteryTest(setting, volts, tuple(shares), read, ())
    if found.agrees is not False or read is None:
        return found
    return replace(found, suspects=_suspects(device, setting, volts, read, task))


def _suspects(device: Device, setting: Setting, volts: float, read: float, task: Task) -> tuple[tuple[str, float], ...]:
    """Which part is wrong, the cell being good."""
    needle = device.watched[device.needles[0]].name if device.needles else device.watched[0].name
    battery = device.circuit.part(device.battery)
    evidence = (
        Evidence("volt", volts, battery.nodes[0], battery.nodes[1], setting=setting),
        Evidence("seen", read, part=needle, setting=setting),
    )
    try:
        diagnosis = Diagnostician().diagnose(Case(device.circuit, (evidence,)), task)
    except VioletDialError:
        return ()
    named = [(one.words, one.probability) for one in diagnosis.suspects[:MOST_NAMED]]
    others = [("nothing at all", diagnosis.healthy), ("something not on the list", diagnosis.unlisted)]
    return tuple(sorted([*named, *others], key=lambda pair: -pair[1]))
