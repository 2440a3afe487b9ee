"""The commands ``shutter``, ``scope``, ``trim``, ``lamps`` and ``compare``: recordings, test shots, lamps, pictures."""

from argparse import Namespace
from dataclasses import asdict
from pathlib import Path
from statistics import fmean, stdev

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.ladder import Timed
from violet_dial.core.exposure.lamps import SEEN, LampObservation, Lamps, Law, Threshold, cause_said, lamps
from violet_dial.core.exposure.said import aperture_said, doubt_said, measured_said, weight_said
from violet_dial.core.exposure.trim import Marks, Scene, TestShot, TrimSetting, trim
from violet_dial.core.light.marks import parse_aperture, parse_time
from violet_dial.core.pictures.compare import Array, compare, grey_stops, slope_of
from violet_dial.core.quantities import format_engineering, format_signed, parse_number
from violet_dial.core.signals.shapes import Trace, trace_of
from violet_dial.job.csv_text import Cells, Names, table_of
from violet_dial.services.files import read_given
from violet_dial.services.photos import MOST_BYTES as PICTURE_BYTES
from violet_dial.services.photos import compared_said, picture_of
from violet_dial.services.recordings import MOST_BYTES, Recording, recording_of
from violet_dial.services.shutter import USUAL_FRAME_MM, FiringSeen, ShutterReadout, channels_said, shutter_of
from violet_dial.services.station import JSON, Command, Option, as_json
from violet_dial.stations.expose.table import SCENES, read_shots

COMPARE_ARGUMENTS = (
    Option("first", "JPEG, PNG or WebP", type=Path),
    Option("second", "another of the same scene", type=Path),
    Option("--slope", "stops of the print for a stop of light, where it is known", "N", ""),
    Option("--bracket", "two takes that tell the slope", ("DARKER", "BRIGHTER", "STOPS"), nargs=3),
    Option("--grey", "where an 18 %% card is in both, as shares of the picture", "X,Y,W,H", ""),
    Option("--width", "of the print: lengths are then said in mm", "MM", ""),
    JSON,
)


def _picture(path: Path) -> Array:
    return picture_of(read_given(path, "Picture", PICTURE_BYTES), path.name)


def _bracketed(given: list[str] | None) -> float | None:
    """The slope that a bracketed pair tells; None without one."""
    if given is None:
        return None
    return slope_of(_picture(Path(given[0])), _picture(Path(given[1])), parse_number(given[2], "--bracket"))


def _grey(text: str, first: Array, second: Array) -> dict[str, float]:
    """By how much a card comes out too bright in each; nothing where none was said."""
    if not text:
        return {}
    part = tuple(parse_number(one, "--grey") for one in text.split(","))
    if len(part) != 4:
        raise InvalidInput("--grey", text, "four shares: left, top, width, height")
    return {"first": grey_stops(first, part), "second": grey_stops(second, part)}


def _compare(options: Namespace) -> int:
    slope = parse_number(options.slope, "--slope") if options.slope else _bracketed(options.bracket)
    width = parse_number(options.width, "--width") if options.width else None
    if width is not None and not 5 <= width <= 2000:
        raise InvalidInput("--width", f"{width:g} mm", "5 to 2000 mm")
    first, second = _picture(options.first), _picture(options.second)
    grey = _grey(options.grey, first, second)
    found = compare(first, second, slope)
    said = (
        *compared_said(found, width),
        *(f"The card of the {name} comes out at {stops:+.2f} stop." for name, stops in grey.items()),
    )
    if options.json:
        plain = asdict(found)
        for name in ("shake", "double"):
            seen = plain.pop(name)
            mm = None if seen is None or width is None else seen[0] / found.width_px * width
            plain[name] = None if seen is None else {"px": seen[0], "mm": mm, "direction_deg": seen[1]}
        print(as_json({**plain, "slope": slope, "grey_stops": grey, "words": list(said)}))
        return 0
    for line in said:
        print(line)
    return 0


COMPARE_COMMANDS = (Command("compare", "two pictures of the same scene, in stops", COMPARE_ARGUMENTS, _compare),)


REQUIRED = ("aperture", "lux", "seen")


def read_looks(data: bytes) -> tuple[LampObservation, ...]:
    """Looks from the bytes of a CSV. Raises InvalidInput: not such a table, or a row that cannot be understood, by its line."""
    offered = table_of(data, "Lamps", Names(REQUIRED, (), {"f_number": "aperture", "lx": "lux", "lamp": "seen"})).offer(_look)
    if offered.rejected:
        first = offered.rejected[0]
        raise InvalidInput("Lamps", f"line {first.line}", f"rows that can be understood ({first.reason})")
    if not offered.found:
        raise InvalidInput("Lamps", "no rows", "at least one look")
    return offered.found


def _look(cell: Cells) -> LampObservation:
    seen = cell("seen").lower()
    if seen not in SEEN:
        raise InvalidInput("seen", seen, f"one of {', '.join(SEEN)}")
    return LampObservation(parse_aperture(cell("aperture"))[0], parse_number(cell("lux"), "lux"), seen)


LAMPS_ARGUMENTS = (
    Option("file", "a CSV of aperture, lux, seen (slow, over, none, both, flicker); - is standard input", type=Path),
    Option("--film-speed", "set on the camera (default 100)", "ISO", "100"),
    Option("--slow", "from which the slow lamp lights (default 1/30)", "TIME", "1/30"),
    Option("--shortest", "below which the over lamp lights (default 1/500)", "TIME", "1/500"),
    Option("--longest", "the longest time there is (default 8 s)", "TIME", "8 s"),
    Option("--apertures", "that can be set", "N,N,..", "2.8,5.6,16"),
    JSON,
)


def _lamps(options: Namespace) -> int:
    slow, shortest, longest = (parse_time(one)[0] for one in (options.slow, options.shortest, options.longest))
    law = Law(parse_number(options.film_speed, "--film-speed"), slow, shortest, longest)
    looks = read_looks(read_given(options.file, "Lamps", TABLE_BYTES))
    apertures = tuple(parse_aperture(word)[0] for word in options.apertures.split(","))
    found = lamps(looks, law, apertures)
    if options.json:
        print(as_json(_plain_lamps(found, looks, law)))
        return 0
    for cause in found.causes[:3]:
        print(f"{weight_said(cause.weight)}: {cause_said(cause)}")
    if found.next is not None:
        print(f"Look next at {aperture_said(found.next[0])} in {found.next[1]:g} lx.")
    return 0


def _plain_lamps(found: Lamps, looks: tuple[LampObservation, ...], law: Law) -> dict[str, object]:
    return {
        "causes": [
            {"kind": cause.kind, "weight": cause.weight, "figure": cause.figure, "words": cause_said(cause)}
            for cause in found.causes
        ],
        "slow": _threshold(found.slow), "over": _threshold(found.over),
        "looks": [
            {"aperture": look.f_number, "lux": look.lux, "seen": look.seen, "meant": law.meant(look.f_number, look.lux)}
            for look in looks
        ],
        "next": None if found.next is None else {"aperture": found.next[0], "lux": found.next[1]},
    }  # fmt: skip


def _threshold(one: Threshold) -> dict[str, object]:
    return {"stops": one.stops, "u_stops": one.u_stops, "known": one.known}


LAMPS_COMMANDS = (Command("lamps", "what warning lamps over apertures and lights say of an automatic", LAMPS_ARGUMENTS, _lamps),)


TABLE_BYTES = 1_000_000


def _marks(text: str, name: str) -> tuple[float, ...]:
    return tuple(parse_number(word, name) for word in text.split(","))


TRIM_ARGUMENTS = (
    Option("file", "a CSV of wheel, slider, scene, flash, stops (bright +); - is standard input", type=Path),
    Option("--wheel", "numbers of the wheel, clear first", "N,N,..", "0,1,2,3,4,5,6,7,8,9"),
    Option("--slider", "marks of the slider, bright cell first", "N,N,..", "-2,-1,0,1,2"),
    Option("--scene", "what it is to be right for (default: as the last shot)", choices=SCENES),
    Option("--flash", "with flash (default: as the last shot)", choices=("yes", "no")),
    Option("--film", "frames left in the pack", "N", type=int),
    JSON,
)


def _aim(options: Namespace, last: TestShot | None) -> tuple[Scene, bool]:
    """What the setting is to be right for: as said, else as the last shot."""
    scene: Scene = options.scene or (last.scene if last else "outdoors")
    return scene, options.flash == "yes" if options.flash else bool(last and last.flash)


def _trim(options: Namespace) -> int:
    shots = read_shots(read_given(options.file, "Shots", TABLE_BYTES))
    marks = Marks(_marks(options.wheel, "--wheel"), _marks(options.slider, "--slider"))
    if options.film is not None and options.film < 0:
        raise InvalidInput("--film", options.film, "0 or more frames")
    found = trim(shots, marks, _aim(options, shots[-1] if shots else None), options.film)
    if options.json:
        print(as_json({
            "next": _setting(found.next), "best": _setting(found.best), "done": found.done, "doubt_stops": found.doubt_stops,
            "chance": found.best.chance, "shots": len(shots), "film_left": options.film, "words": found.words,
        }))  # fmt: skip
    else:
        print(found.words)
    return 0


def _setting(one: TrimSetting) -> dict[str, float]:
    return {"wheel": one.wheel, "slider": one.slider, "stops": one.stops, "u_stops": one.u_stops}


TRIM_COMMANDS = (Command("trim", "the next test shot of a camera whose cell sets the time", TRIM_ARGUMENTS, _trim),)


SCOPE_ARGUMENTS = (Option("file", "CSV of time and volts, or WAV; - is standard input", type=Path), JSON)


def _given(options: Namespace) -> Recording:
    return recording_of(read_given(options.file, "Recording", MOST_BYTES), options.file.name)


def _scope(options: Namespace) -> int:
    recording = _given(options)
    traces = [trace_of(recording.read(n), recording.rate_hz) for n in range(len(recording.names))]
    if options.json:
        channels = [_plain_scope(name, trace) for name, trace in zip(recording.names, traces, strict=True)]
        print(as_json({"rate_hz": recording.rate_hz, "samples": recording.count, "channels": channels}))
        return 0
    for name, trace in zip(recording.names, traces, strict=True):
        often = f", {format_engineering(trace.frequency_hz, 4)}Hz" if trace.frequency_hz else ""
        figures = f"mean {trace.mean:.4g}, {trace.peak_to_peak:.4g} peak to peak, ripple {trace.ripple_rms:.4g}"
        print(f"{name}: {trace.shape} ({trace.weights[0][1]:.0%}){often}; {figures}")
    return 0


def _plain_scope(name: str, one: Trace) -> dict[str, object]:
    return {
        "name": name, "shape": one.shape, "weights": dict(one.weights), "mean": one.mean, "peak_to_peak": one.peak_to_peak,
        "ripple_rms": one.ripple_rms, "frequency_hz": one.frequency_hz, "duty": one.duty,
    }  # fmt: skip


SCOPE_COMMANDS = (Command("scope", "what the channels of a recording are like", SCOPE_ARGUMENTS, _scope),)


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
    *SCOPE_COMMANDS,
    *TRIM_COMMANDS,
    *LAMPS_COMMANDS,
    *COMPARE_COMMANDS,
)
