"""How what is looked at in many variants of one circuit answers small pushes, at each variant's operating point.

Only the nodes and branches that are looked at and those that are pushed enter, never a whole inverse for each variant.

Source: Adjoint of the linearised equations; Woodbury 1950 (matrix inversion lemma) [memory].
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.batch import Base, Prepared, Variants, prepared, scale_of
from violet_dial.core.circuit.newton import scaled
from violet_dial.core.errors import NoConvergence

Array = npt.NDArray[Any]
Places = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Ends:
    """Pairs of rows, shape (count or 1, l) each: what is looked at between them, or pushed from one to the other; -1 is
    ground, whose row is nothing."""

    plus: Places
    minus: Places


def responses(base: Base, variants: Variants, w: Array, looks: Ends, shared: Array, pushes: Ends) -> tuple[Array, Array]:
    """Volts (or amperes of a branch) seen at each look for one ampere (or volt) of each push.

    Parameters
    ----------
    w : watched voltages of each variant at its operating point, V, shape (count, q)
    looks : shape (count or 1, l)
    shared : columns pushed in all variants alike, shape (n + 1, s), the last row ground's
    pushes : pairs pushed in each variant, shape (count or 1, e)

    Returns
    -------
    to_shared : shape (count, l, s); to_pushes : shape (count, l, e)
    """
    ready = prepared(base, variants)
    rows = np.arange(variants.count)[:, None]
    looks, pushes = _each(looks, variants.count), _each(pushes, variants.count)
    seen_u = ready.reach_u[rows, looks.plus] - ready.reach_u[rows, looks.minus]  # (count, l, k)
    there = base.padded @ shared
    there_u = ready.gain @ (there[variants.plus] - there[variants.minus])
    to_shared = there[looks.plus] - there[looks.minus] - seen_u @ there_u
    pushed_u = ready.gain @ _between(base.padded, variants.plus, variants.minus, pushes)
    to_pushes = _between(base.padded, looks.plus, looks.minus, pushes) - seen_u @ pushed_u
    if len(base.system.watch) == 0:
        return to_shared, to_pushes
    back = _back(base, variants, ready, w, looks, seen_u)
    watched = base.system.watch @ there[: base.system.size]
    to_shared = to_shared + back @ (watched - ready.watch_u @ there_u)
    watched_pushes = (base.watch_columns[pushes.plus] - base.watch_columns[pushes.minus]).transpose(0, 2, 1)
    return to_shared, to_pushes + back @ (watched_pushes - ready.watch_u @ pushed_u)


def _back(base: Base, variants: Variants, ready: Prepared, w: Array, looks: Ends, seen_u: Array) -> Array:
    """What each look sees of a voltage put on each watch by way of the elements, (count, l, q)."""
    _, bent = scaled(base.system, w, scale_of(base.system, variants))
    seen_inject = base.inverse_inject[looks.plus] - base.inverse_inject[looks.minus] - seen_u @ ready.inject_u
    small = np.eye(w.shape[1]) - (base.reach - ready.watch_u @ ready.inject_u) @ bent
    try:
        solved = np.linalg.solve(small.transpose(0, 2, 1), (seen_inject @ bent).transpose(0, 2, 1))
    except np.linalg.LinAlgError as error:
        raise NoConvergence("The circuit stands on a knife's edge: no small change can be worked out there.") from error
    return solved.transpose(0, 2, 1)


def _each(ends: Ends, count: int) -> Ends:
    shape = (count, ends.plus.shape[1])
    return Ends(np.broadcast_to(ends.plus, shape), np.broadcast_to(ends.minus, shape))


def _between(padded: Array, plus: Places, minus: Places, pushes: Ends) -> Array:
    """The base's inverse between pairs and pushes, (count, pairs, e)."""
    rows, others = (plus[:, :, None], minus[:, :, None]), (pushes.plus[:, None, :], pushes.minus[:, None, :])
    found: Array = padded[rows[0], others[0]] - padded[rows[1], others[0]]
    return found - padded[rows[0], others[1]] + padded[rows[1], others[1]]
