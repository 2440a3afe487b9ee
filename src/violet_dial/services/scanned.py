"""What a scanner types of a label: the code, and the job's number in it. Known to the first screen, which loads no paper."""

import re

CODE = "VD{:04d}"
_SCANNED = re.compile(r"\s*VD(\d{4,8})\s*", re.IGNORECASE)


def scanned_number(text: str) -> int | None:
    """The job's number in what a scanner typed; None where it is something else."""
    found = _SCANNED.fullmatch(text)
    return int(found[1]) if found is not None else None
