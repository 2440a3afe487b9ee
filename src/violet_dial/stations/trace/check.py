"""The commands ``trace`` and ``bench``: the faults of a circuit ranked, its simulated instruments served."""

from argparse import Namespace
from pathlib import Path
from typing import Any

from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.diagnosis.explain import reasons_for
from violet_dial.core.diagnosis.next_test import Test, rank_tests
from violet_dial.core.diagnosis.posterior import Case, Diagnostician
from violet_dial.core.errors import InvalidInput
from violet_dial.services.circuits import circuit_from
from violet_dial.services.files import circuit_given, read_given
from violet_dial.services.plain import as_json, say_rejected
from violet_dial.services.station import JSON, Command, Option
from violet_dial.stations.trace.table import read_evidence

SUSPECTS = 12


def trace(text: str, readings: bytes) -> dict[str, Any]:
    """Suspects, next test and what nothing explains."""
    circuit = circuit_from(text)
    read = read_evidence(readings, circuit)
    if not read.evidence and read.rejected_count:
        raise InvalidInput("--readings", f"no usable row (line {read.rejected[0].line}: {read.rejected[0].reason})",
                           "at least one row that can be understood; without evidence leave the table empty")  # fmt: skip
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
        "fit": {
            "misfit": diagnosis.fitting.misfit,
            "chance": diagnosis.fitting.chance,
            "bad": diagnosis.fitting.is_bad,
        },
        "entropy_bits": diagnosis.entropy_bits,
        "next": _as_json(ranking.tests[0]) if ranking.tests else None,
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
    if result["next"]:
        test = result["next"]
        where = " ".join(part for part in (test["plus"], test["minus"], test["setting"]) if part)
        print(f"next: {test['test']} {where} ({test['bits']:.2f} bit, {test['minutes']:.1f} min)")
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
