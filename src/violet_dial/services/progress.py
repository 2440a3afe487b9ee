"""Where a job stands: the state of each station, what the job waits for, and the one next act."""

import math
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.errors import ImpossibleOrder
from violet_dial.core.light.chain import UNIT_TYPED, typed_for
from violet_dial.core.opening.tally import tally
from violet_dial.core.quantities import format_grouped
from violet_dial.job.document import Job
from violet_dial.services.judge import Judgement, judge
from violet_dial.services.opening import back_of, totals_of
from violet_dial.services.receiving import gate_open

StationName = Literal["Receive", "Open", "Trace", "Light", "Return"]
StationState = Literal["open", "begun", "done"]
STATIONS: tuple[StationName, ...] = ("Receive", "Open", "Trace", "Light", "Return")

WORTH_A_MINUTE_BITS = 0.3  # a reading that tells less does not delay the work
WAITS: tuple[str, ...] = (
    "describing", "tracing",
    "reference readings", "repair", "adjusting", "readings after the work", "closing up", "signing", "collection",
)  # fmt: skip


@dataclass(frozen=True)
class NextAct:
    """The one next act: where, what, why, its cost; ``reference`` is what to set the reference light to."""

    station: StationName
    title: str
    reason: str
    cost: str
    button: str
    kind: Literal["describe", "read", "adjust", "repair", "refit", "test", "write", "sign", "hand over"]
    reference: str = ""
    direction: str = ""
    arithmetic: str = ""


def station_states(job: Job) -> dict[StationName, StationState]:
    """State of each station for the line at the top."""
    described = bool(job.device.name and job.intake.headline_fault)
    touched = bool(job.device.name or job.intake.headline_fault)
    waits = open_step(job)
    light: StationState = "open"
    if job.light.runs != type(job.light)().runs:
        light = "done" if waits in ("signing", "collection") else "begun"
    total = totals_of(job)
    return {
        "Receive": "done" if described else "begun" if touched else "open",
        "Open": "open" if not job.opening.steps else "done" if total.found and total.all_back else "begun",
        "Trace": _trace_state(job),
        "Light": light,
        "Return": "done" if job.closing.signed_by else "begun" if job.closing.done else "open",
    }


def _trace_state(job: Job) -> StationState:
    """Open without a circuit, done once something was put right and nothing was found since."""
    if not job.tracing.circuit_text:
        return "open"
    return "done" if job.tracing.repairs and job.light.current.readings else "begun"


def tracing_open(job: Job) -> bool:
    """Whether a fault is being traced: a circuit was chosen and nothing was put right yet."""
    return bool(job.tracing.circuit_text) and not job.tracing.repairs


def open_step(job: Job) -> str:
    """What the work itself waits for, one of `WAITS`."""
    if job.closing.signed_by:
        return "collection"
    if not (job.device.name and job.intake.headline_fault):
        return "describing"
    if tracing_open(job):
        return "tracing"
    if not job.light.current.readings:
        return "readings after the work" if len(job.light.runs) > 1 else "reference readings"
    verdict = judge(job).verdict
    if verdict.repair:
        return "repair"
    if verdict.kind == "take again":
        return "reference readings"
    shifted = any(run.shift_stops for run in job.light.runs)
    if verdict.shift_helps and not shifted:
        return "adjusting"
    return "signing" if totals_of(job).all_back else "closing up"


def finding(job: Job) -> str:
    """The verdict in a few words for the card, or how far tracing is; empty before anything was read."""
    if job.light.current.readings:
        return judge(job).verdict.headline
    count = len(job.tracing.now)
    if job.tracing.repairs and not count:
        return f"{job.tracing.repairs[-1].words} put right; not tested since"
    return f"{count} piece{'s' if count > 1 else ''} of evidence taken" if count else ""


def next_act(job: Job) -> NextAct:
    """The next act and why."""
    step = open_step(job)
    if step == "describing":
        reason = "The headline fault in one line is what everything else is read against."
        return NextAct(
            "Receive", "Say what it is and what is wrong", reason, "1 min · nothing to open", "Describe", "describe"
        )
    if step == "collection":
        reason = f"Signed by {job.closing.signed_by} on {job.closing.signed_on}."
        return NextAct("Return", "Print the sheet and hand it over", reason, "1 min", "Print sheet", "hand over")
    if step == "tracing":
        count = len(job.tracing.now)
        reason = f"{count} pieces of evidence so far; the station ranks the suspects and the tests."
        return NextAct("Trace", "Make the next test", reason, "a few minutes", "Next test", "test")
    judgement = judge(job)
    if step == "repair":
        return _repair_act(job, judgement)
    suggestion = judgement.next_reading
    unsure = len(judgement.assessment.levels) < 5 or step == "reference readings"
    if suggestion.ev100 is not None and (unsure or suggestion.bits >= WORTH_A_MINUTE_BITS):
        return _reading_act(job, judgement)
    if step == "adjusting":
        return _adjust_act(job, judgement)
    if step == "closing up":
        return _close_act(job)
    return _sign_act(job, judgement)


def _repair_act(job: Job, judgement: Judgement) -> NextAct:
    what = judgement.verdict.repair
    title = f"{what[:1].upper()}{what[1:]}, then read again"
    cost = "20 min or more · open the meter" + _gate_first(job)
    return NextAct("Light", title, judgement.verdict.reason, cost, "Put right", "repair")


def _gate_first(job: Job) -> str:
    """What of the safety gate is still to be done before the first thing comes off."""
    waiting = gate_open(job)
    if not waiting or any(not step.planned for step in job.opening.steps):
        return ""
    return f" · first look: {', '.join(waiting).lower()}"


def _close_act(job: Job) -> NextAct:
    """The next thing to put back."""
    steps = job.opening.steps
    total = totals_of(job)
    reason = f"{total.ended} of {total.found} things that came off have an end; the way back has the order that works."
    try:
        waiting = [item for item in back_of(job) if item.kind == "refit" and tally(steps[item.place]).state != "whole"]
    except ImpossibleOrder as error:
        return NextAct("Open", "Settle the way back", str(error), "2 min", "Way back", "refit")
    item = waiting[0]
    minutes = sum(steps[one.place].expected_minutes for one in waiting)
    return NextAct(
        "Open", f"Put back: {steps[item.place].name}", reason, f"{minutes:.0f} min to close", "Way back", "refit"
    )


def unread_lights(job: Job) -> tuple[float, ...]:
    """Whole EVs of the meter's range at which the current run has no reading yet."""
    setup = job.light.setup
    taken = [one.reading.reference_ev100 for one in job.light.current.readings]
    whole = range(math.ceil(setup.range_from_ev100), math.floor(setup.range_to_ev100) + 1)
    return tuple(float(ev100) for ev100 in whole if all(abs(ev100 - one) >= 0.5 for one in taken))


def reference_text(job: Job, ev100: float) -> str:
    """What the reference must show for ``ev100``, as it would be typed."""
    source = job.light.setup.chain.source
    value = typed_for(job.light.setup.chain, ev100)
    if source.kind == "trusted meter":
        return f"{value:.4g}"
    decimals = 3 if source.kind == "lamp at a distance" else 0 if value >= 100 else 2
    return format_grouped(value, decimals).replace("\u00a0", " ")


def _reading_act(job: Job, judgement: Judgement) -> NextAct:
    suggestion = judgement.next_reading
    ev100 = suggestion.ev100 if suggestion.ev100 is not None else 0.0
    reference = reference_text(job, ev100)
    way = f", light {suggestion.direction}" if suggestion.direction else ""
    again = any(abs(level.ev100 - ev100) < 0.25 for level in judgement.assessment.levels)
    unit = UNIT_TYPED[job.light.setup.chain.source.kind]
    shown = "" if unit == "EV100" else f" ({reference} {unit})"
    return NextAct(
        "Light",
        f"Read at Ev {ev100:g}{shown}{' again' if again else ''}{way}",
        suggestion.reason,
        f"{suggestion.minutes:g} min · nothing to open",
        "Set light",
        "read",
        reference,
        suggestion.direction,
        suggestion.arithmetic,
    )


def _adjust_act(job: Job, judgement: Judgement) -> NextAct:
    ways = judgement.assessment.instructions
    title = ways[1].text if len(ways) > 2 else ways[0].text
    return NextAct(
        "Light",
        title[:1].upper() + title[1:],
        judgement.verdict.reason,
        "10 min · cover and dial off" + _gate_first(job),
        "Shift made",
        "adjust",
        arithmetic=judgement.assessment.travel.text,
    )


def _sign_act(job: Job, judgement: Judgement) -> NextAct:
    if not job.closing.done:
        reason = f"{judgement.verdict.headline}. Write what was done, then sign."
        return NextAct("Return", "Write the sheet", reason, "2 min", "Write sheet", "write")
    return NextAct("Return", "Read the sheet through and sign it", judgement.verdict.reason, "1 min", "Sign", "sign")
