"""The judgements on speeds, lamps, test shots and traces down to their arithmetic."""

from violet_dial.core.exposure.ladder import COMMON_U, Rung
from violet_dial.core.exposure.lamps import cause_said
from violet_dial.core.exposure.said import SHORT, aperture_said, measured_said, pattern_said, time_said
from violet_dial.core.exposure.trim import EYE_U, RIGHT, TrimPosterior
from violet_dial.core.quantities import format_grouped, format_signed
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.services.job_shutter import works_of
from violet_dial.services.repairs import since_repair
from violet_dial.services.station import Section
from violet_dial.stations.expose.bench import speeds_judged
from violet_dial.stations.expose.lamps_acts import law_of, looks_of
from violet_dial.stations.expose.lamps_state import lamps_of
from violet_dial.stations.expose.shots_state import coloured, marks_of, shots_for, shots_shown, trim_of
from violet_dial.stations.expose.traces_acts import said_of
from violet_dial.stations.expose.traces_state import traces_shown

TITLE = "How the speeds were judged"
HOW = (
    "Error of a firing: log2 of the time measured over the true time of its mark (1/125 is 1/128 s); + is slow.",
    "A speed is within when |mean| + U is at most its tolerance, off when |mean| − U is beyond it; U is two standard deviations.",
)


def opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """Every speed with its sum, and every pattern with its weight."""
    judged = speeds_judged(job)
    if judged.ladder is None or not judged.ladder.fired:
        return TITLE, (("Nothing yet", ("No firing was measured.",)),)
    fired = [rung for rung in judged.ladder.rungs if rung.errors]
    patterns = tuple(
        f"{pattern.weight:.1%}\t{SHORT[pattern.kind]}: {pattern_said(pattern, works_of(job))}" for pattern in judged.patterns
    )
    return TITLE, (
        ("How", HOW),
        ("Speeds", tuple(f"{time_said(one.marked_s)}\t{_sum(one)}" for one in fired)),
        ("Scatter of one firing over all speeds", (f"{judged.ladder.scatter_stops:.3f} stop",)),
        ("Patterns", patterns or (HIDDEN if job.practising.hides else "At least three speeds are needed.",)),
    )


def _sum(one: Rung) -> str:
    errors = ", ".join(format_signed(error, 2) for error in one.errors[:12])
    return (
        f"{errors} → mean {format_signed(one.mean_stops, 3)}; U = 2 × √({one.scatter_stops:.3f}²/{len(one.errors)} + measured² + "
        f"{COMMON_U:g}²) = {2 * one.u_stops:.3f}; tolerance {one.tolerance_stops:.3f}: {one.state}"
    )


LAMP_TITLE, SHOT_TITLE, TRACE_TITLE = ("How the lamps were judged", "How the test shots were judged", "Traces and their figures")
MOST_SETTINGS = 12


def lamps_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """Every look beside what is meant, both thresholds, every kind with its weight."""
    exposing, law = job.exposing, law_of(job.exposing.law)
    if not exposing.lamps:
        return LAMP_TITLE, (("Nothing yet", ("No look was taken.",)),)
    found = lamps_of(job)
    looks = tuple(
        f"{aperture_said(look.f_number)}, {format_grouped(look.lux)} lx\tt = N² C / (E S) = {float(look.f_number**2):.4g} × "
        f"{law.c_lx_s:g} / ({look.lux:g} × {law.film_speed:g}) = {measured_said(float(law.time_s(look.f_number, look.lux)))}: "
        f"meant {law.meant(look.f_number, look.lux)}, seen {look.seen}"
        for look in looks_of(since_repair(job))
    )
    edges = tuple(
        f"{name}\t{format_signed(one.stops, 2)} ± {2 * one.u_stops:.2f} stop from where it should begin"
        for name, one in (("slow", found.slow), ("over", found.over))
    )
    causes = tuple(f"{cause.weight:.1%}\t{cause_said(cause)}" for cause in found.causes)
    causes = (HIDDEN,) if job.practising.hides else causes
    return LAMP_TITLE, (("Looks", looks), ("Thresholds", edges), ("Kinds", causes))


def shots_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """The best settings with what is expected there, and every shot."""
    if not job.exposing.shots:
        return SHOT_TITLE, (("Nothing yet", ("No frame was shot.",)),)
    belief = TrimPosterior(marks_of(job), job.exposing.shots[-1].scene, job.exposing.shots[-1].flash)
    for shot in shots_for(coloured(job)):
        belief.take(shot)
    settings = tuple(
        f"wheel {setting.wheel:g}, slider {setting.slider:g}\t"
        f"expected {format_signed(setting.stops, 2)} ± {setting.u_stops:.2f} stop; "
        f"within {RIGHT:g} stop with {setting.chance:.0%}"
        for setting in belief.settings()[:MOST_SETTINGS]
    )
    shots = tuple("\t".join((row[0], ", ".join(row[1:]))) for row in shots_shown(job).rows)
    how = (
        "Error of a setting = offset + (wheel − middle) × its step + (slider − middle) × its step, stops; offset and steps are "
        f"weighed on a grid by every shot, an eye being off by {EYE_U:g} stop.",
        trim_of(job).words,
    )
    return SHOT_TITLE, (("How", how), ("Settings, the surest first", settings), ("Shots", shots))


def traces_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """Every trace with its figures, and what stands beside each other."""
    traces = job.exposing.traces
    if not traces:
        return TRACE_TITLE, (("Nothing yet", ("No trace was taken.",)),)
    rows = tuple(f"{number} {trace.name}\t{said_of(trace)}; from {trace.source}" for number, trace in enumerate(traces, start=1))
    beside = tuple(f"{name}\t{words}" for name, words in traces_shown(job).beside)
    return TRACE_TITLE, (("Traces", rows), ("Beside each other", beside or ("nothing",)))
