"""What Expose puts on the sheet: the speeds as measured against their marks, what is wrong, where the automatic was left."""

from dataclasses import replace

from violet_dial.core.exposure.said import measured_said, pattern_said, time_said, weight_said
from violet_dial.core.exposure.trim import TrimSetting
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Grid, Lines, Pairs, section
from violet_dial.report.dial import MarkState
from violet_dial.services.job_shutter import works_of
from violet_dial.services.repairs import around_repair
from violet_dial.stations.expose.bench import speeds_before, speeds_judged
from violet_dial.stations.expose.lamps_state import chosen_judged, lamps_shown
from violet_dial.stations.expose.pictures import ladder_drawn, lamps_drawn
from violet_dial.stations.expose.shots_state import trim_of
from violet_dial.stations.expose.speeds_state import rung_shown
from violet_dial.stations.expose.traces_acts import said_of

MOST_TRACES = 24  # on the sheet
HEADS = ("marked", "measured", "stops", "±", "firings", "")
SAID: dict[str, str] = {"inside": "within", "high": "slow", "low": "fast", "undecided": "at its tolerance", "empty": "not fired"}


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the speeds, of the lamps, of the test shots and of the traces."""
    return (*_speeds(job), *_lamps(job), *_shots(job), *_traces(job))


def card(job: Job) -> tuple[tuple[str, str], ...]:
    """What the speeds are like, in a sentence."""
    judged = speeds_judged(job)
    return (("Speeds", pattern_said(judged.patterns[0], works_of(job))),) if judged.patterns else ()


def _speeds(job: Job) -> tuple[Block, ...]:
    judged = speeds_judged(job)
    if judged.ladder is None or not judged.ladder.fired:
        return ()
    rungs = [rung for rung in judged.ladder.rungs if rung.errors]
    before = speeds_before(job)
    was = {rung.marked_s: format_signed(rung.mean_stops, 2) for rung in before.rungs if rung.errors} if before else {}
    rows = tuple(
        (
            time_said(rung.marked_s), *((was.get(rung.marked_s, "–"),) if was else ()),
            measured_said(rung.marked_s * 2.0**rung.mean_stops), format_signed(rung.mean_stops, 2),
            f"{2 * rung.u_stops:.2f}", f"{len(rung.errors)}", SAID[rung.state],
        )
        for rung in rungs
    )  # fmt: skip
    states: tuple[MarkState, ...] = tuple(rung.state for rung in rungs)
    exposing = job.exposing
    allowed = f"Allowed {exposing.tolerance_stops:.2f} stop, the two fastest {exposing.fastest_tolerance_stops:.2f}; + is slow."
    words = [allowed]
    if judged.patterns:
        words.insert(0, f"{pattern_said(judged.patterns[0], works_of(job))} ({weight_said(judged.patterns[0].weight)})")
    if was:
        heads = (HEADS[0], "before, stops", *HEADS[1:])
        grid = Grid(heads, rows, (0.14, 0.16, 0.16, 0.12, 0.1, 0.12, 0.2), states, 3, 6)
    else:
        grid = Grid(HEADS, rows, (0.16, 0.18, 0.14, 0.12, 0.14, 0.26), states, 2, 5)
    return section("Shutter speeds", ladder_drawn(tuple(rung_shown(rung) for rung in rungs)), grid, Lines(tuple(words)))


def _lamps(job: Job) -> tuple[Block, ...]:
    if not job.exposing.lamps and not job.exposing.auto:
        return ()
    shown = lamps_shown(job)
    said = (*_before(job), shown.headline, shown.edges, chosen_judged(job))
    return section("Automatic exposure, by its lamps", lamps_drawn(shown), Lines(tuple(one for one in said if one)))


def _before(job: Job) -> tuple[str, ...]:
    """What lamps and chosen times said before the repair; nothing where none were seen then."""
    was = replace(job, exposing=around_repair(job).before)
    seen = lamps_shown(was)
    lamps = f"Before the repair: {seen.headline} {seen.edges}" if was.exposing.lamps else ""
    times = chosen_judged(was)
    return lamps, f"Before the repair: {times}" if times else ""


def _shots(job: Job) -> tuple[Block, ...]:
    if not job.exposing.shots:
        return ()
    found = trim_of(job)
    best = found.best
    doubt = "" if found.done else "; not settled yet"
    was = replace(job, exposing=around_repair(job).before)
    before = trim_of(was).best if was.exposing.shots else None
    then = (f"Before the repair: {_setting(before)}.",) if before is not None else ()
    count = len(job.exposing.shots) - len(was.exposing.shots)
    words = f"{_setting(best)} after {count} frame{'s' * (count > 1)}{doubt}."
    return section("Automatic exposure, by test shots", Lines((*then, words)))


def _setting(best: TrimSetting) -> str:
    return f"Wheel {best.wheel:g}, slider {best.slider:g}: {format_signed(best.stops, 1)} ± {best.u_stops:.1f} stop expected"


def _traces(job: Job) -> tuple[Block, ...]:
    """The newest trace of each point of this device, before the repair and since."""
    sides = around_repair(job)
    before, since = (tuple(trace for trace in side.traces if not trace.sister) for side in (sides.before, sides.since))
    if not since:
        return ()
    last = [{one.name: one for one in several} for several in (before, since)]
    old = tuple((f"{one.name}, before the repair", said_of(one)) for one in last[0].values())
    new = tuple((f"{one.name}, since" if old else one.name, said_of(one)) for one in last[1].values())
    return section("Traces", Pairs((*old, *new)[-MOST_TRACES:]))
