"""A simulated bench served for a test, and waiting with a deadline."""

import time
import unittest
from collections.abc import Callable
from pathlib import Path

import violet_dial
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.steady.samples import Sample
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import Link
from violet_dial.instruments.simulated.bench import SimulatedBench
from violet_dial.instruments.simulated.device import DeviceUnderTest, hidden_fault
from violet_dial.instruments.simulated.server import BenchServer

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"
WAIT_S = 45.0


def wait_for(condition: Callable[[], bool], wait_s: float = WAIT_S) -> bool:
    """Whether the condition came true before the deadline."""
    deadline = time.monotonic() + wait_s
    while not condition():
        if time.monotonic() > deadline:
            return False
        time.sleep(0.01)
    return True


class BenchTest(unittest.TestCase):
    """The CdS series meter with 22 kohm in its red lead, served on a free port."""

    def setUp(self) -> None:
        circuit = read_spice((CIRCUITS / "cds-series.cir").read_text(encoding="utf-8"))
        self.bench = SimulatedBench(DeviceUnderTest(circuit, hidden_fault(circuit, "Rwred:high resistance:22k")))
        self.server = BenchServer(self.bench)
        self.server.start()
        self.addCleanup(self.server.close)

    def link(self, period_s: float = 0.02) -> Link:
        """A link to the bench, live."""
        link = Link(Kept("meter", self.server.address), period_s)
        link.start()
        self.addCleanup(link.close)
        self.assertTrue(wait_for(lambda: link.status.state == "live"), link.status)
        return link

    def next_samples(self, link: Link, count: int) -> list[Sample]:
        """The next samples of a link."""
        found = list(link.drain())[:0]
        self.assertTrue(wait_for(lambda: len(found.__iadd__(link.drain())) >= count), link.status)
        return found
