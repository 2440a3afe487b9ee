"""A function tried: in the walk at Receive, and at the test stops on the way back."""

from dataclasses import replace

from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.receiving import TakenTrial


def record_trial(job: Job, trial: TakenTrial, at: str) -> ActResult:
    """One act of the function walk as tried."""
    have = job.receiving.trials
    taken = replace(trial, at=at, note=trial.note.strip())
    setting = f" at {trial.setting}" if trial.setting else ""
    reason = f"{trial.act.capitalize()}{setting}, {trial.supply}: {trial.result}" + f" ({taken.note})" * bool(
        taken.note
    )
    return ActResult(replace(job, receiving=replace(job.receiving, trials=(*have, taken))), "Receive", reason)
