"""A shorter way into a device, noted for the next one of its model: at Open while it is found, at Return in hindsight."""

from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.opening import ShorterWay


def understand_shorter_way(text: str) -> ShorterWay:
    """A shorter way as typed: ``meter cell through front frame + cover; 6 min``.

    Raises InvalidInput: no part, or minutes that are not a number.
    """
    said, _, tail = text.partition(";")
    part, _, through = said.partition(" through ")
    names = tuple(name.strip() for name in through.split("+") if name.strip())
    minutes_text = tail.lower().replace("minutes", "").replace("min", "").strip()
    if not part.strip() or not minutes_text:
        raise InvalidInput("Shorter way", text, "a part, what it is reached through, and minutes: "
                           "meter cell through front frame; 6 min")  # fmt: skip
    minutes = parse_number(minutes_text, "Minutes")
    if not 0 <= minutes <= 600:
        raise InvalidInput("Minutes", minutes_text, "0 to 600")
    return ShorterWay(part.strip(), names, minutes)


def said_shorter_way(text: str) -> str:
    """What a typed shorter way means, in words."""
    way = understand_shorter_way(text)
    through = f" through {', '.join(way.through)}" if way.through else ""
    return f"{way.part}{through}, {way.minutes:g} min"


def note_shorter_way(job: Job, way: ShorterWay, at: str) -> ActResult:
    """A lesson: this part is reached sooner through those."""
    if not way.part.strip():
        raise InvalidInput("Shorter way", way.part, "the part it leads to")
    opening = replace(job.opening, shorter_ways=(*job.opening.shorter_ways, way))
    through = f" through {', '.join(way.through)}" if way.through else ""
    return ActResult(
        replace(job, opening=opening), "Return", f"Shorter way to {way.part}{through}: {way.minutes:g} min"
    )
