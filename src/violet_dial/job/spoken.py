"""Times and dates as said at the bench, in English whatever the locale."""

from datetime import date

LONG_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def spoken_time(kept_at: str) -> str:
    """ISO 8601 as said at the bench: ``3 Nov 14:02``; the text itself when it is not a time."""
    day, _, clock = kept_at.partition("T")
    parts = day.split("-")
    if len(parts) != 3 or not all(part.isdecimal() for part in parts) or not 1 <= int(parts[1]) <= 12:
        return kept_at
    return f"{int(parts[2])} {MONTHS[int(parts[1]) - 1]} {clock[:5]}"


def spoken_date(day: date) -> str:
    """A date as written on the sheet: ``3 November 2026``."""
    return f"{day.day} {LONG_MONTHS[day.month - 1]} {day.year}"
