"""The series meter worked by hand: at the mark the current is known, so the light that is really there needs no search."""

import math

import numpy as np

from violet_dial.core.power.feeds import BatteryChoice
from violet_dial.core.power.meter_error import AskedLights

R10, GAMMA, SERIES, COIL, TRIM, LEADS = 200e3, 0.7, 330.0, 1500.0, 12e3, 0.15
FULL_A = 120e-6


def beside_cell_ohm(trim: float = TRIM) -> float:
    """All of the loop but the CdS cell."""
    return LEADS + SERIES + COIL * trim / (COIL + trim)


def cds_ohm(ev100: float) -> float:
    """The cell in a light: 2.5 lx at EV100 0."""
    return float(R10 * (2.5 * 2.0**ev100 / 10.0) ** -GAMMA)


def loop_a(ev100: float, design_v: float) -> float:
    """The loop's current at the design voltage."""
    return design_v / (beside_cell_ohm() + cds_ohm(ev100))


def error_stops(choice: BatteryChoice, left: float, temperature_c: float, ev100: float, design_v: float = 1.35) -> float:
    """Kirchhoff along the loop at the mark's own current; NaN where no light gives it."""
    amp = loop_a(ev100, design_v)
    one = np.array([left])
    volts = float(choice.emf_v(one, temperature_c)[0]) - sum(float(d.drop_v(np.array(amp), temperature_c)) for d in choice.diodes)
    ohm = volts / amp - float(choice.cell_ohm(one, temperature_c)[0]) - choice.resistor_ohm - beside_cell_ohm()
    if ohm <= 0:
        return math.nan
    light = math.log2(10.0 / 2.5 * (ohm / R10) ** (-1.0 / GAMMA))
    return ev100 - light


def worst_stops(choice: BatteryChoice, asked: AskedLights, charges: tuple[float, ...], temperature_c: float = 20.0) -> float:
    """The largest error over marks whose needle is on the scale; infinite where a mark is lost."""
    worst = 0.0
    for mark in asked.marks:
        share = COIL * TRIM / (COIL + TRIM) / COIL
        needle = loop_a(float(mark), asked.design_v) * share
        if not 0.005 * FULL_A <= needle <= FULL_A:
            continue
        for left in charges:
            error = error_stops(choice, left, temperature_c, float(mark), asked.design_v)
            worst = math.inf if math.isnan(error) else max(worst, abs(error))
    return worst
