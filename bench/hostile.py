"""Hostile bundles, circuits, tables and pictures through the real window: how long it stood still, and the memory it took.
``bench/run hostile``; the files are those of the tests."""

import resource
import tempfile
import time
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer, QTimer

from bench.measure import row
from bench.window import application, open_workshop
from tests.hostile import files
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look

BEAT_MS, MOST_MS = 5, 300_000


class Heart:
    """Beats in the window's thread; the longest pause between two beats is how long it stood still."""

    def __init__(self) -> None:
        self.longest_s, self._last = 0.0, time.monotonic()
        self._timer = QTimer(interval=BEAT_MS)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.monotonic()
        self.longest_s = max(self.longest_s, now - self._last)
        self._last = now


def report() -> None:
    """All files through the key that takes a folder, then every job taken opened."""
    app = application()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "hostile"
        folder.mkdir()
        for drawn in (files.bundles(), files.tables(), files.circuits(), files.media()):
            for file, content in drawn:
                (folder / file).write_bytes(content)
        look = Look()
        look.apply()
        window = MainWindow(look, open_workshop(Path(name) / "w.violet"))
        window.show()
        window.new_job()  # the job page is there before anything hostile is
        app.processEvents()
        window.go_back()
        acts, heart = window.jobs_acts, Heart()
        acts.take([str(folder)])
        deadline = QDeadlineTimer(MOST_MS)
        while acts.runner.busy and not deadline.hasExpired():
            app.processEvents()
            time.sleep(0.001)
        row("the window stood still, while hostile files were taken", f"{heart.longest_s * 1e3:.0f} ms", "goal: under 200 ms")
        print(f"    {window.message.text.text()[:200]}")
        heart.longest_s = 0.0
        for card in window.workshop.cards():
            before = heart.longest_s
            window.open_job(card.job_id)
            end = QDeadlineTimer(10_000)
            while window.job_page is not None and not window.job_page.settled and not end.hasExpired():
                app.processEvents()
                time.sleep(0.001)
            window.go_back()
            app.processEvents()
            if heart.longest_s > max(before, 0.2):
                print(f"    {card.title[:40]}: {heart.longest_s * 1e3:.0f} ms")
        row("the window stood still, while the jobs taken were opened", f"{heart.longest_s * 1e3:.0f} ms")
        window.end()
    row("memory at its peak", f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB", "goal: under 500 MB")
