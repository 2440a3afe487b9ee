"""A device fed by a choice: where its clips stand and what it then shows, by the table of the device alone.

Source: Kirchhoff's voltage law along the battery's lead: what the cell gives is what stands at the clips, what the cell's own
and the lead's resistance take, and what diodes take.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.power.device import FeedTable
from violet_dial.core.power.feeds import BatteryChoice, Diode

Array = npt.NDArray[np.float64]
HALVINGS = 24  # of a step of light, until it is found to some millionths of a stop
FLATTEST = 0.01  # least change of what is shown, natural logarithm for one stop, that is still following


@dataclass(frozen=True)
class Fed:
    """What a device does on a choice, over q states of charge and n lights: ``clip_v`` (q, n) at the device, ``cell_v`` (q, n) at
    the cell, ``amp`` (q, n), ``shown`` (q, n, r)."""

    clip_v: Array
    cell_v: Array
    amp: Array
    shown: Array


def feed_many(table: FeedTable, choices: Sequence[BatteryChoice], left: Array, temperature_c: float) -> Fed:
    """The device of a table on several choices, one after the other along the first axis: c times q states; NaN where the device
    itself has no operating point.

    Parameters
    ----------
    table : the device over n lights and v volts
    choices : c of them
    left : share of the charge, shape (q,), 0 to 1
    temperature_c : of cell and diodes, C
    """
    flow = np.maximum(table.amp, 0.0)
    drops: dict[Diode, Array] = {}
    for diode in {diode for choice in choices for diode in choice.diodes}:
        drops[diode] = diode.drop_v(flow, temperature_c)
    own = np.concatenate([choice.cell_ohm(left, temperature_c) for choice in choices])
    emf = np.concatenate([choice.emf_v(left, temperature_c) for choice in choices])
    series = own + np.repeat([choice.resistor_ohm for choice in choices], len(left))
    wanted = series[:, None, None] * flow[None]  # (c q, n, v): what the source must give for the clips to stand there
    for place, choice in enumerate(choices):
        some = slice(place * len(left), (place + 1) * len(left))
        wanted[some] += table.volts + sum((drops[diode] for diode in choice.diodes), np.zeros_like(flow))
    at = np.clip((wanted < emf[:, None, None]).sum(axis=2) - 1, 0, len(table.volts) - 2)
    low, high = (np.take_along_axis(wanted, (at + step)[..., None], axis=2)[..., 0] for step in (0, 1))
    with np.errstate(all="ignore"):
        share = np.maximum((emf[:, None] - low) / (high - low), 0.0)
    lights = np.arange(len(table.amp))[None, :]

    def between(figures: Array) -> Array:
        part = share if figures.ndim == 2 else share[..., None]
        first, second = figures[lights, at], figures[lights, at + 1]
        found: Array = first + part * (second - first)
        return found

    clip_v = table.volts[at] + share * (table.volts[at + 1] - table.volts[at])
    amp = between(table.amp)
    return Fed(clip_v, emf[:, None] - own[:, None] * amp, amp, between(table.shown))


def slopes(u: Array, step: float) -> Array:
    """Slope along the last axis, by differences of fourth order inside.

    Parameters
    ----------
    u : figures at even steps, shape (..., n)
    step : of the axis
    """
    found: Array = np.gradient(u, step, axis=-1, edge_order=2)
    if u.shape[-1] > 4:
        fine = (u[..., :-4] - 8 * u[..., 1:-3] + 8 * u[..., 3:-1] - u[..., 4:]) / (12 * step)
        found[..., 2:-2] = np.where(np.isfinite(fine), fine, found[..., 2:-2])
    return found


def value_at(u: Array, ev100: Array, at: Array) -> Array:
    """Figures between the lights of a grid, shape (..., m): cubic by values and slopes.

    Parameters
    ----------
    u : over the grid, shape (..., n)
    ev100 : the grid, even steps, shape (n,)
    at : where, shape (m,)
    """
    step = float(ev100[1] - ev100[0])
    place = np.clip(((at - ev100[0]) / step).astype(int), 0, len(ev100) - 2)
    slope = slopes(u, step)
    return _cubic(
        u[..., place], u[..., place + 1], slope[..., place] * step, slope[..., place + 1] * step, (at - ev100[place]) / step
    )


def _cubic(low: Array, high: Array, rise: Array, fall: Array, x: Array) -> Array:
    """The cubic through two figures with two slopes, at a share ``x`` of the way."""
    return low + x * (rise + x * (3 * (high - low) - 2 * rise - fall + x * (2 * (low - high) + rise + fall)))


def light_where(u: Array, ev100: Array, target: Array, near: Array) -> Array:
    """The light at which each row comes to each target; where it does so twice, that next to ``near``.

    Parameters
    ----------
    u : what is shown over the grid, shape (q, n); NaN where there is nothing
    ev100 : the grid, even steps, shape (n,)
    target : shape (m,), or (q, m)
    near : EV100, shape (m,)

    Returns
    -------
    EV100, shape (q, m); NaN where the target is never met.
    """
    step = float(ev100[1] - ev100[0])
    goal = np.broadcast_to(target, (len(u), target.shape[-1]))
    above = u[:, None, :] > goal[:, :, None]
    crosses = (above[..., 1:] != above[..., :-1]) & np.isfinite(u[:, None, 1:] - u[:, None, :-1])
    middle = (ev100[1:] + ev100[:-1]) / 2
    away = np.where(crosses, np.abs(middle[None, None, :] - near[None, :, None]), np.inf)
    place = away.argmin(axis=2)
    met = np.isfinite(np.take_along_axis(away, place[..., None], axis=2)[..., 0])
    slope = slopes(u, step) * step
    rows = np.arange(len(u))[:, None]
    ends = (u[rows, place], u[rows, place + 1], slope[rows, place], slope[rows, place + 1])
    ends = tuple(np.where(np.isfinite(end), end, 0.0) for end in ends)  # type: ignore[assignment]
    low, high = np.zeros_like(goal, dtype=float), np.ones_like(goal, dtype=float)
    rising = ends[1] > ends[0]
    for _ in range(HALVINGS):
        half = (low + high) / 2
        beyond = (_cubic(*ends, half) > goal) == rising
        low, high = np.where(beyond, low, half), np.where(beyond, half, high)
    return np.where(met, ev100[place] + step * (low + high) / 2, np.nan)
