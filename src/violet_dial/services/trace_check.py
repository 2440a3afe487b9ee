"""The diagnosis of a circuit file and a file of evidence, as one JSON object."""

from typing import Any

from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.diagnosis.explain import reasons_for
from violet_dial.core.diagnosis.next_test import Reach, Test, rank_tests
from violet_dial.core.diagnosis.posterior import Case, Diagnostician
from violet_dial.job.evidence_csv import read_evidence
from violet_dial.services.tracing import circuit_from

SUSPECTS = 12


def operate(text: str) -> dict[str, Any]:
    """Operating point of a SPICE text: voltages by node, currents by part (positive from its first node into it)."""
    found = operating_point(circuit_from(text))
    return {"voltages": found.voltages, "currents": found.currents}


def trace(text: str, readings: bytes) -> dict[str, Any]:
    """Suspects, next test and what nothing explains."""
    circuit = circuit_from(text)
    read = read_evidence(readings, circuit)
    case = Case(circuit, (read.evidence,))
    diagnosis = Diagnostician().diagnose(case)
    setting = read.evidence[-1].setting if read.evidence else usual_setting(circuit)
    ranking = rank_tests(diagnosis, setting, Reach(taken=read.evidence))
    suspects = []
    for one in diagnosis.suspects[:SUSPECTS]:
        reasons = reasons_for(case, diagnosis, one)
        suspects.append(
            {
                "part": " and ".join(fault.part for fault in one.faults),
                "mode": " and ".join(fault.mode for fault in one.faults),
                "words": one.words, "probability": one.probability, "for": list(reasons.pro), "against": list(reasons.con),
            }
        )  # fmt: skip
    return {
        "suspects": suspects,
        "healthy": diagnosis.healthy,
        "entropy_bits": diagnosis.entropy_bits,
        "next": _as_json(ranking.tests[0]) if ranking.tests else None,
        "other_tests": [_as_json(test) for test in ranking.tests[1:5]],
        "groups": [list(group) for group in ranking.groups],
        "unexplained": [evidence_words(one) for one in diagnosis.unexplained],
        "rejected": [{"line": row.line, "reason": row.reason} for row in read.rejected],
    }


def _as_json(test: Test) -> dict[str, Any]:
    ask = test.ask
    return {
        "test": ask.test, "plus": ask.plus or ask.part, "minus": ask.minus, "setting": ask.setting.words, "bits": test.bits,
        "minutes": test.minutes, "opens": list(test.opens), "healthy": test.healthy,
        "outcomes": [
            {"shows": one.words, "probability": one.probability, "leaves": [list(pair) for pair in one.leaves]}
            for one in test.outcomes
        ],
    }  # fmt: skip
