"""Which spots lie beside each other, so that solder or dirt may join them and an eye may miss a join: by their places on the
photos, or by what is known where there are none; and what hangs together.

Source: Neighbours on a photo by Delaunay's triangulation (SciPy, Qhull).
"""

import itertools
from collections.abc import Hashable
from typing import TypeVar

import numpy as np

from violet_dial.core.mapping.board import BOX, Board, key_of
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
