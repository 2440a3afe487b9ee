"""Acts at Return: the words on the sheet, the signature, and what stays at the bench."""

import re
from collections.abc import Callable
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import ActResult, Understood
from violet_dial.job.closing import Closing, Counted, PartUsed, Thought
from violet_dial.job.document import Job
from violet_dial.services.way_in import note_shorter_way, said_shorter_way, understand_shorter_way
from violet_dial.stations.hand_back.figures import Figures

EXPECTED = (
    "part 2 LR44 (used) · stock 20 LR44 (counted in the drawer now) · thought trace 30 (minutes) · shorter way: meter "
    "cell through "
    "front frame; 6 min"
)
MOST_PARTS, LONGEST = 200, 120


def close_sheet(job: Job, closing: Closing, at: str) -> ActResult:
    """What goes on the sheet: done, left, battery, care, lesson, signature."""
    reason = f"Signed by {closing.signed_by}" if closing.signed_by and not job.closing.signed_by else "Sheet written"
    return ActResult(replace(job, closing=closing), "Return", reason)


def with_words(closing: Closing, values: dict[str, str]) -> Closing:
    """The closing with these words by their field's name."""
    return replace(closing, **values)  # type: ignore[arg-type]


def understand(job: Job, text: str) -> Understood:
    """A line typed at Bench. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().split())
    if low.lower().startswith("shorter way"):
        way = low.split(":", 1)[-1] if ":" in low else low[len("shorter way") :]
        said = said_shorter_way(way)
        return Understood(f"= {said}", lambda job, at: note_shorter_way(job, understand_shorter_way(way), at))
    for pattern, read in _LINES:
        if match := re.fullmatch(pattern, low, re.IGNORECASE):
            return read(match)
    raise InvalidInput("Bench", low or "nothing", EXPECTED)


def _part(match: re.Match[str]) -> Understood:
    count, name = int(match[1] or 1), match[2].strip()[:LONGEST]
    if not 1 <= count <= 100_000:
        raise InvalidInput("Part", count, "1 to 100 000")

    def act(job: Job, at: str) -> ActResult:
        kept = {part.name.lower(): part for part in job.closing.parts}
        before = kept.get(name.lower(), PartUsed(name, 1))
        had = before.count if name.lower() in kept else 0
        kept[name.lower()] = PartUsed(before.name, had + count)
        return _kept(job, f"Used: {count} {name}", parts=tuple(kept.values()))

    return Understood(f"= used: {count} × {name}", act)


def _stock(match: re.Match[str]) -> Understood:
    count, name = int(match[1]), match[2].strip()[:LONGEST]

    def act(job: Job, at: str) -> ActResult:
        rest = tuple(one for one in job.closing.counted if one.name.lower() != name.lower())
        return _kept(job, f"Counted in the drawer: {count} {name}", counted=(*rest, Counted(name, count, at)))

    return Understood(f"= {count} × {name} in the drawer now, before this job's own are taken off", act)


def _thought(match: re.Match[str]) -> Understood:
    station, minutes = match[1].strip().capitalize(), parse_number(match[2], "Minutes")
    if not 0 <= minutes <= 100_000:
        raise InvalidInput("Minutes", match[2], "0 to 100 000")

    def act(job: Job, at: str) -> ActResult:
        rest = tuple(one for one in job.closing.thought if one.station != station)
        return _kept(job, f"Thought: {station} {minutes:g} min", thought=(*rest, Thought(station, minutes)))

    return Understood(f"= {station} was thought to take {minutes:g} min", act)


def _kept(job: Job, words: str, **change: object) -> ActResult:
    closing = replace(job.closing, **change)  # type: ignore[arg-type]
    if len(closing.parts) > MOST_PARTS or len(closing.counted) > MOST_PARTS:
        raise InvalidInput("Parts", MOST_PARTS + 1, f"at most {MOST_PARTS} kinds")
    return ActResult(replace(job, closing=closing), "Return", words)


def learn(job: Job, figures: Figures) -> ActResult:
    """Chances beforehand for this job as this workshop's own faults shift them.

    Raises InvalidInput: too few faults to learn from.
    """
    if not figures.weights:
        raise InvalidInput("Faults put right", figures.repaired, "ten or more in this workshop, to learn from")
    tracing = replace(job.tracing, weights=figures.weights)
    words = f"Chances beforehand from this workshop's {figures.repaired} faults"
    return ActResult(replace(job, tracing=tracing), "Return", words)


def forget(job: Job, at: str) -> ActResult:
    """Chances beforehand as they ship."""
    return ActResult(replace(job, tracing=replace(job.tracing, weights=())), "Return", "Chances beforehand as shipped")


Read = Callable[[re.Match[str]], Understood]
_LINES: tuple[tuple[str, Read], ...] = (
    (r"part (?:(\d+) ?(?:x|×)? )?(.+)", _part),
    (r"stock (\d+) ?(?:x|×)? ?(.+)", _stock),
    (r"thought (\w+) (\S+)(?: ?min)?", _thought),
)
