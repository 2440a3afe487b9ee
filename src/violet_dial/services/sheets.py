"""The sheet of a job, from document to page."""

from datetime import date

from violet_dial.job.document import Job
from violet_dial.report.sheet import JudgedRun, Sheet, SheetRequest, build_sheet
from violet_dial.services.cautions import LOCAL_RULES, cautions_for
from violet_dial.services.judge import judge_run


def spoken_date(day: date) -> str:
    """A date as written on the sheet: ``3 November 2026``."""
    return f"{day.day} {day.strftime('%B %Y')}"


def sheet_for(job: Job, printed_on: date) -> Sheet:
    """The sheet of a job; runs without readings are left out unless there is nothing else."""
    runs = [run for run in job.light.runs if run.readings] or [job.light.current]
    judged = []
    for run in runs:
        judgement = judge_run(job, run)
        judged.append(JudgedRun(run, judgement.assessment, judgement.verdict))
    cautions = (*((one.title, one.text) for one in cautions_for(job)), ("Above all", LOCAL_RULES))
    return build_sheet(SheetRequest(job, tuple(judged), cautions, spoken_date(printed_on)))
