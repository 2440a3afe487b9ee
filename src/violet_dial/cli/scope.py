"""The commands ``scope`` and ``firings``: what the channels of a recording are like; the firings of a shutter in it."""

import math
from argparse import ArgumentParser, Namespace
from pathlib import Path

from violet_dial.core.quantities import format_engineering
from violet_dial.core.signals.firings import Firing, find_firings
from violet_dial.core.signals.shapes import Trace, trace_of
from violet_dial.services.command import Command
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.recordings import MOST_BYTES, Recording, recording_of


def _arguments(parser: ArgumentParser) -> None:
    parser.add_argument("file", type=Path, help="CSV of time and volts, or WAV; - is standard input")
    parser.add_argument("--json", action="store_true", help="one JSON object")


def _given(options: Namespace) -> Recording:
    return recording_of(read_given(options.file, "Recording", MOST_BYTES), options.file.name)


def _run(options: Namespace) -> int:
    recording = _given(options)
    traces = [trace_of(recording.samples[:, n], recording.rate_hz) for n in range(len(recording.names))]
    if options.json:
        channels = [_plain(name, one) for name, one in zip(recording.names, traces, strict=True)]
        print(as_json({"rate_hz": recording.rate_hz, "samples": len(recording.samples), "channels": channels}))
        return 0
    for name, one in zip(recording.names, traces, strict=True):
        often = f", {format_engineering(one.frequency_hz, 4)}Hz" if one.frequency_hz else ""
        figures = f"mean {one.mean:.4g}, {one.peak_to_peak:.4g} peak to peak, ripple {one.ripple_rms:.4g}"
        print(f"{name}: {one.shape} ({one.weights[0][1]:.0%}){often}; {figures}")
    return 0


def _plain(name: str, one: Trace) -> dict[str, object]:
    return {
        "name": name, "shape": one.shape, "weights": dict(one.weights), "mean": one.mean, "peak_to_peak": one.peak_to_peak,
        "ripple_rms": one.ripple_rms, "frequency_hz": one.frequency_hz, "duty": one.duty,
    }  # fmt: skip


def _fire(options: Namespace) -> int:
    recording = _given(options)
    found = {name: find_firings(recording.samples[:, n], recording.rate_hz) for n, name in enumerate(recording.names)}
    if options.json:
        print(
            as_json(
                {"channels": [{"name": name, "firings": [_edges(one) for one in all_]} for name, all_ in found.items()]}
            )
        )
        return 0
    for name, all_ in found.items():
        for number, one in enumerate(all_, 1):
            u_stop = one.u_s / one.time_s / math.log(2.0)
            time = f"{one.time_s * 1e3:.4g} ms ± {one.u_s * 1e3:.2g} ms (1/{1 / one.time_s:.4g} s, ± {u_stop:.2g} stop)"
            print(f"{name} {number}: opened at {one.open_s:.4f} s, open {time}")
        if not all_:
            print(f"{name}: no firing that opens and closes")
    return 0


def _edges(one: Firing) -> dict[str, float]:
    return {
        "open_s": one.open_s,
        "close_s": one.close_s,
        "time_s": one.time_s,
        "u_s": one.u_s,
        "amplitude": one.amplitude,
    }


COMMANDS = (
    Command("scope", "what the channels of a recording are like", _arguments, _run),
    Command("firings", "when the shutter in a recording opened and closed", _arguments, _fire),
)
