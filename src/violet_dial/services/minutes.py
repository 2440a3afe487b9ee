"""Minutes spent at each station, from when its acts were kept."""

from collections.abc import Sequence
from datetime import datetime

from violet_dial.store.records import LogRow

LONGEST_MIN = 15.0  # between two acts: a longer pause was a break, and counts for the least
LEAST_MIN = 1.0  # for an act after a break, and for the first of all


def minutes_by_station(log: Sequence[LogRow]) -> tuple[tuple[str, float], ...]:
    """Stations with their minutes, in the order they were first worked at.

    The time since the act before counts for the station of the act; after a pause of over a quarter of an hour, one minute.
    """
    found: dict[str, float] = {}
    last: datetime | None = None
    for row in sorted(log, key=lambda one: one.version_id):
        try:
            at = datetime.fromisoformat(row.kept_at)
        except ValueError:
            continue
        since = (at - last).total_seconds() / 60 if last is not None else LEAST_MIN
        spent = since if 0 <= since <= LONGEST_MIN else LEAST_MIN
        found[row.station] = found.get(row.station, 0.0) + spent
        last = at
    return tuple(found.items())
