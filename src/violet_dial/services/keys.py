"""A key of the window, for the key sheet and the window that hears it; and what a scanner types of a label. Known to the first
screen, which loads no paper.
"""

import re
from dataclasses import dataclass

CODE = "VD{:04d}"
_SCANNED = re.compile(r"\s*VD(\d{4,8})\s*", re.IGNORECASE)


def scanned_number(text: str) -> int | None:
    """The job's number in what a scanner typed; None where it is something else."""
    found = _SCANNED.fullmatch(text)
    return int(found[1]) if found is not None else None


@dataclass(frozen=True)
class Key:
    """One entry of the table of keys.

    ``act`` is the page's method that a shortcut calls; empty where the widget that has the focus handles the key itself.
    ``anywhere``: the key works at every station and goes to this one first.
    """

    keys: tuple[str, ...]
    words: str
    act: str = ""
    anywhere: bool = False
