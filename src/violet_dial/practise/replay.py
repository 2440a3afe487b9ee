"""An ended exercise looked back over: the job as it stood after any step, for the real stations; all of it is kept meanwhile."""

from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.form import FormReading
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.practise.exercise import PRACTISE, bare, mirrored, secret_of
from violet_dial.practise.forms import only_at_stations


def replay(job: Job, step: int, at: str) -> ActResult:
    """The job as it stood after so many tests and repairs, for the real stations; all of it is kept, and comes back at the end.

    Raises InvalidInput: the exercise has not ended.
    """
    if job.practising.is_open or not job.practising.is_one:
        raise InvalidInput("Replay", "an exercise that goes on", "one that has ended")
    whole = job.practising.whole or job.tracing
    left, epochs, repairs = step, [], 0
    for place, epoch in enumerate(whole.epochs):
        epochs.append(epoch[:left])
        left -= len(epoch) + 1
        if left < 0 or place >= len(whole.repairs):
            break
        repairs += 1
    tracing = replace(whole, epochs=tuple(epochs) or ((),), repairs=whole.repairs[:repairs])
    stands = epochs[-1][-1].evidence.setting if epochs and epochs[-1] else whole.setting
    kept = replace(job.practising, whole=whole, step=step)
    if job.practising.readings:
        return ActResult(_as_then(replace(job, practising=kept), step), PRACTISE, f"Replay: after step {step}")
    return ActResult(
        replace(job, tracing=replace(tracing, setting=stands), practising=kept), PRACTISE, f"Replay: after step {step}"
    )


def end_replay(job: Job, at: str) -> ActResult:
    """The job whole again."""
    practising = job.practising
    left = replace(practising, whole=None, whole_light=None, whole_exposing=None, step=0)
    light, exposing = practising.whole_light or job.light, practising.whole_exposing or job.exposing
    back = replace(job, tracing=practising.whole or job.tracing, light=light, exposing=exposing, practising=left)
    return ActResult(mirrored(back, at), PRACTISE, "Replay left")


def _as_then(job: Job, step: int) -> Job:
    """The job with Light and Expose as they stood after so many readings and repairs; all of theirs is kept."""
    form = secret_of(job.practising.sealed).exercise.form
    if form is None:
        return job
    practising = job.practising
    stood = replace(job, light=practising.whole_light or job.light, exposing=practising.whole_exposing or job.exposing)
    kept = replace(practising, whole_light=stood.light, whole_exposing=stood.exposing)
    until: list[FormReading] = []
    left = step
    for place in range(len((practising.whole or job.tracing).repairs) + 1):
        taken = [bare(reading) for reading in practising.readings if reading.repairs == place]
        until += taken[: max(left, 0)]
        left -= len(taken) + 1
    return replace(only_at_stations(stood, form, tuple(until)), practising=kept)
