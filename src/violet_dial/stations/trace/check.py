"""The commands ``trace``, ``bench``, ``map`` and ``sister``: faults ranked, simulated instruments served, bench lines as a
circuit, a good unit beside the sick one.
"""

import math
from argparse import Namespace
from pathlib import Path
from typing import Any

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.diagnosis.explain import reasons_for, warnings_of
from violet_dial.core.diagnosis.next_test import Test, rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.boxes import cannot_tell
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.doubts import Networks
from violet_dial.core.mapping.lines import item_words
from violet_dial.core.mapping.names import resolved
from violet_dial.core.mapping.sister import SisterPair, compare, differing_of
from violet_dial.core.mapping.taken import reading_of
from violet_dial.core.mapping.text import MOST_CHARACTERS, board_from_text
from violet_dial.core.mapping.touching import proof_of
from violet_dial.core.quantities import parse_with_unit
from violet_dial.core.records.circuit import Setting
from violet_dial.job.csv_text import Cells, Names, table_of
from violet_dial.services.circuits import circuit_from
from violet_dial.services.files import circuit_given, read_given
from violet_dial.services.station import JSON, Command, Option, as_json, say_rejected
from violet_dial.stations.trace.said import ending
from violet_dial.stations.trace.table import read_evidence, setting_from

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
    networks = Networks(board)
    read = [reading_of(board, one, networks) for one in board.touches]
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
        "contradictions": [f"{one.touch.a} to {one.touch.b}: {one.words}" for one in read if one.is_odd],
        "unexplained": [f"{one.a} to {one.b}" for one in proof.judged.odd],
        "missing": list(compiled(board).missing),
        "cannot_tell": list(cannot_tell(board)),
        "next": None if touch is None else {
            "a": touch.a, "b": touch.b, "over": list(touch.over), "expects": touch.expects,
            "setting": touch.setting.words, "bits": touch.bits,
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
    unexplained = [f"nothing on the map explains {pair}" for pair in found["unexplained"]]
    for line in (*found["contradictions"], *unexplained, *found["believed"], *found["missing"], *found["cannot_tell"]):
        print(line)
    if found["next"]:
        touch = found["next"]
        stands = f" with {touch['setting']}" if touch["setting"] else ""
        spots = ", ".join((touch["b"], *touch["over"]))
        print(f"next: {touch['a']} to {spots}{stands}, expects {touch['expects']}; {found['touches_left']} touches to proof")
    return 0


SISTER_ARGUMENTS = (
    Option("pairs", "CSV with spot, good, sick and setting, or - for standard input", type=Path),
    Option("--map", "bench lines or SPICE", "FILE", type=Path, required=True),
    JSON,
)


def _pair(board: Board, circuit: Circuit | None, cell: Cells) -> SisterPair:
    spot = board.found_spot(resolved(board, cell("spot"))).name
    good, sick, third = (
        parse_with_unit(cell(name), ("V",), name, "V").value if cell(name) else None for name in ("good", "sick", "third")
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


MAP_COMMANDS = (
    Command("map", "a board's bench lines as a circuit, and the next touch", MAP_ARGUMENTS, _map),
    Command("sister", "a working unit beside the sick one, spot by spot", SISTER_ARGUMENTS, _sister),
)


SUSPECTS = 12


def trace(text: str, readings: bytes) -> dict[str, Any]:
    """Suspects, next test and what nothing explains."""
    circuit = circuit_from(text)
    read = read_evidence(readings, circuit)
    if not read.evidence and read.rejected_count:
        first = read.rejected[0]
        wanted = (
            f"at least one row that can be understood; without evidence leave the table empty (line {first.line}: {first.reason})"
        )
        raise InvalidInput("--readings", "no usable row", wanted)
    case = Case(circuit, (read.evidence,))
    diagnosis = Diagnostician().diagnose(case)
    setting = read.evidence[-1].setting if read.evidence else usual_setting(circuit)
    ranking = rank_tests(diagnosis, setting, Reach(taken=read.evidence))
    suspects = []
    for suspect in diagnosis.suspects[:SUSPECTS]:
        reasons = reasons_for(case, diagnosis, suspect)
        suspects.append(
            {
                "part": " and ".join(fault.part for fault in suspect.faults),
                "mode": " and ".join(fault.mode for fault in suspect.faults),
                "words": suspect.words, "probability": suspect.probability, "for": list(reasons.pro),
                "against": list(reasons.con),
            }
        )  # fmt: skip
    return {
        "suspects": suspects,
        "healthy": diagnosis.healthy,
        "not_on_the_list": diagnosis.unlisted,
        "fit": {"misfit": diagnosis.fitting.misfit, "chance": diagnosis.fitting.chance, "bad": diagnosis.fitting.is_bad},
        "entropy_bits": diagnosis.entropy_bits,
        "warnings": list(warnings_of(diagnosis)),
        "next": _as_json(ranking.tests[0]) if ranking.tests else None,
        "ending": None if ranking.tests else " - ".join(ending(diagnosis, ranking)),
        "other_tests": [_as_json(test) for test in ranking.tests[1:5]],
        "groups": [list(group) for group in ranking.groups],
        "unexplained": [evidence_words(one) for one in diagnosis.unexplained],
        "rejected": [{"line": row.line, "reason": row.reason} for row in read.rejected],
        "rejected_count": read.rejected_count,
    }


def _as_json(test: Test) -> dict[str, Any]:
    ask = test.ask
    return {
        "test": ask.test, "plus": ask.plus or ask.part, "minus": ask.minus, "setting": ask.setting.words, "bits": test.bits,
        "minutes": test.minutes, "opens": list(test.opens), "healthy": test.healthy,
        "outcomes": [
            {"shows": outcome.words, "probability": outcome.probability, "leaves": [list(pair) for pair in outcome.leaves]}
            for outcome in test.outcomes
        ],
    }  # fmt: skip


TRACE_ARGUMENTS = (
    Option("file", "a circuit as SPICE text, or - for standard input", type=Path),
    JSON,
    Option("--include", "take in the files beside it that it includes", action="store_true"),
    Option("--readings", "", "FILE.csv", type=Path, required=True),
)


def _trace(options: Namespace) -> int:
    text = circuit_given(options.file, "Circuit file", options.include)
    result = trace(text, read_given(options.readings, "--readings"))
    if options.json:
        print(as_json(result))
        return 0
    for one in result["suspects"][:6]:
        print(f"{one['probability']:6.1%}  {one['words']}")
    print(f"{result['healthy']:6.1%}  no fault")
    for warning in result["warnings"]:
        print(warning)
    if result["next"]:
        test = result["next"]
        where = " ".join(part for part in (test["plus"], test["minus"], test["setting"]) if part)
        print(f"next: {test['test']} {where} ({test['bits']:.2f} bit, {test['minutes']:.1f} min)")
    else:
        print(f"next: {result['ending']}")
    say_rejected(result)
    return 0


BENCH_ARGUMENTS = (
    Option("--circuit", "", "FILE.cir", type=Path, required=True),
    Option("--fault", "for instance 'Rwred:high resistance:22k'", "PART:MODE"),
    Option("--port", "port on 127.0.0.1 (default: any free one)", "", 0, type=int),
    Option("--seed", "of the noise (default 1)", "", 1, type=int),
)


def _bench(options: Namespace) -> int:
    from violet_dial.instruments.simulated.bench import SimulatedBench
    from violet_dial.instruments.simulated.device import DeviceUnderTest, hidden_fault
    from violet_dial.instruments.simulated.server import BenchServer

    circuit = circuit_from(circuit_given(options.circuit, "--circuit", takes_includes=False))
    fault = hidden_fault(circuit, options.fault) if options.fault else None
    server = BenchServer(SimulatedBench(DeviceUnderTest(circuit, fault), options.seed), options.port)
    print(f"127.0.0.1:{server.port} ready, as VISA {server.address}; Ctrl+C ends it", flush=True)
    try:
        server.serve()
    except KeyboardInterrupt:
        return 0
    finally:
        server.close()
    return 0


COMMANDS = (
    Command("trace", "suspects and next test from a circuit and a CSV of evidence", TRACE_ARGUMENTS, _trace),
    Command("bench", "simulated instruments at a circuit with a hidden fault, on loopback", BENCH_ARGUMENTS, _bench),
)
