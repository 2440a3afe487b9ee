"""Firings and test shots as CSV; recordings and tables of either taken in."""

import csv
import io
from typing import Protocol, runtime_checkable

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import doubt_said, measured_said, time_said
from violet_dial.core.exposure.trim import TestShot
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, table_of
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired, ShotTaken
from violet_dial.services.job_shutter import channels_of
from violet_dial.services.recordings import MOST_BYTES, recording_of
from violet_dial.services.shutter import picture_of, shutter_of
from violet_dial.services.station import FileIn, FileOut, Listing
from violet_dial.stations.expose.acts import fired_of, nearest_speed, taking

KINDS = "A recording behind the shutter (*.wav *.flac *.ogg *.csv)"
OUT_KINDS = "Firings as CSV (*.csv);;The last live recording (*.wav)"
FIRED = ("marked_s", "time_s", "u_s", "stops", "rise_s", "fall_s", "first_s", "second_s", "taper_stops", "source", "at")
SHOTS = ("wheel", "slider", "scene", "flash", "stops")
REQUIRED, OPTIONAL = ("wheel", "stops"), ("slider", "scene", "flash")
SCENES = ("outdoors", "indoors")
YES, NO = ("yes", "on", "1", "true"), ("no", "off", "0", "false", "")


@runtime_checkable
class Recorder(Protocol):
    """What holds a live recording."""

    def recorded(self) -> bytes | None:
        """What was recorded last, as WAV; None where nothing was."""


def write_fired(fired: tuple[Fired, ...]) -> str:
    """Firings, a row each; empty where something was not seen."""
    from violet_dial.core.exposure.ladder import Timed

    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(FIRED)
    for one in fired:
        stops = Timed(one.marked_s, one.time_s).stops
        seen = (one.rise_s, one.fall_s, one.first_s, one.second_s, one.taper_stops)
        known = ("" if value is None else f"{value:.6g}" for value in seen)
        writer.writerow(
            (f"{one.marked_s:.9g}", f"{one.time_s:.6g}", f"{one.u_s:.3g}", f"{stops:.4f}", *known, one.source, one.at)
        )
    return out.getvalue()


def write_shots(shots: tuple[ShotTaken, ...]) -> str:
    """Test shots with the columns `read_shots` knows."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(SHOTS)
    for shot in shots:
        writer.writerow((f"{shot.wheel:g}", f"{shot.slider:g}", shot.scene, "yes" if shot.flash else "no", f"{shot.stops:g}"))
    return out.getvalue()


def read_shots(data: bytes) -> tuple[TestShot, ...]:
    """Shots from the bytes of a CSV, in the order they were made; none where it is only its first line.

    Raises InvalidInput: not such a table, or a row that cannot be understood, by its line.
    """
    offered = table_of(data, "Shots", Names(REQUIRED, OPTIONAL)).offer(_shot)
    if offered.rejected:
        first = offered.rejected[0]
        raise InvalidInput("Shots", f"line {first.line}", f"rows that can be understood ({first.reason})")
    return offered.found


def _shot(cell: Cells) -> TestShot:
    scene, flash = cell("scene").lower() or SCENES[0], cell("flash").lower()
    if scene not in SCENES:
        raise InvalidInput("scene", scene, " or ".join(SCENES))
    if flash not in (*YES, *NO):
        raise InvalidInput("flash", flash, "yes or no")
    slider = parse_number(cell("slider"), "slider") if cell("slider") else 0.0
    stops = parse_number(cell("stops"), "stops")
    return TestShot(parse_number(cell("wheel"), "wheel"), slider, stops, scene, flash in YES)  # type: ignore[arg-type]


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
    """Every firing of a recording, each put to the speed it is nearest to."""
    recording = recording_of(data, name)
    channels = channels_of(job, len(recording.names))
    read = shutter_of(recording, channels)
    lights = [place for place, role in enumerate(channels.roles) if role == "light"]
    place = lights[len(lights) // 2] if lights else channels.roles.index("sound")
    fired = tuple(
        fired_of(one, nearest_speed(job, one.firing.time_s), name, picture_of(recording, place, one.firing)) for one in read.seen
    )
    lines = tuple(
        f"{one.firing.open_s:.3f} s\t{measured_said(put.time_s)} ± {doubt_said(2 * put.u_s)}, put to {time_said(put.marked_s)}"
        for one, put in zip(read.seen, fired, strict=True)
    )
    seconds = recording.count / recording.rate_hz
    said = f"{len(fired)} firings in {seconds:.1f} s at {recording.rate_hz:g} Hz"
    if read.notes:
        said = f"{said}; {'; '.join(read.notes)}"
    return Listing(
        f"Firings in {name}", said, (("Firings, each put to the nearest speed", lines),), len(fired), "firings"
    ), taking(fired)


def _written(job: Job, name: str, part: object) -> bytes:
    if name.lower().endswith(".wav"):
        recorded = part.recorded() if isinstance(part, Recorder) else None
        if recorded is None:
            raise InvalidInput("Recording", "none", "a live recording: arm the sound card (F8) and fire first")
        return recorded
    return write_fired(job.exposing.fired).encode()


FILE_IN = FileIn("Firings from a recording", KINDS, _offered, most_bytes=MOST_BYTES)
FILE_OUT = FileOut(
    "Write the firings as CSV, or the last live recording", OUT_KINDS, lambda job: f"job-{job.label}-firings.csv", _written
)
