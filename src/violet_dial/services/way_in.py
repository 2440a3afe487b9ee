"""The ways into a device, from its strip-down and the lessons noted: what Open draws and Trace reckons the minutes from."""

from dataclasses import replace
from datetime import datetime

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.relations import relate
from violet_dial.core.opening.steps import Step
from violet_dial.core.opening.way_in import Way, WayIn, alternatives
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
    return ActResult(replace(job, opening=opening), "Return", f"Shorter way to {way.part}{through}: {way.minutes:g} min")


LONGEST_STEP_MINUTES = 30.0  # a longer pause in the log is a walk away, not work; common practice, no source


def logged_minutes(steps: tuple[Step, ...]) -> tuple[float, ...]:
    """Minutes of each step: typed, or from the times in the log, or what is usual for its kind."""
    found = []
    before: datetime | None = None
    for step in steps:
        now = datetime.fromisoformat(step.off_at) if step.off_at else None
        between = (now - before).total_seconds() / 60 if now and before else 0.0
        usable = 0.05 < between <= LONGEST_STEP_MINUTES
        found.append(step.minutes or (between if usable else step.expected_minutes))
        before = now or before
    return tuple(found)


def ways_of(job: Job, others: tuple[ShorterWay, ...] = ()) -> tuple[Way, ...]:
    """Every way known into this job's parts: its strip-down, and the shorter ways noted here or earlier."""
    steps = job.opening.steps
    relations = relate(steps)
    minutes = logged_minutes(steps)
    labels = _labels(steps)
    ways = [
        Way(labels[place], tuple(labels[one] for one in sorted(relations.before(place))), minutes[place], "strip-down")
        for place in range(len(steps))
    ]
    known = {label.lower(): label for label in labels}
    for lesson in (*job.opening.shorter_ways, *others):
        through = tuple(known.get(name.lower(), name) for name in lesson.through)
        ways.append(Way(known.get(lesson.part.lower(), lesson.part), through, lesson.minutes, "lesson"))
        for name in through:
            if name.lower() not in known:
                known[name.lower()] = name
                ways.append(Way(name, (), 1.0, "lesson"))
    return tuple(dict.fromkeys(ways))


def _labels(steps: tuple[Step, ...]) -> tuple[str, ...]:
    """A name for each step, made unique by a number where two are called the same."""
    seen: dict[str, int] = {}
    labels = []
    for step in steps:
        seen[step.name] = seen.get(step.name, 0) + 1
        labels.append(step.name if seen[step.name] == 1 else f"{step.name} ({seen[step.name]})")
    return tuple(labels)


def ways_in(job: Job, part: str, others: tuple[ShorterWay, ...] = ()) -> tuple[WayIn, ...]:
    """The cheapest way in to a part, and alternatives."""
    return alternatives(ways_of(job, others), part)


def parts_of(job: Job) -> tuple[str, ...]:
    """Names of every part a way in can be asked for."""
    return _labels(job.opening.steps)
