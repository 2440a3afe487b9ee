"""One act through the window, the jobs screen with many jobs, and the dial, with a plain durable write beside them."""

import itertools
import os
import random
import resource
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtGui import QPixmap

from bench.measure import median_s, row
from bench.window import application, open_at, open_workshop
from violet_dial.gui.job_page import JobPage
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired
from violet_dial.services.workshop import Workshop
from violet_dial.stations.expose.acts import say_line, take_fired
from violet_dial.stations.light.acts import TypedReading, take_typed
from violet_dial.stations.light.page import LightPage
from violet_dial.stations.receive.acts import describe_device
from violet_dial.store.records import Card, Description, NewVersion
from violet_dial.store.workshop_file import WorkshopFile

READINGS, FIRINGS, VERSIONS, JOBS, LONG, ACTS = 200, 300, 500, 20_000, 5000, 24
SPEEDS_S, AT = tuple(2.0**-n for n in range(10)), "2026-11-03T10:00:00+00:00"
JOBS_SCRIPT = """
import resource, sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
app = QApplication([])
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look
from bench.window import open_workshop
look = Look(); look.apply()
window = MainWindow(look, open_workshop(Path(sys.argv[2])))
window.show(); app.processEvents()
window.stack.setCurrentIndex(0)
times = []
for _ in range(5):
    began = time.perf_counter(); window.show_jobs(); app.processEvents(); times.append(time.perf_counter() - began)
times.sort()
print(times[2], resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""


def _full_job(workshop: Workshop, times: int = 1, firings: int = 0) -> str:
    """A job with many readings and firings, and more versions; all of them so many times."""
    job_id, draw = workshop.new_job().job.job_id, random.Random(1)
    for count in range(READINGS * times):
        typed = TypedReading(f"{5 + count % 11}", f"{5.6 + count % 11 + 0.01 * (count % 7):.2f}")
        workshop.perform(job_id, partial(_read, typed))
    for _burst in range(firings * times // len(SPEEDS_S)):
        workshop.perform(job_id, partial(_fired, tuple(_firing(speed, draw) for speed in SPEEDS_S)))
    for count in range((VERSIONS - READINGS) * times - firings * times // len(SPEEDS_S)):
        workshop.perform(job_id, partial(_renamed, count))
    return job_id


def _read(typed: TypedReading, job: Job, at: str) -> ActResult:
    return take_typed(job, typed, at)


def _firing(speed_s: float, draw: random.Random) -> Fired:
    """One that was heard, with its curve."""
    curve = tuple(round(draw.random(), 5) for _point in range(320))
    return Fired(speed_s, speed_s * 2 ** draw.gauss(0.05, 0.05), speed_s * 0.01, "sound card", AT, picture=curve)


def _fired(firings: tuple[Fired, ...], job: Job, at: str) -> ActResult:
    return take_fired(job, firings, at)


def _renamed(count: int, job: Job, at: str) -> ActResult:
    return describe_device(job, replace(job.device, name=f"Kittiwake {count}", kind="reflex"), job.intake, "")


def report_act(folder: Path) -> None:
    """Take, kept on disk, drawn, and undo, as a person at the bench waits for them; then with twice as much in the job."""
    plain, once = _plain_write(folder), _acts(folder, 1)
    for name, took in once.items():
        row(f"one {name} with {READINGS} readings, {FIRINGS} firings, {VERSIONS} versions", f"{took * 1e3:.1f} ms", "goal: 16 ms")
    row("ratio of the first to one plain durable SQLite write", f"{once['act at Light'] / plain:.0f}")
    for name, took in _acts(folder, 2).items():
        row(f"{name}, when these double", f"{took / once[name]:.2f} times", "goal: 1.1")


def _acts(folder: Path, times: int) -> dict[str, float]:
    """Median seconds of an act and of undo at two stations."""
    app = application()
    workshop = open_workshop(folder / f"act {times}.violet")
    window, page = open_at(workshop, _full_job(workshop, times, FIRINGS), "Light")
    found: dict[str, float] = {}
    for station, act in (("Light", _take_at_light), ("Expose", _take_at_expose)):
        page.go(station)
        took: dict[str, list[float]] = {f"act at {station}": [], f"undo at {station}": []}
        for count in range(ACTS):
            take = act(page, count)
            app.processEvents()
            for name, work in zip(took, (take, page.undo), strict=True):
                began = time.perf_counter()
                work()
                app.processEvents()
                took[name].append(time.perf_counter() - began)
                while not page.settled:
                    app.processEvents()
        found |= {name: statistics.median(some) for name, some in took.items()}
        if station == "Light" and times == 1:
            _report_dial(page)
    window.end()
    return found


def _take_at_light(page: JobPage, count: int) -> Callable[[], object]:
    page.bar.lines["reference"].setText(f"{5 + count % 11}")
    page.bar.lines["reading"].setText(f"{5.6 + count % 11:.2f}")
    return page.page.take_typed


def _take_at_expose(page: JobPage, count: int) -> Callable[[], object]:
    return lambda: page.perform(lambda job, at: say_line(job, f"1/125 {9.0 + count / 100:.2f} ms", at))


def _report_dial(page: JobPage) -> None:
    light = page.at("Light")
    assert isinstance(light, LightPage)
    picture = QPixmap(light.front.dial.size())
    dial = median_s(lambda: light.front.dial.render(picture), 40)
    row(f"painting the dial with {READINGS} readings", f"{dial * 1e3:.1f} ms", "goal: under 16 ms")


def report_long(folder: Path) -> None:
    """A job that has grown to thousands of acts: opening it, one more act, undo, and what the file weighs."""
    path = folder / "long.violet"
    workshop = open_workshop(path)
    job_id = _full_job(workshop)
    for count in range(LONG - VERSIONS):
        workshop.perform(job_id, partial(_renamed, count))
    counts = itertools.count(LONG)
    act = median_s(lambda: workshop.perform(job_id, partial(_renamed, next(counts))), 15)
    back = median_s(lambda: workshop.undo(job_id), 15)
    workshop.close()
    opened = median_s(lambda: _open_and_close(path, job_id), 9)
    row(f"a job of {LONG} acts: one more act, kept", f"{act * 1e3:.1f} ms", "goal: under 30 ms")
    row(f"a job of {LONG} acts: undo", f"{back * 1e3:.1f} ms", "goal: under 30 ms")
    row(f"a job of {LONG} acts: workshop opened, job read", f"{opened * 1e3:.1f} ms", "goal: under 200 ms")
    row(f"a job of {LONG} acts: the file", f"{path.stat().st_size / 1e6:.1f} MB", "goal: under 20 MB")


def _open_and_close(path: Path, job_id: str) -> None:
    workshop = open_workshop(path)
    workshop.view(job_id)
    workshop.close()


def _plain_write(folder: Path) -> float:
    database = sqlite3.connect(folder / "plain.db", isolation_level=None)
    database.execute("PRAGMA journal_mode = WAL")
    database.execute("PRAGMA synchronous = FULL")
    database.execute("CREATE TABLE t (b BLOB)")
    content = os.urandom(4000)
    return median_s(lambda: database.execute("INSERT INTO t VALUES (?)", (content,)), 50)


def report_jobs(folder: Path) -> None:
    """The jobs screen with thousands of jobs, in a process of its own for its memory."""
    path = folder / "jobs.violet"
    file = WorkshopFile(path)
    waits = ("reference readings", "adjusting", "signing", "collection", "a cell from the mainland")
    many = []
    for number in range(1, JOBS + 1):
        card = Card(
            f"j{number}", number, f"Kittiwake {number}", "reads high", waits[number % 5], "Reads 0.6 high", "2026-11-03T10:00"
        )
        many.append(NewVersion(card, "Job", "opened", b"{}"))
    file.add_jobs(many)
    for new in many:  # as they stand once work has gone on
        told = Description(new.card.waits_for, new.card.finding, new.card.title)
        file.describe(new.card.job_id, file.current(new.card.job_id).version_id, told)
    file.close()
    command = [sys.executable, "-c", JOBS_SCRIPT, "--", str(path)]
    done = subprocess.run([*command[:3], "x", str(path)], capture_output=True, text=True, check=True)
    took, memory = (float(part) for part in done.stdout.split())
    database = sqlite3.connect(path)
    plain = median_s(lambda: database.execute("SELECT * FROM job ORDER BY kept_at DESC").fetchall(), 9)
    row(f"opening the jobs screen with {JOBS} jobs", f"{took * 1e3:.0f} ms, {memory:.0f} MB", "goal: 500 ms, 300 MB")
    row("ratio to reading the same rows with sqlite3", f"{took / plain:.1f}")


def report() -> None:
    with tempfile.TemporaryDirectory() as name:
        report_act(Path(name))
        report_long(Path(name))
        report_jobs(Path(name))
    row("memory of this whole process at its peak", f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
