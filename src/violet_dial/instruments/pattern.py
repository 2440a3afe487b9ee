"""The person's own pattern for a meter that sends lines; matched by an engine whose time grows with the line alone."""

from typing import Protocol

from violet_dial.core.errors import InvalidInput

USUAL_PATTERN = r"(?P<value>OL|[-+]?\d+(\.\d+)?([eE][-+]?\d+)?)\s*(?P<unit>[a-zA-ZΩµ]+)?"
MOST_PATTERN = 300
MOST_LINE = 500  # characters of a line that are looked at
MOST_MEMORY = 8_000_000


class Found(Protocol):
    """What a line was found to hold."""

    def groupdict(self) -> dict[str, str | None]:
        """The groups by their names."""


class LinePattern:
    """A pattern with a group named value.

    Raises InvalidInput: too long, not a regular expression, or without a group named value.
    """

    def __init__(self, pattern: str) -> None:
        import re2

        expected = "a regular expression with a group (?P<value>…), and (?P<unit>…) where the line says the unit"
        if len(pattern) > MOST_PATTERN:
            raise InvalidInput("Pattern", f"{len(pattern)} characters", f"at most {MOST_PATTERN}")
        options = re2.Options()
        options.max_mem, options.log_errors = MOST_MEMORY, False
        try:
            self._compiled = re2.compile(pattern, options)
        except (re2.error, UnicodeEncodeError) as error:
            why = error.args[0] if error.args else "not understood"
            said = why.decode("utf-8", "replace") if isinstance(why, bytes) else str(why)
            hint = "; looking around and back references are not there" if "invalid" in said else ""
            raise InvalidInput("Pattern", pattern, f"{expected} ({said}{hint})") from error
        if "value" not in self._compiled.groupindex:
            raise InvalidInput("Pattern", pattern, expected)

    def search(self, line: str) -> Found | None:
        """The first place in a line where the pattern holds."""
        found: Found | None = self._compiled.search(line[:MOST_LINE])
        return found
