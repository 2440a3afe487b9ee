"""A map as text: bench lines, one a line; or SPICE."""

import re

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.mapping.asked import doubtful_spot
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.change import kept
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.lines import understand_line

MOST_CHARACTERS = 1_000_000
MOST_LINES = 10_000
_SPICE = re.compile(r"^\s*(\.end\b|\.model\b|\.subckt\b|\*:)", re.IGNORECASE | re.MULTILINE)


def board_from_text(text: str) -> Board:
    """The map that a text says: bench lines with ``#`` for comments, or SPICE.

    ``text``: of a file. Raises InvalidInput: too long, or a line that is not understood, by its number.
    """
    if len(text) > MOST_CHARACTERS:
        raise InvalidInput("Map", f"{len(text)} characters", f"at most {MOST_CHARACTERS}")
    if _SPICE.search(text):
        return board_from_spice(text)
    lines = text.split("\n")
    if len(lines) > MOST_LINES:
        raise InvalidInput("Map", f"{len(lines)} lines", f"at most {MOST_LINES}")
    board = Board()
    for number, raw in enumerate(lines, start=1):
        line = raw.split("#", 1)[0].strip()
        if not line:
            continue
        try:
            said = understand_line(board, line)
            doubt = doubtful_spot(board, said)
            if doubt:
                raise InvalidInput("Spot", line, f"spot NAME on a line before, where that is its name. {doubt}")
            board, _ = kept(board, said)
        except VioletDialError as error:
            raise InvalidInput(f"Line {number}", line, f"a line that is understood ({error})") from error
    return board
