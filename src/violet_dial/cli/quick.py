"""The commands that compute little and need no station: ``light`` and ``op``. What each needs is imported when it runs."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.units import Unit
from violet_dial.services.station import JSON, Command, Option

LIGHT_ARGUMENTS = (
    Option("value", "for instance 'EV 12', '512 cd/m2', '10240 lx', 'f/8 1/125'"),
    Option("--iso", "arithmetic film speed (default 100)", "", "100"),
    Option("-k", "meter constant K, cd s/m² (default 12.5)", "", "12.5"),
    Option("-c", "meter constant C, lx s (default 250)", "", "250"),
    JSON,
)


def _light(options: Namespace) -> int:
    from violet_dial.core.light.exposure import Constants
    from violet_dial.core.light.typed import convert_light
    from violet_dial.core.quantities import format_grouped, parse_number
    from violet_dial.services.station import as_json

    constants = Constants(parse_number(options.k, "K"), parse_number(options.c, "C"))
    light = convert_light(options.value, parse_number(options.iso, "Film speed"), constants)
    if options.json:
        print(as_json(light.as_json()))
        return 0
    print(f"{light.understood}: EV100 {light.ev100:.2f}, EV {light.ev:.2f} at ISO {light.film_speed:g}")
    print(f"{format_grouped(light.luminance_cd_m2, 3)} cd/m² (K {light.k_cd_s_m2:g})")
    print(f"{format_grouped(light.illuminance_lx, 2)} lx (C {light.c_lx_s:g})")
    print(", ".join(f"{row['aperture']} {row['time_mark']}" for row in light.settings))
    return 0


OPERATE_ARGUMENTS = (
    Option("file", "a circuit as SPICE text, or - for standard input", type=Path),
    JSON,
    Option("--include", "take in the files beside it that it includes", action="store_true"),
)


def _operate(options: Namespace) -> int:
    from violet_dial.core.circuit.states import APART_V, lasting
    from violet_dial.core.circuit.text import checked_circuit
    from violet_dial.services.files import circuit_given
    from violet_dial.services.station import as_json

    found, *others = lasting(checked_circuit(circuit_given(options.file, "Circuit file", options.include)))
    if options.json:
        states = [{"voltages": one.voltages, "currents": one.currents} for one in others]
        print(as_json({"voltages": found.voltages, "currents": found.currents, "other_states": states}))
        return 0
    for node, volts in found.voltages.items():
        differing = [one.voltages[node] for one in others if abs(one.voltages[node] - volts) > APART_V]
        print(f"{node:<16} {volts:.6g} V{''.join(f' or {other:.6g} V' for other in differing)}")
    if others:
        print(f"{len(others) + 1} states: it may stand in any of them")
    return 0


CELL_ARGUMENTS = (
    Option("--size", "what is on it: LR44, 4SR44, 2xLR6, CR123A", required=True),
    Option("--rest", "of the whole stack at rest", "VOLTS", required=True),
    Option("--load", "under the load, after some seconds", "VOLTS"),
    Option("--ohm", "the load", "OHM"),
    Option("--temperature", "degrees Celsius (default 20)", "C", "20"),
    JSON,
)


def _cell(options: Namespace) -> int:
    from violet_dial.core.power.cell_state import judge_cell
    from violet_dial.core.power.cells import size_of
    from violet_dial.core.quantities import format_engineering, parse_number, parse_with_unit
    from violet_dial.services.station import as_json

    def figure(text: str | None, unit: Unit, name: str) -> float | None:
        return None if text is None else parse_with_unit(text, (unit,), name, unit).value

    rest_v = parse_with_unit(options.rest, ("V",), "Volts at rest", "V").value
    load_v, ohm = figure(options.load, "V", "Volts under the load"), figure(options.ohm, "Ω", "Load")
    size = size_of(options.size)
    found = judge_cell(size, rest_v, load_v, ohm, parse_number(options.temperature, "Temperature"))
    caution = size.chemistry.caution
    if options.json:
        print(as_json({
            "size": size.name, "chemistry": size.chemistry.name, "cells": size.cells, "internal_ohm": found.internal_ohm,
            "internal_u_ohm": found.internal_u_ohm, "charge_left": found.left, "charge_left_low": found.left_low,
            "charge_left_high": found.left_high, "strange": found.is_strange, "one_dead": found.one_dead,
            "words": found.words, "caution": caution,
            "serves": [{"device": one.device, "amp": one.amp, "volts": one.volts, "works": one.works} for one in found.serves],
        }))  # fmt: skip
        return 0
    print(found.words)
    if found.internal_ohm is not None:
        print(f"internal resistance {format_engineering(found.internal_ohm, 3)}Ω ± {found.internal_u_ohm:.2g}")
    for one in () if found.is_strange else found.serves:
        print(f"{'+' if one.works else '-'} {one.device}: {one.volts:.2f} V at {format_engineering(one.amp, 3)}A")
    if caution:
        print(caution)
    return 0


COMMANDS = (
    Command("light", "convert one light quantity to all others", LIGHT_ARGUMENTS, _light),
    Command("cell", "whether a cell is still good, by volts at rest and under a load", CELL_ARGUMENTS, _cell),
    Command("op", "operating point of a circuit in SPICE text", OPERATE_ARGUMENTS, _operate),
)
