"""What is on the screen, one JSON line after each change, for who drives the application from outside.

Printed on standard output only where ``VIOLET_DIAL_SAY_STATE`` is set. It reads; nothing can be done through it.
"""

import json
import sys
import time
from dataclasses import asdict
from typing import Any

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QTextBrowser,
    QWidget,
)

from violet_dial.gui.main_window import MainWindow

EVERY_MS, SHARE = 40, 0.4  # how often it looks, and of the processor's time at most so much: walks must not wait for it
LABEL = QAccessible.RelationFlag.Label
LONGEST = 4_000  # characters of any one text


class StateLine(QObject):
    """Prints the state of a window whenever it is another."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self._said = ""
        self._timer = QTimer(self, singleShot=True, interval=EVERY_MS)
        self._timer.timeout.connect(self._say)
        self._timer.start()

    def _say(self) -> None:
        began = time.thread_time()
        line = json.dumps(state_of(self._window), ensure_ascii=True)
        if line != self._said:
            self._said = line
            sys.stdout.write(line + "\n")
            sys.stdout.flush()
        self._timer.start(max(EVERY_MS, round(1000 * (time.thread_time() - began) / SHARE)))


def state_of(window: MainWindow) -> dict[str, Any]:
    """The window that is in front, what has the keys, where the job stands, and every word that is to be seen."""
    over = QApplication.activeModalWidget()
    active = QApplication.activeWindow()
    front = over if over is not None else window
    visible = [widget for widget in front.findChildren(QWidget) if widget.isVisible()]
    return {
        "title": window.windowTitle(),
        "over": over.windowTitle() if isinstance(over, QDialog) else "",
        "active": active.windowTitle() if active is not None else "",
        "focus": _focus(QApplication.focusWidget()),
        "message": window.message.text.text() if window.message.isVisible() else "",
        "size": [window.width(), window.height()],
        "look": [window.look.theme, window.look.percent],
        "words": _words(visible),
        "outside": _outside(visible, front),
        "buttons": _buttons(visible),
        **_job(window),
    }


def _job(window: MainWindow) -> dict[str, Any]:
    page = window.job_page
    if page is None or not window.on_job or page.view is None:
        return {"station": "", "settled": True}
    act = page.next
    live = page.bar.live.state
    return {
        "station": page.station,
        "settled": page.settled,
        "next": [act.kind, act.title, act.reason] if act is not None else [],
        "asks": asdict(page.page.asks) if page.page.asks is not None else {},
        "version": page.view.version_id,
        "acts": len(page.view.log),
        "bar": {key: line.text() for key, line in page.bar.lines.items() if line.isVisible()},
        "live": [live.kind, live.figure, live.state, live.goes] if page.bar.live.isVisible() else [],
    }


def named(widget: QWidget) -> str:
    """What a screen reader calls a widget."""
    reader = QAccessible.queryAccessibleInterface(widget)
    if reader is not None and isinstance(widget, QComboBox):  # its name is what is chosen; the label is a relation
        labels = [other.text(QAccessible.Text.Name) for other, kind in reader.relations() if kind == LABEL]
        return " ".join(labels)
    said = reader.text(QAccessible.Text.Name) if reader is not None else ""
    return said or widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")


def _focus(widget: QWidget | None) -> list[str]:
    if widget is None:
        return ["", "", ""]
    text = ""
    if isinstance(widget, (QLineEdit, QAbstractButton)):
        text = widget.text()
    elif isinstance(widget, QPlainTextEdit):
        text = widget.toPlainText()
    elif isinstance(widget, QComboBox):
        text = widget.currentText()
    return [type(widget).__name__, named(widget), text[:LONGEST]]


def _words(visible: list[QWidget]) -> list[str]:
    found: list[str] = []
    for widget in visible:
        if isinstance(widget, (QLabel, QAbstractButton)):
            found.append(widget.text())
        elif isinstance(widget, QTextBrowser):
            found.append(widget.toPlainText())
        elif isinstance(widget, QAbstractScrollArea) and widget.accessibleName():
            found.append(widget.accessibleName())
    return [word[:LONGEST] for word in found if word.strip()]


def _buttons(visible: list[QWidget]) -> dict[str, list[int]]:
    """Where on the screen each button's middle is, by its words."""
    found = {}
    for button in visible:
        if isinstance(button, QAbstractButton) and button.isEnabled() and button.text():
            middle = button.mapToGlobal(button.rect().center())
            found[button.text()] = [middle.x(), middle.y()]
    return found


def _outside(visible: list[QWidget], front: QWidget) -> list[str]:
    """What can be reached by keys and lies outside its window, and in nothing that scrolls."""
    found = []
    for widget in visible:
        if not widget.focusPolicy() or _scrolls(widget, front):
            continue
        at = widget.mapTo(front, widget.rect().topLeft())
        if at.x() < 0 or at.y() < 0 or at.x() + widget.width() > front.width() or at.y() + widget.height() > front.height():
            found.append(named(widget))
    return found


def _scrolls(widget: QWidget, front: QWidget) -> bool:
    parent = widget.parentWidget()
    while parent is not None and parent is not front:
        if isinstance(parent, QAbstractScrollArea):
            return True
        parent = parent.parentWidget()
    return False
