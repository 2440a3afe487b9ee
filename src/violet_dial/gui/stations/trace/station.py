"""Trace: the circuit as wiring, suspects as bars, evidence typed as said, and the next test."""

import threading
from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import Setting
from violet_dial.core.diagnosis.evidence import Evidence, evidence_words, understand_evidence
from violet_dial.core.diagnosis.explain import evidence_said, short_words, suspect_words
from violet_dial.core.diagnosis.posterior import Diagnostician, Suspect
from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.gui.runner import Runner
from violet_dial.gui.stations.trace.next_panel import NextPanel, next_act_of, points_said
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.circuit_view import CircuitView, MapState
from violet_dial.gui.widgets.rows_table import RowsModel, RowsTable
from violet_dial.gui.widgets.suspect_bars import Bar, SuspectBars
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.job.document import Job, Spot, Tracing
from violet_dial.report.circuit_map import map_circuit, part_label
from violet_dial.report.dial import MarkState
from violet_dial.services.receiving import place_of
from violet_dial.services.tracing import (
    TraceResult,
    before_and_after,
    circuit_of,
    pin_spot,
    record_fix,
    strike_evidence,
    turn_preference,
    type_evidence,
    work_out,
)

HEADS = ("", "evidence", "with")


class TraceStation(QWidget):
    """Evidence goes in by the line or by Next; the suspects are worked out beside, without holding anything up."""

    act_asked = Signal(object)
    circuit_asked = Signal()
    next_found = Signal(object)
    worked_out = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._job: Job | None = None
        self._asked: Tracing | None = None
        self._answered: Tracing | None = None
        self.result: TraceResult | None = None
        self._keeper, self._lock = Diagnostician(), threading.Lock()
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._show_result)
        self.runner.failed.connect(self._show_failure)
        self.typed = TypedLine("Evidence, or how it stands now", self._offers, self._understood)
        self.typed.edit.setPlaceholderText("clip+ to gnd 1.52 V")
        self.map = CircuitView(look)
        self.bars = SuspectBars(look)
        self.why = labelled("", "small", True)
        self.stands = labelled("", "quiet", True)
        self.summary = labelled("", "small", True)
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "Evidence; Del strikes out", 1)
        self.table.setModel(self.model)
        self.table.set_widths(24, 150, 90)
        self.table.drop_when_narrow(2, 310)
        self.circuit = QPushButton("Choose a circuit  F4")
        self.circuit.setProperty("role", "link")
        self.next = NextPanel(look)  # the page puts it below the Next card
        self._build()

    def _build(self) -> None:
        drawing, inside = card()
        head = QHBoxLayout()
        head.addWidget(self.stands, 1)
        head.addWidget(self.circuit)
        inside.addLayout(head)
        self.area = scrolled(self.map)
        inside.addWidget(self.area, 1)
        evidence, listed = card()
        listed.addWidget(self.typed)
        listed.addWidget(self.table, 1)
        suspects, ranked = card("Suspects")
        for item in (self.bars, self.why, self.summary):
            ranked.addWidget(item)
        ranked.addStretch(1)
        below = QHBoxLayout()
        for widget, share in ((evidence, 5), (scrolled(suspects), 6)):
            below.addWidget(widget, share)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(drawing, 12)
        layout.addLayout(below, 10)
        self.circuit.clicked.connect(self.circuit_asked)
        self.typed.taken.connect(self._take)
        self.next.taken.connect(self._take_next)
        self.next.preference_turned.connect(self.turn_preference)
        self.table.struck_row.connect(self._strike)
        self.bars.chosen.connect(self._show_why)
        self.bars.put_right.connect(self._put_right)
        self.map.pinned.connect(self._pin)
        self.map.resized.connect(self._draw)

    def show_job(self, job: Job) -> None:
        """Show the circuit and evidence; suspects follow when they are worked out."""
        self._job = job
        tracing = job.tracing
        chosen = bool(tracing.circuit_text)
        self.circuit.setText(f"{tracing.circuit_name}  F4" if chosen else "Choose a circuit  F4")
        stands = tracing.setting.words or "as usual"
        self.stands.setText(
            f"Stands now: {stands}" if chosen else "No circuit yet: F4 offers eight to begin from, or type your own."
        )
        rows = tuple(
            (str(place + 1), self._said(taken.evidence), taken.evidence.setting.words)
            for place, taken in enumerate(tracing.now)
        )
        self.model.show(rows, self._row_marks(len(rows)))
        self.next.show_preference(tracing.prefer)
        if not chosen:
            self.result = None
            self.next.show_nothing("Choose a circuit first (F4).")
            self.bars.show_bars(())
            return
        if tracing != self._asked:
            self._asked = tracing
            self.summary.setText("Working it out…")
            if self.result is not None and self.result.case.circuit.text != tracing.circuit_text:
                self.result = None
                self.bars.show_bars(())
                self.next.show_nothing("Working it out…")
            self.runner.start(lambda task: self._work(job, task))
        self._draw()

    def _said(self, evidence: Evidence) -> str:
        """Evidence without how the device stood: that has a column of its own."""
        plain = replace(evidence, setting=Setting())
        try:
            return evidence_said(circuit_of(self._job), plain) if self._job else ""
        except VioletDialError:
            return evidence_words(plain)

    @property
    def settled(self) -> bool:
        """Whether what is shown belongs to the evidence as it stands."""
        return self.result is not None and self._job is not None and self._answered == self._job.tracing

    def _work(self, job: Job, task: Task) -> TraceResult:
        with self._lock:
            return work_out(job, self._keeper, task)

    def _row_marks(self, count: int) -> tuple[MarkState, ...]:
        odd = self.result.diagnosis.unexplained if self.result else ()
        now = self._job.tracing.now if self._job else ()
        return tuple("high" if now[place].evidence in odd else "inside" for place in range(count))

    @Slot(object)
    def _show_result(self, result: object) -> None:
        if not isinstance(result, TraceResult) or self._job is None:
            return
        self.result = result
        self._answered = self._asked
        diagnosis, circuit = result.diagnosis, result.case.circuit
        bars = [
            Bar(_bar_words(circuit, one), one.probability) for one in diagnosis.suspects[:7] if one.probability > 1e-3
        ]
        self.bars.show_bars(tuple(bars))
        odd = (
            f" Nothing explains: {'; '.join(evidence_words(one) for one in diagnosis.unexplained)}."
            if diagnosis.unexplained
            else ""
        )
        open_bits = f"{diagnosis.entropy_bits:.1f} bit open; {diagnosis.pairs_cut} pairs looked at."
        healthy = f"No fault: {diagnosis.healthy:.0%}. {open_bits}"
        self.summary.setText(healthy + odd)
        self.model.show(self.model.rows, self._row_marks(len(self.model.rows)))
        self.next.show_tests(circuit, result.ranking.tests, result.ranking.groups)
        self._draw()
        self._show_why(0)
        act = next_act_of(circuit, result, self._job.tracing.prefer)
        if act is not None:
            self.next_found.emit(act)
        self.worked_out.emit()

    @Slot(str)
    def _show_failure(self, sentence: str) -> None:
        self.result = None
        self.summary.setText(sentence)
        self.bars.show_bars(())
        self.next.show_nothing(sentence)
        self.worked_out.emit()

    @Slot()
    def _draw(self) -> None:
        if self._job is None or not self._job.tracing.circuit_text:
            return
        try:
            circuit = circuit_of(self._job)
        except VioletDialError as error:
            self.summary.setText(str(error))
            return
        pinned = {spot.node: (spot.column, spot.row) for spot in self._job.tracing.pinned}
        suspicion: dict[str, float] = {}
        plus = minus = ""
        if self.result is not None and self.result.case.circuit.text == circuit.text:
            for one in self.result.diagnosis.suspects:
                for fault in one.faults:
                    suspicion[fault.part] = min(suspicion.get(fault.part, 0.0) + one.probability, 1.0)
            test = self.next.test
            plus, minus = points_said(circuit, test) if test else ("", "")
        places = {place_of(self._job, finding).lower(): finding.kind for finding in self._job.receiving.findings}
        findings = {
            part.name: places[circuit.note(part.name).get("place", "").lower()]
            for part in circuit.parts
            if circuit.note(part.name).get("place", "").lower() in places
        }
        lifted = frozenset(self._job.tracing.setting.disconnected)
        self.map.show_map(
            map_circuit(circuit, pinned, self.map.columns_that_fit), MapState(suspicion, plus, minus, findings, lifted)
        )
        probe = self.map.probe_point()
        if probe is not None:
            self.area.ensureVisible(int(probe.x()), int(probe.y()), 60, 90)

    @Slot(int)
    def _show_why(self, place: int) -> None:
        result = self.result
        if result is None or place >= len(result.reasons):
            self.why.setText("")
            return
        reasons = result.reasons[place]
        lines = [f"+ {one}" for one in reasons.pro] + [f"− {one}" for one in reasons.con]
        compared = [
            f"before: {before} · now: {now}" for _, before, now in (before_and_after(self._job) if self._job else ())
        ]
        nothing = "Nothing speaks for or against it yet but how often it happens."
        words = suspect_words(result.case.circuit, result.diagnosis.suspects[place])
        self.why.setText("\n".join([words, *(lines or [nothing]), *compared, "R: put right"]))

    # acts

    def _offers(self, text: str) -> tuple[str, ...]:
        if self._job is None or not self._job.tracing.circuit_text:
            return ()
        circuit = circuit_of(self._job)
        last = text.rsplit(" ", maxsplit=1)[-1].lower()
        names = [
            *circuit.nodes,
            "gnd",
            *(part_label(circuit, part) for part in circuit.parts),
            *(part.name for part in circuit.parts),
        ]
        fixed = ["cells out", "cells in", "on bench supply", "bent", "straight", "lift "]
        whole = [
            name
            for name in (*names, *fixed)
            if text and name.lower().startswith(text.lower()) and name.lower() != text.lower()
        ]
        tails = [
            text[: len(text) - len(last)] + name
            for name in names
            if last and name.lower().startswith(last) and name.lower() != last
        ]
        return tuple(dict.fromkeys([*whole, *tails]))[:8]

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        return understand_evidence(circuit_of(self._job), text, self._job.tracing.setting).words

    @Slot(str)
    def _take(self, text: str) -> None:
        self.typed.clear()
        self.act_asked.emit(lambda job, at: type_evidence(job, text, at))

    @Slot(object)
    def _take_next(self, act: object) -> None:
        self.act_asked.emit(act)

    @Slot()
    def turn_preference(self) -> None:
        """Tests for least minutes, or fewest tests."""
        self.act_asked.emit(turn_preference)

    @Slot(int)
    def _strike(self, row: int) -> None:
        self.act_asked.emit(lambda job, at: strike_evidence(job, row, at))

    @Slot(int)
    def _put_right(self, place: int) -> None:
        result = self.result
        if result is None:
            return
        fault = result.diagnosis.suspects[place].faults[0]
        words = suspect_words(result.case.circuit, replace(result.diagnosis.suspects[place], faults=(fault,)))
        self.act_asked.emit(lambda job, at: record_fix(job, fault, words, at))

    @Slot(str, float, float)
    def _pin(self, node: str, column: float, row: float) -> None:
        spot = Spot(node, column, row)
        self.act_asked.emit(lambda job, at: pin_spot(job, spot, at))

    def focus_first(self) -> None:
        """To the next test's figure, or to the line when there is none."""
        target = self.next.figure if self.next.test is not None else self.typed.edit
        target.setFocus(Qt.FocusReason.OtherFocusReason)


def _bar_words(circuit: Circuit, suspect: Suspect) -> str:
    """A suspect on its bar; of two faults at once the parts are named, what they do opens below."""
    if len(suspect.faults) > 1:
        return " + ".join(short_words(circuit, fault.part) for fault in suspect.faults)
    return suspect_words(circuit, suspect)
