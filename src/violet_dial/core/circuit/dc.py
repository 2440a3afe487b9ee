"""Newton on the whole matrix of one circuit: slower than the short iteration of many variants, and sturdier.

The short iteration gives voltages by way of currents. Where a junction is driven so hard that its current has no digit
left for its neighbours, the whole matrix still tells their voltages.

Source: Newton with junction limiting, gmin and source stepping as in SPICE: Nagel, SPICE2 (1975) [memory]. Pseudo-transient
continuation: Kelley and Keyes, SIAM J. Numer. Anal. 35 (1998) 508 [memory].
"""

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.expressions import Expression
from violet_dial.core.circuit.system import System

Array = npt.NDArray[Any]
MOST_STEPS = 100
RELATIVE, STILL_V = 1e-6, 1e-7
GMIN_S = tuple(10.0**power for power in range(-2, -13, -1))  # from every node to ground, taken away bit by bit
FIRST_HOLD_S, LEAST_HOLD_S, MOST_EASED = 1e-2, 1e-13, 400
SLOWER, FASTER = 4.0, 3.0
FEW = 12  # steps of Newton before a step in time counts as failed
RAMP = (0.02, 0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.85, 1.0)


class _Stage(NamedTuple):
    """The equations to be solved for now: their matrix, the share of the sources, what is fed in beside them, patience."""

    matrix: Array
    share: float = 1.0
    beside: Array | float = 0.0
    most_steps: int = MOST_STEPS


def solve_dc(system: System, near: tuple[Array, Array] | None) -> Array | None:
    """The operating point, all unknowns, shape (n,); None when none stands still.

    ``near``: unknowns (n,) and watched voltages (q,) found by the short iteration; None when it found nothing.
    """
    nothing = np.zeros(system.size), system.begin
    found = _newton(system, *near, _Stage(system.matrix)) if near else None
    if found is None:
        found = _newton(system, *nothing, _Stage(system.matrix))
    if found is None:
        leaky = (system.matrix + np.diag(_at_nodes(system, leak)) for leak in GMIN_S)
        found = _stepped(system, [_Stage(matrix) for matrix in (*leaky, system.matrix)])
    if found is None:
        found = _stepped(system, [_Stage(system.matrix, share) for share in RAMP])
    return found if found is not None else pseudo_transient(system)


def _at_nodes(system: System, figure: float) -> Array:
    return np.where(np.arange(system.size) < system.node_count, figure, 0.0)


def _stepped(system: System, stages: list[_Stage]) -> Array | None:
    """Stages after each other, each begun where the one before ended."""
    x: Array | None = np.zeros(system.size)
    for stage in stages:
        if x is not None:
            x = _newton(system, x, system.watch @ x, stage)
    return x


def pseudo_transient(system: System, *near: Array) -> Array | None:
    """As if every node had a capacitor: steps in time that grow while they succeed, until nothing moves any more.

    Returns all unknowns, shape (n,), or None. Watched voltages ``near`` where it may stand are tried first.
    """
    for w in near:
        found = _newton(system, np.zeros(system.size), w, _Stage(system.matrix, most_steps=FEW))
        if found is not None:
            return found
    x, hold = np.zeros(system.size), FIRST_HOLD_S
    for _ in range(MOST_EASED):
        at_nodes = _at_nodes(system, hold)
        new = _newton(system, x, system.watch @ x, _Stage(system.matrix + np.diag(at_nodes), 1.0, at_nodes * x, FEW))
        if new is None:
            hold *= SLOWER
            continue
        x, hold = new, hold / FASTER
        if hold < LEAST_HOLD_S:
            return _newton(system, x, system.watch @ x, _Stage(system.matrix))
    return None


def _newton(system: System, x: Array, w: Array, stage: _Stage) -> Array | None:
    """Newton from ``x`` with devices looked at near ``w``."""
    nodes, blocks = slice(0, system.node_count), _block_outputs(system)
    for turn in range(stage.most_steps):
        value, slope = system.bend(w)
        constant = value - slope @ w
        constant[blocks] *= stage.share
        slope[blocks] *= stage.share
        with np.errstate(all="ignore"):
            try:
                new = np.linalg.solve(
                    stage.matrix - system.inject @ slope @ system.watch,
                    system.source * stage.share + stage.beside + system.inject @ constant,
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
    return [place for element in system.elements if isinstance(element.figures, Expression) for place in element.outputs]
