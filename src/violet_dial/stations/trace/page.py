"""Trace: the map as it is traced; the circuit as wiring, suspects as bars, evidence typed as said, and the next test."""

from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt, Slot

from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.diagnosis.explain import suspect_words
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.errors import VioletDialError
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture, Function
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.job.tracing import PinnedNode
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.ask import open_over
from violet_dial.kit.cards import fill, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import OpenedSum, PagedStation, StationPage
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.circuits import circuit_of, has_circuit
from violet_dial.services.evidence import type_evidence
from violet_dial.services.next import NextAct
from violet_dial.services.remembered import Answers
from violet_dial.stations.trace.acts import (
    captured_evidence,
    pin_spot,
    record_fix,
    strike_evidence,
    take_evidence,
    turn_preference,
)
from violet_dial.stations.trace.circuit_window import CircuitWindow
from violet_dial.stations.trace.map_page import MapPage
from violet_dial.stations.trace.next_panel import NextPanel
from violet_dial.stations.trace.said import offers_of
from violet_dial.stations.trace.sister_page import SisterPage
from violet_dial.stations.trace.state import SuspectsShown, Work, next_of, shown
from violet_dial.stations.trace.sum import opened
from violet_dial.stations.trace.suspects_view import SuspectsView
from violet_dial.stations.trace.work import TraceResult, question_of, work_out

MAP, SUSPECTS, SISTER = range(3)
METERED: dict[str, Function] = {"volt": "volt", "ohm": "ohm", "continuity": "ohm"}
KNOWN = Answers(12)  # so that coming back to a job shows them at once


class SuspectsPage(StationPage):
    """Evidence goes in by the line or by Next; the suspects are worked out beside, without holding anything up."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self.answer = PageAnswer(self, KNOWN)
        self.workers = (self.answer,)
        self.answer.came.connect(self._came)
        self.shown: SuspectsShown | None = None
        self._figure_wanted = False  # the keys are to go to the next test's figure once it is found
        self._keeper = Diagnostician()
        self.typed = TypedLine("Evidence, or how it stands now", self._offers, self._understood, self._take)
        self.typed.edit.setPlaceholderText("clip+ to gnd 1.52 V")
        self.judged = view = SuspectsView(look, self.typed)
        self.map, self.bars, self.why, self.stands, self.summary = (view.map, view.bars, view.why, view.stands, view.summary)
        self.model, self.table, self.circuit, self.area = view.model, view.table, view.circuit, view.area
        self.next = NextPanel(self._take_answer)
        self.panel = scrolled(self.next)
        self._outer = scrolled(self.judged)
        fill(self, self._outer)
        self.circuit.clicked.connect(self.set_up)
        self.next.preference_turned.connect(self.turn_view)
        self.table.struck_row.connect(self._strike)
        self.bars.chosen.connect(self._show_why)
        self.bars.put_right.connect(self._put_right)
        self.map.pinned.connect(self._pin)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.shown, self._figure_wanted = None, False
        self.next.begin()
        self.map.begin()
        self.model.show(())

    def work(self, job: Job) -> None:
        """What rests on circuit and evidence is worked out when it is not known yet."""
        self._job = job
        question = question_of(job)
        if not has_circuit(job):
            self.answer.stop()
        elif job.practising.hides:
            self.answer.refuse(("hidden", question), HIDDEN)
        else:
            first = partial(self.answer.tell, question)
            self.answer.ask(question, lambda task: work_out(job, self._keeper, task, first))

    @Slot()
    def _came(self) -> None:
        """An answer, single faults alone while the rest is being worked out, or why there is none."""
        if self._job is not None:
            self.draw(self._job)
        if self.answer.busy:
            return
        if self._figure_wanted and self.typed.edit.hasFocus() and not self.typed.edit.text():
            self.focus_first()
        self._figure_wanted = False
        self.changed.emit()

    def draw(self, job: Job) -> None:
        before, one = self.shown, shown(job, Work(self.answer.last, self.answer.failure))
        self.shown = one
        self.circuit.setText(one.circuit)
        self.stands.setText(one.stands)
        self.model.show(one.rows, one.marks)
        self.summary.setText(one.summary)
        self.next.draw(one)
        if before is None or one.bars != before.bars:
            self.bars.show_bars(one.bars)
        self._show_why(self.bars.place)
        self.map.show_map(one.map, one.over)
        self.judged.fit()
        probe = self.map.probe_point()
        if probe is not None:
            self.area.ensureVisible(int(probe.x()), int(probe.y()), 60, 90)

    @Slot(int)
    def _show_why(self, place: int) -> None:
        whys = self.shown.whys if self.shown else ()
        self.why.setText(whys[place] if 0 <= place < len(whys) and self.shown and self.shown.bars else "")

    @property
    def result(self) -> TraceResult | None:
        """What was worked out, as long as it is the answer to the job as it stands."""
        found: TraceResult | None = self.answer.result
        return found

    @property
    def settled(self) -> bool:
        return not self.answer.busy and (self.shown is None or self.shown.settled)

    def opened(self) -> OpenedSum:
        job = self._known()
        return "Evidence and next test", opened(job, next_of(job, self.result), self.result)

    # typed lines

    def _offers(self, text: str) -> tuple[str, ...]:
        if self._job is None or not has_circuit(self._job):
            return ()
        try:
            circuit = circuit_of(self._job)
        except VioletDialError:
            return ()
        return offers_of(circuit, text)

    def _understood(self, text: str) -> str:
        job, meter = self._known(), self._context.instruments.meter_on()
        return understand_evidence(circuit_of(job), text, job.tracing.setting, meter).words

    def _take(self, text: str) -> bool:
        self._figure_wanted = False  # a line at a time: the keys stay here
        meter = self._context.instruments.meter_on()
        return self._context.perform(lambda job, at: type_evidence(job, text, at, meter))

    def _take_answer(self, evidence: Evidence) -> bool:
        return self._context.perform(lambda job, at: take_evidence(job, evidence, at))

    # acts

    @Slot()
    def turn_view(self) -> None:
        """Tests for least minutes, or fewest tests."""
        self._context.perform(turn_preference)

    @Slot(int)
    def _strike(self, row: int) -> None:
        self._context.perform(lambda job, at: strike_evidence(job, row, at))

    @Slot(int)
    def _put_right(self, place: int) -> None:
        result = self.result
        if result is None or place >= len(result.diagnosis.suspects):
            return
        suspect = result.diagnosis.suspects[place]
        fault = suspect.faults[0]
        words = suspect_words(result.case.circuit, replace(suspect, faults=(fault,)))
        self._context.perform(lambda job, at: record_fix(job, fault, words, at, place + 1))

    @Slot(str, float, float)
    def _pin(self, node: str, column: float, row: float) -> None:
        spot = PinnedNode(node, column, row)
        self._context.perform(lambda job, at: pin_spot(job, spot, at))

    @Slot()
    def set_up(self) -> None:
        if self._job is not None:
            window = CircuitWindow(self, self._context.look, self._job)
            window.keep_act = self._context.perform
            window.accepted.connect(self.focus_first)
            open_over(window)

    # keys

    def focus_first(self) -> None:
        """To the next test's figure, or to the line when there is none."""
        if self._job is not None and not has_circuit(self._job):
            self.circuit.setFocus(Qt.FocusReason.OtherFocusReason)
            return
        self._figure_wanted = self.next.test is None
        target = self.typed.edit if self._figure_wanted else self.next.figure
        target.setFocus(Qt.FocusReason.OtherFocusReason)
        if not self._figure_wanted:  # the spots to be touched are in view
            self._outer.verticalScrollBar().setValue(0)

    def follow(self, act: NextAct) -> None:
        if act.kind == "suspects":
            self.bars.setFocus()
        elif act.kind == "again":
            self.typed.edit.setFocus()

    def to_picture(self) -> None:
        self.map.setFocus()

    # live instruments

    @property
    def asks(self) -> Evidence | None:
        test = self.next.test
        return test.ask if test is not None and self.settled else None

    @property
    def slot(self) -> live.Slot | None:
        ask = self.asks
        if ask is None or ask.test not in METERED:
            return None
        return live.Slot(f"{ask.plus} to {'gnd' if ask.minus == '0' else ask.minus}", METERED[ask.test])

    def put_capture(self, capture: Capture) -> bool:
        ask = self.asks
        if ask is None:
            return False
        evidence = captured_evidence(ask, capture)
        return self._context.perform(lambda job, at: take_evidence(job, evidence, at, capture))


class TracePage(PagedStation):
    """The suspects are worked out whatever page is in view: Next rests on them."""

    sets_up = True

    def __init__(self, context: PageContext) -> None:
        self.board, self.suspects, self.sister = MapPage(context), SuspectsPage(context), SisterPage(context)
        super().__init__(context, (("Map", self.board), ("Suspects", self.suspects), ("Sister unit", self.sister)))

    def begin(self, job: Job) -> None:
        super().begin(job)
        traced = not job.tracing.board.is_empty and job.tracing.is_only_compared
        self.pages.show_page(MAP if traced else SUSPECTS)
        self.draw_beside()

    def draw(self, job: Job) -> None:
        self.suspects.work(job)
        super().draw(job)

    @property
    def result(self) -> TraceResult | None:
        return self.suspects.result

    @property
    def settled(self) -> bool:
        return not self.suspects.answer.busy and self.here.settled

    def opened(self) -> OpenedSum | None:
        return None if self._job is None else (self.sister if self.here is self.sister else self.suspects).opened()

    def turn_preference(self) -> None:
        """Tests for least minutes, or fewest tests; on the map its other view, beside a sister the other order."""
        self.turn_view()

    def set_up(self) -> None:
        self.suspects.set_up()

    def follow(self, act: NextAct) -> None:
        if act.kind == "choose circuit":
            self.set_up()
            return
        self.pages.turn_to(MAP if act.kind == "map" else SUSPECTS)
        self.here.follow(act)
