"""What may be otherwise than the map has it: each join that may be missing or corroded, each two spots that may touch; and
what a touch of the meter says of it. Two may touch that lie beside each other: by their places on the photos, or by what is
known where there are none.

Source: Chances beforehand, and how far meters and figures miss: common practice, no source. Neighbours on a photo by
Delaunay's triangulation (SciPy, Qhull).
"""

import itertools
import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal, TypeVar

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.mapping.board import BOX, Board, How, Item, ItemEnd, Touch, key_of, node_of
from violet_dial.core.mapping.compiled import as_found, compiled
from violet_dial.core.mapping.facts import expected_lead_ohm
from violet_dial.core.mapping.names import new_name
from violet_dial.core.mapping.ohms import Network, network
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM, Setting
from violet_dial.core.scipy_rooms import spatial

FAR = 2.5  # times the usual distance, beyond which two spots do not lie beside each other
FEW = 3
Key = TypeVar("Key", bound=Hashable)


def neighbours(board: Board) -> tuple[tuple[str, str], ...]:
    """Pairs of spots that lie beside each other, each once."""
    found: dict[frozenset[str], tuple[str, str]] = {}
    for photo in dict.fromkeys(pin.photo for spot in board.spots for pin in spot.pins):
        here = [(spot.name, pin) for spot in board.spots for pin in spot.pins if pin.photo == photo]
        aspect = next((ground.aspect for ground in board.grounds if ground.photo == photo), 1.0)
        at = np.array([(pin.x * aspect, pin.y) for _, pin in here])
        for one, other in _beside(at):
            pair = (here[one][0], here[other][0])
            found.setdefault(frozenset(key_of(name) for name in pair), pair)
    if not found:
        for pair in _without_photo(board):
            found.setdefault(frozenset(key_of(name) for name in pair), pair)
    return tuple(pair for key, pair in found.items() if len(key) == 2)


def _beside(at: np.ndarray) -> list[tuple[int, int]]:
    if len(at) <= FEW:
        return list(itertools.combinations(range(len(at)), 2))

    try:
        corners = spatial.Delaunay(at, qhull_options="QJ").simplices
    except spatial.QhullError:  # all on one line or on one point
        order = np.lexsort((at[:, 1], at[:, 0]))
        return [(int(a), int(b)) for a, b in itertools.pairwise(order)]
    edges = {(int(min(a, b)), int(max(a, b))) for corner in corners for a, b in itertools.combinations(corner, 2)}
    long = {edge: float(np.hypot(*(at[edge[0]] - at[edge[1]]))) for edge in edges}
    most = FAR * float(np.median(list(long.values())))
    return sorted(edge for edge, length in long.items() if length <= most)


def _without_photo(board: Board) -> list[tuple[str, str]]:
    """Both ends of each part, and pins of a box beside each other."""
    found = []
    for item in board.items:
        if item.kind == BOX:
            found += [(one.spot, other.spot) for one, other in itertools.pairwise(item.ends)]
        elif not item.is_lead:
            found += list(itertools.combinations(item.spots, 2))
    return found


def groups_of(keys: list[Key], joins: list[tuple[Key, Key]]) -> dict[Key, int]:
    """Which hang together: the number of each one's group, in the order of first use."""
    parent = {key: key for key in keys}

    def top(key: Key) -> Key:
        while parent[key] != key:
            parent[key] = parent[parent[key]]
            key = parent[key]
        return key

    for one, other in joins:
        if one in parent and other in parent:
            parent[top(one)] = top(other)
    numbers: dict[Key, int] = {}
    return {key: numbers.setdefault(top(key), len(numbers)) for key in parent}


Array = npt.NDArray[np.float64]
What = Literal["missing", "corroded", "touching", "leaking"]
MISSING: dict[How, float] = {"seen": 0.05, "guessed": 0.40, "measured": 0.02}
CORRODED, CORRODED_OHM = 0.02, tuple(4.0 * 1.8**n for n in range(17))
TOUCHING = 0.03  # of two nets that lie beside each other: a join that was overlooked, or a bridge
TOUCHING_OHM = 0.1
BESIDE = 6.0  # nets that one lies beside, where it is not known which
MOST_ANYWHERE = 2000  # pairs of nets that may touch wherever they lie
LEAKING = 0.005  # of two nets beside each other: dirt between them, or a join overlooked that has some ohms
WRONG = 0.01  # of readings; a slip of the probe
BROAD = 1.0 / 9.0  # density of a wrong reading, a decade: from a tenth of an ohm to fifty megohms
SKETCH = 0.02  # of log10 ohm, by which parts whose figures are only guessed miss
JOINED_OHM = 3.0  # what a lead measures at most before it is suspect
BEEP_OHM, BEEP_SPREAD = 30.0, 0.35  # where meters stop beeping, and how far they differ, in log10; common practice, no source
BEEPS_OHM = (BEEP_OHM, 8.0, 15.0, 55.0, 100.0, 180.0)  # where one may, that is learned from what it beeped at
BEEP_SHARP = 0.08  # of log10 ohm: between always and never, of one meter


@dataclass(frozen=True)
class Doubt:
    """One thing that may be otherwise: between spots ``a`` and ``b``, ``item`` the join in question where it is one;
    ``siemens`` laid there if so; ``log_odds`` beforehand."""

    what: What
    a: str
    b: str
    siemens: float
    log_odds: float
    item: str = ""
    ohm: float = 0.0  # of a corroded join, about
    label: str = ""  # what it is called at the bench, where that is not its name

    @property
    def words(self) -> str:
        """The doubt said."""
        if self.what == "missing":
            return f"{self.label or self.item} is not there, or broken"
        if self.what == "corroded":
            return f"{self.label or self.item} has some ohms"
        if self.what == "leaking":
            return f"some ohms lie between {self.a} and {self.b}"
        return f"{self.a} touches {self.b}"


class Networks:
    """A board as the ohmmeter sees it in each setting, each worked out once."""

    def __init__(self, board: Board) -> None:
        self.circuit: Circuit = checked_circuit(compiled(as_found(board)).text)
        self._spots = tuple(node_of(spot.name) for spot in board.spots)
        self._found: dict[Setting, Network] = {}

    def at(self, setting: Setting) -> Network:
        """The board in a setting; a switch or position it has not is left out."""
        if setting not in self._found:
            self._found[setting] = network(self.circuit, setting, self._spots)
        return self._found[setting]

    def ohm_of(self, touch: Touch) -> float:
        """What lies between the spots of a touch, ohm."""
        there = self.at(touch.setting)
        return float(there.ohm(*rows_of(there, [(touch.a, touch.b)]))[0])


def doubts_of(board: Board) -> tuple[tuple[Doubt, ...], ...]:
    """All that may be otherwise than a board has it, place by place: joins that may be missing or have some ohms, and spots
    side by side that may touch, or have some ohms between them. Of the doubts of a place one at most is true.
    """
    found: list[tuple[Doubt, ...]] = []
    joined = set()
    for item in board.items:
        if item.is_lead and len(item.spots) == 2:
            found.append(_of_lead(board, item))
            joined.add(frozenset(key_of(spot) for spot in item.spots))
    for one, other in neighbours(board):
        if frozenset((key_of(one), key_of(other))) not in joined:
            joined.add(frozenset((key_of(one), key_of(other))))
            found.append(_of_pair(one, other))
    pairs = [pair for pair in _anywhere(board) if frozenset(map(key_of, pair)) not in joined]
    odds = _logit(TOUCHING * min(BESIDE / math.sqrt(2 * len(pairs) + 1), 1.0))
    found += [(Doubt("touching", one, other, 1.0 / TOUCHING_OHM, odds),) for one, other in pairs]
    return tuple(one for one in found if one)


def _anywhere(board: Board) -> list[tuple[str, str]]:
    """Two spots of each two nets as they are said, of which one lies on no photo: they may touch wherever they are; and two
    spots between which the meter showed a join."""
    bare = [spot.name for spot in board.spots if not spot.pins]
    if not bare:
        return []
    keys = [key_of(spot.name) for spot in board.spots]
    leads = [item.spots for item in board.items if item.is_lead and len(item.spots) == 2]
    nets = groups_of(keys, [(key_of(one), key_of(other)) for one, other in leads])
    first: dict[int, str] = {}
    for spot in board.spots:
        first.setdefault(nets[key_of(spot.name)], spot.name)
    loose = {nets[key_of(name)] for name in bare}
    pairs = {
        frozenset((one, other)): (first[one], first[other])
        for one, other in itertools.combinations(first, 2) if one in loose or other in loose
    }  # fmt: skip
    low = [(touch.a, touch.b) for touch in board.touches if touch.beep or (touch.beep is None and touch.ohm < JOINED_OHM)]
    read = [pair for pair in low if nets.get(key_of(pair[0])) != nets.get(key_of(pair[1]))]
    return [*list(pairs.values())[:MOST_ANYWHERE], *dict.fromkeys(read)]


def _of_lead(board: Board, item: Item) -> tuple[Doubt, ...]:
    label = dict(item.notes).get("name", "").strip('"') or (f"{item.colour} {item.kind}" if item.spice and item.colour else "")
    ohm = max(expected_lead_ohm(board, item) if item.measured_ohm is None else item.measured_ohm, 1e-3)
    ohm = float(f"{ohm:.6g}")  # as the circuit's text has it: what is taken away again must be what lies there
    if ohm > BEEP_OHM:  # found broken: nothing is left to doubt but that it is
        return ()
    one, other = item.spots
    return _of_join(Doubt("missing", one, other, -1.0 / ohm, _logit(MISSING[item.how]), item.name, label=label), ohm,
                    item.measured_ohm is None)  # fmt: skip


@lru_cache(maxsize=4000)
def _of_join(missing: Doubt, ohm: float, may_be_corroded: bool) -> tuple[Doubt, ...]:
    odds = _logit(CORRODED / len(CORRODED_OHM))
    more = [one for one in CORRODED_OHM if one > ohm and may_be_corroded]
    corroded = [replace(missing, what="corroded", siemens=1 / one - 1 / ohm, log_odds=odds, ohm=one) for one in more]
    return (missing, *corroded)


@lru_cache(maxsize=4000)
def _of_pair(one: str, other: str) -> tuple[Doubt, ...]:
    odds = _logit(LEAKING / len(CORRODED_OHM))
    return (
        Doubt("touching", one, other, 1.0 / TOUCHING_OHM, _logit(TOUCHING)),
        *(Doubt("leaking", one, other, 1.0 / ohm, odds, ohm=ohm) for ohm in CORRODED_OHM),
    )


def _logit(chance: float) -> float:
    return math.log(chance / (1.0 - chance))


def otherwise(board: Board, doubt: Doubt) -> Board:
    """The board as it is when a doubt is the truth."""
    if doubt.what in ("touching", "leaking"):
        name = new_name(board, f"join {doubt.a} {doubt.b}"[:76])
        ohm = doubt.ohm or TOUCHING_OHM
        item = Item(name, "track", (ItemEnd("a", doubt.a), ItemEnd("b", doubt.b)), how="guessed", measured_ohm=ohm)
        return replace(board, items=(*board.items, item))
    old = board.found_item(doubt.item)
    if doubt.what == "missing" and old.how == "guessed":
        return replace(board, items=tuple(one for one in board.items if one is not old))
    before = max(expected_lead_ohm(board, old) if old.measured_ohm is None else old.measured_ohm, 1e-3)
    ohm = OVERLOAD_OHM if doubt.what == "missing" else 1.0 / (doubt.siemens + 1.0 / before)
    return replace(board, items=tuple(replace(one, measured_ohm=ohm) if one is old else one for one in board.items))


def rows_of(there: Network, pairs: Sequence[tuple[str, str]]) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Rows of pairs of spots. ``there``: the board in a setting."""
    found = np.array([[there.row(node_of(name)) for name in pair] for pair in pairs], dtype=np.intp).reshape(-1, 2)
    return found[:, 0], found[:, 1]


def shown(ohm: Array) -> Array:
    """What a meter shows, log10 of ohm, with its leads."""
    return np.log10(with_leads(ohm))


def with_leads(ohm: Array) -> Array:
    """What a meter shows, ohm, with its leads, up to the end of its range."""
    return np.clip(ohm + LEADS_OHM, LEADS_OHM, OVERLOAD_OHM)


def own_sigma(there: Network, a: npt.NDArray[np.intp], b: npt.NDArray[np.intp], ohm: Array) -> Array:
    """Standard deviation of log10 of ohm: of the meter, of parts within tolerance, and of the sketch, (t,).

    Parameters
    ----------
    there : the board in a setting
    a, b : rows of the tips
    """
    return with_meter(parts_sigma(there, a, b, ohm), with_leads(ohm))


def parts_sigma(there: Network, a: npt.NDArray[np.intp], b: npt.NDArray[np.intp], ohm: Array) -> Array:
    """Standard deviation of log10 of ohm of parts within tolerance, (t,).

    Parameters
    ----------
    there : the board in a setting
    a, b : rows of the tips
    """
    p, q, spread = there.parts
    moved = np.square(np.square(there.along(a, b, p, q)) * spread[None, :]).sum(axis=1)
    total = np.maximum(ohm, 0.0) + LEADS_OHM
    found: Array = np.where(total < OVERLOAD_OHM, np.minimum(np.sqrt(moved) / np.minimum(total, OVERLOAD_OHM), 1.0), 0.0)
    return 0.4343 * found


def with_meter(of_parts: Array, total_ohm: Array) -> Array:
    """Standard deviation of log10 of ohm with the meter's own and the sketch's, shape of ``total_ohm``."""
    return np.hypot(0.4343 * np.minimum(0.01 + 0.1 / total_ohm, 1.0), of_parts) + SKETCH


def log_likelihood(touches: Sequence[Touch], mean: Array, sigma: Array, beep_ohm: float = BEEP_OHM) -> Array:
    """Log density of each touch where this should be read, (t, j); now and then any reading comes.

    Parameters
    ----------
    mean : log10 of ohm that should be shown, shape (t, j)
    sigma : its standard deviation, shape (t, 1) or (t, j)
    beep_ohm : where the meter stops beeping
    """
    read = np.log10(np.clip([touch.ohm for touch in touches], LEADS_OHM / 2, OVERLOAD_OHM))[:, None]
    away = np.clip((read - mean) / sigma, -40, 40)
    # against the end of the range all readings are one
    away[(read >= math.log10(OVERLOAD_OHM) - 0.05) & (mean > 7.0)] = 0.0
    right = np.exp(-0.5 * np.square(away)) / (sigma * 2.5066)
    found: Array = np.log((1 - WRONG) * right + WRONG * BROAD)
    for place, touch in enumerate(touches):
        if touch.beep is not None:
            share = np.hypot(BEEP_SHARP, sigma[place])
            beeps = 1.0 / (1.0 + np.exp(np.clip((mean[place] - math.log10(beep_ohm)) / share * 1.7, -40, 40)))
            found[place] = np.log((1 - WRONG) * (beeps if touch.beep else 1.0 - beeps) + WRONG / 2)
    return found
