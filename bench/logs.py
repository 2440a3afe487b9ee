"""A log of 2,000 firings: how long an act takes until it is drawn, beside what the same page takes with twenty."""

import os
import tempfile
import time
from pathlib import Path
from statistics import median

from PySide6.QtWidgets import QApplication

from bench.measure import row
from violet_dial.demo.doing import Doing
from violet_dial.gui.main_window import MainWindow
from violet_dial.job.document import Device, Intake
from violet_dial.kit.theme.look import Look
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.stations.prove import acts
from violet_dial.stations.receive.acts import describe_device
from violet_dial.store.workshop_file import WorkshopFile

COUNT, FEW, ACTS = 2_000, 20, 15


def logged(shop: Workshop, count: int) -> str:
    """A job with so many firings in its log."""
    on = Doing(shop, shop.new_job().job.job_id)
    device, intake = Device("Bench reflex", kind="reflex"), Intake("Blank frames now and then")
    on.do(lambda job, at: describe_device(job, device, intake, at))
    lines = ("battery 2.9", "1/60 clean", "1/250 failed", *["1/125 clean 100", "1/250 jammed"] * 30)
    while (left := count - len(on.job.proving.log)) > 0:
        for line in lines if left > len(lines) * 60 else (f"1/60 clean {min(left, 100)}",):
            on.do(lambda job, at, line=line: acts.understand(job, line).act(job, at))  # type: ignore[misc]
    return on.job_id


def fired_s(count: int) -> float:
    """Median seconds from the key to the drawn page, with so many firings in the log."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication.instance() or QApplication([])
    with tempfile.TemporaryDirectory() as folder:
        shop = Workshop(WorkshopFile(Path(folder) / "w.violet"), lambda: STATIONS)
        job_id = logged(shop, count)
        look = Look()
        look.apply()
        window = MainWindow(look, shop)
        window.resize(1280, 800)
        window.show()
        window.live.sounds.silent = True
        window.open_job(job_id)
        page = window.job_page
        assert page is not None
        page.go("Prove")
        app.processEvents()
        took = []
        for _act in range(ACTS):
            begun = time.perf_counter()
            page.page.take_typed()
            page.page.repaint()
            app.processEvents()
            took.append(time.perf_counter() - begun)
        window.close()
    return median(took)


def report() -> None:
    """All of it."""
    few, many = fired_s(FEW), fired_s(COUNT)
    row(f"{COUNT} firings: key to drawn", f"{1000 * many:.0f} ms", f"{many / few:.1f} x that of {FEW}; goal: 50 ms")


if __name__ == "__main__":
    report()
