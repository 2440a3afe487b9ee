"""Invented boards traced by an invented eye: touches until the map is the truth, and whether what is said to be proved is.

A board has 30 to 90 spots on a jittered grid, tracks between neighbours (trees, some loops, a shared ground), parts, two
switches; some tracks are broken, corroded or bridged. The eye misses a tenth of the joins and sees a twentieth that are not
there. Everything is drawn from a seed; the meter reads the true board.
"""

import itertools
import math
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import repeat

import numpy as np

from bench.measure import row
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.mapping.board import Board, Figure, Ground, Item, ItemEnd, Pin, SolderPoint, Touch, key_of, node_of
from violet_dial.core.mapping.compiled import as_found, compiled
from violet_dial.core.mapping.doubts import Networks, neighbours
from violet_dial.core.mapping.ohms import network
from violet_dial.core.mapping.possible import TOUCH_MIN, NextTouch
from violet_dial.core.mapping.rows import touched as heard
from violet_dial.core.mapping.taken import taken_in
from violet_dial.core.mapping.touching import proof_of
from violet_dial.core.records.circuit import OVERLOAD_OHM, Setting

BOARDS, SEED = 200, 12_000
MISSED, INVENTED = 0.10, 0.05
MOST = 400
JOINED_OHM = 3.0


@dataclass(frozen=True)
class Drawn:
    """A board: how it truly is, and as the eye has it."""

    true: Board
    seen: Board
    spots: int
    pairs: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Traced:
    """One board traced: spots, touches until the map was the truth for good, until nothing was left to ask (a lead drawn along a
    row is one); what neighbour probing and random probing need; minutes of all; whether it was said to be proved, and whether it
    was right."""

    spots: int
    until_true: int
    until_end: int
    neighbour_pairs: int
    random: int
    minutes: float
    proved: bool
    right: bool


def _places(count: int, rng: np.random.Generator) -> list[tuple[float, float]]:
    wide = int(np.ceil(np.sqrt(count * 1.5)))
    at = [(n % wide, n // wide) for n in range(count)]
    tall = max(y for _, y in at) + 1
    return [((x + 0.5 + rng.uniform(-0.35, 0.35)) / wide, (y + 0.5 + rng.uniform(-0.35, 0.35)) / tall) for x, y in at]


def drawn(seed: int) -> Drawn:
    """A board and what the eye makes of it."""
    rng = np.random.default_rng(seed)
    count = int(rng.integers(30, 91))
    spots = tuple(
        SolderPoint("chassis" if n == 0 else f"p{n}", pins=(Pin("front", *place),)) for n, place in enumerate(_places(count, rng))
    )
    plain = Board(spots=spots, grounds=(Ground("front", "front", aspect=1.5),))
    pairs = neighbours(plain)
    joins, loops = _joins(spots, pairs, rng)
    parts = _parts(spots, joins, rng)
    true = [_track(one, other, n) for n, (one, other) in enumerate((*joins, *loops))]
    hidden = {name: float(ohm) for name, ohm in _faults(true[: len(joins)], rng)}
    tracks = [replace(one, measured_ohm=hidden.get(one.name)) for one in true]
    free = [pair for pair in pairs if not any({*pair} == {*one.spots} for one in true)]
    bridges = [free[int(n)] for n in rng.choice(len(free), int(rng.integers(0, 3)), replace=False)]
    real = (*tracks, *(replace(_track(one, other, 900 + n), measured_ohm=0.1) for n, (one, other) in enumerate(bridges)))
    seen = [one for one in true if rng.random() > MISSED]
    wrong = [free[int(n)] for n in rng.choice(len(free), max(int(INVENTED * len(true)), 1), replace=False)]
    imagined = [_track(one, other, 500 + n) for n, (one, other) in enumerate(wrong)]
    fitted = tuple(_off(one, rng) for one in parts)
    return Drawn(replace(plain, items=(*real, *fitted)), replace(plain, items=(*seen, *imagined, *parts)), count, pairs)


def _track(one: str, other: str, number: int) -> Item:
    return Item(f"track {number}", "track", (ItemEnd("a", one), ItemEnd("b", other)))


def _joins(
    spots: tuple[SolderPoint, ...], pairs: tuple[tuple[str, str], ...], rng: np.random.Generator
) -> tuple[list[tuple[str, str]], list[tuple[str, str]]]:
    """Tracks between neighbours that make nets of some spots each, the ground's the largest; and some loops in them."""
    net = {one.name: n for n, one in enumerate(spots)}
    size = dict.fromkeys(range(len(spots)), 1)
    joins = []
    for n in rng.permutation(len(pairs)):
        one, other = pairs[int(n)]
        a, b = net[one], net[other]
        most = 12 if net["chassis"] in (a, b) else 5
        if a == b or size[a] + size[b] > most or rng.random() < 0.45:
            continue
        joins.append((one, other))
        size[a] += size[b]
        net = {name: a if where == b else where for name, where in net.items()}
    inside = [pair for pair in pairs if net[pair[0]] == net[pair[1]] and pair not in joins]
    return joins, [pair for pair in inside if rng.random() < 0.1]


def _parts(spots: tuple[SolderPoint, ...], joins: list[tuple[str, str]], rng: np.random.Generator) -> list[Item]:
    names = [one.name for one in spots]
    found: list[Item] = []
    for n in range(int(len(spots) * 0.6)):
        one, other = (names[int(k)] for k in rng.choice(len(names), 2, replace=False))
        kind = rng.choice(["resistor", "resistor", "resistor", "capacitor", "diode", "coil"])
        value = float(10 ** rng.uniform(2, 5.5)) if kind == "resistor" else float(10 ** rng.uniform(1, 2.3))
        figures = (Figure("farad", 1e-6),) if kind == "capacitor" else () if kind == "diode" else (Figure("ohm", value),)
        legs = ("a", "band") if kind == "diode" else ("a", "b")
        found.append(Item(f"{str(kind)[0].upper()}{n}", str(kind), (ItemEnd(legs[0], one), ItemEnd(legs[1], other)), figures))
    for n in (1, 2):
        common, first, second = (names[int(k)] for k in rng.choice(len(names), 3, replace=False))
        closes = (("off", "-"), ("on", "a"), ("test", "b"))
        found.append(
            Item(f"S{n}", "switch", (ItemEnd("common", common), ItemEnd("a", first), ItemEnd("b", second)), closes=closes)
        )
    return found


def _off(item: Item, rng: np.random.Generator) -> Item:
    """A part as it was made: off its figure by its tolerance."""
    figures = tuple(
        replace(one, value=one.value * float(np.exp(0.03 * rng.standard_normal()))) if one.key == "ohm" else one
        for one in item.figures
    )
    return replace(item, figures=figures)


def _faults(tracks: list[Item], rng: np.random.Generator) -> list[tuple[str, float]]:
    broken = rng.choice(len(tracks), int(rng.integers(1, 4)), replace=False)
    return [(tracks[int(n)].name, OVERLOAD_OHM if rng.random() < 0.6 else 10 ** rng.uniform(1.2, 3.5)) for n in broken]


class Meter:
    """Reads the true board."""

    def __init__(self, true: Board, rng: np.random.Generator) -> None:
        items = tuple(
            one if one.measured_ohm is None else replace(one, figures=(Figure("ohm", one.measured_ohm),)) for one in true.items
        )
        self.circuit = checked_circuit(compiled(replace(true, items=items)).text)
        self.spots = tuple(node_of(one.name) for one in true.spots)
        self.rng = rng

    def read(self, a: str, b: str, setting: Setting) -> float:
        there = network(self.circuit, setting, self.spots)
        rows = (np.array([there.row(node_of(name))]) for name in (a, b))
        ohm = min(float(there.ohm(*rows)[0]), 1e9) + 0.1
        return float(
            min(max(ohm * (1 + 0.004 * self.rng.standard_normal()) + 0.02 * self.rng.standard_normal(), 0.0), OVERLOAD_OHM)
        )


def partition(board: Board) -> frozenset[frozenset[str]]:
    """Spots that sound leads join."""
    parent = {key_of(one.name): key_of(one.name) for one in board.spots}

    def top(key: str) -> str:
        while parent[key] != key:
            key = parent[key]
        return key

    for item in board.items:
        if item.is_lead and (item.measured_ohm is None or item.measured_ohm <= JOINED_OHM):
            one, other = (top(key_of(spot)) for spot in item.spots)
            parent[one] = other
    groups: dict[str, set[str]] = {}
    for key in parent:
        groups.setdefault(top(key), set()).add(key)
    return frozenset(frozenset(one) for one in groups.values())


def touched(meter: Meter, ask: NextTouch, beep_ohm: float) -> tuple[Touch, ...]:
    """What the meter shows, or whether it beeps where only that is heard; a lead is drawn along until one is not as expected.

    ``beep_ohm``: 0 for a meter that shows ohms, and beeps to 30.
    """
    found: list[Touch] = []
    for other in ask.along:
        ohm = meter.read(ask.a, other, ask.setting)
        if not beep_ohm and not ask.over:
            return (Touch(ask.a, other, ohm, setting=ask.setting),)
        beeps = ohm < (beep_ohm or 30.0)
        found.append(heard(ask, other, beeps))
        if beeps != ask.expects_beep:
            break
    return tuple(found)


def traced(seed: int, placed: bool = True, beep_ohm: float = 0.0) -> Traced:
    """One board, touched as the map asks until it asks no more; ``placed`` with a photo of it."""
    one = drawn(seed)
    if not placed:
        bare = replace(one.seen, spots=tuple(replace(spot, pins=()) for spot in one.seen.spots), grounds=())
        one = replace(one, seen=bare)
    meter = Meter(one.true, np.random.default_rng(seed + 1))
    truth, board, last_wrong, made, minutes = partition(one.true), one.seen, 0, 0, 0.0
    proof = proof_of(board)
    for made in range(MOST + 1):
        if partition(proof.judged.board) != truth:
            last_wrong = made + 1
        if proof.next is None:
            break
        ask = proof.next
        minutes += ask.minutes
        for touch in touched(meter, ask, beep_ohm):
            board, _ = taken_in(board, touch, asked=True)
        proof = proof_of(board, before=proof.judged)
    right = partition(proof.judged.board) == truth
    return Traced(one.spots, last_wrong, made, len(one.pairs), _by_chance(one, seed), minutes, proof.is_proved, right)


def _by_chance(one: Drawn, seed: int) -> int:
    """Neighbour pairs probed in random order until each is known whose nets are not yet told by those before."""
    rng = np.random.default_rng(seed + 2)
    names = [spot.name for spot in one.true.spots]
    every = list(itertools.combinations(names, 2))
    wanted = {frozenset(pair) for pair in one.pairs}
    for count, n in enumerate(rng.permutation(len(every)), start=1):
        wanted.discard(frozenset(every[int(n)]))
        if not wanted:
            return count
    return len(every)


def beside_ngspice(seed: int) -> tuple[int, int]:
    """Ohms between eight pairs of a board beside ngspice: how many were compared, and how many differ."""
    one = drawn(seed)
    rng = np.random.default_rng(seed + 3)
    there = Networks(one.seen).at(Setting())
    names = [spot.name for spot in one.seen.spots]
    compared = apart = 0
    for _ in range(8):
        a, b = (node_of(str(name)) for name in rng.choice(names, 2, replace=False))
        ohm = float(there.ohm(np.array([there.row(a)]), np.array([there.row(b)]))[0])
        if ohm < 1e6:  # beyond it insulation is all there is
            compared += 1
            theirs = _ngspice_ohm(compiled(as_found(one.seen)).text, a, b)
            apart += not abs(theirs - ohm) <= max(0.01 * ohm, 0.1)
    return compared, apart


def _ngspice_ohm(text: str, a: str, b: str) -> float:
    """A microampere from one node to another; nan where nothing comes back."""
    shown = "-".join(f"v({node})" for node in (a, b) if node != "0")
    shown = f"-{shown}" if a == "0" else shown
    control = [f"Itest {b} {a} 1u", ".control", "op", f"let seen = {shown}", "print seen", ".endc", ".end"]
    deck = "\n".join([*text.splitlines()[:-1], *control, ""])
    with tempfile.NamedTemporaryFile("w", suffix=".cir") as file:
        file.write(deck)
        file.flush()
        done = subprocess.run(["ngspice", "-b", file.name], capture_output=True, text=True, check=False, timeout=60)
    found = re.search(r"seen = ([-+0-9.eE]+)", done.stdout)
    return float(found[1]) / 1e-6 if found else math.nan


MANNERS = (("with a photo", True, 0.0), ("without places", False, 0.0), ("beeps to 30 ohm", True, 30.0),
           ("beeps to 100 ohm", True, 100.0))  # fmt: skip


def report(count: int = BOARDS) -> None:
    with ProcessPoolExecutor() as pool:
        for words, placed, beep_ohm in MANNERS:
            share = count if placed and not beep_ohm else max(count // 5, 1)
            several = repeat(placed, share), repeat(beep_ohm, share)
            _report(words, list(pool.map(traced, range(SEED, SEED + share), *several, chunksize=2)))
        if shutil.which("ngspice"):
            beside = list(pool.map(beside_ngspice, range(SEED, SEED + count), chunksize=4))
            apart = f"apart by more than 1 % or 0.1 ohm: {sum(other for _, other in beside)}, goal: 0"
            row("ohms in the circuit beside ngspice", f"{sum(one for one, _ in beside)} pairs", apart)


def _report(words: str, found: list[Traced]) -> None:
    ends = [one.until_end for one in found]
    true = [one.until_true for one in found if one.right]
    share = [one.until_true / one.neighbour_pairs for one in found if one.right]
    row(f"{len(found)} boards, {words}", f"the map is the truth at the end: {sum(o.right for o in found)}",
        f"said proved and wrong: {sum(o.proved and not o.right for o in found)}, goal: 0; said proved: "
        f"{sum(o.proved for o in found)}")  # fmt: skip
    row("touches until it was, median and worst", f"{statistics.median(true):.0f}, {max(true)}",
        f"until nothing was left to ask: {statistics.median(ends):.0f}, {max(ends)}")  # fmt: skip
    row("share of probing every neighbour pair", f"{statistics.median(share):.2f}, worst {max(share):.2f}", "goal: 0.25")
    row("all to the end, share of the same", f"{statistics.median(o.until_end / o.neighbour_pairs for o in found):.2f}",
        "goal: 0.5")  # fmt: skip
    minutes = [o.minutes / (TOUCH_MIN * o.neighbour_pairs) for o in found]
    row("minutes to the end, share of the same", f"{statistics.median(minutes):.2f}", "")
    row("share of probing at random", f"{statistics.median(o.until_end / o.random for o in found):.3f}", "")


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else BOARDS)
