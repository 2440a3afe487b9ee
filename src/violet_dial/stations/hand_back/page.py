"""Return: the sheet the owner gets, what stays at the bench, and what the jobs of the workshop say together."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QGridLayout, QStackedWidget, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.task import Task
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled, scrolled
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import Rows, SaidPage, line
from violet_dial.kit.side_panel import SidePanel
from violet_dial.kit.sub_pages import SubPages
from violet_dial.report.labels import labels_pdf
from violet_dial.services.next import NextAct
from violet_dial.services.sheet import CARD
from violet_dial.stations.hand_back import acts
from violet_dial.stations.hand_back.bench_state import bench_shown, few_said, labels_of, workshop_shown
from violet_dial.stations.hand_back.figures import Figures, read_figures
from violet_dial.stations.hand_back.sheet_page import SheetPage

SHEET, BENCH, WORKSHOP = range(3)
NAMES = ("Sheet", "Bench", "Workshop")
BENCH_WORDS = (
    "Minutes are those between acts; a pause of over a quarter of an hour counts as one. part 2 LR44 says what was used, "
    "stock 20 "
    "LR44 what was counted in the drawer: what is used in this job and later ones is taken off it. thought trace 30 says "
    "what you "
    "expected. shorter way: meter cell through front frame; 6 min goes to the next one of this model."
)
LEARN_WORDS = (
    "What parts fail beforehand ships with the application and is common practice. learn lets this one job's suspects be ranked "
    "by what failed in this workshop instead: each kind's chance times how much oftener it failed here than expected, ten faults "
    "as shipped being laid beside those found. It is in the log, undo takes it back, forget too; no other job is touched."
)


class ReturnPage(StationPage):
    """Each page shows one frozen value; the words of the sheet stand beside it."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self._figures: Figures | None = None
        self.reader = Runner(self)
        self.reader.succeeded.connect(self._read)
        self.reader.failed.connect(context.say)
        texts = QGridLayout()
        texts.setVerticalSpacing(3)
        self.sheet = SheetPage(context, texts)
        self.lines, self.texts = self.sheet.fields.lines, self.sheet.fields.texts
        self.bench = self._bench(texts)
        self.workshop = self._workshop()
        self._panel = SidePanel(context.look)
        self._side = QStackedWidget()
        self._side.addWidget(scrolled(self.sheet.words))
        self._side.addWidget(self._panel)
        self.pages = SubPages(tuple(zip(NAMES, (self.sheet, self.bench, self.workshop), strict=True)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self.sheet.drawn_changed.connect(self.changed)

    def _bench(self, texts: QGridLayout) -> SaidPage:
        page = SaidPage(
            "part 2 LR44", line("What was used, counted, thought", self._understood, self._take), acts.EXPECTED
        )
        self.minutes, self.parts = Rows(self._context.look, "Minutes"), Rows(self._context.look, "Parts used")
        page.add("Minutes by station", self.minutes)
        self.parts_head = page.add("Parts used", self.parts)
        holder = QWidget()
        holder.setLayout(texts)
        page.add("Stays at the bench", holder, right=True)
        page.close_columns()
        return page

    def _workshop(self) -> SaidPage:
        page = SaidPage("learn", line("Whether this job learns", self._learn_said, self._learn), "learn · forget")
        self.groups = [(labelled("", "head", True), Rows(self._context.look, "Figures")) for _ in range(7)]
        for number, (head, rows) in enumerate(self.groups):
            column = page.right if number in (1, 2, 4, 5) else page.body
            column.addWidget(head)
            column.addWidget(rows)
        page.columns.setStretch(1, 1)
        page.close_columns()
        return page

    # what is shown

    def begin(self, job: Job) -> None:
        self._job, self._figures = None, None
        self.reader.cancel()
        self.sheet.begin()
        self.bench.typed.clear()
        self.workshop.typed.clear()
        self.pages.begin()
        self._side.setCurrentIndex(0)

    def show_job(self, job: Job) -> None:
        """Draw the job on every page."""
        self._job = job
        self.sheet.show_job(job)
        shown = bench_shown(job, self._context.records.log())
        self.bench.headline.setText(shown.headline)
        self.bench.reason.setVisible(False)
        self.minutes.show_rows(shown.minutes, ("station", "spent", "thought"))
        self.parts.show_rows(shown.parts)
        self.parts_head.setVisible(bool(shown.parts))
        self._draw_workshop()
        self._draw_side()

    def _draw_workshop(self) -> None:
        if self._job is None:
            return
        found = workshop_shown(self._job, self._figures)
        few = few_said(self._figures) if self._figures is not None else ""
        self.workshop.headline.setText(found.headline)
        self.workshop.reason.setText(f"{found.reason} {few}".strip())
        for place, (head, rows) in enumerate(self.groups):
            name, said = found.parts[place] if place < len(found.parts) else ("", ())
            head.setText(name)
            head.setVisible(bool(said))
            rows.show_rows(said)

    def _draw_side(self) -> None:
        place = self.pages.place
        self._side.setCurrentIndex(0 if place == SHEET else 1)
        if place == BENCH:
            self._panel.show_panel("How it is counted", (), BENCH_WORDS, "", "")
        elif place == WORKSHOP:
            self._panel.show_panel("Learning from this workshop", (), LEARN_WORDS, "", "")

    @Slot(object)
    def _read(self, found: object) -> None:
        if isinstance(found, Figures):
            self._figures = found
            self._draw_workshop()
            self.changed.emit()

    @property
    def side(self) -> QWidget:
        return self._side

    @property
    def part(self) -> Any:
        """What is printed and written: the card, where it is in view; else the sheet."""
        return CARD if self.pages.place == SHEET and self.sheet.is_card else None

    @property
    def settled(self) -> bool:
        return self.sheet.settled and not self.reader.busy

    def close_workers(self) -> None:
        self.sheet.answer.close()
        self.reader.close()

    # typed lines

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def _understood(self, text: str) -> str:
        return acts.understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        return self._context.perform(acts.understand(self._known(), text).act)

    def _learn_said(self, text: str) -> str:
        if text.strip().lower() == "forget":
            return "= chances beforehand as shipped"
        if text.strip().lower() != "learn" or self._figures is None:
            raise InvalidInput("Workshop", text, "learn, or forget")
        return f"= {acts.learn(self._known(), self._figures).reason}"

    def _learn(self, text: str) -> bool:
        found = self._figures
        if text.strip().lower() == "forget" or found is None:
            return self._context.perform(acts.forget)

        def act(job: Job, at: str) -> ActResult:
            return acts.learn(job, found)

        return self._context.perform(act)

    # pages and keys

    @Slot(int)
    def _turned(self, place: int) -> None:
        if place == WORKSHOP and self._figures is None:
            path: Path = self._context.records.workshop_path()

            def work(task: Task) -> Figures:
                return read_figures(path, task)

            self.reader.start(work)
        self._draw_side()
        self.focus_first()
        self.changed.emit()

    def turn_view(self) -> None:
        """The short card in place of the sheet, and back."""
        if self.pages.place == SHEET:
            self.sheet.turn_card()

    def turn_paper(self) -> None:
        """A4 or Letter."""
        self._context.say(f"Paper: {self._context.papers.turn_paper()}.")
        if self._job is not None:
            self.sheet.show_job(self._job)

    def labels(self) -> None:
        """Labels for the device and its trays."""
        if self._job is not None:
            labels = labels_of(self._job)
            self._context.papers.print_made(f"labels-{self._job.label}", lambda: labels_pdf(labels))

    def keep(self) -> bool:
        return self.sheet.fields.keep()

    def to_picture(self) -> None:
        self.pages.show_page(SHEET)
        self._draw_side()
        self.sheet.view.setFocus()

    def focus_first(self) -> None:
        """To the first words still missing on the sheet, else to the line of the page in view."""
        if self.pages.place == SHEET:
            self.sheet.focus_first()
        else:
            (self.bench if self.pages.place == BENCH else self.workshop).focus_first()

    def follow(self, act: NextAct) -> None:
        self.pages.show_page(SHEET)
        self._draw_side()
        self.focus_first()
        if act.kind == "hand over":
            self._context.papers.print_sheet()
