"""Light: what its page shows, what it wants done next, its state on the line, its words for the card and for search."""

import math
from dataclasses import dataclass

from violet_dial.core.calibration.assess import JudgedReading
from violet_dial.core.light.chain import UNIT_TYPED, typed_for
from violet_dial.core.quantities import format_grouped, format_signed
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.job.light import LightCheck
from violet_dial.job.practising import HIDDEN
from violet_dial.report.dial import Dial, DialRequest, MarkState, draw_dial, mark_state
from violet_dial.services.gate import gate_first
from violet_dial.services.light_judgement import LightJudgement, judge, judge_run
from violet_dial.services.next import NextAct, Urgency, approach_of, described
from violet_dial.services.station import Section, StationState
from violet_dial.stations.light.acts import record_adjustment, record_repair
from violet_dial.stations.light.sum import explain, flag_line
from violet_dial.stations.light.table import write_readings

WORTH_A_MINUTE_BITS = 0.3  # a reading that tells less does not delay the work
FEWEST_LIGHTS = 5  # at fewer different lights a judgement is not settled
SUM_TITLE = "How this was worked out"
WAYS = {"rising": " ↑", "falling": " ↓", "": ""}


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


# the line, the card, search, the bundle


def state(job: Job) -> StationState:
    """Open before the first reading, done when nothing is left to read, adjust or put right."""
    if job.light.runs == LightCheck().runs:
        return "open"
    return "done" if job.light.current.readings and next_of(job, None) is None else "begun"


def finding(job: Job) -> str:
    """The verdict in a few words; empty before anything was read."""
    return judge(job).verdict.headline if job.light.current.readings and not job.practising.hides else ""


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Light."""
    return (*(run.name for run in job.light.runs), job.light.setup.light_source)


def members(job: Job) -> tuple[Member, ...]:
    """Readings of each run as CSV."""
    return tuple((f"readings-{index}.csv", write_readings(run.bare)) for index, run in enumerate(job.light.runs, start=1))


def opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """The judgement on the current run down to its arithmetic."""
    return SUM_TITLE, explain(job, job.light.current, judge(job))


# what is to be done next


def next_of(job: Job, result: object) -> NextAct | None:
    """A reading, an adjustment or a repair; None when the meter is judged and nothing of that would help."""
    if not described(job):
        return None
    judgement = judge(job)
    verdict = judgement.verdict
    unread = not job.light.current.readings
    if not unread and verdict.repair:
        return _repair(job, judgement)
    again = unread or verdict.kind == "take again"
    suggestion = judgement.next_reading
    unsure = len(judgement.assessment.levels) < FEWEST_LIGHTS or again
    if suggestion.ev100 is not None and (unsure or suggestion.bits >= WORTH_A_MINUTE_BITS):
        return _read(job, judgement)
    shifted = any(run.shift_stops for run in job.light.runs)
    return _adjust(job, judgement) if verdict.shift_helps and not shifted else None


def _repair(job: Job, judgement: LightJudgement) -> NextAct:
    what = judgement.verdict.repair
    return NextAct(
        "Light",
        f"{what[:1].upper()}{what[1:]}, then read again",
        judgement.verdict.reason,
        "20 min or more · open the meter" + gate_first(job),
        "Put right",
        "repair",
        "repair",
        Urgency.LIGHT,
        act=lambda one, at: record_repair(one, what, at),
    )


def _read(job: Job, judgement: LightJudgement) -> NextAct:
    suggestion = judgement.next_reading
    ev100 = suggestion.ev100 if suggestion.ev100 is not None else 0.0
    reference = reference_text(job, ev100)
    way = f", light {suggestion.direction}" if suggestion.direction else ""
    again = any(abs(level.ev100 - ev100) < 0.25 for level in judgement.assessment.levels)
    unit = UNIT_TYPED[job.light.setup.chain.source.kind]
    shown = "" if unit == "EV100" else f" ({reference} {unit})"
    begun = job.light.runs != LightCheck().runs
    reason = suggestion.reason if begun else f"{approach_of(job).reason} {suggestion.reason}"
    return NextAct(
        "Light",
        f"Read at Ev {ev100:g}{shown}{' again' if again else ''}{way}",
        reason,
        f"{suggestion.minutes:g} min · nothing to open",
        "Set light",
        "read",
        "readings after the work" if len(job.light.runs) > 1 else "reference readings",
        Urgency.LIGHT,
        reference=reference,
        direction=suggestion.direction,
        arithmetic=suggestion.arithmetic,
    )


def _adjust(job: Job, judgement: LightJudgement) -> NextAct:
    ways = judgement.assessment.instructions
    title = ways[1].text if len(ways) > 2 else ways[0].text
    said = title[:1].upper() + title[1:]
    shift = judgement.assessment.shift.stops
    return NextAct(
        "Light",
        said,
        judgement.verdict.reason,
        "10 min · cover and dial off" + gate_first(job),
        "Shift made",
        "adjust",
        "adjusting",
        Urgency.LIGHT,
        act=lambda one, at: record_adjustment(one, shift, said, at),
        arithmetic=judgement.assessment.travel.text,
    )


# what the page shows


@dataclass(frozen=True)
class StripSlot:
    """One slot of the strip: its light, what it shows, and the reading's index (-1: not taken)."""

    ev100: float
    read: str
    error: str
    state: MarkState
    index: int
    way: str = ""


@dataclass(frozen=True)
class LightShown:
    """All that the page shows of one run."""

    headline: str
    reason: str
    flags: str
    setup: str
    runs: tuple[str, ...]
    run: int
    dial: Dial
    readings: tuple[JudgedReading, ...]
    slots: tuple[StripSlot, ...]

    def sum_of(self, index: int) -> str:
        """The sum behind a reading; empty for none."""
        return self.readings[index].arithmetic if 0 <= index < len(self.readings) else ""


def shown(job: Job, run: int = -1, now_ev100: float | None = None) -> LightShown:
    """What the page shows: ``run`` from the last (-1) or by its place; the needle of the dial at ``now_ev100``."""
    runs = job.light.runs
    place = run if 0 <= run < len(runs) else len(runs) - 1
    current = place == len(runs) - 1
    judgement = judge_run(job, runs[place])
    a, verdict = judgement.assessment, judgement.verdict
    unread = unread_lights(job) if current else ()
    setup, hides = job.light.setup, job.practising.hides
    headline, reason = verdict.headline, verdict.reason
    if not a.readings:
        headline, reason = ("No readings yet", "Set the light that Next asks for, type what the needle shows, press Enter.")
    elif hides:
        headline, reason = f"{len(a.readings)} reading{'s' * (len(a.readings) > 1)}", HIDDEN
    return LightShown(
        headline,
        reason,
        flag_line(a) if a.readings and not hides else "",
        f"ISO {setup.film_speed:g} · {setup.light_source} · {setup.chain.source.kind}",
        tuple(f"run {n}: {one.name}" for n, one in enumerate(runs, start=1)),
        place,
        draw_dial(DialRequest(a, now_ev100 if current else None, unread, current and not hides)),
        a.readings,
        slots_for(a.readings, unread),
    )


def slots_for(readings: tuple[JudgedReading, ...], to_read_ev100: tuple[float, ...]) -> tuple[StripSlot, ...]:
    """Slots in the order of the light."""
    taken = [
        StripSlot(
            one.reading.reference_ev100,
            f"{one.reading.indicated_ev100:.1f}",
            format_signed(one.error_stops),
            mark_state(one),
            index,
            WAYS[one.reading.direction],
        )
        for index, one in enumerate(readings)
    ]
    empty = [StripSlot(ev100, "—", "", "empty", -1) for ev100 in to_read_ev100]
    return tuple(sorted([*taken, *empty], key=lambda slot: (slot.ev100, slot.index)))
