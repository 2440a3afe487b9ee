"""The person's own pattern for a meter that sends lines."""

import re

from violet_dial.core.errors import InvalidInput

USUAL_PATTERN = r"(?P<value>OL|[-+]?\d+(\.\d+)?([eE][-+]?\d+)?)\s*(?P<unit>[a-zA-ZΩµ]+)?"
MOST_PATTERN = 300


def compiled_pattern(pattern: str) -> re.Pattern[str]:
    """The pattern of a meter that sends lines.

    Raises
    ------
    InvalidInput
        Too long, not a regular expression, or without a group named value.
    """
    expected = "a regular expression with a group (?P<value>…), and (?P<unit>…) where the line says the unit"
    if len(pattern) > MOST_PATTERN:
        raise InvalidInput("Pattern", f"{len(pattern)} characters", f"at most {MOST_PATTERN}")
    try:
        compiled = re.compile(pattern)
    except re.error as error:
        raise InvalidInput("Pattern", pattern, f"{expected} ({error})") from error
    if "value" not in compiled.groupindex:
        raise InvalidInput("Pattern", pattern, expected)
    return compiled
