"""The commands that compute little and need no station: ``light`` and ``op``. What each needs is imported when it runs."""

from argparse import ArgumentParser, Namespace
from pathlib import Path

from violet_dial.services.command import Command


def _light_arguments(parser: ArgumentParser) -> None:
    parser.add_argument("value", help="for instance 'EV 12', '512 cd/m2', '10240 lx', 'f/8 1/125'")
    parser.add_argument("--iso", default="100", help="arithmetic film speed (default 100)")
    parser.add_argument("-k", default="12.5", help="meter constant K, cd s/m² (default 12.5)")
    parser.add_argument("-c", default="250", help="meter constant C, lx s (default 250)")
    parser.add_argument("--json", action="store_true", help="one JSON object")


def _light(options: Namespace) -> int:
    from violet_dial.core.light.exposure import Constants
    from violet_dial.core.light.typed import convert_light
    from violet_dial.core.quantities import format_grouped, parse_number
    from violet_dial.services.plain import as_json

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


def _operate_arguments(parser: ArgumentParser) -> None:
    parser.add_argument("file", type=Path, help="a circuit as SPICE text, or - for standard input")
    parser.add_argument("--json", action="store_true", help="one JSON object")
    parser.add_argument("--include", action="store_true", help="take in the files beside it that it includes")


def _operate(options: Namespace) -> int:
    from violet_dial.core.circuit.operating import operating_point
    from violet_dial.core.circuit.text import checked_circuit
    from violet_dial.services.files import circuit_given
    from violet_dial.services.plain import as_json

    found = operating_point(checked_circuit(circuit_given(options.file, "Circuit file", options.include)))
    if options.json:
        print(as_json({"voltages": found.voltages, "currents": found.currents}))
        return 0
    for node, volts in found.voltages.items():
        print(f"{node:<16} {volts:.6g} V")
    return 0


COMMANDS = (
    Command("light", "convert one light quantity to all others", _light_arguments, _light),
    Command("op", "operating point of a circuit in SPICE text", _operate_arguments, _operate),
)
