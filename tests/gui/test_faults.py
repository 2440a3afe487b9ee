"""A fault of the application: a sentence, a log entry and a file that can be sent, with the acts before it."""

import logging
import sys
import threading
import unittest

from PySide6.QtCore import QTimer

from tests.gui.window import WindowTest
from violet_dial.gui.faults import Faults


class Fault(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        hooks = sys.excepthook, threading.excepthook
        self.addCleanup(setattr, sys, "excepthook", hooks[0])
        self.addCleanup(setattr, threading, "excepthook", hooks[1])
        self.faults = Faults(self.folder / "state")
        self.faults.install()
        self.faults.begin_log()
        self.addCleanup(self.end_log)
        self.faults.happened.connect(self.window.say)

    def end_log(self) -> None:
        log = logging.getLogger("violet_dial")
        for handler in log.handlers:
            handler.close()
        log.handlers = []

    def reports(self) -> list[str]:
        return [path.read_text() for path in sorted((self.folder / "state" / "faults").glob("fault-*.txt"))]

    def test_a_fault_is_said_logged_and_written_once(self) -> None:
        self.new_job("Puffin reflex", "secret words of an owner")
        self.window.do("page.turn_on")
        for _ in range(3):
            QTimer.singleShot(0, lambda: self.window.do("window.no_such_act"))
        self.until(lambda: "A fault of the application" in self.said)
        self.assertIn("AttributeError", self.said)
        (report,) = self.reports()
        for words in ("page.turn_on", "an act at Receive", "no_such_act", "Traceback", "Python", "Qt"):
            self.assertIn(words, report)
        self.assertNotIn("secret words", report)
        self.assertIn("no_such_act", (self.folder / "state" / "violet-dial.log").read_text())
        self.take("8", "8.6")  # and the work goes on
        self.assertEqual(len(self.page.view.job.light.current.readings), 1)

    def test_a_fault_in_another_thread_is_said_too(self) -> None:
        thread = threading.Thread(target=lambda: 1 // 0)
        thread.start()
        thread.join()
        self.until(lambda: "ZeroDivisionError" in self.said)
        self.assertEqual(len(self.reports()), 1)


if __name__ == "__main__":
    unittest.main()
