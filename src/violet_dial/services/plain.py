"""Results as plain data: what commands print."""

import json
import sys
from typing import Any

MOST_SAID = 20  # rejected rows of a file, one by one


def as_json(data: dict[str, object]) -> str:
    """Plain data as JSON text without NaN or infinity."""
    return json.dumps(data, indent=2, ensure_ascii=False, allow_nan=False)


def say_rejected(result: dict[str, Any]) -> None:
    """Rows of a file that were not used, on standard error: each line and why, as the JSON has them."""
    rows = result["rejected"]
    for row in rows[:MOST_SAID]:
        sys.stderr.write(f"violet-dial: line {row['line']} was not used: {row['reason']}\n")
    more = max(result.get("rejected_count", len(rows)) - MOST_SAID, 0)
    if more:
        sys.stderr.write(f"violet-dial: and {more} more lines were not used\n")
