"""What Qt itself says: noted in the log; where it is about to give up, one sentence and an orderly end instead of an abort."""

import logging
import os
import sys

from PySide6.QtCore import QMessageLogContext, QtMsgType

_log = logging.getLogger("violet_dial.qt")
GIVING_UP = (
    "violet-dial: no window can be shown: {why} Check DISPLAY or WAYLAND_DISPLAY. Pictures of every view can be made "
    "without a display: ./demo --shots DIR\n"
)


def heard(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
    """Qt's message handler."""
    if kind == QtMsgType.QtFatalMsg:
        shown = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY")
        why = f"the display {shown} cannot be reached." if shown else f"{message.splitlines()[0]}."
        sys.stderr.write(GIVING_UP.format(why=why))
        sys.stderr.flush()
        os._exit(2)
    _log.info("%s", message)
