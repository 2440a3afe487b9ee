"""Sheets as PDF: of a full job, and of one of twenty pages and more, beside the same lines as plain paragraphs of ReportLab."""

import io
import time
from collections.abc import Callable
from dataclasses import replace

import pypdfium2
from reportlab.lib.styles import getSampleStyleSheet
from reportlab.platypus import Paragraph, SimpleDocTemplate

from bench.measure import row
from violet_dial.core.receiving.places import VIEWS
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.exposing import Exposing, Fired, LampLook
from violet_dial.job.receiving import Finding, Receiving
from violet_dial.report.pdf import paper_pdf
from violet_dial.services.sheet import sheet_of
from violet_dial.stations import STATIONS
from violet_dial.stations.prove import acts

LINES = 1_200
AT = "2026-11-2{}T09:00:00+00:00"


def full() -> Job:
    """A job with something for every section."""
    fired = tuple(Fired(2.0**-n, 2.0**-n * (1.8 if n < 3 else 1.02), at=AT.format(0)) for n in range(11))
    looks = tuple(LampLook(5.6, 400.0 * 2**n, "slow" if n < 1 else "none") for n in range(-4, 5))
    findings = tuple(Finding(f"f{n}", "dent", view, 0.4, 0.4) for n, view in enumerate(VIEWS))
    job = Job(
        "b1", 1, Device("Bench reflex", kind="reflex", cell="CdS"), Intake("Blank frames now and then"),
        receiving=Receiving(findings), exposing=Exposing(fired=fired, lamps=looks), closing=Closing(done="Done.", left="Left."),
    )  # fmt: skip
    for line in ("1/250 jammed", "1/250 clean 30", "after cleaned", "1/250 clean 60", "1/60 clean 60"):
        job = acts.understand(job, line).act(job, AT.format(1)).job
    return job


def took(make: Callable[[], bytes]) -> tuple[float, bytes]:
    """Seconds of the second time, and what was made."""
    make()
    begun = time.perf_counter()
    made = make()
    return time.perf_counter() - begun, made


def plain() -> bytes:
    """The lines alone."""
    out, style = io.BytesIO(), getSampleStyleSheet()["Normal"]
    SimpleDocTemplate(out).build([Paragraph(f"Step {n} was done.", style) for n in range(LINES)])
    return out.getvalue()


def report() -> None:
    """All of it."""
    job = full()
    one_s, made = took(lambda: paper_pdf(sheet_of(job, STATIONS, "today")))
    row("sheet of a full job", f"{one_s:.2f} s, {len(pypdfium2.PdfDocument(made))} pages", "goal: 1 s")
    long = replace(job, closing=Closing(done="\n".join(f"Step {n} was done." for n in range(LINES))))
    many_s, made = took(lambda: paper_pdf(sheet_of(long, STATIONS, "today")))
    plain_s, _ = took(plain)
    pages = len(pypdfium2.PdfDocument(made))
    row(f"sheet of {pages} pages", f"{many_s:.2f} s", f"{many_s / plain_s:.1f} x plain paragraphs; goal: 3 s for 20")


if __name__ == "__main__":
    report()
