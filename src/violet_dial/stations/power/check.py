"""The command ``power``: what each choice of battery does to a device, from its circuit."""

import math
from argparse import Namespace
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import Use, budget, currents, understand_use
from violet_dial.core.power.cells import Size
from violet_dial.core.power.design import design, design_words, trim
from violet_dial.core.power.device import device_of
from violet_dial.core.power.feeds import BatteryChoice, Diode, read_choice, read_diode
from violet_dial.core.power.lanes import BatteryResult, BatteryResults, Judge, usual_choices
from violet_dial.core.power.meter_error import AskedLights, Errors, at_lights
from violet_dial.core.power.said import none_words, reason
from violet_dial.core.power.states import states_of
from violet_dial.core.quantities import parse_number, parse_with_unit
from violet_dial.job.power import Power
from violet_dial.services.circuits import circuit_from
from violet_dial.services.files import circuit_given, read_given
from violet_dial.services.station import JSON, Command, Option, as_json
from violet_dial.stations.power.bench import own_size, part_said
from violet_dial.stations.power.table import read_cells

MOST_BYTES = 2_000_000
MOST_LINES = 300


ARGUMENTS = (
    Option("file", "a circuit as SPICE text, or - for standard input", type=Path),
    Option("--design", "the device was made for (default: its battery's)", "VOLTS"),
    Option("--ev", "range of light, EV100 (default 5,15)", "FROM,TO", "5,15"),
    Option("--temperature", "degrees Celsius, one or several (default 20)", "C[,C]", "20"),
    Option("--choice", "for instance 'SR44 + schottky'; may be repeated", "TEXT", [], action="append"),
    Option("--cells", "cells of your own, or a discharge that was measured", "FILE.csv", type=Path),
    Option("--diode", "'D name IS=.. N=.. RS=..'; may be repeated", "MODEL", [], action="append"),
    Option("--drawer", "parts at hand, one a line: the best goes into the lead", "FILE.csv", type=Path),
    Option("--use", "how it is used, a line each ('2 rolls a month')", "FILE", type=Path),
    Option("--battery", "of the circuit, where it has several", "NAME", ""),
    Option("--include", "take in the files beside it that it includes", action="store_true"),
    JSON,
)


def _run(options: Namespace) -> int:
    found = power(options)
    if options.json:
        print(as_json(found))
        return 0
    for one in found["choices"]:
        print(f"{'*' if one['name'] == found['best'] else ' '} {one['reason']}")
    for text in (found["design"], found["use"]):
        if text:
            print(text["words"])
    for line in found["cautions"]:
        print(f"! {line}")
    return 0


def power(options: Namespace) -> dict[str, Any]:
    """What the command says, as plain data.

    Raises InvalidInput: anything given that is not understood; a circuit without a battery or without anything that follows
    light.
    """
    circuit = circuit_from(circuit_given(options.file, "Circuit file", options.include))
    device = device_of(circuit, battery=options.battery)
    design_v = _design(options.design, device.circuit.part(device.battery).value)
    asked = _asked(options, design_v)
    sizes, said = _cells(options.cells)
    diodes = [read_diode(text) for text in options.diode]
    choices = _choices(options, design_v, sizes, diodes)
    judge = Judge(device, asked, choices)
    chosen, designed = list(choices), None
    if options.drawer is not None:
        designed, extra = _designed(judge, options.drawer, choices[0], diodes)
        chosen += [extra] if extra not in chosen else []
    lanes = judge.judge(chosen)
    rows = [_lane(lane, lanes, judge) for lane in lanes.lanes]
    best = lanes.lanes[lanes.best] if lanes.best >= 0 else None
    return {
        "title": circuit.title, "battery": device.battery, "design_v": design_v, "mode": lanes.mode,
        "temperatures_c": list(asked.temperatures_c), "choices": rows, "best": best.choice.name if best else None,
        "best_reason": reason(best, lanes) if best else none_words(lanes),
        "cells": said, "drop_out_v": _plain(judge.readers[0].drop_out_v()), "design": designed,
        "use": _used(options.use, judge, best),
        "cautions": _cautions(lanes),
    }  # fmt: skip


def _design(text: str | None, usual: float) -> float:
    return usual if text is None else parse_with_unit(text, ("V",), "--design", "V").value


def _asked(options: Namespace, design_v: float) -> AskedLights:
    ends = [parse_number(word, "--ev") for word in options.ev.split(",")]
    if len(ends) != 2:
        raise InvalidInput("--ev", options.ev, "two lights, for instance 2,16")
    warm = tuple(parse_number(word, "--temperature") for word in options.temperature.split(","))
    return AskedLights(design_v, ends[0], ends[1], warm)


def _cells(path: Path | None) -> tuple[dict[str, Size], str]:
    if path is None:
        return {}, ""
    cells, offered, said = read_cells(read_given(path, "--cells", MOST_BYTES), path.name)
    if offered is not None and offered.rejected:
        first = offered.rejected[0]
        raise InvalidInput("--cells", f"line {first.line}", f"rows that can be understood ({first.reason})")
    if not cells:
        raise InvalidInput("--cells", path.name, "at least one cell")
    return {cell.name: own_size(cell) for cell in cells}, said


def _choices(options: Namespace, design_v: float, sizes: dict[str, Size], diodes: list[Diode]) -> tuple[BatteryChoice, ...]:
    """Those named; else the usual ones, each own cell, and each own diode with silver cells."""
    named = {diode.name.removesuffix(" diode"): diode for diode in diodes}
    if options.choice:
        return tuple(read_choice(text, named, sizes) for text in options.choice)
    usual = usual_choices(design_v)
    silver = next(one for one in usual if one.size is not None and one.size.chemistry.letter == "S")
    own = [BatteryChoice(size) for size in sizes.values()]
    return (*own, *usual, *(replace(silver, diodes=(diode,)) for diode in diodes))


def _designed(judge: Judge, path: Path, first: BatteryChoice, diodes: list[Diode]) -> tuple[dict[str, Any], BatteryChoice]:
    """The best of the drawer with silver cells, or with the first choice where none is among them."""
    named = Power(diodes=tuple(_model(diode) for diode in diodes))
    lines = read_given(path, "--drawer", MOST_BYTES).decode("utf-8", "replace").splitlines()[: MOST_LINES + 1]
    said = [line.strip().strip('"') for line in lines if line.strip() and line.strip().lower() not in ("part", "parts", "name")]
    drawer = [part_said(named, line) for line in said]
    plain = [
        choice
        for choice in usual_choices(judge.asked.design_v)
        if choice.is_plain and choice.size and choice.size.chemistry.letter == "S"
    ]
    cell = (
        plain[0]
        if plain and first.size is not None and first.size.chemistry.letter == "P"
        else replace(first, diodes=(), moved=False)
    )
    found = design(judge.readers, cell, drawer)
    turned = trim(judge, found.choice) if math.isfinite(found.worst_stops) and judge.mode != "lamps" else None
    worst = found.worst_stops
    words = f"From the drawer: {design_words(found, turned)}"
    return {
        "name": found.choice.name, "parts": list(found.parts), "worst_error_stops": _plain(worst),
        "plain_worst_error_stops": _plain(found.plain_stops), "tried": found.tried, "words": words,
        "trimmer": None if turned is None else {
            "name": turned.name, "ohm": turned.ohm, "now_ohm": turned.now_ohm, "worst_error_stops": _plain(turned.worst_stops),
        },
    }, found.choice  # fmt: skip


def _model(one: Diode) -> str:
    return f"{one.name.removesuffix(' diode')} IS={one.is_a!r} N={one.n!r} RS={one.rs_ohm!r} EG={one.eg_v!r} XTI={one.xti!r}"


def _used(path: Path | None, judge: Judge, best: BatteryResult | None) -> dict[str, Any] | None:
    if path is None:
        return None
    use = Use()
    for line in read_given(path, "--use", MOST_BYTES).decode("utf-8", "replace").splitlines()[:MOST_LINES]:
        if line.strip() and not line.strip().startswith("#"):
            use = understand_use(use, line)
    if best is None or best.choice.size is None:
        return None
    states = states_of(judge.device, judge.asked.design_v, float(judge.asked.marks.mean()))
    gives_up = judge.asked.left[min(best.ends, len(judge.asked.left) - 1)]
    found = budget(best.choice.size, use, currents(states), gives_up)
    words = (f"Used so, {best.choice.size.name}: {found.weeks_low:.3g} to {found.weeks_high:.3g} weeks, {found.rolls_low:.3g} to "
             f"{found.rolls_high:.3g} rolls; most goes to {found.shares[0].name}, {found.shares[0].share:.0%}.")  # fmt: skip
    return {
        "battery": best.choice.name, "weeks": found.weeks, "weeks_low": found.weeks_low, "weeks_high": found.weeks_high,
        "rolls": found.rolls, "rolls_low": found.rolls_low, "rolls_high": found.rolls_high, "open_hours": found.open_hours,
        "warnings": list(found.warnings), "words": words,
        "states": [{"name": state.name, "setting": state.words, "amp": state.amp} for state in states],
        "shares": [{"name": one.name, "amp": one.amp, "hours_a_month": one.hours, "ah_a_month": one.ah, "share": one.share}
                   for one in found.shares],
    }  # fmt: skip


def _plain(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None


def _rows(matrix: npt.NDArray[np.float64]) -> list[list[float | None]]:
    return [[_plain(one) for one in row] for row in matrix]


def _lane(lane: BatteryResult, lanes: BatteryResults, judge: Judge) -> dict[str, Any]:
    """One choice; the matrices are those of the first temperature, all of them stand below ``by_temperature``."""
    first = lane.errors[0]
    more = [
        {"temperature_c": warm, "volts": error.cell_v.tolist(), **_errors(lanes, error)}
        for warm, error in zip(lanes.asked.temperatures_c, lane.errors, strict=True)
    ]
    return {
        "name": lane.choice.name, "ev100": lanes.asked.marks.tolist(), "charge_left": list(lanes.asked.left),
        "volts": first.cell_v.tolist(), "volts_at_device": first.clip_v.tolist(), "amp": [_plain(one) for one in first.amp],
        **_errors(lanes, first), "worst_error_stops": _plain(lane.worst),
        "hours_in_tolerance": _plain(lane.hours_in_tolerance), "hours_to_cutoff": _plain(lane.hours_to_cutoff),
        "thresholds": [
            {"lamp": lamp.watched.words, "design_ev100": lamp.ev100, "ev100": [_plain(row[place]) for row in first.threshold_ev]}
            for place, lamp in enumerate(judge.readers[0].lamps if lanes.mode == "lamps" else ())
        ],
        "shift_stops": lane.shift_stops, "works": lane.works.tolist(), "reason": reason(lane, lanes),
        **({"by_temperature": more} if len(more) > 1 else {}),
    }  # fmt: skip


def _errors(lanes: BatteryResults, error: Errors) -> dict[str, Any]:
    """At each light, and at each mark of the scale."""
    is_read = lanes.mode != "lamps"  # a lamp has no scale with marks
    by_light = at_lights(lanes.asked.marks, error.error_stops) if is_read else error.error_stops
    return {"error_stops": _rows(by_light), "error_stops_at_mark": _rows(error.error_stops)}


def _cautions(lanes: BatteryResults) -> list[str]:
    found = [lane.choice.size.chemistry.caution for lane in lanes.lanes if lane.choice.size is not None]
    if any(lane.choice.diodes for lane in lanes.lanes):
        found.append(
            "A diode the wrong way round stops the device: in the positive lead its band looks away from the battery. "
            "Never solder to a cell."
        )
    return list(dict.fromkeys(text for text in found if text))


COMMANDS = (Command("power", "what each choice of battery does to the reading, from a circuit", ARGUMENTS, _run),)
