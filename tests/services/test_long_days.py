"""Long days at the bench, drawn at random: acts of every station, undo, redo, restarts. Nothing is ever lost."""

import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, invariant, rule

from tests.workshops import next_act, open_workshop, station_states
from violet_dial.core.errors import InvalidInput, StoreError
from violet_dial.core.opening.tally import totals
from violet_dial.job.act import ActResult
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.stations import STATIONS
from violet_dial.stations.light import acts
from violet_dial.stations.open import acts as opening
from violet_dial.stations.receive import acts as receiving
from violet_dial.stations.trace import acts as tracing

NAMES = [station.name for station in STATIONS]
CIRCUIT = next(one for one in templates() if one.stem == "cds-series")
STEPS = (
    "screw x3 top cover M1.4x3 -> A1",
    "top cover -> A2",
    "knob rewind lh",
    "shim x12 lens mount",
    "wire meter lead; wire red a to b",
)
EVIDENCE = ("clip+ to gnd 1.35 V", "needle dead", "S1 off", "red wire 38k", "cells out", "sw to gnd 80 mV")
FINDINGS = ("green crust a patch: clip", "missing screw: chrome", "sticky", "dent: shoe")


class Days(RuleBasedStateMachine):
    """A model of what must be there beside the workshop file: for each job its versions, and where it stands."""

    jobs = Bundle("jobs")

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.path = Path(self.folder.name) / "w.violet"
        self.bench = open_workshop(self.path)
        self.lines: dict[str, list[Job]] = {}  # the versions on the way back from now, and forward
        self.at: dict[str, int] = {}
        self.kept: dict[str, int] = {}  # how many acts were ever kept
        self.ids: dict[str, list[int]] = {}  # their identities
        self.versions: dict[tuple[str, int], Job] = {}  # every version ever kept

    def teardown(self) -> None:
        self.bench.close()
        self.folder.cleanup()

    @rule(target=jobs)
    def new_job(self) -> str:
        view = self.bench.new_job()
        job_id = view.job.job_id
        self.lines[job_id], self.at[job_id], self.kept[job_id] = [view.job], 0, len(view.log)
        self.versions[job_id, view.log[0].version_id] = view.job
        self.ids[job_id] = [view.log[0].version_id]
        return job_id

    def do(self, job_id: str, act: Callable[[Job, str], ActResult]) -> None:
        """An act is kept whole, or refused with a sentence and nothing changed."""
        before = self.bench.view(job_id)
        try:
            view = self.bench.perform(job_id, act)
        except InvalidInput as error:
            assert "expected" in str(error)
            assert self.bench.view(job_id).job == before.job
            return
        if view.job == before.job:  # nothing to keep
            return
        self.lines[job_id] = [*self.lines[job_id][: self.at[job_id] + 1], view.job]
        self.ids[job_id] = [*self.ids[job_id][: self.at[job_id] + 1], view.log[0].version_id]
        self.at[job_id] += 1
        self.kept[job_id] += 1
        self.versions[job_id, view.log[0].version_id] = view.job

    @rule(job_id=jobs, ev=st.floats(4, 16), error=st.floats(-2, 2))
    def read(self, job_id: str, ev: float, error: float) -> None:
        typed = acts.TypedReading(f"{ev:.1f}", f"{ev + error:.1f}")
        self.do(job_id, lambda job, at: acts.take_typed(job, typed, at))

    @rule(job_id=jobs, index=st.integers(0, 4))
    def strike_reading(self, job_id: str, index: int) -> None:
        self.do(job_id, lambda job, at: acts.strike_reading(job, index, at))

    @rule(job_id=jobs, name=st.sampled_from(("Kittiwake", "Petrel", "")), fault=st.text(max_size=20))
    def describe(self, job_id: str, name: str, fault: str) -> None:
        self.do(job_id, lambda job, at: receiving.describe_device(job, Device(name), Intake(fault), at))

    @rule(job_id=jobs, line=st.sampled_from(STEPS))
    def take_off(self, job_id: str, line: str) -> None:
        self.do(job_id, lambda job, at: opening.take_step(job, line, at))

    @rule(job_id=jobs, place=st.integers(0, 5), count=st.integers(1, 13), kind=st.sampled_from(("refitted", "left out")))
    def put_back(self, job_id: str, place: int, count: int, kind: str) -> None:
        steps = self.bench.view(job_id).job.opening.steps
        if steps:
            step_id = steps[place % len(steps)].step_id
            ending = opening.Ending(step_id, kind, count, "worn")  # type: ignore[arg-type]
            self.do(job_id, lambda job, at: opening.end_step(job, ending, at))

    @rule(job_id=jobs, text=st.sampled_from(FINDINGS), x=st.floats(0, 1), y=st.floats(0, 1))
    def find(self, job_id: str, text: str, x: float, y: float) -> None:
        def act(job: Job, at: str) -> ActResult:
            one = receiving.understand_finding(job, text)
            return receiving.place_finding(job, receiving.FindingSeen(one.kind, "front", x, y, one.extent, one.note), at)

        self.do(job_id, act)

    @rule(job_id=jobs, place=st.integers(0, 3), text=st.sampled_from(FINDINGS))
    def say_better(self, job_id: str, place: int, text: str) -> None:
        found = self.bench.view(job_id).job.receiving.findings
        if found:
            finding_id = found[place % len(found)].finding_id
            self.do(
                job_id, lambda job, at: receiving.change_finding(job, finding_id, receiving.understand_finding(job, text), at)
            )

    @rule(job_id=jobs)
    def choose_circuit(self, job_id: str) -> None:
        self.do(job_id, lambda job, at: tracing.choose_circuit(job, CIRCUIT.title, CIRCUIT.text, at))

    @rule(job_id=jobs, line=st.sampled_from((*EVIDENCE, "nonsense")))
    def type_evidence(self, job_id: str, line: str) -> None:
        self.do(job_id, lambda job, at: type_evidence(job, line, at))

    @rule(job_id=jobs, steps=st.integers(1, 3))
    def undo(self, job_id: str, steps: int) -> None:
        for _ in range(steps):
            if self.at[job_id]:
                self.bench.undo(job_id)
                self.at[job_id] -= 1
        if not self.at[job_id]:
            try:
                self.bench.undo(job_id)
            except InvalidInput as error:
                assert "undo" in str(error).lower()

    @rule(job_id=jobs)
    def redo(self, job_id: str) -> None:
        if self.at[job_id] < len(self.lines[job_id]) - 1:
            self.bench.redo(job_id)
            self.at[job_id] += 1

    @rule(job_id=jobs, back=st.integers(0, 12))
    def stand_at_an_act_in_the_log(self, job_id: str, back: int) -> None:
        log = self.bench.view(job_id).log
        row = log[back % len(log)]
        view = self.bench.stand_at(job_id, row.version_id)
        behind = [one for one in view.log if not one.undone]
        assert behind[0].version_id == row.version_id
        line = [self.versions[job_id, one.version_id] for one in reversed(behind)]
        if self.ids[job_id][: len(behind)] != [one.version_id for one in reversed(behind)]:
            self.lines[job_id] = line  # another line: what is behind it is its own past, nothing is ahead
            self.ids[job_id] = [one.version_id for one in reversed(behind)]
        self.at[job_id] = len(behind) - 1
        assert view.job == self.versions[job_id, row.version_id]

    @rule()
    def close_and_open_again(self) -> None:
        self.bench.close()
        self.bench = open_workshop(self.path)

    @rule()
    def a_second_window_may_only_look(self) -> None:
        other = open_workshop(self.path)
        assert other.read_only_reason
        assert {card.job_id for card in other.cards()} == set(self.lines)
        try:
            other.new_job()
        except StoreError as error:
            assert str(error)
        else:
            raise AssertionError("a second window wrote")
        finally:
            other.close()

    @invariant()
    def every_job_stands_where_it_was_left(self) -> None:
        cards = {card.job_id: card for card in self.bench.cards()}
        assert set(cards) == set(self.lines)
        for job_id, line in self.lines.items():
            view = self.bench.view(job_id)
            expected = line[self.at[job_id]]
            assert view.job == expected
            assert cards[job_id].title in (expected.device.name, "Not described yet")
            assert len(view.log) == self.kept[job_id]  # the log only grows
            assert job_from_json(job_to_json(view.job)) == view.job

    @invariant()
    def something_is_always_next(self) -> None:
        for job_id in self.lines:
            job = self.bench.view(job_id).job
            act = next_act(job, STATIONS)
            assert act.title and act.reason and act.waits and act.station in NAMES
            assert set(station_states(job, STATIONS)) == set(NAMES)
            back = totals(job.opening.steps)
            assert back.all_back == (back.found == back.ended and not back.wrong)
            assert back.found == sum(step.count for step in job.opening.steps if not step.planned)


TestDays = Days.TestCase
TestDays.settings = settings(max_examples=60, stateful_step_count=30, deadline=None)

if __name__ == "__main__":
    unittest.main()
