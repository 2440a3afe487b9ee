"""Power: choices of battery over their life, this cell, the use, the diode that was fitted, batteries against the supply."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.power.budget import understand_use
from violet_dial.core.power.design import Designed, Trimmed, design_words
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture, Function
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import line
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.circuits import circuit_of
from violet_dial.services.evidence import type_evidence
from violet_dial.services.next import NextAct
from violet_dial.services.remembered import Answers
from violet_dial.services.station import Section
from violet_dial.stations.power import acts
from violet_dial.stations.power.bench import TEMPERATURES_C, use_of
from violet_dial.stations.power.hands_free import CellHands, FitHands
from violet_dial.stations.power.lanes_state import At, lanes_shown, middle_light
from violet_dial.stations.power.lanes_view import LanesView
from violet_dial.stations.power.pages_state import cell_shown, differences, fit_shown, use_shown
from violet_dial.stations.power.said_pages import CellPage, ChoicePanel, FitPage, SupplyPage, UsePage, offers_of
from violet_dial.stations.power.state import CELL, CHOICES, FITTING, SUPPLY, USE
from violet_dial.stations.power.sum import TITLE, opened
from violet_dial.stations.power.work import (
    USUAL_WARM,
    PowerWorked,
    design_for,
    question_of,
    work_out,
)

WORKING = "What each battery does is being worked out…"
KNOWN = Answers(12)  # so that coming back to a job shows them at once
NAMES = ("Choices", "This cell", "Use", "Diode", "Supply")


class PowerPage(StationPage):
    """Each page shows one frozen value; what the lanes rest on is worked out beside, once for a circuit."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self._at: At | None = None  # the light and temperature shown; the middle once something is worked out
        self._at_hand: tuple[OwnCell, ...] = ()  # cells of other jobs
        self.answer, self.designer = PageAnswer(self, KNOWN), Runner(self)
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
        self.cell = CellPage(context.look, line("A cell as it was read", self._cell_understood, self._cell_taken))
        self.use = UsePage(context.look, line("How it is used", self._use_understood, self._act(acts.say_use)))
        self.fit = FitPage(
            context.look, line("What was read at the diode", self._fit_understood, self._act(acts.say_fit))
        )
        self.supply = SupplyPage(
            context.look, line("Evidence for Trace", self._evidence_understood, self._evidence_taken)
        )
        self.cell_hands, self.fit_hands = CellHands(), FitHands()
        self._side = ChoicePanel()
        self._build()

    def _build(self) -> None:
        frame, inside = card()
        inside.setSpacing(4)
        for item in (self.headline, self.stands):
            inside.addWidget(item)
        self.area = scrolled(self.lanes)
        inside.addWidget(self.area, 1)
        inside.addWidget(self.typed)
        pages: tuple[QWidget, ...] = (frame, self.cell, self.use, self.fit, self.supply)
        draws = tuple(partial(self._draw_page, place) for place in range(len(NAMES)))
        self.pages = SubPages(tuple(zip(NAMES, pages, strict=True)), draws)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self.lanes.chosen.connect(self._show_reason)
        self.lanes.moved.connect(self._move)
        self.lanes.resized.connect(self._bring)
        self.lanes.taken.connect(self._take)
        self.lanes.dropped.connect(
            lambda place: self._context.perform(lambda job, at: acts.drop_choice(job, place, at))
        )

    # what is shown

    def begin(self, job: Job) -> None:
        self.answer.begin()
        self.designer.cancel()
        self._job = None
        self._at = None
        self._at_hand = self._context.records.own_cells(job)
        for typed in (self.typed, self.cell.typed, self.use.typed, self.fit.typed, self.supply.typed):
            typed.clear()
        self.cell_hands.begin()
        self.fit_hands.begin()
        self.lanes.begin()
        self._side.begin()
        self.pages.begin()

    def show_job(self, job: Job) -> None:
        """Draw the job; what rests on its circuit is worked out when it is not known yet."""
        self._job = job
        question = question_of(job)
        if question != self.answer.question:
            self.designer.cancel()
        self.answer.ask(question, lambda task: work_out(job, task))
        self._draw()

    @property
    def _worked(self) -> PowerWorked | None:
        """The newest answer of this job; of how it stood before while the next is worked out, nothing once that failed."""
        return None if self.answer.failure else self.answer.last

    @Slot()
    def _came(self) -> None:
        if self.answer.failure:
            self.lanes.begin()
        self._draw()
        self.changed.emit()

    def _draw(self) -> None:
        """Draw all that the pages show."""
        job, worked = self._job, self._worked
        if job is None:
            return
        if worked is not None:
            chosen = job.power.chosen.said if job.power.chosen else ""
            shown = lanes_shown(worked.lanes, self._shown_at(worked), chosen)
            self.headline.setText(shown.headline)
            self.stands.setText(f"{shown.stands}{'  ·  ' + worked.said if worked.said else ''}")
            self.lanes.show_lanes(shown)
        else:
            self.headline.setText(self.answer.failure or WORKING)
            self.stands.setText("")
        self.pages.draw()
        self._show_reason(self.lanes.place)

    def _shown_at(self, worked: PowerWorked) -> At:
        """The light and the temperature in view, among those that were worked out."""
        at = self._at or At(middle_light(worked.lanes), USUAL_WARM)
        self._at = At(min(at.light, len(worked.lanes.asked.marks) - 1), at.warm)
        return self._at

    def _draw_page(self, place: int) -> None:
        """One of the pages of sentences."""
        job, fresh = self._job, self.result
        if job is None:
            return
        if place == CELL:
            self.cell.draw(cell_shown(job, fresh))
        elif place == USE:
            self.use.draw(use_shown(job, fresh))
        elif place == FITTING:
            self.fit.draw(fit_shown(job, fresh))
        elif place == SUPPLY:
            self.supply.draw(differences(fresh))

    @Slot(int)
    def _show_reason(self, place: int) -> None:
        """The choice under the cursor in full; on the other pages the battery in use."""
        worked, rows = self._worked, self.lanes.shown.rows
        title = "The choice under the cursor"
        if self.pages.place != CHOICES:
            title = "The battery in use" if any(row.is_chosen for row in rows) else "The best battery so far"
            place = next(
                (at for at, row in enumerate(rows) if row.is_chosen), worked.lanes.best if worked is not None else 0
            )
        else:
            self._bring()
        if worked is None or not 0 <= place < len(rows):
            self._side.show_choice(title, "", "")
            return
        size = worked.lanes.lanes[place].choice.size
        self._side.show_choice(title, rows[place].reason, size.chemistry.caution if size else "")

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
        chosen = self._job.power.chosen.said if self._job.power.chosen else ""
        shown = lanes_shown(worked.lanes, self._at, chosen)
        self.stands.setText(f"{shown.stands}{'  ·  ' + worked.said if worked.said else ''}")
        self.lanes.show_lanes(shown)

    @property
    def result(self) -> PowerWorked | None:
        found: PowerWorked | None = self.answer.result
        return found

    @property
    def settled(self) -> bool:
        return not self.answer.busy and not self.designer.busy

    @property
    def side(self) -> QWidget:
        return self._side

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        worked = self._worked
        if worked is None:
            return TITLE, (("Nothing yet", (self.headline.text(),)),)
        return opened(worked, self.lanes.place, self._shown_at(worked))

    def close_workers(self) -> None:
        self.answer.close()
        self.designer.close()

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
        self._side.show_design(said)

    def _act(self, act: Callable[..., object]) -> Callable[[str], bool]:
        return lambda text: self._context.perform(lambda job, at: act(job, text, at))  # type: ignore[arg-type, return-value]

    # typed lines

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def _offers(self, text: str) -> tuple[str, ...]:
        return () if self._job is None else offers_of(self._job.power, text, self._at_hand)

    def _understood(self, text: str) -> str:
        return acts.understand_line(acts.with_cells(self._known().power, self._at_hand, text), text).words

    def _say(self, text: str) -> bool:
        at_hand = self._at_hand
        return self._context.perform(lambda job, at: acts.say_line(job, text, at, at_hand))

    def _cell_understood(self, text: str) -> str:
        job = self._known()
        if text.lower().startswith("test"):
            return acts.read_test(job, text, "").reason
        read = acts.understand_cell(job, text)
        return f"= {acts.state_of_cell(job.power, read).words}"

    def _cell_taken(self, text: str) -> bool:
        act = acts.read_test if text.lower().startswith("test") else acts.type_cell
        return self._context.perform(lambda job, at: act(job, text, at))

    def _use_understood(self, text: str) -> str:
        understand_use(use_of(self._known().power), text)
        return f"= {text.strip()}"

    def _fit_understood(self, text: str) -> str:
        said = acts.understand_fit(text)
        return f"= the {said} lead" if isinstance(said, str) else f"= {text.strip()}"

    def _evidence_understood(self, text: str) -> str:
        job = self._known()
        return understand_evidence(
            circuit_of(job), text, job.tracing.setting, self._context.instruments.meter_on()
        ).words

    def _evidence_taken(self, text: str) -> bool:
        meter = self._context.instruments.meter_on()
        return self._context.perform(lambda job, at: type_evidence(job, text, at, meter))

    # pages and keys

    @Slot(int)
    def _turned(self, place: int) -> None:
        self._show_reason(self.lanes.place)
        self.focus_first()
        self.changed.emit()

    def focus_first(self) -> None:
        """To the lanes, or to the line of the page in view."""
        others = {CELL: self.cell, USE: self.use, FITTING: self.fit, SUPPLY: self.supply}
        if self.pages.place in others:
            others[self.pages.place].focus_first()
        else:
            self.lanes.setFocus(Qt.FocusReason.OtherFocusReason)

    def to_picture(self) -> None:
        self.pages.turn_to(CHOICES)

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)

    # live instruments

    @property
    def looks_at(self) -> Function:
        return "volt"

    @property
    def _hands(self) -> "CellHands | FitHands | None":
        return {CELL: self.cell_hands, FITTING: self.fit_hands}.get(self.pages.place)  # type: ignore[return-value]

    @property
    def slot(self) -> live.Slot | None:
        return None if self._hands is None or self._job is None else self._hands.slot(self._job)

    @property
    def asks(self) -> Evidence | None:
        return None if self._hands is None or self._job is None else self._hands.asks(self._job)

    @property
    def slot_missing(self) -> str:
        return "no reading is asked for here: This cell and Diode ask for some"

    @property
    def awaits(self) -> str:
        return self._hands.awaits if self._hands is not None else ""

    def put_capture(self, capture: Capture) -> bool:
        if self._hands is None or self._job is None:
            return False
        try:
            act = self._hands.put(self._job, capture)
        except VioletDialError as error:
            self._context.say(str(error))
            return False
        if act is None:
            self.changed.emit()
            return True
        kept = self._context.perform(act)
        self.changed.emit()
        return kept

    def drop_capture(self) -> bool:
        return self._hands is not None and self._hands.drop()
