"""What the bench has at hand for a job: choices, diodes, cells of its own, the drawer, the use; as they were said."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import Use, understand_use
from violet_dial.core.power.cells import Size
from violet_dial.core.power.design import InDrawer
from violet_dial.core.power.device import FedDevice, device_of
from violet_dial.core.power.feeds import DIODES, BatteryChoice, Diode, diode_by_two_points, read_choice, read_diode
from violet_dial.core.power.lanes import usual_choices
from violet_dial.core.power.measured import cell_from_points
from violet_dial.core.power.meter_error import AskedLights
from violet_dial.core.quantities import parse_with_unit
from violet_dial.core.units import Unit
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell, Power
from violet_dial.services.circuits import circuit_from, circuit_of, has_circuit, templates

TEMPERATURES_C = (-10.0, 5.0, 20.0, 30.0, 40.0)
STAND_INS = {"CdS": "cds-series", "silicon": "silicon-lamps"}  # where no circuit was traced
USUAL_DESIGN_V = 1.35


def circuit_for(job: Job) -> tuple[Circuit, str]:
    """The job's circuit, or one that ships and is like it; and what is said of the latter.

    Raises InvalidInput: the device needs no battery, or its kind of cell is not known.
    """
    if has_circuit(job):
        return circuit_of(job), ""
    stem = STAND_INS.get(job.device.cell)
    if stem is None:
        why = (
            "a device with a battery; a selenium cell needs none"
            if job.device.cell == "selenium"
            else "the kind of cell, at Receive"
        )
        raise InvalidInput("Circuit", "none yet", f"{why}, or a circuit, at Trace")
    found = next(template for template in templates() if template.stem == stem)
    return circuit_from(found.text), f"Reckoned with a usual circuit: {found.title}. Trace this one for its own figures."


def device_for(job: Job) -> tuple[FedDevice, str]:
    """What the job's battery feeds, its switches as in use; and what is said where the circuit is not its own.

    Raises InvalidInput: no battery, or nothing follows the light.
    """
    circuit, said = circuit_for(job)
    return device_of(circuit), said


def design_v(power: Power, device: FedDevice) -> float:
    """Volts the device was made for: as said, or as its circuit has them."""
    return power.design_v or device.circuit.part(device.battery).value or USUAL_DESIGN_V


def asked_of(job: Job, device: FedDevice) -> AskedLights:
    """What is judged at the job's bench: its range of light and tolerance as at Light."""
    setup = job.light.setup
    return AskedLights(design_v(job.power, device), setup.range_from_ev100, setup.range_to_ev100, TEMPERATURES_C, setup.tolerance)


def own_size(cell: OwnCell) -> Size:
    """A cell of the bench's own as the core takes it. Raises InvalidInput: a figure no cell can have."""
    figures = {"cells": float(cell.cells), "nominal_v": cell.nominal_v, "v_per_c": cell.v_per_c, "colder": cell.colder,
               "yearly_loss": cell.yearly_loss, "opened_weeks": cell.opened_weeks}  # fmt: skip
    made = cell_from_points(cell.name, np.array(cell.left), np.array(cell.volts), np.array(cell.ohm), cell.ah, figures)
    return replace(made, source=cell.source, chemistry=replace(made.chemistry, source=cell.source))


def sizes_of(power: Power) -> dict[str, Size]:
    """The job's own cells by name."""
    return {cell.name: own_size(cell) for cell in power.own_cells}


def diode_said(text: str) -> Diode:
    """A diode as said: a model line, or a name with two points: ``germ 0.21 V 1 mA 0.16 V 100 uA``.

    Raises InvalidInput: not understood.
    """
    words = text.split()
    units = [word.lower() for word in words]
    if "=" not in text and len(words) >= 9 and units[-1].endswith("a"):
        name, figures = " ".join(words[:-8]), words[-8:]
        volts, amps = (_pairs(figures, unit) for unit in ("V", "A"))
        return diode_by_two_points(name, (volts[0], amps[0]), (volts[1], amps[1]))
    return read_diode(text)


def _pairs(words: Sequence[str], unit: Unit) -> tuple[float, float]:
    places = (0, 4) if unit == "V" else (2, 6)
    first, second = (parse_with_unit(f"{words[at]} {words[at + 1]}", (unit,), "Diode").value for at in places)
    return first, second


def diodes_of(power: Power) -> dict[str, Diode]:
    """The job's own diodes by name."""
    found = [diode_said(text) for text in power.diodes]
    return {one.name.removesuffix(" diode"): one for one in found}


def choice_said(power: Power, text: str) -> BatteryChoice:
    """A choice as said, with the job's own cells and diodes. Raises InvalidInput: not understood."""
    return read_choice(text, diodes_of(power), sizes_of(power))


def choices_of(power: Power, volts: float) -> tuple[BatteryChoice, ...]:
    """The choices of a job: those said, or the usual ones for the voltage."""
    if not power.choices:
        return usual_choices(volts)
    return tuple(choice_said(power, text) for text in power.choices)


def part_said(power: Power, text: str) -> InDrawer:
    """A part of the drawer as said: a diode that is known, a model line, or ohms. Raises InvalidInput: not understood."""
    word = text.strip()
    known = {**DIODES, **{name.lower(): one for name, one in diodes_of(power).items()}}
    low = word.lower().removesuffix(" diode")
    if low in known:
        return InDrawer(word, known[low])
    if "=" in word:
        diode = read_diode(word)
        return InDrawer(diode.name, diode)
    try:
        ohm = parse_with_unit(low.removesuffix("resistor").strip(), ("Ω",), "Part", "Ω").value
    except InvalidInput as error:
        raise InvalidInput("Part", text, f"ohms, a diode ({', '.join(known)}), or a model D name IS=.. N=..") from error
    return InDrawer(f"{word} resistor" if "resistor" not in low else word, ohm=ohm)


USUAL_DRAWER = ("schottky", "germanium", "silicon", "100 ohm", "220 ohm", "470 ohm", "1 k", "2.2 k", "4.7 k", "10 k")


def drawer_of(power: Power) -> tuple[InDrawer, ...]:
    """The parts at hand: those said, or the usual ones."""
    return tuple(part_said(power, text) for text in power.drawer or USUAL_DRAWER)


def use_of(power: Power) -> Use:
    """The use, line by line as it was said."""
    use = Use()
    for line in power.use:
        use = understand_use(use, line)
    return use
