"""A thousand random ends while jobs are written, in six kinds; after each the file is opened and what was called kept is looked
for. ``bench/run ends [COUNT]``; it is no part of the usual run."""

import contextlib
import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from bench.measure import row
from bench.window import open_workshop
from violet_dial.core.errors import StoreDamaged, VioletDialError
from violet_dial.services.upkeep import salvage
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS

USUAL = 1_000
READY, MOST_ACTS = "ready", 4_000
# Each act makes the device's name a greater number; what was called kept is said on standard output after it was kept.
WRITER = """
import sys, os, signal, time
from dataclasses import replace
from pathlib import Path
from violet_dial.core.errors import VioletDialError
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.stations.receive.acts import describe_device
from violet_dial.store.workshop_file import WorkshopFile
ends = []
signal.signal(signal.SIGTERM, lambda *_: ends.append(1))
def clock():
    at = time.time() - float(os.environ.get("BACK_S", "0")) * (count % 2)
    return time.strftime("%Y-%m-%dT%H:%M:%S+00:00", time.gmtime(at))
count = 0
workshop = Workshop(WorkshopFile(Path(sys.argv[1])), lambda: STATIONS, clock)
cards = workshop.cards()
view = workshop.view(cards[0].job_id) if cards else workshop.new_job()
count = int(view.job.device.name or 0)
print("ready", count, flush=True)
while not ends and count < int(sys.argv[2]):
    count += 1
    try:
        name = str(count)
        act = lambda job, at: describe_device(job, replace(job.device, name=name), job.intake, "")
        view = workshop.perform(view.job.job_id, act)
    except VioletDialError as error:
        print("refused", error, flush=True)
        count -= 1
        break
    print("kept", count, workshop.path.name, flush=True)
    if count % 40 == 0:
        workshop.settle()
workshop.close()
"""
Ending = Callable[["Bout"], None]


class Bout:
    """One writer on a workshop of its own, ended in one way."""

    def __init__(self, folder: Path, draw: random.Random) -> None:
        self.path, self.draw = folder / "w.violet", draw
        self.kept = self.floor = 0
        self.found, self.saved = -1, False
        self.where = self.path

    def run(self, ending: Ending, **environment: str) -> None:
        command = [sys.executable, "-c", WRITER, str(self.path), str(MOST_ACTS)]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, **environment}) as self.writer:
            assert self.writer.stdout is not None
            self.writer.stdout.readline()
            time.sleep(self.draw.uniform(0.02, 0.25))
            try:
                ending(self)
                said, _ = self.writer.communicate(timeout=60)
            except BaseException:
                self.writer.kill()
                raise
        for line in said.splitlines():
            if line.startswith("kept ") and len(line.split()) == 3:
                _, number, name = line.split()
                self.kept, self.where = int(number), self.path.with_name(name)

    def look(self) -> bool:
        """Whether nothing that was called kept is missing once the file is open; one that was cut and whose writer had no time
        to notice is saved first, as the window offers it."""
        try:
            workshop = open_workshop(self.where)
        except StoreDamaged:
            self.saved = True
            new = self.where.with_name("saved.violet")
            salvage(self.where, new, STATIONS)
            workshop = open_workshop(new)
        with contextlib.closing(workshop):
            self.found = _newest(workshop)
        return self.found >= self.kept


def _newest(workshop: Workshop) -> int:
    cards = workshop.cards()
    return int(workshop.view(cards[0].job_id).job.device.name or 0) if cards else 0


def killed(bout: Bout) -> None:
    bout.writer.send_signal(signal.SIGKILL)


def asked_to_end(bout: Bout) -> None:
    bout.writer.send_signal(signal.SIGTERM)


def disk_full(bout: Bout) -> None:
    """No file of the writer may grow from now on."""
    largest = max(one.stat().st_size for one in bout.path.parent.iterdir())
    with contextlib.suppress(ProcessLookupError):
        resource.prlimit(bout.writer.pid, resource.RLIMIT_FSIZE, (largest, largest))
    time.sleep(0.1)
    bout.writer.send_signal(signal.SIGKILL)


def moved_or_replaced(bout: Bout) -> None:
    """The file under the writer deleted, renamed, replaced or cut, and then the writer ended."""
    way = bout.draw.randrange(4)
    with contextlib.suppress(FileNotFoundError):
        if way == 0:
            bout.path.unlink()
        elif way == 1:
            bout.path.rename(bout.path.with_name("elsewhere.violet"))
        elif way == 2:
            other = bout.path.with_name("other")
            shutil.copy(bout.path, other)
            other.replace(bout.path)
        else:
            os.truncate(bout.path, bout.path.stat().st_size // 2)
    time.sleep(0.15)
    bout.writer.send_signal(bout.draw.choice((signal.SIGKILL, signal.SIGTERM)))


def power_cut(bout: Bout) -> None:
    """What was called kept until then, and an image of the files as they are at one moment; the writer is stopped for it."""
    assert bout.writer.stdout is not None
    bout.writer.send_signal(signal.SIGSTOP)
    said = b""
    os.set_blocking(bout.writer.stdout.fileno(), False)
    with contextlib.suppress(BlockingIOError):
        while piece := os.read(bout.writer.stdout.fileno(), 1 << 16):
            said += piece
    os.set_blocking(bout.writer.stdout.fileno(), True)
    lines = [line.split() for line in said.decode().split("\n")[:-1] if line.startswith("kept ")]
    bout.floor = int(lines[-1][1]) if lines else 0
    image = bout.path.parent / "image"
    image.mkdir()
    for one in bout.path.parent.glob("w.violet*"):
        if not one.name.endswith("-shm"):  # memory, not disk
            shutil.copy(one, image / one.name)
    bout.writer.send_signal(signal.SIGKILL)
    bout.writer.send_signal(signal.SIGCONT)


def clock_back(bout: Bout) -> None:
    bout.writer.send_signal(signal.SIGTERM)


KINDS: dict[str, tuple[Ending, dict[str, str]]] = {
    "kill -9": (killed, {}), "SIGTERM": (asked_to_end, {}), "disk full": (disk_full, {}),
    "moved, replaced or cut": (moved_or_replaced, {}), "power cut": (power_cut, {}),
    "clock set back": (clock_back, {"BACK_S": "86400"}),
}  # fmt: skip


def report(count: int = USUAL) -> None:
    """Ends of all kinds in turn; how many kept acts were lost and how many files did not open."""
    lost: Counter[str] = Counter()
    shut: Counter[str] = Counter()
    acts = saved = 0
    for number in range(count):
        name, (ending, environment) = list(KINDS.items())[number % len(KINDS)]
        with tempfile.TemporaryDirectory() as folder:
            bout = Bout(Path(folder), random.Random(number))
            bout.run(ending, **environment)
            if name == "power cut":
                bout.where, bout.kept = Path(folder) / "image" / "w.violet", bout.floor
            try:
                lost[name] += not bout.look()
            except VioletDialError as error:
                shut[name] += 1
                print(f"{name} {number}: {error}")
            acts += bout.kept
            saved += bout.saved
        if number % 100 == 99:
            print(f"    {number + 1} ends, {acts} acts called kept", flush=True)
    for name in KINDS:
        row(f"random ends, {name}", f"{lost[name]} lost kept acts, {shut[name]} would not open", "goal: 0, 0")
    row("random ends in all", f"{count}, {acts} acts called kept, {saved} files saved first")
