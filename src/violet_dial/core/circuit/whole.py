"""Newton on the whole matrix of one circuit: slower than the short iteration of many variants, and sturdier.

The short iteration gives voltages by way of currents. Where a junction is driven so hard that its current has no digit
left for its neighbours, the whole matrix still tells their voltages.

Source
------
Newton with junction limiting, gmin and source stepping as in SPICE: Nagel, SPICE2 (1975) [memory].
"""

from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.expressions import Expression
from violet_dial.core.circuit.system import System

Array = npt.NDArray[Any]
MOST_STEPS = 100
RELATIVE, STILL_V = 1e-6, 1e-7
GMIN_S = tuple(10.0**power for power in range(-2, -13, -1))  # from every node to ground, taken away bit by bit
RAMP = (0.02, 0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.85, 1.0)


def settle(system: System, near: tuple[Array, Array] | None) -> Array | None:
    """The operating point, all unknowns, shape (n,); None when none stands still.

    Parameters
    ----------
    near : unknowns (n,) and watched voltages (q,) found by the short iteration; None when it found nothing
    """
    nothing = np.zeros(system.size), np.zeros(len(system.watch))
    found = _newton(system, *near, system.matrix, 1.0) if near else None
    if found is None:
        found = _newton(system, *nothing, system.matrix, 1.0)
    if found is None:
        leaky = (system.matrix + np.diag(_at_nodes(system, leak)) for leak in GMIN_S)
        found = _stepped(system, [(matrix, 1.0) for matrix in (*leaky, system.matrix)])
    if found is None:
        found = _stepped(system, [(system.matrix, share) for share in RAMP])
    return found


def _at_nodes(system: System, figure: float) -> Array:
    return np.where(np.arange(system.size) < system.node_count, figure, 0.0)


def _stepped(system: System, stages: list[tuple[Array, float]]) -> Array | None:
    """Stages after each other, each begun where the one before ended."""
    x: Array | None = np.zeros(system.size)
    for matrix, share in stages:
        if x is not None:
            x = _newton(system, x, system.watch @ x, matrix, share)
    return x


def _newton(system: System, x: Array, w: Array, matrix: Array, share: float) -> Array | None:
    """Newton from ``x`` with devices looked at near ``w``, sources at ``share`` of their figure."""
    nodes, blocks = slice(0, system.node_count), _block_outputs(system)
    for turn in range(MOST_STEPS):
        value, slope = system.bend(w)
        constant = value - slope @ w
        constant[blocks] *= share
        slope[blocks] *= share
        with np.errstate(all="ignore"):
            try:
                new = np.linalg.solve(
                    matrix - system.inject @ slope @ system.watch, system.source * share + system.inject @ constant
                )
            except np.linalg.LinAlgError:
                return None
        if not np.isfinite(new).all():
            return None
        asked = system.watch @ new
        held = system.hold_back(asked, w)
        moved = np.abs(new - x)[nodes]
        x, w = new, held
        if turn and (moved <= RELATIVE * np.abs(x[nodes]) + STILL_V).all() and np.allclose(held, asked, atol=STILL_V):
            return x
    return None


def _block_outputs(system: System) -> list[int]:
    """Behavioural sources are ramped with the other sources."""
    return [place for one in system.elements if isinstance(one.figures, Expression) for place in one.outputs]
