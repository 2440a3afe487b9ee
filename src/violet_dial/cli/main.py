"""The command ``violet-dial``: the window, or one service without it.

Exit status: 0 done, 2 with one line on standard error when the input cannot be used.
"""

import argparse
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from violet_dial import __version__
from violet_dial.core.errors import InvalidInput, VioletDialError


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="violet-dial", description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--version", action="version", version=__version__)
    parser.add_argument("--workshop", type=Path, metavar="FILE", help="the workshop file to open")
    parser.add_argument("--demo", action="store_true", help="open the demo workshop")
    parser.add_argument(
        "--shots", type=Path, metavar="DIR", help="render every main view of the demo workshop and exit"
    )
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    _add_check(commands)
    light = commands.add_parser("light", help="convert one light quantity to all others")
    light.add_argument("value", help="for instance 'EV 12', '512 cd/m2', '10240 lx', 'f/8 1/125'")
    light.add_argument("--iso", default="100", help="arithmetic film speed (default 100)")
    light.add_argument("-k", default="12.5", help="meter constant K, cd s/m² (default 12.5)")
    light.add_argument("-c", default="250", help="meter constant C, lx s (default 250)")
    light.add_argument("--json", action="store_true", help="one JSON object")
    sheet = commands.add_parser("sheet", help="print a bundle's sheet as PDF or HTML")
    sheet.add_argument("bundle", type=Path)
    sheet.add_argument("-o", "--output", type=Path, required=True, help="OUT.pdf or OUT.html")
    operate = commands.add_parser("op", help="operating point of a circuit in SPICE text")
    operate.add_argument("file", type=Path)
    operate.add_argument("--json", action="store_true", help="one JSON object")
    trace = commands.add_parser("trace", help="suspects and next test from a circuit and a CSV of evidence")
    trace.add_argument("file", type=Path)
    trace.add_argument("--readings", type=Path, required=True, metavar="FILE.csv")
    trace.add_argument("--json", action="store_true", help="one JSON object")
    bench = commands.add_parser("bench", help="simulated instruments at a circuit with a hidden fault, on loopback")
    bench.add_argument("--circuit", type=Path, required=True, metavar="FILE.cir")
    bench.add_argument("--fault", metavar="PART:MODE", help="for instance 'Rwred:high resistance:22k'")
    bench.add_argument("--port", type=int, default=0, help="port on 127.0.0.1 (default: any free one)")
    bench.add_argument("--seed", type=int, default=1, help="of the noise (default 1)")
    return parser


def _add_check(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    check = commands.add_parser("check", help="judge a meter from a CSV of readings")
    check.add_argument("file", type=Path)
    check.add_argument("--json", action="store_true", help="one JSON object")
    check.add_argument("--tolerance", default="1/3", metavar="STOPS", help="mid-range tolerance (default 1/3)")
    check.add_argument(
        "--tolerance-ends", metavar="STOPS", help="tolerance at the ends (default 1/2, or --tolerance if larger)"
    )
    check.add_argument("--u-reference", default="0.05", metavar="STOPS", help="standard uncertainty of the reference")
    check.add_argument("--u-reading", default="0.06", metavar="STOPS", help="standard uncertainty of one reading")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    options = _parser().parse_args(arguments)
    try:
        return _COMMANDS[options.command](options)
    except VioletDialError as error:
        print(f"violet-dial: {' '.join(str(error).split())}", file=sys.stderr)
        return 2


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise InvalidInput("File", str(path), f"a file that can be read ({error.strerror})") from error


def _check(options: argparse.Namespace) -> int:
    from violet_dial.core.calibration.assess import Plan
    from violet_dial.core.calibration.readings import Tolerance
    from violet_dial.core.quantities import parse_number
    from violet_dial.job.readings_csv import Defaults
    from violet_dial.services.check import CheckRequest, as_json, check_readings

    middle = parse_number(options.tolerance, "--tolerance")
    ends = (
        max(1 / 2, middle)
        if options.tolerance_ends is None
        else parse_number(options.tolerance_ends, "--tolerance-ends")
    )
    defaults = Defaults(
        parse_number(options.u_reference, "--u-reference"), parse_number(options.u_reading, "--u-reading")
    )
    plan = Plan(tolerance=Tolerance(middle, ends))
    result = check_readings(CheckRequest(_read(options.file), plan, defaults))
    print(as_json(result) if options.json else f"{result['verdict']}: {result['reason']}")
    return 0


def _light(options: argparse.Namespace) -> int:
    from violet_dial.core.light.exposure import Constants
    from violet_dial.core.light.typed import convert_light
    from violet_dial.core.quantities import format_grouped, parse_number
    from violet_dial.services.check import as_json

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


def _sheet(options: argparse.Namespace) -> int:
    from datetime import date

    from violet_dial.job.bundle import read_bundle
    from violet_dial.report.html import sheet_html
    from violet_dial.report.pdf import sheet_pdf
    from violet_dial.services.sheets import sheet_for

    suffix = options.output.suffix.lower()
    if suffix not in (".pdf", ".html"):
        raise InvalidInput("Output", str(options.output), "a name ending in .pdf or .html")
    sheet = sheet_for(read_bundle(_read(options.bundle)).job, date.today())
    content = sheet_pdf(sheet) if suffix == ".pdf" else sheet_html(sheet).encode()
    try:
        options.output.write_bytes(content)
    except OSError as error:
        raise InvalidInput("Output", str(options.output), f"a place that can be written ({error.strerror})") from error
    return 0


def _window(options: argparse.Namespace) -> int:
    from violet_dial.gui.start import StartOptions, start

    return start(StartOptions(options.workshop, options.demo, options.shots))


def _text(path: Path) -> str:
    data = _read(path)
    if b"\0" in data:
        raise InvalidInput("Circuit", path.name, "SPICE text, not binary data")
    return data.decode("utf-8", "replace")


def _operate(options: argparse.Namespace) -> int:
    from violet_dial.services.check import as_json
    from violet_dial.services.trace_check import operate

    result = operate(_text(options.file))
    if options.json:
        print(as_json(result))
        return 0
    for node, volts in result["voltages"].items():
        print(f"{node:<16} {volts:.6g} V")
    return 0


def _trace(options: argparse.Namespace) -> int:
    from violet_dial.services.check import as_json
    from violet_dial.services.trace_check import trace

    result = trace(_text(options.file), _read(options.readings))
    if options.json:
        print(as_json(result))
        return 0
    for one in result["suspects"][:6]:
        print(f"{one['probability']:6.1%}  {one['words']}")
    print(f"{result['healthy']:6.1%}  no fault")
    if result["next"]:
        test = result["next"]
        where = " ".join(part for part in (test["plus"], test["minus"], test["setting"]) if part)
        print(f"next: {test['test']} {where} ({test['bits']:.2f} bit, {test['minutes']:.1f} min)")
    return 0


def _bench(options: argparse.Namespace) -> int:
    from violet_dial.instruments.simulated.bench import SimulatedBench
    from violet_dial.instruments.simulated.device import DeviceUnderTest, hidden_fault
    from violet_dial.instruments.simulated.server import BenchServer
    from violet_dial.services.tracing import circuit_from

    circuit = circuit_from(_text(options.circuit))
    fault = hidden_fault(circuit, options.fault) if options.fault else None
    server = BenchServer(SimulatedBench(DeviceUnderTest(circuit, fault), options.seed), options.port)
    print(f"127.0.0.1:{server.port} ready, as VISA {server.address}; Ctrl+C ends it", flush=True)
    try:
        server.serve()
    except KeyboardInterrupt:
        return 0
    finally:
        server.close()
    return 0


_COMMANDS: dict[str | None, Callable[[argparse.Namespace], int]] = {
    "check": _check, "light": _light, "sheet": _sheet, "op": _operate, "trace": _trace, "bench": _bench,
    None: _window,
}  # fmt: skip


if __name__ == "__main__":
    sys.exit(main())
