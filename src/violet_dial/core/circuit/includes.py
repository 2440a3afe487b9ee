"""Files that a circuit's text names with ``.include``: taken in where that is asked for, and only from beside it."""

import re
from collections.abc import Callable

from violet_dial.core.errors import InvalidInput

MOST_FILES, DEEPEST, MOST_BYTES = 20, 5, 400_000
_INCLUDE = re.compile(r"^\s*\.inc(?:lude)?\s+(?:\"([^\"]+)\"|'([^']+)'|(\S+))\s*$", re.IGNORECASE)


def with_includes(text: str, beside: Callable[[str], str]) -> str:
    """The text with the lines of the files it names in their place.

    ``beside``: gives the text of a file that lies beside the circuit, by its bare name. Raises InvalidInput: a name with a
    folder in it, too many files, or files within files too deep; and what ``beside`` raises.
    """
    taken: list[str] = []
    return "\n".join(_lines(text, beside, taken, 0))


def _lines(text: str, beside: Callable[[str], str], taken: list[str], depth: int) -> list[str]:
    found: list[str] = []
    for number, line in enumerate(text.replace("\r\n", "\n").split("\n"), start=1):
        named = _INCLUDE.match(line)
        if named is None:
            found.append(line)
            continue
        name = next(group for group in named.groups() if group)
        if not re.fullmatch(r"[\w.+ -]+", name) or name.startswith("."):
            raise InvalidInput(f"Line {number}", line.strip(), "the bare name of a file beside the circuit")
        taken.append(name)
        if len(taken) > MOST_FILES or depth >= DEEPEST:
            raise InvalidInput(f"Line {number}", line.strip(), f"at most {MOST_FILES} files, {DEEPEST} within each other")
        inner = [line for line in _lines(beside(name), beside, taken, depth + 1) if line.strip().lower() != ".end"]
        found += [f"* {name}", *inner]
    return found
