"""The judgement on the batteries down to its arithmetic."""

import numpy as np

from violet_dial.core.power.device import lux_of
from violet_dial.core.power.lanes import BatteryResult, BatteryResults
from violet_dial.core.power.said import reason
from violet_dial.core.quantities import format_engineering, format_signed
from violet_dial.services.station import Section
from violet_dial.stations.power.lanes_state import MODES, At
from violet_dial.stations.power.work import PowerWorked

TITLE = "How the batteries were judged"
STATES_SHOWN = 6


def opened(worked: PowerWorked, place: int, at: At) -> tuple[str, tuple[Section, ...]]:
    """One lane at one light and temperature, step by step, and what it rests on."""
    lanes = worked.lanes
    lane = lanes.lanes[place]
    sections = [
        ("The choice", (reason(lane, lanes),)),
        ("How it is read", (MODES[lanes.mode], HOW[lanes.mode])),
        ("Along the battery's life", _life(lane, lanes, at)),
        ("Over the range of light", _range(lane, lanes, at)),
        ("The cell", _cell(lane)),
        (
            "What is drawn",
            tuple(f"{state.words}\t{state.name}: {format_engineering(state.amp, 3)}A" for state in worked.states),
        ),
    ]
    if worked.said:
        sections.insert(0, ("Not this device's own circuit", (worked.said,)))
    return TITLE, tuple(sections)


_LIGHT = "the light at which it does so when fed otherwise is what is really there. Error = mark − that light."
HOW = {
    "needle": f"At each mark of light the needle's place at the design voltage is the scale; {_LIGHT}",
    "null": f"At each mark the dial is turned until the needle is at null at the design voltage; {_LIGHT}",
    "lamps": f"A lamp changes where it has half of its full current; at the design voltage that is the mark; {_LIGHT}",
    "time": f"The time is C × volts / current until the magnet lets go; at the design voltage it is that of the mark; {_LIGHT}",
}


def _life(lane: BatteryResult, lanes: BatteryResults, at: At) -> tuple[str, ...]:
    """At the chosen light: the cell, the clips, the error, for some states of charge."""
    one = lane.errors[at.warm]
    shown = np.unique(np.linspace(0, len(lane.works) - 1, STATES_SHOWN).round().astype(int))
    ev100 = float(lanes.asked.marks[at.light])
    lux = format_engineering(float(lux_of(np.array(ev100))), 3)
    lines = [f"At Ev {ev100:g} ({lux}lx), {lanes.asked.temperatures_c[at.warm]:g} °C:"]
    for q in shown:
        error = one.error_stops[q, at.light]
        said = "does not follow" if np.isnan(error) else f"{format_signed(float(error), 3)} stop"
        lines.append(
            f"{100 * lanes.asked.left[q]:.0f} % left\tcell {one.cell_v[q]:.3f} V, clips {one.clip_v[q]:.3f} V, "
            f"{format_engineering(float(one.amp[q]), 3)}A: {said}; after {lane.hours[q]:.4g} h"
        )
    return tuple(lines)


def _range(lane: BatteryResult, lanes: BatteryResults, at: At) -> tuple[str, ...]:
    errors = lane.errors[at.warm].error_stops
    lines = []
    for place, ev100 in enumerate(lanes.asked.marks):
        column = errors[:, place]
        good = column[np.isfinite(column)]
        said = (
            "not followed"
            if not len(good)
            else f"{format_signed(float(good.min()), 3)} to {format_signed(float(good.max()), 3)} stop"
        )
        lines.append(f"Ev {ev100:g}\t{said}; tolerance ± {lanes.asked.allowed[place]:.2f}")
    return tuple(lines)


def _cell(lane: BatteryResult) -> tuple[str, ...]:
    size = lane.choice.size
    if size is None:
        return (f"A supply of {lane.choice.supply_v:g} V behind {lane.choice.supply_ohm:g} Ω.",)
    kind = size.chemistry
    lines = [
        f"{size.name}\t{size.cells} × {kind.name}, {1000 * size.ah:g} mAh, {size.ohm:g} Ω each when fresh. Source: {size.source}",
        f"Curves\t{kind.source}; loses {100 * kind.yearly_loss:g} % a year by itself",
    ]
    for diode in lane.choice.diodes:
        lines.append(
            f"{diode.name}\tIS {diode.is_a:.3g} A, N {diode.n:g}, RS {diode.rs_ohm:g} Ω, "
            f"EG {diode.eg_v:g} V, XTI {diode.xti:g} at 27 °C"
        )
    if kind.caution:
        lines.append(f"Caution\t{kind.caution}")
    return tuple(lines)
