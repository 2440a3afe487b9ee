"""Return's record: what goes back with the device."""

from dataclasses import dataclass

from violet_dial.job.text import Line, Text


@dataclass(frozen=True)
class Closing:
    """What goes back with the device, and the lesson that stays."""

    done: Text = ""
    left: Text = ""
    battery: Line = ""
    lesson: Text = ""
    signed_by: Line = ""
    signed_on: Line = ""
