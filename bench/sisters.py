"""A sick unit beside a good one: whether the faulty neighbourhood is named first, and how many spots that takes.

Both are drawn over the circuits that ship and four more, their parts off by tolerances; one fault that some spot shows is hidden
in the sick one. The spots asked for are compared until no more is asked.
"""

import statistics
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from bench.measure import row
from bench.trace import circuits, draw_faults
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.mapping.alone import SpotVolts, ways_apart
from violet_dial.core.mapping.board import Board, node_of
from violet_dial.core.mapping.differing import Differing
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.sister import SisterPair, compare, way_from_supply
from violet_dial.core.practice.bench import FaultyDevice
from violet_dial.core.records.circuit import Evidence, Fault

PAIRS, SEED = 300, 12_500
SHOWN = 4.0  # units of what two good ones differ, by which a fault must move some spot: what less moves, volts cannot show
MOST_DRAWN = 60


@dataclass(frozen=True)
class Found:
    """One pair of units: whether the fault itself, or a part at one of its points, was named first; spots compared, spots there
    are, and spots from the supply to where they part one by one."""

    circuit: str
    itself: bool
    near: bool
    asked: int
    whole: int
    true: str
    said: str


_DIFFERING: dict[str, tuple[Circuit, Board, Differing]] = {}


def _of(stem: str) -> tuple[Circuit, Board, Differing]:
    if stem not in _DIFFERING:
        text = circuits()[stem].read_text(encoding="utf-8")
        circuit, board = read_spice(text), board_from_spice(text)
        _DIFFERING[stem] = circuit, board, Differing(circuit, [node_of(one.name) for one in board.spots])
    return _DIFFERING[stem]


def _drawn(stem: str, rng: np.random.Generator) -> tuple[Fault, FaultyDevice, FaultyDevice] | None:
    """A fault that volts can show, a good unit and the sick one."""
    circuit, _, differing = _of(stem)
    now = usual_setting(circuit)
    unit_v = differing.unit_v(now)
    asks = [Evidence("volt", 0.0, node, "0", setting=now) for node in differing.nodes]
    for _ in range(MOST_DRAWN):
        _, hidden = draw_faults(circuit, 1, rng)
        seed = int(rng.integers(1 << 31))
        sound, sick = (FaultyDevice(circuit, faults, np.random.default_rng(seed)) for faults in ((), hidden))
        if any(abs(sound.true(ask) - sick.true(ask)) > SHOWN * 1.414 * unit_v[ask.plus] for ask in asks):
            return hidden[0], FaultyDevice(circuit, (), rng), sick
    return None


def alone(task: tuple[str, int]) -> tuple[bool, bool] | None:
    """One pair of units of which only the spots are known: whether one of the two spots named first, or of the three pairs, is at
    the fault."""
    circuit, board, _ = _of(task[0])
    now, drawn = usual_setting(circuit), _drawn(task[0], np.random.default_rng(task[1]))
    if drawn is None:
        return None
    fault, good, sick = drawn
    asks = {
        one.name: Evidence("volt", 0.0, node_of(one.name), "0", setting=now) for one in board.spots if node_of(one.name) != "0"
    }
    ways = ways_apart([SpotVolts(name, good.read(ask).value, sick.read(ask).value) for name, ask in asks.items()])
    near = [_is_near(circuit, tuple(map(node_of, way)), fault)[1] for way in ways]
    return any(near[:1]), any(near)


def compared(task: tuple[str, int]) -> Found | None:
    """One pair of units, compared until nothing more is asked."""
    stem, seed = task
    circuit, board, differing = _of(stem)
    now = usual_setting(circuit)
    drawn = _drawn(stem, np.random.default_rng(seed))
    if drawn is None:
        return None
    fault, good, sick = drawn
    pairs: list[SisterPair] = []
    found = compare(board, pairs, differing, now)
    while found.next is not None:
        ask = Evidence("volt", 0.0, node_of(found.next), "0", setting=now)
        pairs.append(SisterPair(found.next, good.read(ask).value, sick.read(ask).value, setting=now))
        found = compare(board, pairs, differing, now)
    first = found.suspects[0] if found.suspects else ""
    whole = len([name for name in way_from_supply(board).order if node_of(name) in differing.nodes])
    itself, near = _is_near(circuit, found.first_at, fault)
    return Found(stem, itself, near, len(pairs), whole, fault.words, f"{first} | {found.words}")


def _is_near(circuit: Circuit, said: tuple[str, ...], fault: Fault) -> tuple[bool, bool]:
    """Whether what was named first is at fault itself; or shares a point with it."""

    def points(names: tuple[str, ...]) -> set[str]:
        found: set[str] = set()
        for name in names:
            parts = [part for part in circuit.parts if part.name.lower() == name.lower()]
            found |= {node for part in parts for node in part.nodes} if parts else {name}
        return found - {"0"}

    true = (fault.part, fault.to_node) if fault.to_node else (fault.part,)
    itself = bool({name.lower() for name in said} & {name.lower() for name in true})
    return itself, itself or bool(points(said) & points(true))


def report(count: int = PAIRS) -> None:
    """All pairs."""
    stems = list(circuits())
    tasks = sorted((stems[n % len(stems)], SEED + n) for n in range(count))
    with ProcessPoolExecutor() as pool:
        found = [one for one in pool.map(compared, tasks, chunksize=8) if one is not None]
        bare = [one for one in pool.map(alone, tasks, chunksize=8) if one is not None]
    near = 100 * statistics.mean(one.near for one in found)
    row(f"{len(found)} pairs of units: faulty neighbourhood first", f"{near:.1f} %", "goal: 95 %")
    row("the faulty part itself first", f"{100 * statistics.mean(one.itself for one in found):.1f} %", "")
    row("without any join known: neighbourhood first", f"{100 * statistics.mean(one for one, _ in bare):.1f} %",
        f"among the three: {100 * statistics.mean(other for _, other in bare):.1f} %")  # fmt: skip
    share = statistics.median(one.asked / one.whole for one in found)
    row("spots compared, of all one by one", f"{share:.2f}, on average "
        f"{statistics.mean(one.asked / one.whole for one in found):.2f}", "goal: 0.5")  # fmt: skip


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else PAIRS)
