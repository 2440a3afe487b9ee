"""What Power puts on the sheet: the battery to use with the error to expect, how long it lasts, the cell as it was read."""

from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.job.spoken import spoken_date
from violet_dial.report.blocks import Block, Lines, Pairs, SheetPlace, present, section
from violet_dial.stations.power.acts import state_of_cell
from violet_dial.stations.power.bench import choice_said


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the battery."""
    chosen, cells = job.power.chosen, job.power.cells
    said: list[tuple[str, str]] = []
    cautions: list[str] = []
    if chosen is not None:
        said.append(("To expect", chosen.words))
        said.append(("Due", spoken(chosen.due_on)))
        cautions += _cautions(job, chosen.said)
    if cells:
        said.append(("Cell as read", _cell_words(job)))
    return section("Battery", Pairs(present(*said)), Lines(tuple(dict.fromkeys(cautions))), place=SheetPlace.BATTERY)


def card(job: Job) -> tuple[tuple[str, str], ...]:
    """The battery that was taken for use."""
    chosen = job.power.chosen
    if chosen is None:
        return ()
    due = f", due {spoken(chosen.due_on)}" if chosen.due_on else ""
    return (("Battery", f"{chosen.said}{due}"),)


def spoken(iso: str) -> str:
    """A date in words; empty for none."""
    from datetime import date

    return spoken_date(date.fromisoformat(iso)) if iso else ""


def _cautions(job: Job, said: str) -> list[str]:
    try:
        choice = choice_said(job.power, said)
    except VioletDialError:
        return []
    found = [choice.size.chemistry.caution] if choice.size and choice.size.chemistry.caution else []
    return [*found, "Put the cell in the right way round; take it out when the device rests for months: cells leak."]


def _cell_words(job: Job) -> str:
    try:
        return state_of_cell(job.power, job.power.cells[-1]).words
    except VioletDialError:
        return ""
