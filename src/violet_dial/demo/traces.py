"""Faults traced in the demo jobs, at different stages; told through the observatory's devices. All of it is invented."""

from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.task import SilentTask
from violet_dial.job.document import Job
from violet_dial.services import opening, receiving
from violet_dial.services.acts import Done
from violet_dial.services.receiving import Seen
from violet_dial.services.tracing import choose_circuit, record_fix, templates, type_evidence, work_out
from violet_dial.services.workshop import Act, Workshop


def _begin(workshop: Workshop, job_id: str, stem: str) -> None:
    template = next(one for one in templates() if one.stem == stem)
    workshop.perform(job_id, lambda job, at: choose_circuit(job, template.title, template.text, at))


def _typing(line: str) -> Act:
    return lambda job, at: type_evidence(job, line, at)


def _type(workshop: Workshop, job_id: str, *lines: str) -> None:
    for line in lines:
        workshop.perform(job_id, _typing(line))


def _see(workshop: Workshop, job_id: str, *found: Seen) -> None:
    for seen in found:
        workshop.perform(job_id, _placing(seen))


def _placing(seen: Seen) -> Act:
    return lambda job, at: receiving.place_finding(job, seen, at)


def _fix_first(workshop: Workshop, job_id: str, words: str) -> None:
    """Put right the likeliest suspect, as the station names it."""
    result = work_out(workshop.view(job_id).job, Diagnostician(), SilentTask())
    fault = result.diagnosis.suspects[0].faults[0]
    workshop.perform(job_id, lambda job, at: record_fix(job, fault, words, at))


def corroded_reflex(workshop: Workshop, job_id: str) -> None:
    """A dead needle: half a volt where 1.35 belongs, green crust at the battery cover; one reading from the answer."""
    _see(
        workshop, job_id,
        Seen("green crust", "bottom", 0.28, 0.50, "a patch", "at the clip, going on under the plate"),
        Seen("white crust", "bottom", 0.30, 0.58, "a spot", "dry"),
    )  # fmt: skip
    workshop.perform(job_id, _cover_off)
    _begin(workshop, job_id, "cds-series")
    _type(workshop, job_id, "clip+ to gnd 1.36 V", "needle at 2 %", "sw to gnd 0.08 V")


def _cover_off(job: Job, at: str) -> Done:
    job = opening.take_step(job, "screw x3 base plate M1.7x4 cross black rh -> A1", at).job
    return opening.take_step(job, "base plate -> A2", at)


def sleepy_instant(workshop: Workshop, job_id: str) -> None:
    """No lamps: just begun, the next test is the station's own."""
    _begin(workshop, job_id, "silicon-lamps")
    _type(workshop, job_id, "s2 pressed", "slow lamp dark", "over lamp dark", "shutter magnet dead")


def bridge_repaired(workshop: Workshop, job_id: str) -> None:
    """A bridge whose green wire was open; put right, and the needle follows again."""
    _begin(workshop, job_id, "cds-bridge")
    _type(workshop, job_id, "clip+ to gnd 1.52 V", "10 lx", "needle dead", "left to gnd 0.08 V", "coil+ to gnd 0.75 V")
    _fix_first(workshop, job_id, "green wire of the bridge renewed")
    _type(workshop, job_id, "coil+ to gnd 0.09 V", "1000 lx")


def dead_clip_meter(workshop: Workshop, job_id: str) -> None:
    """A selenium meter that does not move: cell voltage there, nothing at the coil; found at the cell ring."""
    _begin(workshop, job_id, "selenium-movement")
    _type(workshop, job_id, "needle dead", "cell to gnd 0.42 V", "ring to gnd 0.00 V")
