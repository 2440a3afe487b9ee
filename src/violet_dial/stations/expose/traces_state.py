"""What the page Traces shows: every trace with its figures, and each sick one beside its sister's at the same point."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from violet_dial.core.errors import VioletDialError
from violet_dial.core.exposure.said import measured_said
from violet_dial.core.signals.alignment import Array, Sister, beside_sister, delay_of
from violet_dial.core.signals.shapes import SHAPES, Shape, Trace
from violet_dial.job.document import Job
from violet_dial.job.exposing import TraceTaken
from violet_dial.report.dial import MarkState
from violet_dial.stations.expose.traces_acts import said_of

NOTHING = "No trace yet. Ctrl+I takes a capture: CSV as oscilloscopes write it, WAV, FLAC or Ogg."
EARTH = (
    "An earthed oscilloscope on an earthed supply shorts the device through its probe: run it on batteries, or isolate. Local "
    "rules and licensed practice come first."
)
MOST_EVENTS = 12
MARKS: dict[str, MarkState] = {"same": "inside", "other": "high", "missing": "low"}


@dataclass(frozen=True)
class TraceRow:
    """One trace: number and name, words, its mark beside a sister's (empty without one), points over ``span_s``; the sister's."""

    name: str
    words: str
    mark: MarkState
    points: tuple[float, ...]
    span_s: float
    sister: tuple[float, ...] = ()  # a working unit's at the same places in time, laid over it


@dataclass(frozen=True)
class TracesShown:
    """All the page shows."""

    headline: str
    reason: str
    rows: tuple[TraceRow, ...]
    beside: tuple[tuple[str, str], ...]  # what sisters and second channels say: a name, a sentence


def traces_shown(job: Job) -> TracesShown:
    """The page as the job stands."""
    traces = job.exposing.traces
    sisters = {trace.name.lower(): trace for trace in traces if trace.sister}
    rows: list[TraceRow] = []
    beside: list[tuple[str, str]] = []
    for number, trace in enumerate(traces, start=1):
        mark: MarkState = "empty"
        behind: tuple[float, ...] = ()
        other = sisters.get(trace.name.lower())
        if other is not None and not trace.sister and (found := _beside(trace, other)) is not None:
            mark, behind = MARKS[found.verdict], _behind(trace, other, found.delay_s)
            beside.append((f"{number}", f"{trace.name}: {found.words}"))
        name = f"{number}  {trace.name}{' (sister)' * trace.sister}"
        rows.append(TraceRow(name, said_of(trace), mark, trace.picture, trace.span_s, behind))
    beside += [*_order(traces), *_delays(traces)]
    if not traces:
        return TracesShown("Nothing taken yet", NOTHING, (), ())
    last = traces[-1]
    head = f"{last.name}: {last.shape}, {last.peak_to_peak:.3g} V peak to peak"
    return TracesShown(head, said_of(last), tuple(rows), tuple(beside))


@lru_cache(maxsize=128)
def _beside(one: TraceTaken, sister: TraceTaken) -> Sister | None:
    """A trace against its sister's: figures as they were worked out, laid over each other from what is kept of both."""
    a, b = _line(one), _line(sister)
    try:
        known = _figures(one), _figures(sister)
        return beside_sister(a, len(a) / one.span_s, b, len(b) / sister.span_s, known)
    except (VioletDialError, ZeroDivisionError):
        return None


def _behind(one: TraceTaken, sister: TraceTaken, delay_s: float) -> tuple[float, ...]:
    """The sister's line at the times of this one's, moved so that both lie over each other."""
    own, other = _line(one), _line(sister)
    if not len(own) or not len(other) or not one.span_s or not sister.span_s:
        return ()
    at = (np.arange(len(own)) + 0.5) * one.span_s / len(own) - delay_s
    there = (np.arange(len(other)) + 0.5) * sister.span_s / len(other)
    inside = (at >= 0) & (at <= sister.span_s)
    return tuple(float(value) for value in np.where(inside, np.interp(at, there, other), np.nan))


def _figures(one: TraceTaken) -> Trace:
    shape: Shape = next((name for name in SHAPES if name == one.shape), "noise")
    return Trace(shape, ((shape, one.weight),), one.mean, one.peak_to_peak, one.ripple_rms, one.frequency_hz, one.duty)


def _line(one: TraceTaken) -> Array:
    """What is kept of a trace as one line: the middle of least and most."""
    points = np.array(one.picture)
    found: Array = points[: len(points) // 2 * 2].reshape(-1, 2).mean(axis=1)
    return found


def _order(traces: tuple[TraceTaken, ...]) -> list[tuple[str, str]]:
    """Contacts, lamps, timers: when each went the other way and for how long, those of one capture in their order."""
    found = []
    events = sorted(
        (trace.source, trace.at, start, end - start, number, trace.name)
        for number, trace in enumerate(traces, start=1)
        for start, end in zip(trace.switched_s[::2], trace.switched_s[1::2], strict=True)
    )[:MOST_EVENTS]
    before: dict[tuple[str, str], float] = {}
    for source, at, start, long, number, name in events:
        since = before.get((source, at))
        after = f", {measured_said(start - since)} after the one before" if since is not None else ""
        found.append((f"{number}", f"{name} switches at {start:.4g} s for {measured_said(long)}{after}."))
        before[source, at] = start
    return found


def _delays(traces: tuple[TraceTaken, ...]) -> list[tuple[str, str]]:
    """Which of two channels of one capture leads."""
    found = []
    for number in range(1, len(traces)):
        one, other = traces[number - 1], traces[number]
        if (
            one.source != other.source
            or one.span_s != other.span_s
            or one.at != other.at
            or len(one.picture) != len(other.picture)
        ):
            continue
        try:
            delay = delay_of(_line(one), _line(other), len(one.picture) / 2 / one.span_s)
        except (VioletDialError, ZeroDivisionError):
            continue
        step = 2 * one.span_s / len(one.picture)
        if delay is not None and abs(delay.seconds) > step:
            leads, after = (one.name, other.name) if delay.seconds > 0 else (other.name, one.name)
            found.append(
                (f"{number}, {number + 1}", f"{leads} leads {after} by {abs(delay.seconds) * 1e3:.3g} ms ± {step * 1e3:.1g} ms.")
            )
    return found
