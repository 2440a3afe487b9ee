"""Acts on the open job that ask something first: windows and files. All of them are opened, none is waited for."""

from collections.abc import Callable
from datetime import date
from pathlib import Path

from PySide6.QtWidgets import QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.gui.job_page import JobPage
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.job.spoken import spoken_date
from violet_dial.kit.ask import ask_text, open_over
from violet_dial.kit.files import Chooser
from violet_dial.kit.runner import Runner
from violet_dial.kit.text_window import ImportWindow, TextWindow
from violet_dial.kit.theme.look import Look
from violet_dial.report.blocks import Paper, Size
from violet_dial.services.files import read_file, write_file
from violet_dial.services.next import put_aside
from violet_dial.services.photos import CheckedPhoto
from violet_dial.services.sheet import CARD, card_of, sheet_of
from violet_dial.services.station import FileOut, Listing
from violet_dial.services.workshop import Workshop

PAPER_SETTING = "paper/size"
# Of which job, what is offered and taken, the photos that come with it, or why not.
Read = tuple[str, Listing | None, Act | None, tuple[CheckedPhoto, ...], str]


class JobActs:
    """What the function keys of a job do."""

    def __init__(self, window: QWidget, page: JobPage, workshop: Workshop, look: Look, chooser: Chooser) -> None:
        self._window, self._page, self._workshop, self._look = window, page, workshop, look
        self._chooser = chooser
        kept = look.settings.value(PAPER_SETTING) if look.settings is not None else None
        self._size: Size = "Letter" if kept == "Letter" else "A4"
        self._reading = Runner(page)
        self._reading.succeeded.connect(self._was_read)
        self._reading.failed.connect(self._say)
        self._making = Runner(page)
        self._making.succeeded.connect(self._was_made)
        self._making.failed.connect(self._say)
        self._done: Callable[[bytes], None] | None = None
        page.arithmetic_asked.connect(self.open_sum)

    @property
    def _job(self) -> Job | None:
        """The job with all that was typed kept; None when something typed was refused."""
        if self._page.view is None or not self._page.keep_typed():
            return None
        return self._page.view.job

    def _say(self, sentence: str) -> None:
        self._page.said.emit(sentence)

    def open_sum(self) -> None:
        """The judgement of the station in view opened to its arithmetic; where it has none, the fallback's."""
        job = self._job
        if job is None:
            return
        opened = self._page.page.opened() or self._page.fallback.opened(job)
        if opened is not None:
            open_over(TextWindow(self._window, self._look, *opened))

    def change_setup(self) -> None:
        """The window that sets the station in view up; where it has none, the fallback's."""
        if self._job is None:
            return
        if not self._page.page.sets_up:
            self._page.go(self._page.fallback.name)
        self._page.page.set_up()

    def put_aside(self) -> None:
        """The job waits for something outside, or is taken up again."""
        job = self._job
        if job is None:
            return
        question = "What does this job wait for? (empty: work goes on)"

        def keep(text: str) -> bool:
            return self._page.perform(lambda one, at: put_aside(one, text, at))

        ask_text(self._window, "Put aside", question, job.waits_for, keep)

    # files in

    def import_table(self) -> None:
        """A file of what the station in view takes, shown before anything of it is taken."""
        wanted = self._page.page.file_in or self._page.described.file_in or self._page.fallback.file_in
        if wanted is not None and self._job is not None:
            self._chooser.ask_open(self._window, wanted.title, wanted.kinds, self.import_from)

    def import_from(self, path: Path) -> None:
        """Read what is in ``path`` beside the window's work, then offer it."""
        job = self._job
        wanted = self._page.page.file_in or self._page.described.file_in or self._page.fallback.file_in
        if job is None or wanted is None:
            return

        def work(task: Task) -> Read:
            try:
                data = read_file(path, wanted.most_bytes)
                listing, act = wanted.read(job, path.name, data)
                photos = wanted.photos(path.name, data) if wanted.photos is not None else ()
            except VioletDialError as error:
                return job.job_id, None, None, (), f"{path.name}: {error}"
            return job.job_id, listing, act, photos, ""

        self._reading.start(work)

    def _was_read(self, result: Read) -> None:
        """Offer what was read, where its job is still the one at hand."""
        job_id, listing, act, photos, why = result
        if self._page.view is None or self._page.view.job.job_id != job_id:
            return
        if act is None:
            self._say(why)
        elif listing is None:
            self._page.keep_photos(photos)
            self._page.perform(act)
        else:
            window = ImportWindow(self._window, self._look, listing)
            window.accepted.connect(lambda: self._page.perform(act))
            open_over(window)

    # files out

    def export_table(self) -> None:
        """What the station in view holds, into a file; where it has none, what the fallback holds."""
        own = self._page.described.file_out
        wanted = own or self._page.fallback.file_out
        if wanted is not None:
            self._write_out(wanted, self._page.page.part if own else None)

    def write_paper(self) -> None:
        """The paper of the station in view into a file; where it has none of its own, the sheet."""
        wanted = self._page.described.print_out
        if wanted is not None:
            self._write_out(wanted, self._page.page.part)
        else:
            self.write_sheet()

    def print_paper(self) -> None:
        """The paper of the station in view on paper; where it has none of its own, the sheet."""
        wanted, job = self._page.described.print_out, self._job
        if wanted is None or job is None:
            self.print_sheet()
            return
        name = wanted.name(job)
        self._made(wanted, job, f"{Path(name).stem}.pdf", lambda made: self._print(Path(name).stem, lambda: made))

    def print_sheet(self) -> None:
        """The sheet on paper."""
        job = self._job
        if job is not None:
            paper = self._paper(job)
            name = f"job-{job.label}{'-card' if paper.size.endswith('card') else ''}"
            self._print(name, lambda: self._drawn(paper, Path("sheet.pdf")))

    def _print(self, name: str, content: Callable[[], bytes]) -> None:
        from violet_dial.kit.printing import ask_print

        try:
            ask_print(self._window, name, content(), self._say, self._chooser)
        except VioletDialError as error:
            self._say(str(error))

    def _write_out(self, wanted: FileOut, part: object) -> None:
        job = self._job
        if job is None:
            return

        def write(path: Path) -> None:
            self._made(wanted, job, path.name, lambda made: self._try_write(path, lambda: made), part)

        self._chooser.ask_save(self._window, wanted.title, wanted.name(job), wanted.kinds, write)

    def _made(self, wanted: FileOut, job: Job, name: str, done: Callable[[bytes], None], part: object = None) -> None:
        """What is to be written or printed; where photos go into it, it is made beside the window's work."""
        maker = next((photo for ending, photo in wanted.with_photos.items() if name.lower().endswith(ending)), None)
        try:
            if maker is None:
                done(wanted.write(job, name, self._page.page.part if part is None else part))
                return
            photos = {photo.sha256: self._workshop.blob(photo.sha256) for photo in job.photos}
        except VioletDialError as error:
            self._say(str(error))
            return
        self._done = done
        self._making.start(lambda task: maker(job, name, photos))

    def _was_made(self, made: bytes) -> None:
        if self._done is not None:
            self._done(made)

    def write_bundle(self) -> None:
        """The whole job as a bundle."""
        job = self._job
        if job is None:
            return

        def write(path: Path) -> None:
            self._try_write(path, lambda: self._workshop.export_bundle(job.job_id))

        self._chooser.ask_save(self._window, "Write the job as a bundle", f"job-{job.label}.zip", "Bundle (*.zip)", write)

    def sheet(self, job: Job) -> Paper:
        """The sheet of a job as it would print today."""
        return sheet_of(job, self._page.stations, spoken_date(date.today()), self._size)

    def card(self, job: Job) -> Paper:
        """The short card of a job as it would print today."""
        return card_of(job, self._page.stations, spoken_date(date.today()), self._size)

    def _paper(self, job: Job) -> Paper:
        """The sheet; the card where that is in view."""
        return self.card(job) if self._page.page.part == CARD else self.sheet(job)

    def turn_paper(self) -> str:
        """The other size of paper from now on."""
        self._size = "A4" if self._size == "Letter" else "Letter"
        if self._look.settings is not None:
            self._look.settings.setValue(PAPER_SETTING, self._size)
        return self._size

    def print_made(self, name: str, content: Callable[[], bytes]) -> None:
        """A PDF made elsewhere, on paper or into a file."""
        self._print(name, content)

    def write_sheet(self) -> None:
        """The sheet as PDF or HTML."""
        job = self._job
        if job is None:
            return

        paper = self._paper(job)

        def write(path: Path) -> None:
            self._try_write(path, lambda: self._drawn(paper, path))

        kinds = "PDF (*.pdf);;HTML (*.html)"
        self._chooser.ask_save(self._window, "Write the sheet", f"job-{job.label}.pdf", kinds, write)

    @staticmethod
    def _drawn(paper: Paper, path: Path) -> bytes:
        """The paper, HTML when the name says so, else PDF."""
        from violet_dial.report.html import paper_html
        from violet_dial.report.pdf import paper_pdf

        return paper_html(paper).encode() if path.suffix.lower() in (".html", ".htm") else paper_pdf(paper)

    def _try_write(self, path: Path, content: Callable[[], bytes]) -> None:
        try:
            write_file(path, content())
        except VioletDialError as error:
            self._say(str(error))
        else:
            self._say(f"Written: {path}")
