"""The runner, the sheet's worker, the demo, and starting."""

import os
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path

from PySide6.QtGui import QImage

from tests.gui.window import KEY, WindowTest, application, wait_until
from violet_dial.core.errors import InvalidInput
from violet_dial.gui.shots import JOBS, OVER, take_shots
from violet_dial.kit.runner import Runner
from violet_dial.stations import STATIONS


class Runners(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.runner = Runner()
        self.heard: list[object] = []
        self.runner.succeeded.connect(self.heard.append)
        self.runner.failed.connect(self.heard.append)
        self.runner.cancelled.connect(lambda: self.heard.append("cancelled"))

    def test_success_failure_and_fault(self) -> None:
        def wrong(task):  # type: ignore[no-untyped-def]
            raise InvalidInput("Reading", "x", "a number")

        def fault(task):  # type: ignore[no-untyped-def]
            raise ZeroDivisionError("oh")

        with self.assertLogs("violet_dial.kit.runner"):
            for work in (lambda task: 42, wrong, fault):
                count = len(self.heard)
                self.runner.start(work)
                self.assertTrue(wait_until(lambda before=count: len(self.heard) > before))
        self.assertEqual(self.heard[0], 42)
        self.assertIn("expected a number", str(self.heard[1]))
        self.assertIn("Fault in the program", str(self.heard[2]))

    def test_cancel(self) -> None:
        began = threading.Event()

        def long(task):  # type: ignore[no-untyped-def]
            began.set()
            while True:
                task.report(0.5, "half")
                task.check()

        self.runner.start(long)
        began.wait(5)
        self.runner.cancel()
        self.assertTrue(wait_until(lambda: self.heard == ["cancelled"]))

    def test_late_results_vanish(self) -> None:
        gate = threading.Event()
        self.runner.start(lambda task: gate.wait(5) and "late")
        self.runner.start(lambda task: "new")
        gate.set()
        self.assertTrue(wait_until(lambda: "new" in self.heard and not self.runner.busy))
        self.assertTrue(self.runner.close())
        application().processEvents()
        self.assertEqual(self.heard, ["new"])


class SheetWorker(WindowTest):
    def test_closing_while_the_sheet_is_drawn(self) -> None:
        self.new_job()
        self.page.go("Return")
        self.press(KEY.Key_Escape)
        self.assertFalse(self.page.at("Return").sheet.answer.busy)


class Demo(unittest.TestCase):
    def test_each_station_has_its_picture(self) -> None:
        """One view of each; that every view is drawn, and shows its job alone, is tested elsewhere."""
        application()
        names = [*(shot.name for shot in JOBS), *(station.shots[0].name for station in STATIONS)]
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            self.assertEqual(take_shots(folder, names), len(list(folder.glob("*.png"))))
            self.assertEqual(QImage(str(folder / "sheet.png")).width(), 900)
            for shown in (*names, *(over for over, _ in OVER)):
                picture = QImage(str(folder / f"{shown}.png"))
                self.assertEqual((picture.width(), picture.height()), (1280, 800), shown)


class Starting(unittest.TestCase):
    SCRIPT = """
import sys, threading
from PySide6.QtCore import QTimer
from violet_dial.gui import start
from violet_dial.gui.main_window import MainWindow
made = MainWindow.__init__
def make(self, *arguments):
    made(self, *arguments)
    self.drawn.connect(lambda: drawn(self))
def drawn(self):
    heavy = [name for name in ("numpy", "scipy", "pydantic", "reportlab", "pyvisa") if name in sys.modules]
    print("drawn", heavy, self.windowTitle(), flush=True)
    self.timer = QTimer(interval=50)
    self.timer.timeout.connect(lambda: wait(self))
    self.timer.start()
def wait(self):
    live = self._live
    in_demo = self.workshop.path.name == start.DEMO_FILE
    if live is None or in_demo and (live.bench.front is None or live.bench.front.sample is None):
        return
    names = [one.name for one in live.bench.instruments]
    print("instruments", names, threading.current_thread() is threading.main_thread(), flush=True)
    self.close()
MainWindow.__init__ = make
sys.exit(start.start(start.StartOptions(demo=len(sys.argv) > 1)))
"""

    def start(self, home: str, *arguments: str) -> str:
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_DATA_HOME": home, "XDG_CONFIG_HOME": home}
        done = subprocess.run(
            [sys.executable, "-c", self.SCRIPT, *arguments],
            capture_output=True,
            text=True,
            env=environment,
            check=False,
            timeout=60,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout

    def test_nothing_heavy_is_loaded_before_the_window_is_up(self) -> None:
        with tempfile.TemporaryDirectory() as home:
            said = self.start(home)
            self.assertIn("drawn [] Violet Dial · workshop", said)
            self.assertIn("instruments [] True", said)
            self.assertTrue((Path(home) / "violet-dial" / "workshop.violet").exists())

    def test_demo_is_built_once_and_connects_to_its_own_bench(self) -> None:
        with tempfile.TemporaryDirectory() as home:
            self.assertIn("Violet Dial · demo", self.start(home, "demo"))
            said = self.start(home, "demo")
            self.assertIn("drawn [] Violet Dial · demo", said)
            self.assertRegex(said, r"instruments \['.+', '.+'.*\] True")
