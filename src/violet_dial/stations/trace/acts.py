"""Acts at Trace: circuit, evidence, repairs; and the case they make."""

import math
from dataclasses import replace

from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.from_spice import board_from_spice, laid_over
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Fault, Prefer
from violet_dial.core.steady.samples import Capture
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.tracing import PinnedNode, TakenEvidence, TakenRepair, Tracing
from violet_dial.services.circuits import circuit_from, circuit_of, has_circuit
from violet_dial.services.evidence import check_fits, with_evidence


def _with(job: Job, tracing: Tracing) -> Job:
    return replace(job, tracing=tracing)


def choose_circuit(job: Job, name: str, text: str, at: str) -> ActResult:
    """Begin from a circuit, or edit the one there is; evidence stays."""
    circuit = circuit_from(text)
    for epoch in job.tracing.epochs:
        for taken in epoch:
            check_fits(circuit, taken.evidence)
    begun = has_circuit(job)
    setting = job.tracing.setting if begun else usual_setting(circuit)
    board = job.tracing.board
    if not board.is_empty:  # what was traced keeps its places on the photos
        board = laid_over(board_from_spice(text), board)
        text = ""  # the circuit is made of the map
    tracing = replace(job.tracing, circuit_name=name, circuit_text=text, setting=setting, board=board)
    reason = f"Circuit {'edited' if begun and name == job.tracing.circuit_name else 'chosen'}: {name}, {len(circuit.parts)} parts"
    return ActResult(_with(job, tracing), "Trace", reason)


def captured_evidence(ask: Evidence, capture: Capture) -> Evidence:
    """The answer to a test from an instrument: beyond the range on ohms is an open circuit, and ohms say more than a beep."""
    ask = replace(ask, test="ohm") if ask.test == "continuity" else ask
    beyond = ask.test == "ohm" and capture.value >= OVERLOAD_OHM
    value = OVERLOAD_OHM if beyond else capture.value
    return replace(ask, value=value if ask.test == "volt" else abs(value), u=0.0 if beyond else capture.u)


def take_evidence(job: Job, evidence: Evidence, at: str, capture: Capture | None = None) -> ActResult:
    """Evidence of the test that Next asked for; the device stands as the test wanted."""
    if capture is not None and capture.value == math.inf:
        capture = replace(capture, value=OVERLOAD_OHM)
    taken = with_evidence(job, TakenEvidence(evidence, "", at, capture))
    stands = evidence.setting if evidence.test not in ("ohm", "continuity") else replace(evidence.setting, supply="off")
    return ActResult(_with(taken.job, replace(taken.job.tracing, setting=stands)), "Trace", taken.reason)


def add_evidence(job: Job, evidence: tuple[Evidence, ...], source: str, at: str) -> ActResult:
    """Evidence from a file, taken whole or not at all."""
    done = ActResult(job, "Trace", "")
    for piece in evidence:
        done = with_evidence(done.job, TakenEvidence(piece, f"from {source}", at))
    return ActResult(done.job, "Trace", f"{len(evidence)} pieces of evidence from {source}")


def strike_evidence(job: Job, index: int, at: str) -> ActResult:
    """One piece of evidence left out; the log and undo still have it."""
    now = job.tracing.now
    if not 0 <= index < len(now):
        raise InvalidInput("Evidence", index + 1, f"1 to {len(now)}")
    tracing = replace(job.tracing, epochs=(*job.tracing.epochs[:-1], now[:index] + now[index + 1 :]))
    return ActResult(_with(job, tracing), "Trace", f"Struck out: {evidence_words(now[index].evidence)}")


def record_fix(job: Job, fault: Fault, words: str, at: str, place: int = 0) -> ActResult:
    """A fault put right: what was measured so far was with it; other suspects live on. ``place`` it had among them, from 1."""
    circuit_of(job).part(fault.part)
    repair = TakenRepair(fault, words, at, place)
    tracing = replace(job.tracing, repairs=(*job.tracing.repairs, repair), epochs=(*job.tracing.epochs, ()))
    return ActResult(_with(job, tracing), "Trace", f"Put right: {words}")


def pin_spot(job: Job, spot: PinnedNode, at: str) -> ActResult:
    """A point of the circuit pinned on the map."""
    rest = tuple(one for one in job.tracing.pinned if one.node != spot.node)
    return ActResult(_with(job, replace(job.tracing, pinned=(*rest, spot))), "Trace", f"{spot.node} pinned on the map")


def turn_preference(job: Job, at: str) -> ActResult:
    """Rank tests by what they tell in a minute, or by what they tell alone."""
    prefer: Prefer = "fewest tests" if job.tracing.prefer == "least minutes" else "least minutes"
    return ActResult(_with(job, replace(job.tracing, prefer=prefer)), "Trace", f"Next test chosen for {prefer}")
