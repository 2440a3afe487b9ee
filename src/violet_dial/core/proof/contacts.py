"""Rounds of cleaning on a selector or spring contact: what each gained, when another gains nothing, which finger is worst."""

from dataclasses import dataclass
from statistics import median
from typing import Literal

from violet_dial.core.errors import InvalidInput

GOOD_OHM = 1.0  # a clean selector contact is below it; common practice, no source
GAIN = 0.8  # a round that leaves more than this share of the ohms has gained nothing at that position
LEAST_OHM = 0.1  # changes below it are the probes' own
ERRATIC = 2.0  # most over least of several readings of one position, from which it is not to be trusted
MOST_OHM = 1e9

How = Literal["as it came", "swab", "fluid", "burnish", "other"]
DUES: dict[str, str] = {
    "as it came": "Contact cleaner on a swab, no flooding; turn, and swab again.",
    "swab": "Fluid on the swab, turn it through all positions, then read again.",
    "fluid": "Burnish with clean paper or a glass-fibre brush used once, lightly; never on plated contacts.",
    "burnish": "Look for a bent or worn finger: bend it back with a wooden stick, or leave that position out.",
    "other": "Look for a bent or worn finger.",
}  # common practice, no source
CARE = "No abrasive on plated contacts: once the plating is through, they tarnish for good. Solvent: gloves, fresh air, no flame."


@dataclass(frozen=True)
class Round:
    """One round: how it was cleaned before, what each position then read (ohm, several readings of one are several pairs), and
    whether black still came off."""

    how: How
    readings: tuple[tuple[str, float], ...]
    black: bool | None = None


@dataclass(frozen=True)
class Position:
    """One position: its reading in each round (ohm; None where it was not read), and how it stands now."""

    name: str
    ohms: tuple[float | None, ...]
    state: Literal["good", "high", "erratic", "not read"]


@dataclass(frozen=True)
class ContactJudgement:
    """The rounds judged. ``gains`` whether another round is worth while; ``next`` what to do."""

    positions: tuple[Position, ...]
    worst: str
    gained: tuple[bool, ...]
    gains: bool
    is_done: bool
    next: str
    words: str


def judge_contacts(rounds: tuple[Round, ...], good_ohm: float = GOOD_OHM) -> ContactJudgement:
    """What the rounds of cleaning say.

    ``good_ohm``: float, ohm, a contact below it is good. Raises InvalidInput: a reading that is no resistance.
    """
    for one in rounds:
        for name, ohm in one.readings:
            if not 0 <= ohm <= MOST_OHM:
                raise InvalidInput(f"Ohms at {name}", ohm, "0 or more; OL for an open")
    names = tuple(dict.fromkeys(name for one in rounds for name, _ohm in one.readings))
    positions = tuple(_position(name, rounds, good_ohm) for name in names)
    gained = tuple(_gained(positions, place, good_ohm) for place in range(1, len(rounds)))
    read = [position for position in positions if position.ohms and position.ohms[-1] is not None]
    bad = [one for one in read if one.state != "good"]
    black = bool(rounds and rounds[-1].black)
    worst = max(bad, key=lambda one: one.ohms[-1] or 0.0).name if bad else ""
    is_done = bool(read) and not bad and not black
    gains = bool(rounds) and not is_done and (black or not gained or gained[-1])
    return ContactJudgement(
        positions, worst, gained, gains, is_done, _next(rounds, is_done, gains, black), _words(rounds, bad, is_done, gains, black)
    )


def _position(name: str, rounds: tuple[Round, ...], good_ohm: float) -> Position:
    found: list[float | None] = []
    last: list[float] = []
    for one in rounds:
        several = [ohm for at, ohm in one.readings if at == name]
        found.append(median(several) if several else None)
        last = several
    if not last:
        return Position(name, tuple(found), "not read")
    if max(last) > ERRATIC * min(last) and max(last) - min(last) > LEAST_OHM:
        return Position(name, tuple(found), "erratic")
    return Position(name, tuple(found), "good" if median(last) <= good_ohm else "high")


def _gained(positions: tuple[Position, ...], place: int, good_ohm: float) -> bool:
    """Whether a round made any position that was not good yet better by more than its readings' own doubt."""
    for position in positions:
        now, before = (position.ohms[place], next((ohm for ohm in reversed(position.ohms[:place]) if ohm is not None), None))
        if now is None or before is None or before <= good_ohm:
            continue
        if now <= GAIN * before and before - now > LEAST_OHM:
            return True
    return False


def _next(rounds: tuple[Round, ...], is_done: bool, gains: bool, black: bool) -> str:
    if not rounds:
        return "Read every position before anything is cleaned: 1/250 4.2 ohm."
    if is_done:
        return "Nothing: every position is good. Fire it at each of them."
    if black:
        return "Swab again until no black comes off."
    return DUES[rounds[-1].how] if not gains or rounds[-1].how == "as it came" else "The same once more: it still gains."


def _words(rounds: tuple[Round, ...], bad: list[Position], is_done: bool, gains: bool, black: bool) -> str:
    if not rounds:
        return "No contact was read yet."
    if is_done:
        return f"All good after {len(rounds) - 1} rounds." if len(rounds) > 1 else "All good as it came."
    if not bad:
        return "Black still comes off, though every position reads low."
    erratic = [one.name for one in bad if one.state == "erratic"]
    said = f"Worst at {max(bad, key=lambda one: one.ohms[-1] or 0.0).name}; {len(bad)} not good yet."
    if erratic:
        said += f" Never the same twice: {', '.join(erratic)}."
    if not gains:
        said += " Another round like the last gains nothing."
    return said
