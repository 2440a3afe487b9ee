"""Newton on the few voltages that bend something, for many variants of one circuit at once.

A problem is w = w0 + h f(w): what the linear part gives, how element currents reach the watched voltages, and a factor
on each element's output.

Source: Newton with junction limiting and source stepping as in SPICE [memory]; the others named where they stand.

Many variants are worked a share at a time, each small enough to stay in the cache.
"""

import itertools
from collections.abc import Callable
from typing import Any, NamedTuple, TypeVar

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.expressions import Expression
from violet_dial.core.circuit.system import PRE_S, System
from violet_dial.core.task import Task

Found = TypeVar("Found")


def in_shares(count: int, most: int, work: Callable[[slice], Found]) -> list[Found]:
    """What is found of each share, in order.

    Parameters
    ----------
    most : variants in a share
    work : done for each share
    """
    pieces = max(-(-count // most), 1)
    cuts = [count * place // pieces for place in range(pieces + 1)]
    shares = [slice(first, last) for first, last in itertools.pairwise(cuts)]
    return [work(share) for share in shares]


Array = npt.NDArray[Any]
Flags = npt.NDArray[np.bool_]
Places = npt.NDArray[np.intp]
# A last step this small leaves an error of its square: some hundred nanovolts on a junction.
RELATIVE, ABSOLUTE_V = 2e-5, 2e-6
MOST_STEPS, PATIENCE, A_FEW = 60, 30, 40  # steps; steps after which so few that swing still are left to the slower ways
CALM_AFTER = 6  # steps after which one that made things worse shortens the next: steep blocks swing to and fro
SHORTEST = 1 / 128
CLOSE_V = 0.03
FEW, MOST_SECANTS, SECANT_V = 8, 12, 1e-6
MOST_HELD = 1_500_000  # figures of the matrices held at once
A_BLOCK = 1000  # variants worked on at a time
RAMP = (0.1, 0.3, 0.6, 1.0)
DRAG, MOST_CREEPS = 10.0, 90


class Problem(NamedTuple):
    """Variants of one linear part: ``w0`` (count, q), ``scale`` (count, m), the base's own reach ``shared`` (q, m) and
    how each variant's differs: ``watch_u`` (count, q, k), ``inject_u`` (count, k, m)."""

    w0: Array
    scale: Array
    shared: Array
    watch_u: Array
    inject_u: Array

    def share(self, places: Places | slice) -> "Problem":
        """Some of the variants."""
        return Problem(self.w0[places], self.scale[places], self.shared, self.watch_u[places], self.inject_u[places])

    def reach(self) -> Array:
        """How element currents reach the watched voltages of each variant, (count, q, m)."""
        found: Array = self.shared - self.watch_u @ self.inject_u
        return found


def solve_problem(system: System, problem: Problem, w: Array, nearby: Array | None, task: Task) -> tuple[Array, Flags]:
    """Watched voltages of all variants, and which of them were found.

    Parameters
    ----------
    problem : the variants: sources in V and A, resistances scaled, shapes (count, ...)
    w : (count, q), V; where to begin
    nearby : (q,) when all begin from one solved point: it is then tried first without a matrix for each
    """
    count = len(w)
    solved: Flags = np.zeros(count, dtype=bool)
    if nearby is not None and count > FEW:
        blocks = in_shares(count, A_BLOCK, lambda one: _from_one_start(system, problem.share(one), nearby))
        w, solved = _together(blocks)
    for one in _unsolved(problem, solved):
        w[one], solved[one] = _newton(system, problem.share(one), w[one], task)
    return w, solved


def _unsolved(problem: Problem, solved: Flags) -> list[Places]:
    """Places of the variants not found yet, a share at a time: no more of their matrices are held at once."""
    at_once = max(MOST_HELD // max(problem.w0.shape[1] * problem.scale.shape[1], 1), FEW)
    left = np.flatnonzero(~solved)
    return [left[first : first + at_once] for first in range(0, len(left), at_once)]


def scaled(system: System, w: Array, scale: Array) -> tuple[Array, Array]:
    """Element currents and slopes, scaled; what the pre-conductances carry is left as it is.

    Parameters
    ----------
    w : watched voltages, V, shape (count, q)
    scale : factor on each element's current, shape (count, elements)
    """
    value, slope = system.bend(w)
    if (scale == 1.0).all():
        return value, slope
    carried = PRE_S * junction_mask(system)
    less = scale - 1.0
    value = value * scale + less * (w @ carried.T)
    return value, slope * scale[:, :, None] + less[:, :, None] * carried


class SecantInverse:
    """The inverse slopes of many variants, a column each: one shared matrix (q, q), a change of small rank each, ``left``,
    ``right`` and ``watch_u`` (k, q, count), and secants learned since.

    Source: Inversion lemma; product-form Broyden: Kelley, Iterative Methods (1995), chapter 7 [memory].
    """

    def __init__(self, inner: Array, left: Array, right: Array, watch_u: Array) -> None:
        self.inner, self.left, self.right = inner, left, right
        rank, _, count = left.shape
        small = np.einsum("iqc,jqc->cij", right, watch_u) + np.eye(rank)
        self.small_inverse = solve_small(small, np.broadcast_to(np.eye(rank), (count, rank, rank))).transpose(1, 2, 0)
        self.secants: list[tuple[Array, Array]] = []

    def apply(self, v: Array) -> Array:
        """The change of state that would have made this difference ``(quantities, variants)``."""
        found: Array = self.inner @ v
        into = [np.einsum("qc,qc->c", one, v) for one in self.right]
        for one, shares in zip(self.left, self.small_inverse, strict=True):
            found -= one * sum(share * each for share, each in zip(shares, into, strict=True))
        for tilt, along in self.secants:
            found += tilt * np.einsum("qc,qc->c", along, found)
        return found

    def step_after(self, step: Array, wrong: Array) -> Array:
        """Learn what ``step`` did, ``wrong`` being what is missing now, and say the next step.

        What was missing before has the image ``-step``, so the change has the image of what is missing now and ``step``: neither
        it nor the next step needs a product of its own. A step of nothing teaches nothing.
        """
        image = self.apply(wrong)
        length = np.einsum("qc,qc->c", step, step)
        share = length + np.einsum("qc,qc->c", step, image)
        with np.errstate(all="ignore"):
            image /= -np.where(share == 0.0, 1.0, share)
        self.secants.append((image, step))
        found: Array = image * length
        return found


class _Columns:
    """A problem with a column for each variant: what belongs to one quantity lies together."""

    def __init__(self, system: System, problem: Problem) -> None:
        self.system, self.shared = system, problem.shared
        self.w0 = np.ascontiguousarray(problem.w0.T)
        self.watch_u = np.ascontiguousarray(problem.watch_u.transpose(2, 1, 0))
        self.inject_u = np.ascontiguousarray(problem.inject_u.transpose(1, 2, 0))

    def residual(self, at: Array) -> Array:
        """What is missing at watched voltages, both (q, count)."""
        given = self.system.currents_in_columns(at)
        found: Array = at - self.w0
        found -= self.shared @ given
        for watched, injected in zip(self.watch_u, self.inject_u, strict=True):
            found += watched * np.einsum("mc,mc->c", injected, given)
        return found

    def inverse(self, start: Array) -> SecantInverse:
        """The inverse slopes at a point: the base's own with a change of small rank (inversion lemma)."""
        _, slope = self.system.bend(start)
        inner = np.linalg.inv(np.eye(len(start)) - self.shared @ slope)
        return SecantInverse(inner, inner @ self.watch_u, (slope @ inner).T @ self.inject_u, self.watch_u)


def _from_one_start(system: System, problem: Problem, start: Array) -> tuple[Array, Flags]:
    """Variants near one solved point, without a matrix for each: Broyden's method in product form.

    Secant steps only add vectors. Those that wander or hold elements scaled down are left to Newton.

    Source: Broyden, Math. Comp. 19 (1965) 577; product form: Kelley, Iterative Methods (1995), chapter 7 [memory].
    """
    solved: Flags = np.zeros(len(problem.w0), dtype=bool)
    w = np.array(np.broadcast_to(start, problem.w0.shape))
    near = np.flatnonzero((problem.scale == 1.0).all(axis=1))
    if len(near) == 0:
        return w, solved
    columns = _Columns(system, problem if len(near) == len(w) else problem.share(near))
    inverse = columns.inverse(start)
    at = np.ascontiguousarray(w[near].T)
    wrong = columns.residual(at)
    size, step = np.abs(wrong).max(axis=0), -inverse.apply(wrong)
    done, lost = np.zeros(len(near), dtype=bool), np.zeros(len(near), dtype=bool)
    for turn in range(MOST_SECANTS):
        at = at + step
        if turn:  # what a step as small leaves is its square, as in `_newton`: it is not looked at again
            done |= ~lost & (np.abs(step) <= 1e-6 * np.abs(at) + SECANT_V).all(axis=0)
        if (done | lost).all():
            break
        wrong = columns.residual(at)
        before, size = size, np.abs(wrong).max(axis=0)
        lost |= ~done & ~(size < 4.0 * before + 1e-6)
        step = np.where(done | lost, 0.0, inverse.step_after(step, wrong))
    w[near[done]] = at[:, done].T
    solved[near[done]] = True
    return w, solved


def solve_small(matrix: Array, right: Array) -> Array:
    """Batched solve that does not call a solver for one by one.

    Parameters
    ----------
    matrix : square systems, shape (..., n, n)
    right : right-hand sides, shape (..., n)
    """
    return right / matrix if matrix.shape[-1] == 1 else np.linalg.solve(matrix, right)


def _together(found: list[tuple[Array, Flags]]) -> tuple[Array, Flags]:
    return np.concatenate([one[0] for one in found]), np.concatenate([one[1] for one in found])


def _newton(system: System, problem: Problem, w: Array, task: Task) -> tuple[Array, Flags]:
    """Newton on the watched voltages for all variants; those that are done drop out."""
    w0, reach, scale = problem.w0, problem.reach(), problem.scale
    w = w.copy()
    solved: Flags = np.zeros(len(w), dtype=bool)
    active: Places = np.arange(len(w))
    at, h, factor = w, reach, scale
    length, last, free = np.ones(len(w)), np.full(len(w), np.inf), np.zeros(len(w), dtype=bool)
    start = w0
    eye = np.eye(w.shape[1])
    for turn in range(MOST_STEPS):
        task.check()
        value, slope = scaled(system, at, factor)
        wrong = at - start - (h @ value[:, :, None])[:, :, 0]
        with np.errstate(all="ignore"):
            step = _solved(_bent(eye, h, slope, system.pattern), wrong)
        size = np.abs(wrong).max(axis=1)
        if turn >= CALM_AFTER:
            worse = (size > last) & free
            length = np.where(worse, np.maximum(length / 2, SHORTEST), np.minimum(length * 1.5, 1.0))
        last = size
        asked = at - step * length[:, None] if turn >= CALM_AFTER else at - step
        if np.abs(step).max() > CLOSE_V:
            new = system.hold_back(asked, at)
            free = (new == asked).all(axis=1)
        else:  # no junction is limited on a step this short
            new, free = asked, np.ones(len(at), dtype=bool)
        still = (np.abs(step) <= RELATIVE * np.abs(new) + ABSOLUTE_V).all(axis=1)
        done = np.asarray(still & free & (length > 0.2))
        bad = np.asarray(~np.isfinite(new).all(axis=1))
        at = np.where(bad[:, None], at, new) if bad.any() else new
        leave = np.asarray(done | bad)
        if leave.any():
            w[active] = at
            solved[active[done]] = True
            stay = ~leave
            active, at, h, factor, start = active[stay], at[stay], h[stay], factor[stay], start[stay]
            length, last, free = length[stay], last[stay], free[stay]
        if len(active) == 0 or (turn >= PATIENCE and len(active) <= A_FEW):
            break
    w[active] = at
    return w, solved


def _bent(eye: Array, h: Array, slope: Array, pattern: tuple[tuple[int, int], ...]) -> Array:
    """I - h f'(w): only where an element looks is there anything to take off."""
    found = np.empty_like(h) if h.shape[1] == h.shape[2] else np.empty((len(h), *eye.shape))
    found[:] = eye
    for output, watch in pattern:
        found[:, :, watch] -= h[:, :, output] * slope[:, output, watch, None]
    return found


def _solved(matrix: Array, right: Array) -> Array:
    """Steps of all variants; where one has no say in some direction, the shortest step, and none where it has no figure."""
    try:
        found: Array = np.linalg.solve(matrix, right[..., None])[..., 0]
    except np.linalg.LinAlgError:
        clear = np.isfinite(matrix).all(axis=(1, 2)) & np.isfinite(right).all(axis=1)
        found = np.full_like(right, np.nan)
        for place in np.flatnonzero(clear):
            found[place] = np.linalg.lstsq(matrix[place], right[place])[0]
    return found


def junction_mask(system: System) -> Array:
    """Where a conductance across every junction enters f, shape (m, q)."""
    mask = np.zeros((system.inject.shape[1], len(system.watch)))
    for element in system.elements:
        if not isinstance(element.figures, Expression):
            if len(element.outputs) == 1:
                mask[element.outputs[0], element.watches[0]] = 1.0
            else:
                collector, base = element.outputs
                mask[base, list(element.watches)] = 1.0
                mask[collector, element.watches[1]] = -1.0
    return mask


def step_up(system: System, problem: Problem, into: tuple[Array, Flags], task: Task) -> None:
    """Variants that would not come at once, into what was found: slowly in pseudo time, then with sources raised bit by bit."""
    w, solved = into
    for way in (_in_pseudo_time, _ramped):
        for one in _unsolved(problem, solved):
            w[one], solved[one] = way(system, problem.share(one), task)


def _ramped(system: System, problem: Problem, task: Task) -> tuple[Array, Flags]:
    w, solved = np.zeros_like(problem.w0), np.zeros(len(problem.w0), dtype=bool)
    for share in RAMP:
        w, solved = _newton(system, problem._replace(w0=problem.w0 * share), w, task)
    return w, solved


def _in_pseudo_time(system: System, problem: Problem, task: Task) -> tuple[Array, Flags]:
    """Newton with a drag that is eased as the residual falls: it creeps down steep loops instead of leaping across.

    Source: Pseudo-transient continuation: Kelley and Keyes, SIAM J. Numer. Anal. 35 (1998) 508 [memory].
    """
    w0, reach, scale = problem.w0, problem.reach(), problem.scale
    w = np.zeros_like(w0)
    solved: Flags = np.zeros(len(w), dtype=bool)
    drag, last = np.full(len(w), DRAG), np.full(len(w), np.inf)
    active: Places = np.arange(len(w))
    eye = np.eye(w.shape[1])
    for _ in range(MOST_CREEPS):
        task.check()
        value, slope = scaled(system, w[active], scale[active])
        wrong = w[active] - w0[active] - np.einsum("cqm,cm->cq", reach[active], value)
        size = np.abs(wrong).max(axis=1)
        drag[active] = np.where(size > last[active], drag[active] * 3.0, drag[active] * 0.6)
        last[active] = size
        held = np.where(drag[active] < 1e-4, 0.0, drag[active])
        with np.errstate(all="ignore"):
            step = _solved(eye * (1.0 + held[:, None, None]) - reach[active] @ slope, wrong)
        asked = w[active] - step
        new = system.hold_back(asked, w[active])
        new = np.where(np.isfinite(new), new, w[active])
        still = np.abs(step) <= RELATIVE * np.abs(new) + ABSOLUTE_V
        done = np.asarray((still & (new == asked)).all(axis=1) & (held == 0.0))
        w[active] = new
        solved[active[done]] = True
        active = active[~done]
        if len(active) == 0:
            break
    return w, solved
