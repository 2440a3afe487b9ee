"""What an ohmmeter shows between spots of a board in a setting, and how each part and each open question would move it.

The circuit as it stands without its supply, taken where no current flows: an ohmmeter that spares junctions sees it so. All is
a conductance then. Each piece that hangs together is tied down at one node, which moves no resistance within it, so that one
inverse answers for all; between pieces there is nothing.

Source: Effective resistance from the inverse of the nodal matrix; one conductance more by the matrix inversion lemma [memory].
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of, set_circuit, tolerance_of
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM, Setting

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]
LEAST_S = 2.5e-8  # forty megohms: insulation, not a way; what an ohmmeter calls open
EDGE_SPREAD = 1.0  # of what a light cell lets through beside its junction: 8 to 250 kilohm are sound; common practice, no source
COIL_OHM = 0.01  # an inductance, of which nothing is known but that it is wire
THERMAL_V = 0.02585


@dataclass(frozen=True)
class Network:
    """A board without its supply: ``siemens`` (n, n) between nodes, the last row ground's; ``inverse`` in ohm; ``piece`` (n,)
    which hang together; ``rows`` of the nodes by name; ``parts``: ends of each resistance and its conductance times how far a
    healthy one is off, siemens."""

    siemens: Array
    inverse: Array
    piece: Rows
    rows: dict[str, int]
    parts: tuple[Rows, Rows, Array]

    def row(self, node: str) -> int:
        """The row of a node; ground's, and that of a node that is not known, is the last."""
        return self.rows.get(node, len(self.inverse) - 1)

    def ohm(self, a: Rows, b: Rows) -> Array:
        """Resistance between rows, shape of ``a``; infinite where nothing joins them."""
        z = self.inverse
        found = z[a, a] - z[a, b] - z[b, a] + z[b, b]
        return np.where(self.piece[a] == self.piece[b], np.maximum(found, 0.0), np.inf)

    def along(self, a: Rows, b: Rows, p: Rows, q: Rows) -> Array:
        """Volts between each pair (p, q) for an ampere through each pair (a, b), (count of a, count of p); nothing for pairs of
        two pieces."""
        volts = self.inverse[a] - self.inverse[b]
        found = volts[:, p] - volts[:, q]
        found[:, self.piece[p] != self.piece[q]] = 0.0
        found[self.piece[a] != self.piece[b]] = 0.0
        return found

    def with_more(self, laid: Sequence[tuple[int, int, float]], loose: Sequence[tuple[int, int, float]] = ()) -> "Network":
        """The same with conductances laid between rows (siemens, negative where taken away); ``loose`` further ones that are
        known only by so much, siemens."""
        siemens = self.siemens.copy()
        for one, other, more in laid:
            siemens[one, other] += more
            siemens[other, one] += more
        ends = np.array([pair[:2] for pair in loose], dtype=np.intp).reshape(-1, 2)
        p, q, spread = self.parts
        more_spread = np.array([pair[2] for pair in loose])
        parts = (np.append(p, ends[:, 0]), np.append(q, ends[:, 1]), np.append(spread, more_spread))
        return _solved(siemens, self.rows, parts)

    def ohm_with(self, ends: tuple[Rows, Rows], laid: tuple[Rows, Rows], siemens: Array) -> Array:
        """Resistance between rows if each one conductance is laid by itself, (count of ends, count laid), ohm.

        Parameters
        ----------
        ends : rows of the tips
        laid : rows between which each is laid
        siemens : of each, negative where one is taken away, shape (count laid,)
        """
        (a, b), (p, q) = ends, laid
        ohm, along = self.ohm(a, b), self.along(a, b, p, q)
        across = self.ohm(p, q)
        same = np.isfinite(across)
        inside = np.where(same, across, 0.0)
        factor = siemens / np.maximum(1.0 + siemens * inside, 1e-12)
        with np.errstate(invalid="ignore"):
            found = ohm[:, None] - np.square(along) * factor[None, :]
        found = np.maximum(found, 0.0)
        bridging = np.flatnonzero(~same)
        if len(bridging):
            found[:, bridging] = self._bridged(ends, (p[bridging], q[bridging]), siemens[bridging], ohm)
        return found

    def _bridged(self, ends: tuple[Rows, Rows], laid: tuple[Rows, Rows], siemens: Array, ohm: Array) -> Array:
        """As `ohm_with`, of what joins two pieces: the ways within both and the join, one after the other."""
        (a, b), (p, q) = ends, laid
        found = np.repeat(ohm[:, None], len(p), axis=1)
        for one, other in ((a, b), (b, a)):
            fits = (self.piece[one][:, None] == self.piece[p][None, :]) & (self.piece[other][:, None] == self.piece[q][None, :])
            t, j = np.nonzero(fits)
            if len(t):
                found[t, j] = self.ohm(one[t], p[j]) + 1.0 / siemens[j] + self.ohm(other[t], q[j])
        return found


def network(circuit: Circuit, setting: Setting | None = None, also: tuple[str, ...] = ()) -> Network:
    """A circuit as an ohmmeter sees it, its supply out.

    ``setting``: how its switches stand; as drawn when None. Raises InvalidInput: a switch or position it has not.
    """
    stands = set_circuit(circuit, replace(setting or Setting(), supply="off", light_lx=0.0))
    names = dict.fromkeys([*circuit.nodes, *(node for node in also if node != GROUND)])
    rows = {node: place for place, node in enumerate(names)}
    ground = len(rows)
    siemens = np.zeros((ground + 1, ground + 1))
    ends, spread = [], []
    cells = [set(part.nodes[:2]) for part in stands.parts if kind_of(stands, part) == "photocell"]
    for part in stands.parts:
        between = _siemens(stands, part)
        if between < LEAST_S:
            continue
        one, other = (ground if node == GROUND else rows[node] for node in part.nodes[:2])
        siemens[one, other] += between
        siemens[other, one] += between
        ends.append((one, other))
        is_edge = kind_of(stands, part) == "leak" and any(set(part.nodes[:2]) == cell for cell in cells)
        spread.append((EDGE_SPREAD if is_edge else tolerance_of(stands, part)) * between)
    pairs = np.array(ends, dtype=np.intp).reshape(-1, 2)
    return _solved(siemens, rows, (pairs[:, 0], pairs[:, 1], np.array(spread)))


def _solved(siemens: Array, rows: dict[str, int], parts: tuple[Rows, Rows, Array]) -> Network:
    plain = np.where(siemens < LEAST_S, 0.0, siemens)
    np.fill_diagonal(plain, 0.0)
    piece = _pieces(plain > 0.0)
    matrix = np.diag(plain.sum(axis=1)) - plain
    _, first = np.unique(piece, return_index=True)
    matrix[first, first] += 1.0  # tied down there: nothing flows
    return Network(plain, np.linalg.inv(matrix), piece, rows, parts)


def _pieces(beside: npt.NDArray[np.bool_]) -> Rows:
    """Which rows hang together: the lowest of each piece, found by taking on the lowest that lies beside."""
    beside = beside | np.eye(len(beside), dtype=bool)
    lowest = np.arange(len(beside), dtype=np.intp)
    while True:
        lower = np.where(beside, lowest[None, :], len(beside)).min(axis=1)
        lower = lower[lower]
        if np.array_equal(lower, lowest):
            return lowest
        lowest = lower


def _siemens(circuit: Circuit, part: Part) -> float:
    """What a part lets through where it stands without current, siemens."""
    if part.letter == "R":
        return 1.0 / part.value if part.value > 0 else 1e4
    if part.letter == "L":
        return 1.0 / COIL_OHM
    if part.letter == "D":
        figures = circuit.models[part.model].figures if part.model in circuit.models else {}
        return part.area * figures.get("is", 1e-14) / (figures.get("n", 1.0) * THERMAL_V)
    return 0.0


@dataclass(frozen=True)
class Expected:
    """What an ohmmeter should show: ``ohm`` with its leads, and one standard deviation ``u_ohm`` of healthy parts and meter."""

    ohm: float
    u_ohm: float

    @property
    def is_open(self) -> bool:
        return self.ohm >= OVERLOAD_OHM * 0.5


def expected_ohm(there: Network, a: str, b: str) -> Expected:
    """What should be read between two nodes."""
    one, other = (np.array([there.row(node)]) for node in (a, b))
    ohm = float(there.ohm(one, other)[0])
    p, q, spread = there.parts
    moved = np.square(there.along(one, other, p, q)[0]) * spread
    shown = min(ohm + LEADS_OHM, OVERLOAD_OHM)
    meter = 0.01 * shown + 0.1
    return Expected(shown, float(np.hypot(np.sqrt(np.square(moved).sum()), meter)))
