"""What is measured of a map and what is not yet: nets, members measured to another, nets measured apart.

What is measured stands by itself: a beep joins, whatever is believed of the rest, unless a closed contact or a part of few ohms
could have beeped in its place. Two nets are apart when the touches would be far less likely if they touched: one reading through
a chain of parts tells all that hang on it apart. Spots beside each other on a photo may touch; one that lies on none may touch
any.
"""

import itertools
import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import kind_of, set_circuit
from violet_dial.core.mapping.board import CHASSIS, SolderPoint, Touch, key_of, node_of
from violet_dial.core.mapping.doubts import (
    JOINED_OHM,
    TOUCHING,
    TOUCHING_OHM,
    groups_of,
    log_likelihood,
    neighbours,
    parts_sigma,
    rows_of,
    with_leads,
    with_meter,
)
from violet_dial.core.mapping.search import MapJudgement
from violet_dial.core.mapping.taken import is_low
from violet_dial.core.records.circuit import LEADS, Setting

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Pair = tuple[str, str]
APART_NAT = math.log(1e-3 * (1 - TOUCHING) / TOUCHING)  # log of how much less likely the touches are where two nets touch
BEEPS_TO = 2.0  # times where a meter stops beeping, from which no beep comes
MOST_TOLD = 2000  # pairs of nets of which it is asked at once


@dataclass(frozen=True)
class Net:
    """Spots that leads join: those not measured to the rest yet, others it was not measured apart from yet, and whether a
    touch of it is explained by nothing."""

    spots: tuple[str, ...]
    alone: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()
    is_odd: bool = False

    @property
    def is_proved(self) -> bool:
        """Whether every member was measured to another, and all apart from what they may touch."""
        return not self.alone and not self.beside and not self.is_odd


@dataclass(frozen=True)
class Wanted:
    """What is to be measured for the proof of all: members to the rest of their net, and nets apart, each by two spots."""

    joins: tuple[Pair, ...]
    apart: tuple[Pair, ...]


def bridged_nets(found: MapJudgement, setting: Setting, up_to_ohm: float) -> frozenset[int]:
    """Nets that closed contacts or parts of few ohms join to others in a setting: a beep within them does not say that their own
    leads are whole, nor which spot is on which side. ``found``: what is believed.
    """
    net_of = {node_of(spot.name): found.nets[key_of(spot.name)] for spot in found.said.spots}
    stands = set_circuit(found.base.circuit, setting)
    edges = [
        (net_of.get(part.nodes[0], -1), net_of.get(part.nodes[1], -1))
        for part in stands.parts
        if (part.letter == "L" or (part.letter == "R" and part.value <= up_to_ohm))
        and kind_of(found.base.circuit, part) not in LEADS
    ]
    return frozenset(net for edge in edges for net in edge)


def easiest(found: MapJudgement) -> dict[int, str]:
    """Of each net the spot that is easiest to reach, by the net's number. ``found``: what is believed."""
    board, first = found.said, dict[int, SolderPoint]()
    for spot in board.spots:
        there = first.setdefault(found.nets[key_of(spot.name)], spot)
        if (bool(spot.behind), spot.minutes) < (bool(there.behind), there.minutes):
            first[found.nets[key_of(spot.name)]] = spot
    return {number: spot.name for number, spot in first.items()}


def nets_of(found: MapJudgement) -> tuple[tuple[Net, ...], Wanted]:
    """The nets that are believed with what is not measured yet, and all that is to be measured. ``found``: what is believed."""
    board, nets = found.said, found.nets
    names = {key_of(spot.name): spot.name for spot in board.spots}
    joins, alone = _not_joined(found, names)
    pairs = _may_touch(found)
    told = _told_apart(found, pairs)
    apart = tuple(pair for pair, is_told in zip(pairs, told, strict=True) if not is_told)
    beside: dict[int, list[str]] = {}
    for one, other in apart:
        beside.setdefault(nets[key_of(one)], []).append(other)
        beside.setdefault(nets[key_of(other)], []).append(one)
    odd = {nets.get(key_of(name), -1) for touch in found.odd for name in (touch.a, touch.b)}
    members: dict[int, list[str]] = {}
    for key, name in names.items():
        members.setdefault(nets[key], []).append(name)
    ordered = sorted(members, key=lambda number: (CHASSIS not in map(key_of, members[number]), number))
    every = (Net(tuple(members[n]), tuple(alone.get(n, ())), tuple(beside.get(n, ())), n in odd) for n in ordered)
    return tuple(every), Wanted(tuple(joins), apart)


def _joined_by_touch(found: MapJudgement, keys: list[str]) -> dict[str, int]:
    """Which spots low touches join by themselves: the number of each one's group, by its key."""
    nets, touches = found.nets, found.said.touches

    def span(touch: Touch) -> tuple[Setting, float]:
        return touch.setting, JOINED_OHM if touch.beep is None else found.beep_ohm * BEEPS_TO

    bridged = {key: bridged_nets(found, *key) for key in {span(touch) for touch in touches}}
    low = [
        touch for touch in touches
        if is_low(touch) and nets.get(key_of(touch.a)) == nets.get(key_of(touch.b)) not in bridged[span(touch)]
    ]  # fmt: skip
    return groups_of(keys, [(key_of(one.a), key_of(one.b)) for one in low])


def _not_joined(found: MapJudgement, names: dict[str, str]) -> tuple[list[Pair], dict[int, list[str]]]:
    """Members to be measured to the first of their net; and those, by the number of it."""
    joined = _joined_by_touch(found, list(names))
    wanted: list[Pair] = []
    alone: dict[int, list[str]] = {}
    first: dict[int, str] = {}
    seen: set[int] = set()
    for key, name in names.items():
        number, group = found.nets[key], joined[key]
        if number not in first:
            first[number] = name
        elif group not in seen:
            alone.setdefault(number, []).append(name)
            wanted.append((first[number], name))
        seen.add(group)
    return wanted, alone


def _may_touch(found: MapJudgement) -> list[Pair]:
    """Two spots of each two nets that may touch."""
    board, nets = found.said, found.nets
    pairs: dict[frozenset[int], Pair] = {}
    placed = any(spot.pins for spot in board.spots)
    for one, other in neighbours(board) if placed else ():
        pairs.setdefault(frozenset((nets[key_of(one)], nets[key_of(other)])), (one, other))
    anywhere = {nets[key_of(spot.name)] for spot in board.spots if not spot.pins}
    for (number, one), (second, other) in itertools.combinations(easiest(found).items(), 2):
        if number in anywhere or second in anywhere:
            pairs.setdefault(frozenset((number, second)), (one, other))
    return [pair for key, pair in pairs.items() if len(key) == 2]


def _told_apart(found: MapJudgement, pairs: list[Pair]) -> Flags:
    """Which pairs the touches tell apart, (p,)."""
    change = np.zeros(len(pairs))
    by_setting: dict[Setting, list[int]] = {}
    for n, touch in enumerate(found.said.touches):
        by_setting.setdefault(touch.setting, []).append(n)
    for setting, places in by_setting.items():
        there, touches = found.network(found.best, setting), [found.said.touches[n] for n in places]
        rows = rows_of(there, [(touch.a, touch.b) for touch in touches])
        ohm = there.ohm(*rows)
        of_parts = parts_sigma(there, *rows, ohm)[:, None]
        now = with_leads(ohm)[:, None]
        before = log_likelihood(touches, np.log10(now), with_meter(of_parts, now), found.beep_ohm)
        for start in range(0, len(pairs), MOST_TOLD):
            some = pairs[start : start + MOST_TOLD]
            after = with_leads(there.ohm_with(rows, rows_of(there, some), np.full(len(some), 1.0 / TOUCHING_OHM)))
            likely = log_likelihood(touches, np.log10(after), with_meter(of_parts, after), found.beep_ohm)
            change[start : start + MOST_TOLD] += (likely - before).sum(axis=0)
    told: Flags = change < APART_NAT
    return told
