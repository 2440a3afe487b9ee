"""What Receive puts on the sheet: what was noticed and found, what was tried before, and what the walk showed."""

from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Lines, Pairs, SheetPlace, present, section
from violet_dial.services.gate import finding_line
from violet_dial.stations.receive.outline_drawn import outlines_drawn


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of what was found."""
    said = present(("Noticed", job.intake.noticed), ("Tried before", job.intake.tried_already))
    found = tuple(
        f"{number}. {_sentence(finding_line(job, finding))}" for number, finding in enumerate(job.receiving.findings, start=1)
    )
    screws = tuple(
        f"Missing screw of the {one.place}: {f'found {one.found}' if one.found else 'not found'}."
        for one in job.receiving.missing
    )
    newest = {(trial.act, trial.setting, trial.supply): trial for trial in job.receiving.trials}
    failed = [one for one in newest.values() if one.result in ("wrong", "dead")]
    tried = tuple(
        _sentence(f"{one.act} {one.setting}".strip() + f", {one.supply}: {one.result}" + f" ({one.note})" * bool(one.note))
        for one in failed
    )
    return (
        *section("Found on receipt", Pairs(said), *outlines_drawn(job), Lines((*found, *screws)), place=SheetPlace.FOUND),
        *section("Did not work", Lines(tried), place=SheetPlace.FOUND),
    )


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:].rstrip('.')}."
