"""A real window on a workshop of its own, and keys pressed on it. No window, dialog or file chooser is replaced."""

import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

import shiboken6
from PySide6.QtCore import QDeadlineTimer, QEventLoop, QMessageLogContext, QSettings, Qt, QtMsgType, qInstallMessageHandler
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QWidget

from tests.workshops import open_workshop
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look

WAIT_MS = 75_000
PAUSE_S = 0.002
KEY = Qt.Key
CTRL, SHIFT, ALT = (Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier)


def _quietly(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
    """What Qt says, but for what a platform without a screen cannot do."""
    if not message.startswith("This plugin does not support"):
        print(message, file=sys.stderr)


def application() -> QApplication:
    app = QApplication.instance()
    if app is None:
        qInstallMessageHandler(_quietly)
        app = QApplication([])
        app.setStyle("Fusion")
    assert isinstance(app, QApplication)
    return app


def wait_until(condition: Callable[[], bool], most_ms: int = WAIT_MS) -> bool:
    """Process events until the condition holds; False when the deadline came first."""
    deadline = QDeadlineTimer(most_ms)
    while not condition():
        if deadline.hasExpired():
            return False
        application().processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
        time.sleep(PAUSE_S)  # an event loop sleeps; one that spins would take the workers' turns
    return True


def sweep() -> None:
    """Delete every window now: one left over would be restyled by every later test, or keep the keys from its windows."""
    for left in application().topLevelWidgets():
        if shiboken6.isValid(left):
            shiboken6.delete(left)


class WindowTest(unittest.TestCase):
    """Opens the window on an empty workshop; ``press`` and ``type_in`` go to whatever has the focus."""

    def setUp(self) -> None:
        application()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        settings = QSettings(str(self.folder / "look.ini"), QSettings.Format.IniFormat)
        self.look = Look(settings)
        self.look.apply()
        self.window = MainWindow(self.look, open_workshop(self.folder / "w.violet"))
        self.window.resize(1280, 800)
        self.window.show()
        self.window.activateWindow()
        self.addCleanup(self._end)
        application().processEvents()

    def _end(self) -> None:
        self.window.close()
        sweep()

    @property
    def page(self) -> Any:
        """The job page; stations' pages have more than a test's types can say."""
        page = self.window.job_page
        assert page is not None
        return page

    @property
    def focused(self) -> QWidget:
        """Where keys go: as a window manager has it, into the window that is open over the others."""
        widget, over = application().focusWidget(), application().activeModalWidget()
        if over is not None and (widget is None or not (over is widget or over.isAncestorOf(widget))):
            return over.focusWidget() or over
        return widget if widget is not None else self.window

    @property
    def said(self) -> str:
        """The sentence above the page; empty when there is none."""
        return self.window.message.text.text() if self.window.message.isVisible() else ""

    def until(self, condition: Callable[[], bool], why: object = "") -> None:
        """Wait for a condition, which must come true."""
        self.assertTrue(wait_until(condition), why)

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.focused, key, modifier)
        application().processEvents()
        self.until(lambda: self.appraised, "what the stations say of the last act")
        if application().activeWindow() is None:
            (application().activeModalWidget() or self.window).activateWindow()  # as a window manager does
            application().processEvents()

    @property
    def appraised(self) -> bool:
        """Whether Next, the line of stations, the cards and the light asked for are of what was kept last."""
        page: Any = self.window.job_page
        if page is not None and self.window.on_job and page.station == "Light" and page.page.answer.busy:
            return False
        return self.window.jobs.settled and not (page is not None and page.appraising)

    def type_in(self, text: str) -> None:
        QTest.keyClicks(self.focused, text)

    def new_job(self, name: str = "Kittiwake hand meter", fault: str = "reads high") -> None:
        """By keys: a new job, described."""
        self.press(KEY.Key_N, CTRL)
        self.type_in(fault)
        self.press(KEY.Key_Return)
        self.page.at("Receive").describe.lines["name"].setFocus()
        self.type_in(name)
        self.press(KEY.Key_Return)

    def take(self, reference: str, reading: str) -> None:
        """By keys: one reading at one light."""
        self.press(KEY.Key_F6)
        self.type_in(reference)
        self.press(KEY.Key_Return)
        self.type_in(reading)
        self.press(KEY.Key_Return)

    # windows over the page

    @property
    def dialog(self) -> QDialog:
        """The window that is open over the page."""
        wait_until(lambda: isinstance(application().activeModalWidget(), QDialog))
        found = application().activeModalWidget()
        assert isinstance(found, QDialog), f"no window is open; {self.said}"
        return found

    @property
    def no_dialog(self) -> bool:
        """Whether nothing is open over the page."""
        closed = wait_until(lambda: application().activeModalWidget() is None, 2000)
        self.window.activateWindow()  # what a window manager does
        application().processEvents()
        return closed

    def name_file(self, *paths: Path) -> None:
        """In the file chooser that is open: a path typed, or several in quotes, Enter."""
        chooser = self.dialog
        self.assertIsInstance(chooser, QFileDialog)
        self.press(KEY.Key_A, CTRL)
        self.type_in(str(paths[0]) if len(paths) == 1 else " ".join(f'"{path}"' for path in paths))
        for _ in range(3):  # the first Enter may only close the list of completions
            if shiboken6.isValid(chooser) and chooser.isVisible():
                self.press(KEY.Key_Return)
        application().processEvents()
        if application().activeModalWidget() is None:
            self.window.activateWindow()  # what a window manager does
            application().processEvents()
