"""The commands ``map`` and ``sister``: a board's bench lines as a circuit, and a good unit beside the sick one."""

import math
from argparse import Namespace
from pathlib import Path
from typing import Any

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.boxes import cannot_tell
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.lines import item_words
from violet_dial.core.mapping.names import resolved
from violet_dial.core.mapping.sister import SisterPair, compare, differing_of
from violet_dial.core.mapping.text import MOST_CHARACTERS, board_from_text
from violet_dial.core.mapping.touching import proof_of
from violet_dial.core.quantities import parse_with_unit
from violet_dial.core.records.circuit import Setting
from violet_dial.job.csv_text import Cells, Names, table_of
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json, say_rejected
from violet_dial.services.station import JSON, Command, Option
from violet_dial.stations.trace.table import setting_from

REQUIRED, OPTIONAL = ("spot", "good", "sick"), ("setting", "third")
MOST_PAIRS = 2000


def board_given(path: Path, what: str) -> Board:
    """The map in a file of bench lines or SPICE. Raises InvalidInput: not text, too long, or a line that is not understood."""
    data = read_given(path, what, MOST_CHARACTERS * 4)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InvalidInput(what, str(path), "a text in UTF-8") from error
    return board_from_text(text)


def map_found(board: Board) -> dict[str, Any]:
    """Parts, nets, what is missing, and the next touch."""
    proof = proof_of(board)
    touch = proof.next
    return {
        "parts": [
            {"name": item.name, "kind": item.kind, "ends": {end.leg: end.spot for end in item.ends}, "how": item.how,
             "words": item_words(item)}
            for item in board.items
        ],
        "nets": [
            {"spots": list(net.spots), "proved": net.is_proved, "not_measured": list(net.alone),
             "not_measured_apart_from": list(net.beside)}
            for net in proof.nets
        ],
        "believed": [one.words for one in proof.judged.believed],
        "unexplained": [f"{one.a} to {one.b}" for one in proof.judged.odd],
        "missing": list(compiled(board).missing),
        "cannot_tell": list(cannot_tell(board)),
        "next": None if touch is None else {
            "a": touch.a, "b": touch.b, "expects": touch.expects, "setting": touch.setting.words, "bits": touch.bits,
        },
        "touches_left": proof.left,
    }  # fmt: skip


def spice_of(board: Board, title: str) -> str:
    """The circuit of a board as text that ngspice reads, with its operating point asked for."""
    text = compiled(board, title).text
    checked_circuit(text)
    return text.replace("\n.end\n", "\n.op\n.end\n")


MAP_ARGUMENTS = (
    Option("file", "bench lines (one a line, # comments) or SPICE, or - for standard input", type=Path),
    JSON,
    Option("--spice", "the circuit as SPICE text", action="store_true"),
)


def _map(options: Namespace) -> int:
    board = board_given(options.file, "Map file")
    if options.spice:
        print(spice_of(board, options.file.stem if str(options.file) != "-" else "Traced board"), end="")
        return 0
    found = map_found(board)
    if options.json:
        print(as_json(found))
        return 0
    proved = sum(net["proved"] for net in found["nets"])
    print(f"{len(found['parts'])} parts, {len(board.spots)} spots, {len(found['nets'])} nets, {proved} proved")
    for line in (*found["believed"], *found["missing"], *found["cannot_tell"]):
        print(line)
    if found["next"]:
        touch = found["next"]
        print(
            f"next: {touch['a']} to {touch['b']}, expects {touch['expects']}; {found['touches_left']} touches to proof"
        )
    return 0


SISTER_ARGUMENTS = (
    Option("pairs", "CSV with spot, good, sick and setting, or - for standard input", type=Path),
    Option("--map", "bench lines or SPICE", "FILE", type=Path, required=True),
    JSON,
)


def _pair(board: Board, circuit: Circuit | None, cell: Cells) -> SisterPair:
    spot = board.found_spot(resolved(board, cell("spot"))).name
    good, sick, third = (
        parse_with_unit(cell(name), ("V",), name, "V").value if cell(name) else None
        for name in ("good", "sick", "third")
    )
    if good is None or sick is None:
        raise InvalidInput("Volts", "nothing", "the figures of both units")
    if not all(math.isfinite(one) for one in (good, sick, third or 0.0)):
        raise InvalidInput("Volts", f"{good}, {sick}", "finite figures")
    text = cell("setting")
    if circuit is not None and "=" in text:
        return SisterPair(spot, good, sick, setting_from(text, circuit), third)
    return SisterPair(spot, good, sick, Setting(state=tuple(text.lower().split())), third)


def _sister(options: Namespace) -> int:
    board = board_given(options.map, "--map")
    table = table_of(read_given(options.pairs, "Pairs"), "Pairs", Names(REQUIRED, OPTIONAL))
    differing = differing_of(board)
    circuit = differing.circuit if differing is not None else None
    offered = table.offer(lambda cell: _pair(board, circuit, cell))
    if not offered.found and offered.rejected_count:
        first = offered.rejected[0]
        raise InvalidInput(
            "Pairs", f"no usable row (line {first.line}: {first.reason})", "at least one row of a spot and two volts"
        )
    found = compare(board, offered.found[:MOST_PAIRS], differing)
    result: dict[str, Any] = {
        "ranking": [{"spot": one.spot, "score": one.score} for one in found.ranking],
        "between": list(found.between) if found.between else None,
        "suspects": list(found.suspects), "chances": list(found.chances), "next": found.next,
        "sister_doubts": list(found.doubts), "words": found.words,
        "rejected": [{"line": row.line, "reason": row.reason} for row in offered.rejected],
        "rejected_count": offered.rejected_count,
    }  # fmt: skip
    if options.json:
        print(as_json(result))
        return 0
    for one in found.ranking[:8]:
        print(f"{one.score:6.1f}  {one.spot}")
    print(found.words)
    for line in found.doubts:
        print(line)
    if found.next:
        print(f"next: {found.next}")
    say_rejected(result)
    return 0


COMMANDS = (
    Command("map", "a board's bench lines as a circuit, and the next touch", MAP_ARGUMENTS, _map),
    Command("sister", "a working unit beside the sick one, spot by spot", SISTER_ARGUMENTS, _sister),
)
