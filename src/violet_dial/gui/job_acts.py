"""Acts on the open job that ask something first: windows, files, set-up."""

from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TypeVar

from PySide6.QtWidgets import QDialog, QInputDialog, QLineEdit, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.files import ask_open, ask_open_many, ask_save, read_file, write_file
from violet_dial.gui.job_page import Act, JobPage
from violet_dial.gui.stations.light_setup import LightSetupDialog
from violet_dial.gui.stations.trace.circuit_window import CircuitWindow
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.import_rows import ImportDialog, Listing, evidence_listing, readings_listing, steps_listing
from violet_dial.gui.widgets.pages import TextWindow
from violet_dial.job.document import Job
from violet_dial.job.evidence_csv import read_evidence, write_evidence
from violet_dial.job.readings_csv import Defaults, read_readings, write_readings
from violet_dial.job.strip_csv import read_strip, write_strip
from violet_dial.services.acts import add_readings, wait_for
from violet_dial.services.explain import explain, explain_evidence
from violet_dial.services.opening import add_steps, back_of
from violet_dial.services.tracing import add_evidence, choose_circuit, circuit_of
from violet_dial.services.workshop import Workshop

T = TypeVar("T")
CIRCUIT_KINDS = "SPICE text (*.cir *.sp *.net *.txt)"
TRACE_KINDS = f"{CIRCUIT_KINDS};;Evidence (*.csv)"
CSV_KINDS = "Readings (*.csv *.txt *.tsv)"


class JobActs:
    """What the function keys of a job do."""

    def __init__(self, window: QWidget, page: JobPage, workshop: Workshop, look: Look) -> None:
        self._window, self._page, self._workshop, self._look = window, page, workshop, look
        page.arithmetic_asked.connect(self.open_sum)
        page.setup_asked.connect(self.change_setup)
        page.photos_asked.connect(self.attach_photos)
        page.print_asked.connect(self.write_sheet)

    @property
    def _job(self) -> Job | None:
        self._page.keep_typed()
        return self._page.view.job if self._page.view else None

    def _say(self, sentence: str) -> None:
        self._page.said.emit(sentence)

    def open_sum(self) -> None:
        """The judgement opened to its arithmetic; at Trace the evidence, with what instruments gave."""
        job, judgement = self._job, self._page.light.judgement
        if job is not None and self._page.station == "Trace":
            act = self._page.next
            first = (("Next", (act.reason, act.arithmetic)),) if act is not None and act.arithmetic else ()
            TextWindow(self._window, self._look, "Evidence and next test", (*first, *explain_evidence(job))).exec()
            return
        if job is None or judgement is None:
            return
        sections = explain(job, self._page.light.shown_run, judgement, self._page.light.dial.cursor_index)
        TextWindow(self._window, self._look, "How this was worked out", sections).exec()

    def change_setup(self) -> None:
        """At Trace the circuit; else reference chain, tolerance, range and adjuster."""
        job = self._job
        if job is None:
            return
        if self._page.station == "Trace":
            window = CircuitWindow(self._window, self._look, job)
            if window.exec() == QDialog.DialogCode.Accepted:
                self._page.perform(window.act())
            return
        dialog = LightSetupDialog(self._window, self._look, job.light.setup)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._page.perform(dialog.act())

    def attach_photos(self) -> None:
        """Photos chosen from files."""
        names = ask_open_many(self._window, "Attach photos", "Pictures (*.jpg *.jpeg *.png *.webp)")
        if names:
            self._page.attach_photos(names)

    def put_aside(self) -> None:
        """The job waits for something outside, or is taken up again."""
        job = self._job
        if job is None:
            return
        question = "What does this job wait for? (empty: work goes on)"
        text, agreed = QInputDialog.getText(
            self._window, "Put aside", question, QLineEdit.EchoMode.Normal, job.waits_for
        )
        if agreed:
            self._page.perform(lambda one, at: wait_for(one, text.strip(), at))

    def import_table(self) -> None:
        """A CSV of what the station in view holds, shown before anything is taken."""
        if self._page.station == "Trace":
            path = ask_open(self._window, "A circuit as SPICE text, or evidence from a CSV", TRACE_KINDS)
            if path is not None:
                (self.import_evidence_from if path.suffix.lower() == ".csv" else self.open_circuit_from)(path)
            return
        opening = self._page.station == "Open"
        path = ask_open(self._window, "A strip-down from a CSV" if opening else "Readings from a CSV", CSV_KINDS)
        if path is not None:
            (self.import_steps_from if opening else self.import_readings_from)(path)

    def open_circuit_from(self, path: Path) -> None:
        """The circuit in ``path``; evidence stays."""
        try:
            text = read_file(path).decode("utf-8", "replace")
        except VioletDialError as error:
            self._say(f"{path.name}: {error}")
            return
        self._page.perform(lambda one, at: choose_circuit(one, path.stem, text, at))

    def import_evidence_from(self, path: Path) -> None:
        """Offer the evidence in ``path``."""
        job = self._job
        if job is not None:
            self._offer(
                path,
                lambda data: read_evidence(data, circuit_of(job)),
                evidence_listing,
                lambda read: lambda one, at: add_evidence(one, read.evidence, path.name, at),
            )

    def import_steps_from(self, path: Path) -> None:
        """Offer the strip-down in ``path`` as a plan."""
        self._offer(
            path, read_strip, steps_listing, lambda read: lambda one, at: add_steps(one, read.steps, path.name, at)
        )

    def import_readings_from(self, path: Path) -> None:
        """Offer the readings in ``path``."""
        job = self._job
        if job is not None:
            defaults = Defaults(u_reading=job.light.setup.u_reading)
            self._offer(
                path,
                lambda data: read_readings(data, defaults),
                readings_listing,
                lambda read: lambda one, at: add_readings(one, read.readings, path.name, at),
            )

    def _offer(
        self, path: Path, read: Callable[[bytes], T], listing: Callable[[str, T], Listing], act: Callable[[T], Act]
    ) -> None:
        """Read a file, show what it holds, and take it when that was agreed to."""
        try:
            held = read(read_file(path))
        except VioletDialError as error:
            self._say(f"{path.name}: {error}")
            return
        dialog = ImportDialog(self._window, self._look, listing(path.name, held))
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._page.perform(act(held))

    def export_table(self) -> None:
        """What the station in view holds, as CSV; the strip-down also as Markdown."""
        job = self._job
        if job is None:
            return
        if self._page.station == "Trace":
            title = "Write the circuit, or the evidence as CSV"
            path = ask_save(self._window, title, f"job-{job.label}.cir", TRACE_KINDS)
            if path is not None:
                evidence = write_evidence(taken.evidence for taken in job.tracing.now)
                self._write(path, (evidence if path.suffix.lower() == ".csv" else job.tracing.circuit_text).encode())
            return
        if self._page.station == "Open":
            kinds = "Strip-down (*.csv);;Checklist (*.md)"
            path = ask_save(self._window, "Write the strip-down", f"job-{job.label}-strip-down.csv", kinds)
            if path is not None:
                self.write_steps_to(path, job)
            return
        path = ask_save(self._window, "Write readings as CSV", f"job-{job.label}-readings.csv", CSV_KINDS)
        if path is not None:
            self._write(path, write_readings(self._page.light.shown_run.bare).encode())

    def write_steps_to(self, path: Path, job: Job) -> None:
        """The strip-down into ``path``: Markdown when the name ends in .md, PDF in .pdf, else CSV."""
        from violet_dial.report.checklist import build_checklist, checklist_markdown, checklist_pdf

        if path.suffix.lower() not in (".md", ".pdf"):
            self._write(path, write_strip(job.opening.steps).encode())
            return
        try:
            checklist = build_checklist(job, back_of(job))
        except VioletDialError as error:
            self._say(str(error))
            return
        pdf = path.suffix.lower() == ".pdf"
        self._write(path, checklist_pdf(checklist) if pdf else checklist_markdown(checklist).encode())

    def print_paper(self) -> None:
        """The paper of the station in view: the checklist at Open, else the sheet."""
        job = self._job
        if job is None or self._page.station != "Open":
            self.write_sheet()
            return
        path = ask_save(self._window, "Write the checklist", f"job-{job.label}-checklist.pdf", "PDF (*.pdf)")
        if path is not None:
            self.write_steps_to(path, job)

    def write_bundle(self) -> None:
        """The whole job as a bundle."""
        job = self._job
        if job is None:
            return
        path = ask_save(self._window, "Write the job as a bundle", f"job-{job.label}.zip", "Bundle (*.zip)")
        if path is not None:
            self._try_write(path, job)

    def _try_write(self, path: Path, job: Job) -> None:
        try:
            content = self._workshop.export_bundle(job.job_id)
        except VioletDialError as error:
            self._say(str(error))
            return
        self._write(path, content)

    def write_sheet(self) -> None:
        """The sheet as PDF or HTML."""
        job = self._job
        if job is None:
            return
        path = ask_save(self._window, "Write the sheet", f"job-{job.label}.pdf", "PDF (*.pdf);;HTML (*.html)")
        if path is not None:
            self.write_sheet_to(path, job)

    def write_sheet_to(self, path: Path, job: Job) -> None:
        """The sheet of ``job`` into ``path``, PDF unless the name ends in .html."""
        from violet_dial.report.html import sheet_html
        from violet_dial.report.pdf import sheet_pdf
        from violet_dial.services.sheets import sheet_for

        sheet = sheet_for(job, date.today())
        html = path.suffix.lower() in (".html", ".htm")
        self._write(path, sheet_html(sheet).encode() if html else sheet_pdf(sheet))

    def _write(self, path: Path, content: bytes) -> None:
        try:
            write_file(path, content)
        except VioletDialError as error:
            self._say(str(error))
        else:
            self._say(f"Written: {path}")
