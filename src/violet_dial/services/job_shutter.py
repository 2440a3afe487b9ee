"""What shutter a job's device has: how it works, the speeds on its dial, what a recording of it is of."""

from violet_dial.core.exposure.pattern import Works
from violet_dial.core.light.marks import time_marks
from violet_dial.job.document import Job
from violet_dial.services.shutter import Channels, channels_said

FASTEST: dict[Works, float] = {"leaf": 2.0**-9, "focal plane": 2.0**-10, "electronic": 2.0**-9}
SLOWEST_S = 1.0
USUAL_WORKS: dict[str, Works] = {
    "reflex": "focal plane", "rangefinder": "focal plane", "rangefinder compact": "leaf", "instant camera": "electronic",
}  # fmt: skip


def works_of(job: Job) -> Works:
    """How the shutter works: as said, else as is usual for the kind of device."""
    return job.exposing.works or USUAL_WORKS.get(job.device.kind, "leaf")


def has_shutter(job: Job) -> bool:
    """Whether there is a shutter to fire: cameras have one, hand meters have none unless speeds were said."""
    return job.device.kind != "hand meter" or bool(job.exposing.speeds or job.exposing.fired)


def speeds_of(job: Job) -> tuple[float, ...]:
    """True times of the marks on its dial, s, slowest first; the usual of its kind where none were said."""
    if job.exposing.speeds:
        return job.exposing.speeds
    if not has_shutter(job):
        return ()
    fastest = FASTEST[works_of(job)]
    return tuple(mark.true_value for mark in time_marks() if fastest * 0.99 <= mark.true_value <= SLOWEST_S * 1.01)


def channels_of(job: Job, count: int) -> Channels:
    """What the channels of a recording are of: as said, else light at every sensor where there are as many, else at the first.

    Raises InvalidInput: what was said does not fit so many channels.
    """
    exposing = job.exposing
    sensors = exposing.sensors_mm if len(exposing.sensors_mm) == count else ()
    text = exposing.channels or ("travel" if sensors and count > 1 else "light")
    lights = channels_said(text, count, exposing.frame_mm)
    if lights.frame is not None and len(exposing.sensors_mm) == len(lights.frame.sensors_mm):
        return channels_said(text, count, exposing.frame_mm, exposing.sensors_mm)
    return lights


def card_channels(job: Job) -> int:
    """How many channels a sound card is to bring: those that were said, else one for each sensor."""
    said = [word for word in job.exposing.channels.split(",") if word.strip()]
    return len(said) if said and said != ["travel"] else max(len(job.exposing.sensors_mm), 1)
