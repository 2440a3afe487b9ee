"""A check that runs by itself before a camera, in the real window: for how long at a time its thread is held, with the same
picture drawn by a bare label of the toolkit beside it."""

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from bench.measure import median_s, row
from bench.window import application, open_at, open_workshop
from violet_dial.demo.hidden import hidden
from violet_dial.demo.workshop import build_demo
from violet_dial.stations.light.page import LightPage

DEVICE, MOST_S, LEAST_MS, FRAME_MS = "Garganey hand meter", 180.0, 0.2, 16.0
TRIES = 20


def report() -> None:
    """Passes of the window's loop, those that did something, from the run's begin to its end."""
    app = application()
    with tempfile.TemporaryDirectory() as name:
        os.environ["HOME"] = name
        path = Path(name) / "demo.violet"
        build_demo(path)
        workshop = open_workshop(path)
        job_id = next(card.job_id for card in workshop.cards() if card.title == DEVICE)
        window, page = open_at(workshop, job_id, "Light")
        window.live.start_simulated(hidden())
        light = page.at("Light")
        assert isinstance(light, LightPage)
        for _page in range(2):
            QTest.keyClick(app.focusWidget() or window, Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)
        looking = light.eye.looking
        for _try in range(TRIES):  # until camera and lux meter show something
            if looking.run is None:
                _passes(lambda: False, 0.5)
                QTest.keyClick(app.focusWidget() or window, Qt.Key.Key_F10)
        held = _passes(lambda: looking.run is None or looking.run.stands.stage in ("waits", "done"))
        if looking.run is None:
            raise RuntimeError(window.message.text.text())
        taken = looking.run.stands.taken
        bare = _bare(light.eye.view.grab())
        window.end()
    held.sort()
    far = held[int(len(held) * 0.99)]
    row(f"a camera run, {taken} readings taken: the window held, median", f"{statistics.median(held):.1f} ms")
    row("the same, 99 of 100 passes", f"{far:.1f} ms", f"goal: under {FRAME_MS:g} ms")
    row("the same, longest", f"{held[-1]:.1f} ms", f"goal: under {FRAME_MS:g} ms")
    row("median, as a ratio to a bare label that draws the picture", f"{statistics.median(held) / bare:.1f}")


def _passes(is_over: Callable[[], bool], most_s: float = MOST_S) -> list[float]:
    """Milliseconds of each pass of the loop that did something, until it is over."""
    app, held, end = application(), [], time.monotonic() + most_s
    while not is_over() and time.monotonic() < end:
        began = time.perf_counter()
        app.processEvents()
        took = (time.perf_counter() - began) * 1e3
        if took > LEAST_MS:
            held.append(took)
        time.sleep(0.001)
    return held


def _bare(picture: QPixmap) -> float:
    """Milliseconds in which a label draws a picture."""
    label = QLabel()
    label.setPixmap(picture)
    label.resize(picture.size())
    label.show()
    target = QPixmap(picture.size())
    return median_s(lambda: label.render(target), 40) * 1e3
