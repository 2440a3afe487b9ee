"""Every word a person wrote in a job, for searching."""

from violet_dial.job.document import Job
from violet_dial.services.station import Station


def written_text(job: Job, stations: tuple[Station, ...]) -> str:
    """The words of a job, gathered from the stations, one to a line."""
    words = [job.label, job.waits_for]
    for station in stations:
        words.extend(station.words(job))
    return "\n".join(word for word in words if word)
