"""Sheets written in the demo jobs."""

from violet_dial.job.closing import Closing
from violet_dial.services.doing import Doing
from violet_dial.stations.hand_back.acts import close_sheet


def close(on: Doing, closing: Closing) -> None:
    """The words on a sheet, and its signature where there is one."""
    on.do(lambda job, at: close_sheet(job, closing, at))
