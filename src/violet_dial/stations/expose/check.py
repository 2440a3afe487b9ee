"""The command ``shutter``: every firing in a recording, against the mark it was fired at."""

from argparse import Namespace
from pathlib import Path
from statistics import fmean, stdev

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.ladder import Timed
from violet_dial.core.exposure.said import doubt_said, measured_said
from violet_dial.core.light.marks import parse_time
from violet_dial.core.quantities import format_signed, parse_number
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.recordings import MOST_BYTES, recording_of
from violet_dial.services.shutter import USUAL_FRAME_MM, FiringSeen, ShutterReadout, channels_said, shutter_of
from violet_dial.services.station import JSON, Command, Option
from violet_dial.stations.expose import check_lamps, check_pictures, check_scope, check_shots

ARGUMENTS = (
    Option("file", "WAV, FLAC, Ogg Vorbis, or CSV of time and volts; - is standard input", type=Path),
    Option("--marked", "the mark it was fired at", "1/125", ""),
    Option(
        "--channels",
        "light (default: the first channel), travel (light at each), or one for each: light,flash · sound · none",
        "WORDS",
        "",
    ),
    Option("--frame", "along the curtains' way (default 36)", "MM", f"{USUAL_FRAME_MM:g}"),
    Option("--sensors", "where the sensors sit along it", "MM,MM,..", ""),
    JSON,
)


def _run(options: Namespace) -> int:
    marked = _marked(options.marked)
    recording = recording_of(read_given(options.file, "Recording", MOST_BYTES), options.file.name)
    sensors = tuple(parse_number(part, "--sensors") for part in options.sensors.split(",") if part.strip())
    channels = channels_said(options.channels, len(recording.names), parse_number(options.frame, "--frame"), sensors)
    read = shutter_of(recording, channels)
    if options.json:
        print(as_json({
            "firings": [_plain(one, marked) for one in read.seen], "summary": _summary(read, marked),
            "rate_hz": recording.rate_hz, "notes": list(read.notes),
        }))  # fmt: skip
        return 0
    for number, one in enumerate(read.seen, 1):
        print(f"{number}: {_said(one, marked)}")
    for note in read.notes:
        print(note)
    return 0


def _marked(text: str) -> float | None:
    if not text:
        return None
    value, _ = parse_time(text)
    if not 2e-5 <= value <= 120:
        raise InvalidInput("--marked", text, "a time from 1/50 000 to 120 s")
    return value


def _stops(one: FiringSeen, marked: float | None) -> float | None:
    return None if marked is None else Timed(marked, one.firing.time_s, min(one.firing.u_s, one.firing.time_s)).stops


def _plain(one: FiringSeen, marked: float | None) -> dict[str, object]:
    firing = one.firing
    found: dict[str, object] = {
        "open_s": firing.open_s,
        "close_s": firing.close_s, "time_s": firing.time_s, "u_s": firing.u_s, "stops": _stops(one,
        marked), "by_sound": one.by_sound,
    }  # fmt: skip
    if not one.by_sound:
        found |= {
            "rise_s": firing.rise_s, "fall_s": firing.fall_s, "full_s": firing.full_s, "efficiency": firing.efficiency,
            "amplitude": firing.amplitude,
        }  # fmt: skip
    if one.passage is not None:
        curtains = one.passage
        found["curtains"] = {
            "first_travel_s": curtains.first_s, "second_travel_s": curtains.second_s, "places_mm": list(curtains.places_mm),
            "times_s": list(curtains.times_s), "slits_mm": list(curtains.slits_mm), "taper_stops": curtains.taper_stops,
            "u_taper_stops": curtains.u_taper_stops, "capped": curtains.capped, "words": curtains.words,
        }  # fmt: skip
    if one.sync is not None:
        found["flash"] = {
            "after_full_s": one.sync.after_full_s, "left_open_s": one.sync.left_open_s, "right": one.sync.right,
            "bounces": one.bounces,
        }  # fmt: skip
    return found


def _summary(read: ShutterReadout, marked: float | None) -> dict[str, object]:
    times = [one.firing.time_s for one in read.seen]
    stops = [value for one in read.seen if (value := _stops(one, marked)) is not None]
    return {
        "count": len(times), "mean_time_s": fmean(times), "mean_stops": fmean(stops) if stops else None,
        "scatter_stops": stdev(stops) if len(stops) > 1 else None, "marked_s": marked,
    }  # fmt: skip


def _said(one: FiringSeen, marked: float | None) -> str:
    firing = one.firing
    stops = _stops(one, marked)
    off = "" if stops is None else f", {format_signed(stops, 2)} stop"
    said = f"at {firing.open_s:.4f} s, {measured_said(firing.time_s)} ± {doubt_said(2 * firing.u_s)}{off}"
    if one.passage is not None:
        said += f"; {one.passage.words}"
    if one.sync is not None:
        when = "right" if one.sync.right else "not while it is fully open"
        said += f"; flash contact {when} ({measured_said(abs(one.sync.after_full_s))}, {one.bounces} bounces)"
    return said


COMMANDS = (
    Command("shutter", "every firing of a shutter in a recording", ARGUMENTS, _run),
    *check_scope.COMMANDS,
    *check_shots.COMMANDS,
    *check_lamps.COMMANDS,
    *check_pictures.COMMANDS,
)
