"""Power: its state on the line, what it wants done next, its words for the card and for search, its files of the bundle."""

import re
from dataclasses import replace

from violet_dial.core.errors import VioletDialError
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.job.power import Power
from violet_dial.services.lessons import OWN_CELL_WORDS
from violet_dial.services.next import NextAct, Urgency, described
from violet_dial.services.station import StationState
from violet_dial.stations.power.acts import battery_words, choose, state_of_cell
from violet_dial.stations.power.bench import choice_said
from violet_dial.stations.power.lanes_state import MODES
from violet_dial.stations.power.table import has_date, reminder, write_cells
from violet_dial.stations.power.work import PowerWorked

ABOUT_POWER = re.compile(
    r"(which|wrong|other|new kind of) (batter|cell)|(made|meant) for (a )?\d|\b1[.,]35|drops? out|runs? down|drain|empties"
    r"|goes flat|flat (after|in|over)|batter(y|ies) (last|flat|run)|\bdiode",
    re.IGNORECASE,
)
CHOICES, CELL, USE, FITTING, SUPPLY = range(5)


def begun(power: Power) -> bool:
    """Whether anything was said or read here."""
    return power != Power()


def state(job: Job) -> StationState:
    """Done when a battery is taken for use."""
    if job.power.chosen is not None:
        return "done"
    return "begun" if begun(job.power) else "open"


def finding(job: Job) -> str:
    """The battery that was taken; else what the cell read last is worth."""
    if job.power.chosen is not None:
        return f"Battery: {_chosen_name(job)}"
    if not job.power.cells:
        return ""
    try:
        return state_of_cell(job.power, job.power.cells[-1]).words
    except VioletDialError:
        return ""


def _chosen_name(job: Job) -> str:
    chosen = job.power.chosen
    assert chosen is not None
    try:
        return choice_said(job.power, chosen.said).name
    except VioletDialError:
        return chosen.said


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Power, and the cells of the bench's own."""
    power = job.power
    own = tuple(f"{OWN_CELL_WORDS} {cell.name}" for cell in power.own_cells)
    chosen = (battery_words(power.chosen),) if power.chosen is not None else ()
    return (*power.choices, *power.diodes, *power.use, *own, *chosen)


def members(job: Job) -> tuple[Member, ...]:
    """The bench's own cells as CSV, and the calendar entry of a cell that will be due."""
    own = (("cells.csv", write_cells(job.power.own_cells)),) if job.power.own_cells else ()
    due = (("battery-due.ics", reminder(job).decode()),) if has_date(job) else ()
    return (*own, *due)


def next_of(job: Job, result: object) -> NextAct | None:
    """The battery to use, where that is the complaint (then before any tracing) or a choice was begun here; nothing once one is
    taken."""
    power = job.power
    complaint = bool(ABOUT_POWER.search(job.intake.headline_fault))
    wanted = complaint or bool(power.choices or power.design_v)
    if not described(job) or power.chosen is not None or not wanted or job.device.cell == "selenium":
        return None
    worked = result if isinstance(result, PowerWorked) else None
    return replace(_wanted(job, worked), urgency=Urgency.COMPLAINT if complaint else Urgency.LIGHT)


def _wanted(job: Job, worked: PowerWorked | None) -> NextAct:
    if worked is None:
        return NextAct(
            "Power", "Choose the battery", "What each choice does to the reading is worked out from the circuit.", "2 min",
            "To the choices", "choices", "a battery", Urgency.LIGHT,
        )  # fmt: skip
    if worked.drop_out_v is not None and not job.power.cells:
        return NextAct(
            "Power", "Read the cells at rest, then under a load",
            f"The magnet lets go below {worked.drop_out_v:.2f} V: cells that read well at rest may sag that far.", "3 min",
            "To the cells", "cell", "a battery", Urgency.LIGHT, page=CELL,
        )  # fmt: skip
    return _take(worked)


def _take(worked: PowerWorked) -> NextAct:
    """The best of the choices, to be taken."""
    from violet_dial.core.power.said import reason

    lanes = worked.lanes
    if lanes.best < 0:
        return NextAct(
            "Power", "Say another battery", "On none of these does the device follow the light.", "2 min", "To the choices",
            "choices", "a battery", Urgency.LIGHT,
        )  # fmt: skip
    lane = lanes.lanes[lanes.best]
    said, why = lane.choice.said, reason(lane, lanes)
    return NextAct(
        "Power", f"Take {lane.choice.name}", why, "1 min", "Take this battery", "take", "a battery", Urgency.LIGHT,
        act=lambda job, at: choose(job, said, why, at), arithmetic=MODES[lanes.mode],
    )  # fmt: skip
