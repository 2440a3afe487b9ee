"""A lead held at one spot and the other drawn along several: what is heard there, in a line."""

import re

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Touch, key_of
from violet_dial.core.mapping.facts import BEEP_OHM, SILENT_OHM
from violet_dial.core.mapping.possible import NextTouch
from violet_dial.core.mapping.taken import touch_words

BEEPS = ("beep", "beeps", "b")
SILENT = ("no beep", "silent", "n")
OPEN = "open"  # of one touch a figure; along a row no more than that nothing beeped
_HEARD = "|".join((*SILENT, OPEN, *BEEPS))
_WHERE = tuple(
    re.compile(one) for one in (rf"(?P<at>.+?) (?P<heard>{_HEARD})", rf"(?P<heard>{_HEARD}) (?:at )?(?P<at>.+)", "(?P<at>.+)")
)


def touched(ask: NextTouch, spot: str, beeps: bool) -> Touch:
    """One touch of what was asked for: whether the meter beeps. ``spot``: the second lead's."""
    return Touch(ask.a, spot, BEEP_OHM if beeps else SILENT_OHM, beeps, ask.setting)


def read_row(ask: NextTouch, text: str) -> tuple[Touch, ...]:
    """What was heard along a row: the same at all (``beep``, ``no beep``), or where it was otherwise (``p4, p7 beep``; a name
    alone: there it was not as expected).

    Raises InvalidInput: it is neither, or a spot is not of the row.
    """
    low = " ".join(text.lower().split())
    spots = {key_of(spot) for spot in ask.along}
    if low in BEEPS or low in SILENT or low == OPEN:
        if key_of(low) in spots:
            raise InvalidInput("What was heard", text, f"a beep or none at all of them, or {low} beep for the spot of that name")
        return tuple(touched(ask, spot, low in BEEPS) for spot in ask.along)
    for one in _WHERE:
        match = one.fullmatch(low)
        there = {key_of(name) for name in match["at"].split(",")} if match else set()
        if match and there and there <= spots:
            heard = match.groupdict().get("heard")
            beeps = not ask.expects_beep if heard is None else heard in BEEPS
            return tuple(touched(ask, spot, beeps == (key_of(spot) in there)) for spot in ask.along)
    raise InvalidInput("What was heard", text, f"beep, no beep, or where it was otherwise: one or more of {', '.join(ask.along)}")


def touches_words(touches: tuple[Touch, ...]) -> str:
    """Touches of one go, said. ``touches``: all from one spot."""
    if len({touch_words(touch) for touch in touches}) == 1:
        return f"{touch_words(touches[0])}{' at each' if len(touches) > 1 else ''}"
    return "; ".join(f"{touch.b} {touch_words(touch)}" for touch in touches)
