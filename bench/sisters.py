"""A sick unit beside a good one: whether the faulty neighbourhood is named, and how many spots that takes.

Both are drawn over the circuits that ship and four more, their parts off by tolerances; one fault is hidden in the sick one. The
spots asked for are compared until no more is asked.
"""

import statistics
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from bench.device import Device
from bench.measure import row
from bench.trace import circuits, draw
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import Evidence
from violet_dial.core.mapping.board import node_of
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.sister import Pair, compare, way_from_supply

PAIRS, SEED = 300, 12_500
SHOWS_V = 0.3  # a fault that moves no spot by so much is none that volts could show


@dataclass(frozen=True)
class Found:
    """One pair of units: whether the fault lies where it was said to, spots compared, and spots there are on the way."""

    circuit: str
    right: bool
    asked: int
    whole: int
    true: str
    said: str


def compared(task: tuple[str, int]) -> Found:
    """One pair of units, compared until nothing more is asked."""
    stem, seed = task
    rng = np.random.default_rng(seed)
    text = circuits()[stem].read_text(encoding="utf-8")
    circuit, board = read_spice(text), board_from_spice(text)
    now, way = usual_setting(circuit), way_from_supply(board)
    asks = {
        name: Evidence("volt", 0.0, node_of(name), "0", setting=now)
        for name in way.order
        if node_of(name) in circuit.nodes
    }
    while True:
        _, hidden = draw(circuit, 1, rng)
        good, sick = Device(circuit, (), rng), Device(circuit, hidden, rng)
        volts = {name: (good.read(ask).value, sick.read(ask).value) for name, ask in asks.items()}
        if max(abs(one - other) for one, other in volts.values()) > SHOWS_V:
            break
    pairs = [Pair(way.order[0], *volts[way.order[0]])]
    found = compare(board, pairs)
    while found.next is not None and found.next in volts:
        pairs.append(Pair(found.next, *volts[found.next]))
        found = compare(board, pairs)
    part = hidden[0].part
    near = {item.name.lower() for spot in found.between or () for item in board.at(spot)}
    named = {name.lower() for name in found.suspects} | near
    touched = {node_of(end.spot) for item in board.items if item.name.lower() in named for end in item.ends}
    bridged = hidden[0].mode.startswith("bridged") and bool({part, hidden[0].mode.split()[-1]} & touched)
    is_near = part.lower() in named or bridged
    return Found(stem, bool(is_near), len(pairs), len(asks), hidden[0].words, found.words)


def report(count: int = PAIRS) -> None:
    """All pairs."""
    stems = list(circuits())
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(compared, [(stems[n % len(stems)], SEED + n) for n in range(count)], chunksize=8))
    right = 100 * statistics.mean(one.right for one in found)
    row(f"{count} pairs of units: faulty neighbourhood named", f"{right:.1f} %", "goal: 95 %")
    share = statistics.median(one.asked / one.whole for one in found)
    row("spots compared, of all on the way", f"{share:.2f}", "goal: 0.5")


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else PAIRS)
