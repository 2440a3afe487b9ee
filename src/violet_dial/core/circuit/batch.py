"""Operating points of many variants of one circuit in one call.

A variant differs from the base by a few conductances between two nodes (or in series with a source), by sources, and
by elements scaled down. Conductances go in through the matrix inversion lemma, so that the base is inverted once; the
Newton iteration then runs on the short vector of watched voltages for all variants together.

Source: Woodbury 1950 (matrix inversion lemma) [memory]; Newton with junction limiting and source stepping as in SPICE [memory].
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.dc import pseudo_transient
from violet_dial.core.circuit.newton import Problem, scaled, solve_problem, solve_small, step_up
from violet_dial.core.circuit.system import System
from violet_dial.core.errors import SingularCircuit
from violet_dial.core.scipy_rooms import csgraph, sparse
from violet_dial.core.task import SilentTask, Task

Flags = npt.NDArray[np.bool_]


Groups = npt.NDArray[np.intp]


def pinned_nodes(system: System) -> tuple[Flags, Flags]:
    """Which watched voltages stand still whatever the elements do, and which element outputs move no node.

    Returns
    -------
    still : shape (q,); the watch looks between nodes joined by independent sources alone
    swallowed : shape (m,); the output flows between nodes joined by ideal branches whose currents nothing looks at
    """
    free, ideal = _branches(system)
    fixed = _groups(system, free)
    joined = _groups(system, ideal)
    sensed = {int(joined[one[1]]) for one in ideal if _looked_at(system, *one)}
    still = np.array([_balances(system, watch, fixed, set()) for watch in system.watch], dtype=bool)
    swallowed = np.array([_balances(system, output, joined, sensed) for output in system.inject.T], dtype=bool)
    return still, swallowed


def _branches(system: System) -> tuple[list[tuple[int, int, int]], list[tuple[int, int, int]]]:
    """Branches as (row, plus, minus), ground as -1: the independent ones, and all that are ideal."""
    free, ideal = [], []
    for part in system.circuit.parts:
        row = system.row(f"@{part.name.lower()}")
        if row < 0 or system.matrix[row, row] != 0.0:
            continue
        plus, minus = (system.row(node) for node in part.nodes[:2])
        ideal.append((row, plus, minus))
        if part.letter in "VL":
            free.append((row, plus, minus))
    return free, ideal


def _groups(system: System, branches: list[tuple[int, int, int]]) -> Groups:
    """The group of each node, the last being ground's."""

    count = system.node_count + 1
    plus, minus = ([branch[place] % count for branch in branches] for place in (1, 2))
    _, groups = csgraph.connected_components(
        sparse.coo_array((np.ones(len(plus)), (plus, minus)), shape=(count, count)), directed=False
    )
    found: Groups = groups.astype(np.intp)
    return found


def _looked_at(system: System, row: int, plus: int, minus: int) -> bool:
    """Whether a source or a probe depends on this branch's current beyond what flows at its own two nodes."""
    column = np.append(system.matrix[:, row], 0.0)  # the last place is ground's
    column[plus] -= 1.0
    column[minus] += 1.0
    return bool(column[:-1].any() or system.watch[:, row].any())


def _balances(system: System, vector: npt.NDArray[np.float64], groups: Groups, but: set[int]) -> bool:
    """Whether a vector over nodes sums to nothing within every group other than ground's."""
    if vector[system.node_count :].any():
        return False
    touched = np.flatnonzero(vector)
    found = {int(groups[row]) for row in touched}
    if found & but:
        return False
    sums = np.bincount(groups[:-1], weights=vector[: system.node_count], minlength=int(groups.max()) + 1)
    sums[groups[-1]] = 0.0
    return not sums.any()


Array = npt.NDArray[Any]
Places = npt.NDArray[np.intp]
MOST_EASED = 300  # variants worth the trouble of being solved one by one


@dataclass(frozen=True)
class Variants:
    """``count`` variants with up to k changes each.

    ``plus``, ``minus`` shape (count, k), rows of the system, -1 ground; ``siemens`` shape (count, k), 0 where unused;
    ``source`` shape (count, n) or None for the base's; ``scale`` shape (count, m) or None: factor on each element
    output.
    """

    plus: Places
    minus: Places
    siemens: Array
    source: Array | None = None
    scale: Array | None = None

    @property
    def count(self) -> int:
        return len(self.siemens)


def no_change(count: int = 1) -> Variants:
    """``count`` times the base itself."""
    return Variants(np.full((count, 1), -1), np.full((count, 1), -1), np.zeros((count, 1)))


@dataclass(frozen=True)
class Solution:
    """Solved variants: ``x`` shape (count, n); ``w`` shape (count, q) the watched voltages there; ``solved`` shape
    (count,), False where nothing was found."""

    x: Array
    w: Array
    solved: Flags


class Base:
    """The base circuit inverted once."""

    def __init__(self, system: System) -> None:
        self.system = system
        self.inverse = _inverted(system)
        size = system.size
        self.padded = np.zeros((size + 1, size + 1))  # one row and column of zeros for ground, reached by index -1
        self.padded[:size, :size] = self.inverse
        self.columns = np.ascontiguousarray(self.padded.T)
        self.watch_columns = np.zeros((size + 1, len(system.watch)))
        self.watch_columns[:size] = (system.watch @ self.inverse).T
        self.inverse_inject = np.zeros((size + 1, system.inject.shape[1]))
        self.inverse_inject[:size] = self.inverse @ system.inject
        still, swallowed = pinned_nodes(system)
        self.watch_columns[: system.node_count, still] = 0.0
        self.inverse_inject[: system.node_count, swallowed] = 0.0
        self.reach = self.watch_columns[:size].T @ system.inject
        self.reach[:, swallowed] = 0.0


def _inverted(system: System) -> Array:
    with np.errstate(all="ignore"):
        scale = np.abs(system.matrix).max(axis=1)
        empty = np.flatnonzero(scale == 0)
        if len(empty):
            raise _hanging(system, empty)
        try:
            inverse: Array = np.linalg.inv(system.matrix)
        except np.linalg.LinAlgError as error:
            raise _why_singular(system) from error
        if not np.isfinite(inverse).all() or np.abs(inverse @ system.matrix - np.eye(system.size)).max() > 1e-2:
            raise _why_singular(system)
    return inverse


def _hanging(system: System, rows: Places) -> SingularCircuit:
    names = {row: name for name, row in system.index.items()}
    nodes = tuple(names[int(row)].rstrip("#") for row in rows if row < system.node_count)
    parts = tuple(names[int(row)].lstrip("@") for row in rows if row >= system.node_count)
    if nodes:
        message = f"Node {', '.join(nodes)} hangs in the air: nothing carries direct current from there to ground (0)."
    else:
        message = f"Sources contradict each other or are shorted: {', '.join(parts)}. Put a resistance in series with one."
    return SingularCircuit(message, nodes, parts)


def _why_singular(system: System) -> SingularCircuit:
    """The nodes and branches in which the equations have no say."""
    _, values, vectors = np.linalg.svd(system.matrix)
    null = np.abs(vectors[values < 1e-11 * values[0]]) if (values < 1e-11 * values[0]).any() else np.abs(vectors[-1:])
    rows = np.flatnonzero(null.max(axis=0) > 0.05)
    nodes = rows[rows < system.node_count]
    branches = rows[rows >= system.node_count]
    return _hanging(system, branches if len(branches) else nodes)


@dataclass(frozen=True)
class Prepared:
    """What the changes do to the base, per variant."""

    reach_u: Array  # n+1 rows of the inverse at the changes, (count, n+1, k)
    gain: Array  # (count, k, k)
    watch_u: Array  # (count, q, k)
    inject_u: Array  # gain already applied, (count, k, m)
    w0: Array
    straight: Array  # what the sources alone make, ground's row last, (count, n + 1)


def prepared(base: Base, variants: Variants) -> Prepared:
    """What the changes of each variant do to the base."""
    system, size = base.system, base.system.size
    plus, minus, siemens = variants.plus, variants.minus, variants.siemens
    columns = (base.columns[plus] - base.columns[minus]).transpose(0, 2, 1)
    rows = np.arange(variants.count)[:, None]
    inner = columns[rows, plus] - columns[rows, minus]  # (count, k, k): u^T A^-1 u
    small = np.eye(plus.shape[1]) + siemens[:, :, None] * inner
    gain = solve_small(small, np.eye(plus.shape[1]) * siemens[:, :, None])
    straight = np.zeros((variants.count, size + 1))
    straight[:, :size] = own = base.inverse @ system.source
    watched = np.tile(system.watch @ own, (variants.count, 1))
    if variants.source is not None:
        other = np.flatnonzero((variants.source != system.source).any(axis=1))  # most have the sources of the base
        straight[other, :size] = variants.source[other] @ base.inverse.T
        watched[other] = straight[other, :size] @ system.watch.T
    picked = straight[rows, plus] - straight[rows, minus]
    watch_u = (base.watch_columns[plus] - base.watch_columns[minus]).transpose(0, 2, 1)
    w0 = watched - np.einsum("cqk,ckl,cl->cq", watch_u, gain, picked)
    inject_u = gain @ (base.inverse_inject[plus] - base.inverse_inject[minus])
    return Prepared(columns, gain, watch_u, inject_u, w0, straight)


def solve_variants(
    base: Base, variants: Variants, start: Array | None = None, task: Task | None = None, is_draw: bool = False
) -> Solution:
    """Operating points of all variants. ``start``: watched voltages to begin from, shape (q,) or (count, q); zero when None.
    ``is_draw``: it begins where it stood with other figures; one that does not come from there is not worth the slowest way.
    """
    task = task or SilentTask()
    system = base.system
    ready = prepared(base, variants)
    count, q = variants.count, len(system.watch)
    scale = scale_of(system, variants)
    w = np.array(np.broadcast_to(system.begin if start is None else start, (count, q)))
    solved: Flags = np.ones(count, dtype=bool)
    if q:
        problem = Problem(ready.w0, scale, base.reach, ready.watch_u, ready.inject_u)
        nearby = start if start is not None and start.ndim == 1 else None
        begin = w
        w, solved = solve_problem(system, problem, w.copy(), nearby, task)
        few = np.count_nonzero(~solved) <= MOST_EASED
        if few and not is_draw:
            _ease(base, variants, scale, (begin, w, solved), task)
        step_up(system, problem, (w, solved), task)
        if not (few or is_draw):
            _ease(base, variants, scale, (begin, w, solved), task)
    value = system.currents(w) if (scale == 1.0).all() else scaled(system, w, scale)[0]
    return Solution(_back(base, variants, ready, value), w, solved)


def _ease(base: Base, variants: Variants, scale: Array, into: tuple[Array, Array, Flags], task: Task) -> None:
    """The few variants that would not come together: one by one, each on its whole matrix, from where it began, (count, q)."""
    begin, w, solved = into
    system, size = base.system, base.system.size
    near: tuple[Array, ...] = ()  # the figures of one fault follow each other: the last point is close to the next
    for place in np.flatnonzero(~solved & (scale == 1.0).all(axis=1))[:MOST_EASED]:
        task.check()
        matrix = np.zeros((size + 1, size + 1))  # the last row and column are ground's
        matrix[:size, :size] = system.matrix
        for plus, minus, siemens in zip(variants.plus[place], variants.minus[place], variants.siemens[place], strict=True):
            matrix[[plus, minus, plus, minus], [plus, minus, minus, plus]] += siemens * np.array([1.0, 1.0, -1.0, -1.0])
        source = system.source if variants.source is None else variants.source[place]
        x = pseudo_transient(replace(system, matrix=matrix[:size, :size], source=source), *near, begin[place])
        if x is not None:
            w[place], solved[place] = system.watch @ x, True
            near = (w[place],)


def scale_of(system: System, variants: Variants) -> Array:
    """The factor on each element output, (count, m)."""
    outputs = system.inject.shape[1]
    scale = np.ones(outputs) if variants.scale is None else variants.scale
    return np.broadcast_to(scale, (variants.count, outputs))


def _back(base: Base, variants: Variants, ready: Prepared, value: Array) -> Array:
    """All unknowns from the element currents."""
    size = base.system.size
    plain = ready.straight.copy()
    plain[:, :size] += value @ base.inverse_inject[:size].T
    rows = np.arange(variants.count)[:, None]
    picked = plain[rows, variants.plus] - plain[rows, variants.minus]
    full: Array = plain - np.einsum("cnk,ckl,cl->cn", ready.reach_u, ready.gain, picked)
    return full[:, :size]
