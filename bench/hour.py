"""An hour of random keys and clicks over all pages of the demo, every exception caught and counted. ``bench/run hour [MINUTES]``;
it is no part of the usual run."""

import os
import random
import sys
import tempfile
import time
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from bench.measure import row
from bench.window import application, open_workshop
from violet_dial.demo.hidden import hidden
from violet_dial.demo.workshop import build_demo
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look

MINUTES = 60.0
SETTLE_MS, LONGEST_S = 4, 0.2
KEY, NO, CTRL, ALT, SHIFT = (
    Qt.Key, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier,
)  # fmt: skip
PLAIN = [
    *(KEY[f"Key_{name}"] for name in (
        "Return", "Tab", "Backtab", "Up", "Down", "Left", "Right", "Delete", "PageDown", "PageUp", "Home", "End", "Escape",
        "Escape", "Space", "Backspace", "R", "W", "X", "D", "N", "S", "Slash", "Plus", "Minus",
    )),
    *(KEY[f"Key_F{number}"] for number in range(1, 13)),
]  # fmt: skip
LETTERS = [KEY[f"Key_{letter}"] for letter in "ABCDEFGHIJKLMNOPRSTUVWXYZ"]  # all but Q, which leaves
WORDS = (
    "8.6", "12½", "1,234", "EV 12", "red wire 38k", "clip+ to gnd 1.36 V", "screw x3 top cover -> A1", "green crust: clip",
    "S1 on", "-1", "1e99", "nonsense", "Ærø ½", "../x", "", "x" * 400, "sister m+ to gnd 0.3 V", "lift Rser", "R9 a 0 {",
    "127.0.0.1:9",
)  # fmt: skip


class Hands:
    """Presses, types and clicks at random."""

    def __init__(self, window: MainWindow, seed: int) -> None:
        self.window, self.draw = window, random.Random(seed)
        self.did: list[str] = []

    def target(self) -> QWidget:
        over, widget = QApplication.activeModalWidget() or QApplication.activePopupWidget(), QApplication.focusWidget()
        if over is not None and (widget is None or not (over is widget or over.isAncestorOf(widget))):
            return over.focusWidget() or over
        return widget or self.window

    def once(self) -> None:
        draw, kind = self.draw, self.draw.random()
        if kind < 0.2:
            word = draw.choice(WORDS)
            self.did.append(word[:20])
            QTest.keyClicks(self.target(), word)
        elif kind < 0.35:
            self.click()
        elif kind < 0.45:
            self.press(draw.choice([KEY[f"Key_{number}"] for number in range(1, 7)]), ALT)
        elif kind < 0.6:
            self.press(draw.choice(LETTERS), draw.choice((CTRL, CTRL, CTRL | SHIFT)))
        else:
            self.press(draw.choice(PLAIN), draw.choice((NO, NO, NO, NO, SHIFT, CTRL)))
        del self.did[:-12]

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier) -> None:
        self.did.append(f"{modifier.name} {key.name}")
        QTest.keyClick(self.target(), key, modifier)

    def click(self) -> None:
        over = QApplication.activeModalWidget() or self.window
        at = QPoint(self.draw.randrange(over.width()), self.draw.randrange(over.height()))
        widget = over.childAt(at) or over
        self.did.append(f"click {type(widget).__name__}")
        button = Qt.MouseButton.LeftButton
        act = QTest.mouseDClick if self.draw.random() < 0.2 else QTest.mouseClick
        act(widget, button, NO, widget.mapFrom(over, at) if widget is not over else at)


def report(minutes: float = MINUTES) -> None:
    """How many acts, how many exceptions, and how often the window stood still for longer than it may."""
    app, faults, still, acts = application(), 0, 0, 0
    with tempfile.TemporaryDirectory() as name:
        os.chdir(name)
        os.environ["HOME"] = name
        path = Path(name) / "demo.violet"
        build_demo(path)
        look = Look()
        look.apply()
        window = MainWindow(look, open_workshop(path))
        hands = Hands(window, 1)

        def fault(*told: object) -> None:
            nonlocal faults
            faults += 1
            sys.stderr.write(f"after {hands.did}\n")
            sys.__excepthook__(*told)  # type: ignore[arg-type]

        sys.excepthook = fault
        window.show()
        window.live.sounds.silent = True
        window.live.start_simulated(hidden())
        end = time.monotonic() + 60 * minutes

        def act() -> None:
            """From a timer, so that windows of Qt's own that wait inside themselves get their keys too."""
            nonlocal still, acts
            if time.monotonic() > end or not window.isVisible():
                timer.stop()
                app.exit()
                return
            began = time.monotonic()
            hands.once()
            still += time.monotonic() - began > LONGEST_S
            acts += 1
            if not QApplication.activeModalWidget() and not window.on_job and hands.draw.random() < 0.2:
                hands.press(KEY.Key_Return, NO)

        timer = QTimer(interval=SETTLE_MS)
        timer.timeout.connect(act)
        timer.start()
        app.exec()
        window.end()
    row(f"{minutes:g} minutes of random keys and clicks", f"{acts} acts, {faults} exceptions", "goal: 0 exceptions")
    row("acts that took longer than 200 ms", str(still))
