"""A pulled plug: the process is killed at random moments, and no act that was called kept may be lost."""

import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from tests.processes import plain_environment
from tests.workshops import open_workshop

ACTS = 200
WRITER = """
import sys
from pathlib import Path
import scipy.special  # loaded before the first act, as the window does
from violet_dial.stations.light.acts import TypedReading, take_typed
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile
workshop = Workshop(WorkshopFile(Path(sys.argv[1])), lambda: STATIONS)
cards = workshop.cards()
view = workshop.view(cards[0].job_id) if cards else workshop.new_job()
count = len(view.job.light.current.readings)
print("kept", count, flush=True)
while count < int(sys.argv[2]):
    typed = TypedReading(f"{5 + count % 11}", f"{5.5 + count % 11}")
    view = workshop.perform(view.job.job_id, lambda job, at: take_typed(job, typed, at))
    count = len(view.job.light.current.readings)
    print("kept", count, flush=True)
"""


class PulledPlug(unittest.TestCase):
    def test_nothing_kept_is_lost(self) -> None:
        rng = random.Random(11)
        with tempfile.TemporaryDirectory() as folder:
            path, kept, kills = Path(folder) / "w.violet", 0, 0
            while kept < ACTS:
                kept = max(kept, self._run_and_kill(path, rng.uniform(0.05, 0.7), kept))
                kills += 1
                self.assertLess(kills, 60)
            self.assertGreaterEqual(kills, 2)

    def _run_and_kill(self, path: Path, after_s: float, before: int) -> int:
        command = [sys.executable, "-c", WRITER, str(path), str(ACTS)]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=plain_environment()) as writer:
            assert writer.stdout is not None
            first = writer.stdout.readline()
            time.sleep(after_s)
            writer.send_signal(signal.SIGKILL)
            said, _ = writer.communicate()
        lines = [line for line in (first + said).split("\n")[:-1] if line.startswith("kept ")]
        promised = int(lines[-1].split()[1])
        workshop = open_workshop(path)
        try:
            job = workshop.view(workshop.cards()[0].job_id).job
        finally:
            workshop.close()
        self.assertGreaterEqual(len(job.light.current.readings), promised)
        self.assertGreaterEqual(promised, before)
        return promised
