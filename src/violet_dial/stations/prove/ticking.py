"""What one key at the jobs screen ticks off: today's exercise."""

from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.stations.prove.rounds_acts import tick_day


def ticked(job: Job) -> Act | None:
    """The act that ticks today off; None where there is no exercise."""
    return None if job.proving.exercise is None else tick_day
