"""Evidence taken into a job: the door that every station with a figure for Trace goes through."""

from dataclasses import replace

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import set_circuit
from violet_dial.core.diagnosis.evidence import evidence_words, understand_evidence
from violet_dial.core.diagnosis.explain import evidence_said
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import FUNCTION_WORDS, UNITS, Capture
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.tracing import TakenEvidence
from violet_dial.services.circuits import circuit_of


def check_fits(circuit: Circuit, evidence: Evidence) -> None:
    """Whether a circuit has the points that a piece of evidence was taken at.

    Raises InvalidInput: a point or part it has not.
    """
    nodes = {*circuit.nodes, "0"}
    for node in (evidence.plus, evidence.minus):
        if node and node not in nodes:
            raise InvalidInput("Circuit", f"no point {node}", f"the points of the evidence taken: {evidence_words(evidence)}")
    if evidence.part:
        circuit.part(evidence.part)


def type_evidence(job: Job, text: str, at: str, meter: str = "") -> ActResult:
    """Evidence or a change of how the device stands, as typed; ``meter`` is what the connected one is on."""
    typed = understand_evidence(circuit_of(job), text, job.tracing.setting, meter)
    if typed.evidence is None:
        stands = replace(job.tracing, setting=typed.setting)
        return ActResult(replace(job, tracing=stands), "Trace", f"Stands now: {typed.setting.words or 'as usual'}")
    return with_evidence(job, TakenEvidence(typed.evidence, text.strip(), at))


def with_evidence(job: Job, taken: TakenEvidence) -> ActResult:
    """The job with one more piece of evidence."""
    circuit = circuit_of(job)
    check_fits(circuit, taken.evidence)
    set_circuit(circuit, taken.evidence.setting)
    now = (*job.tracing.now, taken)
    tracing = replace(job.tracing, epochs=(*job.tracing.epochs[:-1], now))
    return ActResult(replace(job, tracing=tracing), "Trace", evidence_said(circuit, taken.evidence))


def capture_lines(capture: Capture) -> tuple[str, ...]:
    """A captured reading to be looked at again: instrument, range, value, and the raw samples behind it."""
    unit = UNITS[capture.function]
    scale = f", range {capture.full_scale:g} {unit}" if capture.full_scale else ""
    samples = "; ".join(f"{at:+.2f} s {value:.6g}" for at, value in capture.window)
    return (
        f"{capture.instrument}, {FUNCTION_WORDS[capture.function]}{scale}, {capture.at}",
        f"{capture.value:.6g} {unit}, u = {capture.u:.2g} {unit} (noise, drift and stated accuracy)",
        f"raw window, {unit}: {samples or 'one sample'}",
    )
