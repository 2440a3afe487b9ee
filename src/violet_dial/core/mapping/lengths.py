"""How long leads are, from a photo whose scale is known, and what they should measure then.

Over an ohm, or over ten times what its length and copper come to, a lead is a suspect before anything else is known.
"""

import math
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Ground, Item, key_of
from violet_dial.core.mapping.kinds import USUAL_WIDE_MM, track_ohm
from violet_dial.core.mapping.names import resolved
from violet_dial.core.quantities import format_engineering

LEAD_OHM = 0.05  # a lead of which no length is known
SUSPECT_OHM, SUSPECT_TIMES, LEAST_OHM = 1.0, 10.0, 0.3  # the last: what a pocket meter tells from its own leads
TRACKS = ("track", "flex")  # what runs along the board as the photo shows it


def with_scale(board: Board, a: str, b: str, distance_mm: float) -> tuple[Board, str]:
    """The board with the scale of a photo that shows both spots, and which that is.

    ``distance_mm``: between them, mm. Raises InvalidInput: a spot it has not, none of its photos shows both, or a distance
    that is none.
    """
    pins = [{pin.photo: (pin.x, pin.y) for pin in board.found_spot(resolved(board, name)).pins} for name in (a, b)]
    if not (math.isfinite(distance_mm) and 0 < distance_mm <= 10_000):
        raise InvalidInput("Distance", distance_mm, "more than 0 mm, at most 10 000 mm")
    ground = next((one for one in board.grounds if one.photo in pins[0] and one.photo in pins[1]), None)
    if ground is None or pins[0][ground.photo] == pins[1][ground.photo]:
        raise InvalidInput("Scale", f"{a} to {b}", "two spots that lie apart on one photo; put them on it first")
    new = replace(ground, scale_from=pins[0][ground.photo], scale_to=pins[1][ground.photo], scale_mm=distance_mm)
    rest = tuple(new if one is ground else one for one in board.grounds)
    return replace(board, grounds=rest), ground.name


def length_mm(board: Board, item: Item) -> float | None:
    """How long a lead is: as said, else as the crow flies on a photo with a scale; None where neither is known.

    ``item``: a lead of it.
    """
    said = item.figure("mm")
    if said is not None:
        return said.value
    if item.kind not in TRACKS or len(item.spots) != 2:
        return None
    for ground in board.grounds:
        ends = [(pin.x, pin.y) for name in item.spots for pin in board.found_spot(name).pins if pin.photo == ground.photo]
        if ground.scale_mm and len(ends) == 2:
            return ground.scale_mm * _apart(ground, *ends) / _apart(ground, ground.scale_from, ground.scale_to)
    return None


def _apart(ground: Ground, one: tuple[float, float], other: tuple[float, float]) -> float:
    return math.hypot((one[0] - other[0]) * ground.aspect, one[1] - other[1])


def expected_lead_ohm(board: Board, item: Item) -> float:
    """What a lead should measure: by its length and copper where they are known. ``item``: a lead of it."""
    own = item.figure("ohm")
    if own is not None and not own.guessed:
        return own.value
    length = length_mm(board, item)
    if length is not None:
        return max(track_ohm(length, item.value("wide_mm", USUAL_WIDE_MM)), 1e-3)
    return item.value("ohm", LEAD_OHM)


def lead_suspects(board: Board) -> tuple[str, ...]:
    """Leads that measured more than they should, said, the worst first."""
    found = []
    for touch in board.touches:
        ends = {key_of(touch.a), key_of(touch.b)}
        for item in board.at(touch.a):
            if not item.is_lead or {key_of(spot) for spot in item.spots} != ends or touch.beep is not None:
                continue
            should = expected_lead_ohm(board, item)
            ohm = max(touch.ohm - 0.1, 0.0)  # without the meter's own leads
            if ohm > SUSPECT_OHM or ohm > max(SUSPECT_TIMES * should, LEAST_OHM):
                length = length_mm(board, item)
                of = f"{length:.0f} mm of it" if length is not None else "it"
                shown = "open" if touch.ohm >= 1e6 else f"{format_engineering(touch.ohm, 3)}Ω"
                found.append((ohm, f"{item.name} shows {shown}, {of} should show {format_engineering(should, 2)}Ω: a suspect"))
    return tuple(dict.fromkeys(words for _, words in sorted(found, reverse=True)))
