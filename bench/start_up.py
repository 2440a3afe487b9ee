"""Start to first painted window, against a bare window of the same toolkit."""

import os
import statistics
import subprocess
import sys
import tempfile
import time

from bench.measure import row

BARE = """
from PySide6 import QtWidgets
class Window(QtWidgets.QWidget):
    def paintEvent(self, event):
        print('painted', flush=True)
        QtWidgets.QApplication.instance().quit()
app = QtWidgets.QApplication([])
window = Window(); window.resize(1280, 800); window.show(); app.exec()
"""
OURS = """
from violet_dial.gui import start
from violet_dial.gui.main_window import MainWindow
from PySide6 import QtCore, QtWidgets
class Watch(QtCore.QObject):
    def eventFilter(self, thing, event):
        if event.type() == QtCore.QEvent.Type.Paint and isinstance(thing, QtWidgets.QWidget):
            print('painted', flush=True)
            import os; os._exit(0)
        return False
shown = MainWindow.showEvent
def show(self, event):
    self.watch = Watch(); QtWidgets.QApplication.instance().installEventFilter(self.watch)
MainWindow.showEvent = show
start.start(start.StartOptions())
"""
RUNS = 9


def _until_painted(script: str, environment: dict[str, str]) -> float:
    began = time.perf_counter()
    with subprocess.Popen(
        [sys.executable, "-c", script], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=environment
    ) as one:
        assert one.stdout is not None
        one.stdout.readline()
        return time.perf_counter() - began


def report() -> None:
    """Pairs in turn, so that drift of the machine falls on both."""
    with tempfile.TemporaryDirectory() as home:
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_DATA_HOME": home, "XDG_CONFIG_HOME": home}
        pairs = [(_until_painted(OURS, environment), _until_painted(BARE, environment)) for _ in range(RUNS + 1)][1:]
    ours, bare = (statistics.median(side) for side in zip(*pairs, strict=True))
    row("process start to first painted window", f"{ours:.2f} s, bare window {bare:.2f} s")
    row("ratio to a bare window", f"{statistics.median(a / b for a, b in pairs):.2f}", "goal: at most 2.0")
