"""The judgement on a job's current run, kept for as long as nothing it rests on changes."""

import math
from dataclasses import dataclass
from functools import lru_cache

from violet_dial.core.calibration.assess import Assessment, Plan, assess
from violet_dial.core.calibration.next_reading import NextReading, suggest_next
from violet_dial.core.calibration.readings import DEFAULT_U_REFERENCE, Reading
from violet_dial.core.calibration.verdict import Verdict, decide
from violet_dial.job.document import Job
from violet_dial.job.light import Run


@dataclass(frozen=True)
class Judgement:
    """What the readings say, the verdict, and which reading would tell most."""

    assessment: Assessment
    verdict: Verdict
    next_reading: NextReading


def judge(job: Job) -> Judgement:
    """Judgement on the current run of the job."""
    return judge_run(job, job.light.current)


def judge_run(job: Job, run: Run) -> Judgement:
    """Judgement on any run of the job, by the job's present set-up."""
    return _judge(run.bare, job.light.setup.plan, job.light.setup.u_reading)


@lru_cache(maxsize=64)
def _judge(readings: tuple[Reading, ...], plan: Plan, u_reading: float) -> Judgement:
    assessment = assess(readings, plan)
    u_reference = readings[-1].u_reference if readings else DEFAULT_U_REFERENCE
    suggestion = suggest_next(assessment, plan, math.hypot(u_reading, u_reference))
    return Judgement(assessment, decide(assessment), suggestion)
