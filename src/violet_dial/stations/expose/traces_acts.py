"""Acts at Traces: channels of a capture taken, named, marked as a sister's, given to Trace as evidence, left out."""

import re
from dataclasses import replace

import numpy as np

from violet_dial.core.diagnosis.evidence import points_named
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.signals.alignment import MISSING_SHARE
from violet_dial.core.signals.contacts import contacts
from violet_dial.core.signals.pulses import rise_s, spikes_of
from violet_dial.core.signals.pyramid import Pyramid
from violet_dial.core.signals.shapes import LEAST_SAMPLES, trace_of
from violet_dial.instruments.kept import Kept
from violet_dial.job.act import Act, ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.exposing import TraceTaken
from violet_dial.job.tracing import TakenEvidence
from violet_dial.services.circuits import circuit_of
from violet_dial.services.evidence import with_evidence
from violet_dial.services.recordings import MOST_BYTES, Array, Recording, recording_of
from violet_dial.services.station import FileIn, Listing
from violet_dial.stations.expose.acts import with_exposing

EXPECTED = "1 is vreg to gnd (its name, for Trace) · 1 sister (of a working unit) · 1 to trace (as evidence) · drop 1"
CLOCKS, STILL = ("square", "bursts"), ("flat", "noise")
KINDS = "A capture of an oscilloscope (*.csv *.wav *.flac *.ogg)"
MOST_TRACES, PICTURE_PIECES, MOST_JUDGED = 60, 300, 2_000_000
MOST_SWITCHED = 20  # closings told one by one; more is a clock
MICROVOLTS = 6  # decimals of a volt that are said


def taken_of(recording: Recording, channel: int, source: str, pyramid: Pyramid | None = None) -> TraceTaken:
    """One channel of a capture as it is kept: its figures, of a long one those of its beginning, and what it looks like."""
    samples = recording.read(channel, 0, MOST_JUDGED)
    found = trace_of(samples, recording.rate_hz)
    spikes = spikes_of(samples, recording.rate_hz)
    points = _picture(samples if recording.count <= MOST_JUDGED else None, pyramid or _pyramid(recording, channel))
    return TraceTaken(
        recording.names[channel], source[:200], found.shape, found.weights[0][1], found.mean, found.peak_to_peak,
        found.ripple_rms, found.frequency_hz, found.duty, rise_s(samples, recording.rate_hz), spikes.count,
        recording.count / recording.rate_hz, points, channel=channel,
        switched_s=() if found.frequency_hz else _switched(samples, recording.rate_hz),
    )  # fmt: skip


def _switched(samples: Array, rate_hz: float) -> tuple[float, ...]:
    """When a contact or a lamp went the other way, and back; nothing where it does so all the time."""
    found = contacts(samples, rate_hz) if len(samples) >= LEAST_SAMPLES else ()
    if not 1 <= len(found) <= MOST_SWITCHED:
        return ()
    return tuple(round(at, 6) for one in found for at in (one.close_s, one.close_s + one.closed_s))


def _pyramid(recording: Recording, channel: int) -> Pyramid:
    return Pyramid(lambda first, last: recording.read(channel, first, last), recording.count)


def _picture(samples: Array | None, pyramid: Pyramid) -> tuple[float, ...]:
    if samples is not None and len(samples) <= 2 * PICTURE_PIECES:
        points = samples
    else:
        low, high = pyramid.shown(0, pyramid.count, PICTURE_PIECES)
        points = np.stack([low, high], axis=1).ravel().astype(float)
    return tuple(float(f"{value:.5g}") for value in points)


class Captures:
    """Captures that were read in this sitting, so that they can be looked at closely; ``file_in`` reads one."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[Pyramid, ...]] = {}
        self.file_in = FileIn("Traces from a capture", KINDS, self._offered, most_bytes=MOST_BYTES)

    def clear(self) -> None:
        """Nothing was read."""
        self._kept.clear()

    def pyramid(self, one: TraceTaken) -> Pyramid | None:
        """The whole of a trace, where it is at hand."""
        several = self._kept.get(one.source, ())
        return several[one.channel] if one.channel < len(several) else None

    def _offered(self, job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
        recording = recording_of(data, name)
        pyramids = tuple(_pyramid(recording, place) for place in range(len(recording.names)))
        self._kept = {**dict(list(self._kept.items())[-1:]), name[:200]: pyramids}
        taken = tuple(taken_of(recording, place, name, pyramid) for place, pyramid in enumerate(pyramids))
        lines = tuple(f"{one.name}\t{said_of(one)}" for one in taken)
        seconds = recording.count / recording.rate_hz
        summary = f"{len(taken)} channels, {seconds:.3g} s at {recording.rate_hz:g} samples a second"
        return Listing(f"Traces in {name}", summary, (("Channels", lines),), len(taken), "traces"), taking(taken)


def scope_of(text: str) -> Kept:
    """An oscilloscope by its VISA address. Raises InvalidInput: no such address."""
    return Kept("Oscilloscope", text.strip())


def fetched(kept: Kept, name: str) -> TraceTaken:
    """A trace of an oscilloscope. For a worker. Raises InstrumentError, InvalidInput: it does not answer, or with no trace."""
    from violet_dial.instruments.scope import fetch  # loads PyVISA

    volts, rate_hz = fetch(kept)
    return taken_of(Recording((name,), volts[:, None], rate_hz), 0, kept.name)


def points_of(job: Job, text: str) -> Evidence | None:
    """The two points a line names, to be touched by simulated hands; None where it names none."""
    try:
        circuit = circuit_of(job)
        plus, minus, _ = points_named(circuit, text.strip())
    except VioletDialError:
        return None
    return Evidence("volt", 0.0, plus, minus, setting=job.tracing.setting)


def taking(taken: tuple[TraceTaken, ...]) -> Act:
    """The act of taking traces."""
    return lambda job, at: take(job, taken, at)


def take(job: Job, taken: tuple[TraceTaken, ...], at: str) -> ActResult:
    """Traces more. Raises InvalidInput: more than a job holds."""
    traces = (*job.exposing.traces, *(replace(one, at=at) for one in taken))
    if len(traces) > MOST_TRACES:
        raise InvalidInput("Traces", len(traces), f"at most {MOST_TRACES} of one device: drop some first")
    said = f"Trace: {taken[0].name}, {said_of(taken[0])}" if len(taken) == 1 else f"{len(taken)} traces from {taken[0].source}"
    return with_exposing(job, replace(job.exposing, traces=traces), said)


def said_of(one: TraceTaken) -> str:
    """A trace in words with its figures."""
    often = f" at {format_engineering(one.frequency_hz, 4)}Hz" if one.frequency_hz else ""
    duty = f", {one.duty:.0%} of the time up" if one.duty is not None and one.shape == "square" else ""
    rise = f", rises in {format_engineering(one.rise_s, 2)}s" if one.rise_s and one.shape == "square" else ""
    spikes = f", {one.spikes} spikes" if one.spikes else ""
    mean, swing, ripple = (round(value, MICROVOLTS) for value in (one.mean, one.peak_to_peak, one.ripple_rms))
    figures = f"mean {mean:.3g} V, {swing:.3g} V peak to peak, ripple {ripple:.3g} V"
    return f"{one.shape} ({one.weight:.0%}){often}; {figures}{duty}{rise}{spikes}"


def understand(job: Job, text: str) -> Understood:
    """A line typed at Traces. Raises InvalidInput: not understood, or a number there is none of."""
    low = " ".join(text.strip().split())
    if match := re.fullmatch(r"(\d+) is (.+)", low, re.IGNORECASE):
        place, name = _place(job, match[1]), match[2][:60]
        return Understood(f"= trace {match[1]} is {name}", _changing(place, name=name))
    if match := re.fullmatch(r"(\d+) (sister|own)", low, re.IGNORECASE):
        place, sister = _place(job, match[1]), match[2].lower() == "sister"
        return Understood(
            f"= trace {match[1]} is of {'a working sister' if sister else 'this device'}", _changing(place, sister=sister)
        )
    if match := re.fullmatch(r"drop (\d+)", low, re.IGNORECASE):
        place = _place(job, match[1])
        return Understood(f"= trace {match[1]} is left out", _dropping(place))
    if match := re.fullmatch(r"(\d+) to trace", low, re.IGNORECASE):
        one = job.exposing.traces[_place(job, match[1])]
        sister = _sister_of(job, one)
        done = give_to_trace(job, one, sister, "")  # what it cannot be is said while it is typed
        return Understood(f"= evidence: {done.reason}", lambda now, at: give_to_trace(now, one, sister, at))
    raise InvalidInput("Traces", text, EXPECTED)


def give_to_trace(job: Job, one: TraceTaken, sister: TraceTaken | None, at: str) -> ActResult:
    """A trace as evidence at the points it is named by: how far it swings, or whether a clock is there; ``sister`` what a working
    unit shows at the same points. Raises InvalidInput: its name is no two points of the circuit.
    """
    plus, minus, _ = points_named(circuit_of(job), one.name)
    clocks = one.shape in CLOCKS and bool(one.frequency_hz)
    clocked = sister is not None and sister.shape in CLOCKS and bool(sister.frequency_hz)
    silent = sister is not None and clocked and (one.shape in STILL or one.peak_to_peak < MISSING_SHARE * sister.peak_to_peak)
    stands = job.tracing.setting
    if clocks or silent:
        hz = f"{one.frequency_hz:.4g} Hz" if clocks else ""
        evidence = Evidence("clock", float(clocks), plus, minus, setting=stands, sister=one.sister, note=hz)
    else:
        evidence = Evidence("ripple", one.peak_to_peak, plus, minus, setting=stands, sister=one.sister)
    return with_evidence(job, TakenEvidence(evidence, f"trace of {one.name}", at))


def _sister_of(job: Job, one: TraceTaken) -> TraceTaken | None:
    """The trace of a working unit at the same points."""
    return next((other for other in job.exposing.traces if other.sister and other.name.lower() == one.name.lower()), None)


def _place(job: Job, number: str) -> int:
    place = int(number) - 1
    if not 0 <= place < len(job.exposing.traces):
        raise InvalidInput(
            "Trace", number, f"1 to {len(job.exposing.traces)}" if job.exposing.traces else "a trace taken first (Ctrl+I)"
        )
    return place


def _changing(place: int, name: str | None = None, sister: bool | None = None) -> Act:
    def act(job: Job, at: str) -> ActResult:
        traces = list(job.exposing.traces)
        one = traces[place]
        traces[place] = replace(one, name=one.name if name is None else name, sister=one.sister if sister is None else sister)
        said = f"Trace {place + 1} is {traces[place].name}{', of a working sister' * traces[place].sister}"
        return with_exposing(job, replace(job.exposing, traces=tuple(traces)), said)

    return act


def _dropping(place: int) -> Act:
    def act(job: Job, at: str) -> ActResult:
        traces = job.exposing.traces
        left = traces[:place] + traces[place + 1 :]
        return with_exposing(job, replace(job.exposing, traces=left), f"Left out: trace {traces[place].name}")

    return act
