"""Progress as CSV, and the result of one exercise as a file."""

import csv
import io
from datetime import UTC, datetime

from violet_dial.core.errors import InvalidInput
from violet_dial.job.csv_text import defused
from violet_dial.job.document import Job
from violet_dial.practise.files import result_file
from violet_dial.practise.progress_state import Progress
from violet_dial.services.station import FileOut

COLUMNS = (
    "ended", "kinds", "device", "level", "found", "points", "said", "minutes", "best_minutes", "tests", "best_tests",
    "bits_a_minute", "best_bits_a_minute", "slips", "needless", "habit",
)  # fmt: skip


def progress_csv(progress: Progress) -> str:
    """A row an exercise, in the order they ended: kinds parted by ``+``, chances said as ``80 % right``, times in UTC."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for one in progress.done:
        ended = datetime.fromtimestamp(one.day * 86_400.0, UTC).isoformat(timespec="seconds")
        said = "; ".join(f"{chance:.0%} {'right' if right else 'wrong'}" for chance, right in one.said)
        row = (
            ended, " + ".join(one.kinds), one.device, one.level, "yes" if one.found else "no", f"{one.points:.1f}", said,
            f"{one.minutes:.1f}", f"{one.best_minutes:.1f}", one.tests, one.best_tests, f"{one.bits_a_minute:.3f}",
            f"{one.best_bits_a_minute:.3f}", "; ".join(one.slips), one.needless, one.habit,
        )  # fmt: skip
        writer.writerow([defused(str(cell)) for cell in row])
    return out.getvalue()


def _table_written(job: Job, name: str, part: object) -> bytes:
    if name.endswith(".csv"):
        progress = part[1] if isinstance(part, tuple) and len(part) > 1 else None
        if not isinstance(progress, Progress):
            raise InvalidInput("Progress", "not counted yet", "a moment's patience: the page Progress shows it")
        return progress_csv(progress).encode("utf-8")
    return result_file(job)


FILE_OUT = FileOut(
    "Result or progress",
    "Result of this exercise (*.json);;Progress over all exercises (*.csv)",
    lambda job: f"exercise-{job.label}.json",
    _table_written,
)
