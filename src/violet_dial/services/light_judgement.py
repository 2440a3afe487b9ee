"""The judgement on a job's current run, kept for as long as nothing it rests on changes."""

import math
from dataclasses import dataclass
from functools import lru_cache

from violet_dial.core.calibration.assess import Assessment, CheckPlan, assess
from violet_dial.core.calibration.next_reading import NextReading, suggest_next
from violet_dial.core.calibration.verdict import Verdict, decide
from violet_dial.core.circuit.trade import figure, kind_of
from violet_dial.core.errors import VioletDialError
from violet_dial.core.records.light import DEFAULT_U_REFERENCE
from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.services.circuits import circuit_from, circuit_text_of
from violet_dial.services.remembered import remembered

USUAL_GAMMA = 0.7  # of a CdS cell; common practice, no source


@dataclass(frozen=True)
class LightJudgement:
    """What the readings say, the verdict, and which reading would tell most."""

    assessment: Assessment
    verdict: Verdict
    next_reading: NextReading


def judge(job: Job) -> LightJudgement:
    """Judgement on the current run of the job."""
    return judge_run(job, job.light.current)


@remembered(lambda job, run: (run.readings, job.light.setup, circuit_text_of(job)))
def judge_run(job: Job, run: Run) -> LightJudgement:
    """Judgement on any run of the job, by the job's present set-up."""
    setup = job.light.setup
    plan = CheckPlan(
        setup.tolerance, setup.adjuster, setup.range_from_ev100, setup.range_to_ev100, gamma_of(circuit_text_of(job))
    )
    readings = run.bare
    assessment = assess(readings, plan)
    u_reference = readings[-1].u_reference if readings else DEFAULT_U_REFERENCE
    suggestion = suggest_next(assessment, plan, math.hypot(setup.u_reading, u_reference))
    return LightJudgement(assessment, decide(assessment), suggestion)


@lru_cache(maxsize=16)
def gamma_of(circuit_text: str) -> float:
    """Gamma of the CdS cell of the job's circuit, where it has one: what is fixed in current is so behind it; else 1."""
    if "cds" not in circuit_text.lower():
        return 1.0
    try:
        circuit = circuit_from(circuit_text)
    except VioletDialError:
        return 1.0  # Trace says what is wrong with the circuit
    cells = [part for part in circuit.parts if kind_of(circuit, part) == "cds"]
    return figure(circuit, cells[0].name, "gamma", USUAL_GAMMA) if cells else 1.0
