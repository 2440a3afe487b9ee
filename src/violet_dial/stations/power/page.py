"""Power: choices of battery over their life, this cell, the use, the diode that was fitted, batteries against the supply."""

from PySide6.QtCore import Qt, Slot
from PySide6.QtWidgets import QWidget

from violet_dial.core.power.design import Designed, Trimmed, design_words
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import OpenedSum, PagedStation, StationPage
from violet_dial.kit.runner import Runner
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.remembered import Answers
from violet_dial.stations.power import acts
from violet_dial.stations.power.bench import TEMPERATURES_C
from violet_dial.stations.power.lanes_state import TITLE, At, LanesShown, lanes_shown, middle_light, opened
from violet_dial.stations.power.lanes_view import LanesView
from violet_dial.stations.power.said_pages import CellPage, ChoicePanel, FitPage, SupplyPage, UsePage, offers_of
from violet_dial.stations.power.state import CHOICES
from violet_dial.stations.power.work import USUAL_WARM, PowerWorked, design_for, question_of, work_out

WORKING = "What each battery does is being worked out…"
KNOWN = Answers(12)  # so that coming back to a job shows them at once


class ChoicesPage(StationPage):
    """The lanes of the choices; what they rest on is worked out beside, once for a circuit."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._at: At | None = None  # the light and temperature shown; the middle once something is worked out
        self._at_hand: tuple[OwnCell, ...] = ()  # cells of other jobs
        self.answer, self.designer = PageAnswer(self, KNOWN), Runner(self)
        self.workers = (self.answer, self.designer)
        self.answer.came.connect(self._came)
        self.designer.succeeded.connect(self._designed)
        self.designer.failed.connect(context.say)
        self.headline = labelled("", "verdict", True)
        self.stands = labelled("", "small", True)
        self.lanes = LanesView(context.look)
        self.typed = TypedLine(
            "Another choice, a part of the drawer, volts it was made for", self._offers, self._understood, self._say
        )
        self.typed.edit.setPlaceholderText("SR44 + schottky")
        self.choice = ChoicePanel()
        self.area = scrolled(self.lanes)
        self.lay((self.headline, self.stands), self.area, (self.typed,), is_scrolled=False)
        self.lanes.chosen.connect(self.show_reason)
        self.lanes.moved.connect(self._move)
        self.lanes.resized.connect(self._bring)
        self.lanes.taken.connect(self._take)
        self.lanes.dropped.connect(lambda place: context.perform(lambda job, at: acts.drop_choice(job, place, at)))

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._at = None
        self._at_hand = self._context.records.own_cells(job)
        self.lanes.begin()
        self.choice.show_choice("", "", "")
        self.choice.show_design("")

    def work(self, job: Job) -> None:
        """What rests on its circuit is worked out when it is not known yet."""
        self._job = job
        question = question_of(job)
        if question != self.answer.question:
            self.designer.cancel()
        self.answer.ask(question, lambda task: work_out(job, task))

    @property
    def _worked(self) -> PowerWorked | None:
        """The newest answer of this job; of how it stood before while the next is worked out, nothing once that failed."""
        return None if self.answer.failure else self.answer.last

    @Slot()
    def _came(self) -> None:
        if self.answer.failure:
            self.lanes.begin()
        self.changed.emit()

    def draw(self, job: Job) -> None:
        """Draw the lanes, or why there are none."""
        worked = self._worked
        if worked is None:
            self.headline.setText(self.answer.failure or WORKING)
            self.stands.setText("")
            return
        shown = self._show_lanes(job, worked)
        self.headline.setText(shown.headline)

    def _show_lanes(self, job: Job, worked: PowerWorked) -> LanesShown:
        chosen = job.power.chosen.said if job.power.chosen else ""
        shown = lanes_shown(worked.lanes, self._shown_at(worked), chosen)
        self.stands.setText(f"{shown.stands}{'  ·  ' + worked.said if worked.said else ''}")
        self.lanes.show_lanes(shown)
        return shown

    def _shown_at(self, worked: PowerWorked) -> At:
        """The light and the temperature in view, among those that were worked out."""
        at = self._at or At(middle_light(worked.lanes), USUAL_WARM)
        self._at = At(min(at.light, len(worked.lanes.asked.marks) - 1), at.warm)
        return self._at

    @Slot(int)
    def show_reason(self, place: int = -1) -> None:
        """The choice under the cursor in full; while another page is in view the battery in use."""
        worked, rows, is_here = self._worked, self.lanes.shown.rows, self.isVisible()
        title = "The choice under the cursor"
        if is_here:
            place = self.lanes.place
            self._bring()
        else:
            title = "The battery in use" if any(row.is_chosen for row in rows) else "The best battery so far"
            best = worked.lanes.best if worked is not None else 0
            place = next((at for at, row in enumerate(rows) if row.is_chosen), best)
        if worked is None or not 0 <= place < len(rows):
            self.choice.show_choice(title, "", "")
            return
        size = worked.lanes.lanes[place].choice.size
        self.choice.show_choice(title, rows[place].reason, size.chemistry.caution if size else "")

    @Slot()
    def _bring(self) -> None:
        """The lane under the cursor into view."""
        if self.lanes.shown.rows:
            box = self.lanes.row_box(self.lanes.place)
            self.area.ensureVisible(0, int(box.center().y()), 0, int(box.height() / 2) + 4)

    @Slot(int, int)
    def _move(self, light: int, warm: int) -> None:
        """The light or the temperature a step on: the bands follow at once, everything is worked out already."""
        worked = self._worked
        if worked is None or self._job is None:
            return
        at, last = self._shown_at(worked), len(worked.lanes.asked.marks) - 1
        self._at = At(min(max(at.light + light, 0), last), min(max(at.warm + warm, 0), len(TEMPERATURES_C) - 1))
        self._show_lanes(self._job, worked)

    @property
    def result(self) -> PowerWorked | None:
        found: PowerWorked | None = self.answer.result
        return found

    def opened(self) -> OpenedSum:
        worked = self._worked
        if worked is None:
            return TITLE, (("Nothing yet", (self.headline.text(),)),)
        return opened(worked, self.lanes.place, self._shown_at(worked))

    # acts

    @Slot(int)
    def _take(self, place: int) -> None:
        rows = self.lanes.shown.rows
        if self.result is not None and place < len(rows):
            said, why = rows[place].said, rows[place].reason
            self._context.perform(lambda job, at: acts.choose(job, said, why, at))

    def turn_view(self) -> None:
        """The best of the drawer for the cell under the cursor."""
        job, rows = self._job, self.lanes.shown.rows
        if job is None or self._worked is None or not rows:
            return
        source = rows[self.lanes.place].said.split(" + ", 1)[0]
        self._context.say(f"Every part and every pair of the drawer is tried with {source}…")
        self.designer.start(lambda task: design_for(job, source, task))

    @Slot(object)
    def _designed(self, result: tuple[Designed, Trimmed | None]) -> None:
        found, turned = result
        said = design_words(found, turned)
        if all(row.said != found.choice.said for row in self.lanes.shown.rows):
            self._context.perform(lambda job, at: acts.add_choice(job, found.choice.said, at))
        self.choice.show_design(said)

    # the line

    def _offers(self, text: str) -> tuple[str, ...]:
        return () if self._job is None else offers_of(self._job.power, text, self._at_hand)

    def _understood(self, text: str) -> str:
        return acts.understand_line(acts.with_cells(self._known().power, self._at_hand, text), text).words

    def _say(self, text: str) -> bool:
        at_hand = self._at_hand
        return self._context.perform(lambda job, at: acts.say_line(job, text, at, at_hand))

    def focus_first(self) -> None:
        """To the lanes."""
        self.lanes.setFocus(Qt.FocusReason.OtherFocusReason)


class PowerPage(PagedStation):
    """Beside every page stands the battery in use, beside the lanes the choice under the cursor."""

    slot_missing = "no reading is asked for here: This cell and Diode ask for some"

    def __init__(self, context: PageContext) -> None:
        self.choices = ChoicesPage(context)
        self.cell, self.use, self.fit, self.supply = (
            page(context, lambda: self.choices.result) for page in (CellPage, UsePage, FitPage, SupplyPage)
        )
        super().__init__(
            context,
            (
                ("Choices", self.choices), ("This cell", self.cell), ("Use", self.use), ("Diode", self.fit),
                ("Supply", self.supply),
            ),
        )  # fmt: skip
        self.choices.answer.came.connect(self._came)

    def draw(self, job: Job) -> None:
        self.choices.work(job)
        self._draw_all(job)

    @Slot()
    def _came(self) -> None:
        if self._job is not None:
            self._draw_all(self._job)

    def _draw_all(self, job: Job) -> None:
        super().draw(job)
        if self.here is not self.choices:
            self.choices.draw(job)  # what stands beside rests on the lanes
            self.draw_beside()

    def draw_beside(self) -> None:
        self.choices.show_reason()

    @property
    def side(self) -> QWidget:
        return self.choices.choice

    @property
    def result(self) -> PowerWorked | None:
        return self.choices.result

    def turn_view(self) -> None:
        self.choices.turn_view()

    def opened(self) -> OpenedSum | None:
        return self.choices.opened()

    def to_picture(self) -> None:
        self.pages.turn_to(CHOICES)
