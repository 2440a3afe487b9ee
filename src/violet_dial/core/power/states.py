"""What a device draws in each state it can stand in, by its circuit: asleep, metering, lamps, magnet held, motor.

A state is a position of its switches; what it is called follows from what is on there.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import figure, kind_of, switches_of, usual_setting
from violet_dial.core.errors import SingularCircuit
from violet_dial.core.power.device import FedDevice, Points, Port, Watched
from violet_dial.core.records.circuit import Setting

StateName = Literal["asleep", "metering", "lamps", "magnet held", "motor"]
STATE_NAMES: tuple[StateName, ...] = ("asleep", "metering", "lamps", "magnet held", "motor")
MOST_STATES = 40
ASLEEP_A = 1e-6  # nothing is on that draws less; common practice, no source
MOTOR_SHARE = 0.5  # of a motor's usual current, from which it turns; common practice, no source


@dataclass(frozen=True)
class BatteryState:
    """How the device stands, what is on there, and what it draws: A from the battery."""

    name: StateName
    setting: Setting
    amp: float

    @property
    def words(self) -> str:
        """The switches, as they stand."""
        return self.setting.words or "as it stands"


def states_of(device: FedDevice, volts: float, ev100: float, temperature_c: float = 20.0) -> tuple[BatteryState, ...]:
    """Every way the switches can stand one by one, and all of them in their first position; what draws most first."""
    circuit = device.circuit
    found: dict[tuple[tuple[str, str], ...], BatteryState] = {}
    for setting in _settings(circuit)[:MOST_STATES]:
        port = _port(replace(device, setting=setting, watched=(*device.watched, *_motors(circuit))).at(temperature_c))
        if port is None:
            continue
        solved = port.points(Points(np.array([ev100]), np.array([volts])))
        amp = float(solved.amp[0])
        if np.isfinite(amp):
            found[setting.switches] = BatteryState(_named(port.device, solved.shown[0], amp), setting, max(amp, 0.0))
    return tuple(sorted(found.values(), key=lambda one: -one.amp))


def _port(device: FedDevice) -> Port | None:
    try:
        return Port(device)
    except SingularCircuit:  # nothing holds a part of it where the switches stand so
        return None


def _motors(circuit: Circuit) -> tuple[Watched, ...]:
    parts = [part for part in circuit.parts if kind_of(circuit, part) == "motor" and part.letter == "R"]
    return tuple(
        Watched(part.name, circuit.note(part.name).get("name", part.name), "magnet", figure(circuit, part.name, "on_a", 0.15))
        for part in parts
    )


def _settings(circuit: Circuit) -> list[Setting]:
    """As usual; all switches in their first position; each switch in each other position."""
    usual, switches = usual_setting(circuit), switches_of(circuit)
    first = Setting(switches=tuple(sorted((name, switch.positions[0]) for name, switch in switches.items())))
    turned = [usual.with_switch(name, position) for name, switch in switches.items() for position in switch.positions]
    return [usual, first, *turned]


def _named(device: FedDevice, shown: np.ndarray, amp: float) -> StateName:
    """What is on: of several the one that draws most decides."""
    circuit = device.circuit
    on: set[str] = set()
    for one, current in zip(device.watched, np.abs(shown), strict=True):
        kind = kind_of(circuit, circuit.part(one.name))
        if kind == "motor" and current >= MOTOR_SHARE * one.full_a:
            on.add("motor")
        elif one.shows == "magnet" and one.full_a and current >= one.full_a:
            on.add("magnet held")
        elif one.shows == "lamp" and one.full_a and current >= 0.3 * one.full_a:
            on.add("lamps")
    for name in ("motor", "magnet held", "lamps"):
        if name in on:
            return name
    return "asleep" if amp < ASLEEP_A else "metering"
