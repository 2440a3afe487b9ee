"""Open: what its pages show, what it wants done next, its state on the line, its words for search."""

from dataclasses import dataclass, replace

from violet_dial.core.errors import ImpossibleOrder, InvalidInput
from violet_dial.core.opening.care import bath_advice
from violet_dial.core.opening.steps import Step
from violet_dial.core.opening.tally import tally
from violet_dial.core.opening.typed import Vocabulary
from violet_dial.core.opening.way_back import BackItem
from violet_dial.core.opening.way_in import WayIn
from violet_dial.core.receiving.places import VIEWS, spots_of
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.report.dial import MarkState
from violet_dial.services.gate import gate_first
from violet_dial.services.lessons import Offer
from violet_dial.services.next import NextAct, Urgency, approach_of, described
from violet_dial.services.station import StationState
from violet_dial.services.way_in import parts_of, ways_in
from violet_dial.stations.open.acts import TEST_ACT, back_of, totals_of, typed_step
from violet_dial.stations.open.table import write_strip
from violet_dial.stations.open.words import HAND_SIGNS, STATE_MARKS, mind, said

OFF, WAY_BACK, WAY_IN, CARE = range(4)  # places of the pages
Row = tuple[str, ...]


# the line, search, the bundle


def state(job: Job) -> StationState:
    """Open while nothing came off, done when everything has its end."""
    total = totals_of(job)
    if not job.opening.steps:
        return "open"
    return "done" if total.found and total.all_back else "begun"


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Open."""
    return (
        *(f"{step.name} {step.size} {step.tray} {step.note} {step.marks}" for step in job.opening.steps),
        *(f"{way.part} {' '.join(way.through)} {way.note}" for way in job.opening.shorter_ways),
    )


def members(job: Job) -> tuple[Member, ...]:
    """The strip-down as CSV."""
    return (("strip-down.csv", write_strip(job.opening.steps)),) if job.opening.steps else ()


# what is to be done next


def next_of(job: Job, result: object) -> NextAct | None:
    """Open it, where the fault is in the works; put back what is off, once nothing else is to be done."""
    if not described(job):
        return None
    wanted = approach_of(job)
    if wanted.first == "open":
        return NextAct(
            "Open", "Take it apart, line by line", wanted.reason, "as long as it takes" + gate_first(job), "Off", "open",
            "opening", Urgency.FIRST, OFF,
        )  # fmt: skip
    return None if totals_of(job).all_back else _close(job)


def _close(job: Job) -> NextAct:
    """The next thing to put back."""
    steps, total = job.opening.steps, totals_of(job)
    reason = f"{total.ended} of {total.found} things that came off have an end; the way back has the order that works."
    try:
        waiting = [item for item in back_of(job) if item.kind == "refit" and tally(steps[item.place]).state != "whole"]
    except ImpossibleOrder as error:
        title, why, cost = "Settle the way back", str(error), "2 min"
    else:
        minutes = sum(steps[one.place].expected_minutes for one in waiting)
        title, why, cost = f"Put back: {steps[waiting[0].place].name}", reason, f"{minutes:.0f} min to close"
    return NextAct("Open", title, why, cost, "Way back", "refit", "closing up", Urgency.CLOSE, WAY_BACK)


# what the pages show


def page_names(job: Job) -> tuple[str, str, str, str]:
    """Names of the pages with how much is on them."""
    total = totals_of(job)
    off = f"Off · {len(job.opening.steps)}" if job.opening.steps else "Off"
    back = f"Way back · {total.ended} of {total.found}" if total.found else "Way back"
    return (off, back, "Way in", "Care")


def off_row(place: int, step: Step) -> Row:
    """A step as the strip-down shows it."""
    detail = " ".join(part for part in (step.size, step.head, step.finish) if part)
    met = f"met {step.confirmed}×" if step.planned and step.confirmed else ""
    more = ", ".join(part for part in (detail, met) if part)
    return (str(place + 1), step.name, more, HAND_SIGNS[step.hand], step.tray)


def step_detail(steps: tuple[Step, ...], row: int) -> str:
    """What is said under the list of the chosen step."""
    if not 0 <= row < len(steps):
        return "One line for each thing that comes off. Tab completes, Enter takes it."
    step = steps[row]
    facts = (
        said(step), f"under {', '.join(step.under)}" * bool(step.under), mind(step), f"tally {tally(step).words}",
        "P takes it off" if step.planned else "Enter changes it",
    )  # fmt: skip
    return " · ".join(part for part in facts if part)


def typed_said(job: Job, text: str) -> str:
    """What a typed line means; raises `InvalidInput`."""
    step, met = typed_step(job, text)
    facts = ["as planned" * (met is not None), said(step)]
    facts += [f"into {step.tray}" if step.tray else "no compartment named", mind(step)]
    caution = [step.caution, bath_advice(step.kind, step.no_bath)] if step.caution else []
    return " · ".join(part for part in (*facts, *caution) if part)


def vocabulary_of(job: Job) -> Vocabulary:
    """Words a typed step may be completed with: parts of this job, homes met, named places of the device."""
    steps = job.opening.steps
    spots = [spot.name for view in VIEWS for spot in spots_of(job.device.kind, view)]
    homes = dict.fromkeys([*(step.name for step in reversed(steps)), *(step.home for step in reversed(steps)), *spots])
    trays = dict.fromkeys(step.tray for step in steps if step.tray)
    return Vocabulary(tuple(homes), tuple(trays))


@dataclass(frozen=True)
class BackShown:
    """The way back: its items, a row and a mark each, which have their end, the tally; ``trouble`` when no order works."""

    items: tuple[BackItem, ...]
    rows: tuple[Row, ...]
    marks: tuple[MarkState, ...]
    ended: tuple[bool, ...]
    total: str
    trouble: str = ""

    @property
    def first_open(self) -> int:
        """The first thing without an end; the last of all when everything has one."""
        return next((place for place, done in enumerate(self.ended) if not done), len(self.items) - 1)

    def now(self, steps: tuple[Step, ...], row: int) -> tuple[str, str]:
        """What is said large above the list of the chosen thing, and what to mind with it."""
        if self.trouble:
            return "No order works", self.trouble
        if not self.items:
            return "Nothing is off", "The way back is worked out from what was taken off."
        item = self.items[min(max(row, 0), len(self.items) - 1)]
        return (said(steps[item.place]) if item.kind == "refit" else "Stop and test", item.text)


def back_shown(job: Job) -> BackShown:
    """What the way back shows."""
    total, steps = totals_of(job), job.opening.steps
    said_total = f"{total.ended} of {total.found} things have an end." if total.found else ""
    try:
        items = back_of(job)
    except ImpossibleOrder as error:
        return BackShown((), (), (), (), said_total, str(error))
    tested = {trial.setting for trial in job.receiving.trials if trial.act == TEST_ACT}
    rows: list[Row] = []
    marks: list[MarkState] = []
    ended: list[bool] = []
    for place, item in enumerate(items):
        step = steps[item.place]
        if item.kind == "test":
            passed = step.name in tested
            rows.append((str(place + 1), f"STOP and test before {step.name}", "", ""))
            marks.append("inside" if passed else "undecided")
            ended.append(passed)
        else:
            counted = tally(step)
            rows.append((str(place + 1), step.name, counted.words, step.tray))
            marks.append(STATE_MARKS[counted.state])
            ended.append(counted.state in ("whole", "over"))
    return BackShown(items, tuple(rows), tuple(marks), tuple(ended), said_total)


@dataclass(frozen=True)
class WayShown:
    """The ways into a part, and what earlier jobs teach."""

    ways: tuple[WayIn, ...]
    learned: str
    begin: str  # what the button says that begins from an earlier strip-down; empty for none


def with_plan(job: Job, offer: Offer) -> Job:
    """A job whose parts are known: while nothing is off, what an earlier one had is the best guess."""
    return job if job.opening.steps else replace(job, opening=replace(job.opening, steps=offer.steps))


def deepest_part(job: Job, offer: Offer) -> str:
    """The part a way in is shown to before one is asked for."""
    parts = parts_of(with_plan(job, offer))
    return parts[-1] if parts else ""


def way_shown(job: Job, offer: Offer, part: str) -> WayShown:
    """What the way in shows for a part typed."""
    try:
        ways = ways_in(with_plan(job, offer), part.strip(), offer.shorter_ways)
    except InvalidInput:
        ways = ()
    offered = bool(offer.steps) and not job.opening.steps
    lines = []
    if offered:
        met = max(step.confirmed for step in offer.steps)
        jobs = "1 job" if offer.jobs == 1 else f"{offer.jobs} jobs"
        times = "once" if met == 1 else f"up to {met} times"
        lines.append(f"Strip-down of {offer.source}: {len(offer.steps)} steps, met {times} in {jobs}.")
    for way in offer.shorter_ways:
        through = f" through {', '.join(way.through)}" if way.through else ""
        lines.append(f"Shorter: {way.part}{through}, {way.minutes:g} min. {way.note}".rstrip())
    lines += [f"“{lesson}”" for lesson in offer.lessons]
    learned = "\n".join(lines) or "Nothing yet: this is the first of its model on this bench."
    return WayShown(ways, learned, f"Begin from {offer.source} as a plan  Ctrl+L" if offered else "")
