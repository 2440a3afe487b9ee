"""Return: the sheet the owner gets, what stays at the bench, and what the jobs of the workshop say together."""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QGridLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import PagedStation
from violet_dial.kit.rows import Rows
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import SaidPage
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.typed_line import line
from violet_dial.services.next import NextAct
from violet_dial.stations.hand_back import acts
from violet_dial.stations.hand_back.figures import Figures, read_figures
from violet_dial.stations.hand_back.labels import labels_pdf
from violet_dial.stations.hand_back.sheet_page import SheetPage
from violet_dial.stations.hand_back.state import bench_shown, few_said, labels_of, workshop_shown

SHEET, BENCH, WORKSHOP = range(3)
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


class BenchPage(SaidPage):
    """Minutes, parts, and the words that stay at the bench."""

    says_beside = True
    beside = SideSaid("How it is counted", (), BENCH_WORDS)

    def __init__(self, context: PageContext, texts: QGridLayout) -> None:
        typed = self._line("What was used, counted, thought", acts.understand)
        super().__init__(context, "part 2 LR44", typed, acts.EXPECTED)
        self.minutes, self.parts = Rows(context.look, "Minutes"), Rows(context.look, "Parts used")
        self.add("Minutes by station", self.minutes)
        self.parts_head = self.add("Parts used", self.parts)
        holder = QWidget()
        holder.setLayout(texts)
        self.add("Stays at the bench", holder, right=True)
        self.close_columns()

    def draw(self, job: Job) -> None:
        shown = bench_shown(job, self._context.records.log())
        self.headline.setText(shown.headline)
        self.reason.setVisible(False)
        self.minutes.show_rows(shown.minutes, ("station", "spent", "thought"))
        self.parts.show_rows(shown.parts)
        self.parts_head.setVisible(bool(shown.parts))


class WorkshopPage(SaidPage):
    """What the jobs of the workshop say together; they are read when the page is first turned to."""

    says_beside = True
    beside = SideSaid("Learning from this workshop", (), LEARN_WORDS)

    def __init__(self, context: PageContext) -> None:
        typed = line("Whether this job learns", self._understood, self._take)
        super().__init__(context, "learn", typed, "learn · forget")
        self._figures: Figures | None = None
        self.reader = Runner(self)
        self.workers = (self.reader,)
        self.reader.succeeded.connect(self._read)
        self.reader.failed.connect(context.say)
        self.groups = [(labelled("", "head", True), Rows(context.look, "Figures")) for _ in range(7)]
        for number, (head, rows) in enumerate(self.groups):
            column = self.right if number in (1, 2, 4, 5) else self.body
            column.addWidget(head)
            column.addWidget(rows)
        self.columns.setStretch(1, 1)
        self.close_columns()

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._figures = None

    def read(self) -> None:
        """Read the jobs, once."""
        if self._figures is None:
            path = self._context.records.workshop_path()
            self.reader.start(lambda task: read_figures(path, task))

    @Slot(object)
    def _read(self, found: Figures) -> None:
        self._figures = found
        if self._job is not None:
            self.draw(self._job)
        self.changed.emit()

    def draw(self, job: Job) -> None:
        found = workshop_shown(job, self._figures)
        few = few_said(self._figures) if self._figures is not None else ""
        self.headline.setText(found.headline)
        self.reason.setText(f"{found.reason} {few}".strip())
        for place, (head, rows) in enumerate(self.groups):
            name, said = found.parts[place] if place < len(found.parts) else ("", ())
            head.setText(name)
            head.setVisible(bool(said))
            rows.show_rows(said)

    def _understood(self, text: str) -> str:
        if text.strip().lower() == "forget":
            return "= chances beforehand as shipped"
        if text.strip().lower() != "learn" or self._figures is None:
            raise InvalidInput("Workshop", text, "learn, or forget")
        return f"= {acts.learn(self._known(), self._figures).reason}"

    def _take(self, text: str) -> bool:
        found = self._figures
        if text.strip().lower() == "forget" or found is None:
            return self._context.perform(acts.forget)
        return self._context.perform(lambda job, at: acts.learn(job, found))


class ReturnPage(PagedStation):
    """SideSaid the sheet stand its words."""

    def __init__(self, context: PageContext) -> None:
        texts = QGridLayout()
        texts.setVerticalSpacing(3)
        self.sheet, self.bench, self.workshop = (SheetPage(context, texts), BenchPage(context, texts), WorkshopPage(context))
        self.lines, self.texts = self.sheet.fields.lines, self.sheet.fields.texts
        super().__init__(context, (("Sheet", self.sheet), ("Bench", self.bench), ("Workshop", self.workshop)))

    def draw(self, job: Job) -> None:
        self.sheet.fill(job)
        super().draw(job)

    @Slot(int)
    def _turned(self, place: int) -> None:
        if place == WORKSHOP:
            self.workshop.read()
        super()._turned(place)

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

    def to_picture(self) -> None:
        self.pages.show_page(SHEET)
        self.draw_beside()
        self.sheet.view.setFocus()

    def follow(self, act: NextAct) -> None:
        self.pages.show_page(SHEET)
        self.draw_beside()
        self.focus_first()
        if act.kind == "hand over":
            self._context.papers.print_sheet()
