"""The command ``scope``: what the channels of a recording are like."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.quantities import format_engineering
from violet_dial.core.signals.shapes import Trace, trace_of
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.recordings import MOST_BYTES, Recording, recording_of
from violet_dial.services.station import JSON, Command, Option

ARGUMENTS = (
    Option("file", "CSV of time and volts, or WAV; - is standard input", type=Path),
    JSON,
)


def _given(options: Namespace) -> Recording:
    return recording_of(read_given(options.file, "Recording", MOST_BYTES), options.file.name)


def _run(options: Namespace) -> int:
    recording = _given(options)
    traces = [trace_of(recording.read(n), recording.rate_hz) for n in range(len(recording.names))]
    if options.json:
        channels = [_plain(name, trace) for name, trace in zip(recording.names, traces, strict=True)]
        print(as_json({"rate_hz": recording.rate_hz, "samples": recording.count, "channels": channels}))
        return 0
    for name, trace in zip(recording.names, traces, strict=True):
        often = f", {format_engineering(trace.frequency_hz, 4)}Hz" if trace.frequency_hz else ""
        figures = f"mean {trace.mean:.4g}, {trace.peak_to_peak:.4g} peak to peak, ripple {trace.ripple_rms:.4g}"
        print(f"{name}: {trace.shape} ({trace.weights[0][1]:.0%}){often}; {figures}")
    return 0


def _plain(name: str, one: Trace) -> dict[str, object]:
    return {
        "name": name, "shape": one.shape, "weights": dict(one.weights), "mean": one.mean, "peak_to_peak": one.peak_to_peak,
        "ripple_rms": one.ripple_rms, "frequency_hz": one.frequency_hz, "duty": one.duty,
    }  # fmt: skip


COMMANDS = (Command("scope", "what the channels of a recording are like", ARGUMENTS, _run),)
