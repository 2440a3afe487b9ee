"""The whole path of live readings: a soak of many, and what the interface costs while figures come in."""

import resource
import time
from pathlib import Path
from tempfile import TemporaryDirectory

from bench.measure import row
from bench.window import application, open_at, open_workshop
from violet_dial.core.circuit.spice import read_spice
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import Link
from violet_dial.instruments.simulated.bench import SimulatedBench
from violet_dial.instruments.simulated.device import DeviceUnderTest
from violet_dial.instruments.simulated.server import BenchServer
from violet_dial.services.circuits import templates
from violet_dial.services.live import LiveBench, Slot

READINGS, WARM_UP = 200_000, 10_000
WATCHED_S, RATE_HZ = 12.0, 20.0


class CountingBench(SimulatedBench):
    """Every reading carries its own number, so that none can be lost or change places unseen."""

    def __init__(self, device: DeviceUnderTest) -> None:
        super().__init__(device)
        self.count = 0

    def answer(self, line: str) -> str | None:
        if line.strip() == "READ?":
            self.count += 1
            return f"{1.0 + self.count * 1e-6:+.8E}"
        return super().answer(line)


def memory_mb() -> float:
    """What this process holds now, MB."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * resource.getpagesize() / 1e6


def report_soak(count: int = READINGS) -> None:
    """Readings from the server through PyVISA, the link, the detector and the live bench."""
    circuit = read_spice(templates()[0].text)
    bench = CountingBench(DeviceUnderTest(circuit))
    live = LiveBench()
    numbers: list[int] = []
    live.hands_free = True
    live.aim(Slot("somewhere", "volt"))
    before = began = 0.0
    seen = 0
    drain = Link.drain

    def counted(link: Link) -> tuple[object, ...]:
        found = drain(link)
        numbers.extend(round((one.value - 1.0) * 1e6) for one in found)
        return found

    Link.drain = counted  # type: ignore[method-assign, assignment]
    try:
        with BenchServer(bench) as server:
            live.connect(Kept("meter", server.address), period_s=0.0)
            lost, expected = 0, 1
            while seen < count + WARM_UP:
                live.poll()
                lost += sum(number != expected + place for place, number in enumerate(numbers))
                expected += len(numbers)
                seen += len(numbers)
                numbers.clear()
                if not before and seen >= WARM_UP:
                    before, began = memory_mb(), time.perf_counter()
                time.sleep(0.02)
            took, grown = time.perf_counter() - began, memory_mb() - before
            live.close()
    finally:
        Link.drain = drain  # type: ignore[method-assign]
    row(f"{count} readings through the whole path", f"{count / took:.0f} a second", f"{lost} lost or out of order")
    row("memory grown over them", f"{grown:.1f} MB", "goal: at most 20 MB")


def report_interface() -> None:
    """Processor time of the process with the window open and a meter at twenty readings a second."""
    app = application()
    with TemporaryDirectory() as name:
        workshop = open_workshop(Path(name) / "live.violet")
        window, _ = open_at(workshop, workshop.new_job().job.job_id, "Trace")
        shares = {}
        for label, connected in (("without", False), ("with", True)):
            if connected:
                window.live.start_simulated()
                for kept in window.live.simulated.instruments if window.live.simulated else ():
                    window.live.remove(kept.name)
                server = window.live.simulated._server if window.live.simulated else None
                assert server is not None
                window.live.bench.connect(Kept("meter", server.address), 1.0 / RATE_HZ)
                window.live._timer.start()
            until = time.perf_counter() + 2.0
            while time.perf_counter() < until:
                app.processEvents()
                time.sleep(0.005)
            began, used, whole = time.perf_counter(), time.thread_time(), time.process_time()
            while time.perf_counter() < began + WATCHED_S:
                app.processEvents()
                time.sleep(0.005)
            passed = time.perf_counter() - began
            shares[label] = ((time.thread_time() - used) / passed, (time.process_time() - whole) / passed)
        window.close()
    cost, all_threads = (100 * (shares["with"][place] - shares["without"][place]) for place in (0, 1))
    row(f"interface at {RATE_HZ:g} readings a second", f"{cost:.1f} % of one core", "goal: under 5 %")
    row("with the link's thread and the simulated bench", f"{all_threads:.1f} % of one core")


def report() -> None:
    report_interface()
    report_soak()


if __name__ == "__main__":
    report()
