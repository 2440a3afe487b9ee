"""Acts at Receive and Open through a workshop file, and what one job teaches the next."""

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from tests.workshops import next_act, open_workshop, station_states
from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.tally import tally
from violet_dial.job.act import ActResult
from violet_dial.job.bundle import Bundle, read_bundle, write_bundle
from violet_dial.job.document import FORMAT_VERSION, Device, Job
from violet_dial.job.opening import ShorterWay
from violet_dial.job.receiving import TakenTrial
from violet_dial.job.schema import job_from_json, job_to_json, upgraded
from violet_dial.report.blocks import Ticks
from violet_dial.report.html import paper_html
from violet_dial.report.pdf import paper_pdf
from violet_dial.services.gate import gate_open, record_trial
from violet_dial.services.lessons import offer_for
from violet_dial.services.way_in import logged_minutes, note_shorter_way, understand_shorter_way, ways_in
from violet_dial.stations import STATIONS
from violet_dial.stations.open import acts as opening
from violet_dial.stations.open.paper import checklist, markdown
from violet_dial.stations.receive import acts as receiving
from violet_dial.stations.receive.acts import FindingSeen, describe_device, place_finding, understand_finding

LINES = (
    "screw x3 top cover M1.4x3 cross chrome rh -> A1",
    "knob counter dial lh -> A2; hides counter spring",
    "top cover -> A3; hides meter lead",
    "wire meter lead; wire red clip+ to pin 1; under top cover",
    "shim x12 lens mount -> B1",
)


def strip(job: Job, lines: tuple[str, ...] = LINES) -> Job:
    for minute, line in enumerate(lines):
        job = opening.take_step(job, line, f"2026-11-03T10:{minute:02d}:00+00:00").job
    return job


def ended(job: Job, name: str, *endings: tuple[str, int]) -> ActResult:
    step = next(one for one in job.opening.steps if one.name == name)
    done = ActResult(job, "Open", "")
    for kind, count in endings:
        done = opening.end_step(done.job, opening.Ending(step.step_id, kind, count, "a note"), "now")  # type: ignore[arg-type]
    return done


class Steps(unittest.TestCase):
    def setUp(self) -> None:
        self.job = strip(Job("j1", 1, device=Device("Kittiwake", kind="reflex")))

    def test_counts_are_reconciled_where_it_happened(self) -> None:
        done = ended(self.job, "12 shims of lens mount", ("refitted", 11))
        self.assertIn("11 of 12, one short", done.reason)
        whole = ended(done.job, "12 shims of lens mount", ("replaced", 1))
        self.assertIn("12 of 12", whole.reason)
        over = ended(whole.job, "12 shims of lens mount", ("refitted", 1))
        self.assertIn("one over", over.reason)

    def test_an_end_needs_its_reason(self) -> None:
        step_id = self.job.opening.steps[0].step_id
        with self.assertRaisesRegex(InvalidInput, "why it is left out"):
            opening.end_step(self.job, opening.Ending(step_id, "left out"), "now")
        back = opening.end_step(self.job, opening.Ending(step_id), "now").job
        with self.assertRaisesRegex(InvalidInput, "have an end already"):
            opening.end_step(back, opening.Ending(step_id), "now")

    def test_closing_over_an_open_tally_is_logged(self) -> None:
        cover = next(step for step in self.job.opening.steps if step.name == "top cover")
        self.assertEqual([one.name for one in opening.unfinished_beneath(self.job, cover.step_id)], ["meter lead"])
        done = opening.close_over(self.job, cover.step_id, "yes, all the same", "now")
        self.assertEqual(done.reason, "top cover closed over meter lead: yes, all the same")
        again = opening.reopen_step(done.job, cover.step_id, "now").job
        self.assertEqual(tally(again.opening.steps[2]).state, "open")

    def test_minutes_come_from_the_log(self) -> None:
        first, *rest = logged_minutes(self.job.opening.steps)
        self.assertEqual(rest, [1.0] * 4)
        self.assertGreater(first, 0)
        way = ways_in(self.job, "meter lead")[0]
        self.assertEqual([one.part for one in way.ways][-2:], ["top cover", "meter lead"])

    def test_a_shorter_way_wins(self) -> None:
        way = understand_shorter_way("meter lead through front frame; 0,5 min")
        self.assertEqual(way, ShorterWay("meter lead", ("front frame",), 0.5))
        job = note_shorter_way(self.job, way, "now").job
        self.assertEqual(ways_in(job, "meter lead")[0].ways[-1].source, "lesson")
        with self.assertRaisesRegex(InvalidInput, "reached through"):
            understand_shorter_way("meter lead")

    def test_checklists(self) -> None:
        job = replace(self.job, device=replace(self.job.device, name="A *star* <b>"))
        paper = checklist(job)
        text = markdown(paper)
        self.assertIn("\\*star\\* \\<b\\>", text)
        self.assertIn("- [ ] **A2** counter dial", text)
        self.assertIn("LEFT-HAND thread", text)
        self.assertEqual(
            [row.boxes for row in next(one for one in paper.blocks if isinstance(one, Ticks)).rows], [3, 1, 1, 1, 12]
        )
        self.assertTrue(paper_pdf(paper).startswith(b"%PDF"))
        self.assertEqual(
            paper_html(paper).count('<span class="box">'),
            sum(row.boxes for one in paper.blocks if isinstance(one, Ticks) for row in one.rows),
        )

    def test_document_and_bundle_hold_it_all(self) -> None:
        job = place_finding(self.job, FindingSeen("dent", "top", 0.5, 0.3, note="blow"), "now").job
        self.assertEqual(job_from_json(job_to_json(job)), job)
        self.assertEqual(read_bundle(write_bundle(Bundle(job, {}))).job, job)

    def test_documents_of_older_formats_are_brought_up(self) -> None:
        plain = Job("j2", 2)
        for version, missing in ((1, ("receiving", "opening", "tracing")), (2, ())):
            raw = json.loads(job_to_json(plain)) | {"format_version": version}
            for name in missing:
                del raw[name]
            self.assertEqual(upgraded(raw)["format_version"], FORMAT_VERSION)
            self.assertEqual(job_from_json(json.dumps(raw).encode()), plain)


class Receive(unittest.TestCase):
    def test_missing_screw_begins_a_hunt(self) -> None:
        job = Job("j1", 1, device=Device("Shearwater", kind="rangefinder compact"))
        typed = understand_finding(job, "missing a spot: cross, chrome")
        self.assertEqual((typed.kind, typed.note), ("missing screw", "cross, chrome"))
        job = place_finding(job, FindingSeen(typed.kind, "top", 0.44, 0.4, typed.extent, typed.note), "now").job
        screw = job.receiving.missing[0]
        self.assertEqual((screw.place, screw.siblings), ("accessory shoe", "cross, chrome"))
        done = receiving.note_screw(job, replace(screw, found="under the base plate"), "now")
        self.assertIn("found: under the base plate", done.reason)
        self.assertEqual(receiving.strike_finding(job, "f1", "now").job.receiving.missing, ())
        with self.assertRaisesRegex(InvalidInput, "green crust"):
            understand_finding(job, "blue fluff")

    def test_a_finding_is_said_better_and_stays_where_it_was(self) -> None:
        job = Job("j1", 1, device=Device("Petrel", kind="instant camera"))
        job = receiving.place_finding(job, FindingSeen("sticky", "top", 0.3, 0.4, note="lever"), "now").job
        typed = understand_finding(job, receiving.finding_words(job.receiving.findings[0]))
        self.assertEqual((typed.kind, typed.extent, typed.note), ("sticky", "a spot", "lever"))
        done = receiving.change_finding(job, "f1", understand_finding(job, "missing screw: chrome"), "now")
        found = done.job.receiving.findings[0]
        self.assertEqual((found.kind, found.view, found.x, found.y, found.note), ("missing screw", "top", 0.3, 0.4, "chrome"))
        self.assertEqual([one.screw_id for one in done.job.receiving.missing], ["f1"])
        self.assertIn("now: missing screw", done.reason)
        again = receiving.change_finding(done.job, "f1", understand_finding(job, "missing screw: black"), "now").job
        self.assertEqual(len(again.receiving.missing), 1)  # the hunt goes on
        back = receiving.change_finding(again, "f1", understand_finding(job, "dent a patch"), "now").job
        self.assertEqual(back.receiving.missing, ())
        with self.assertRaisesRegex(InvalidInput, "a finding of this job"):
            receiving.change_finding(job, "f9", typed, "now")

    def test_gate_and_walk_are_kept_with_their_words(self) -> None:
        job = Job("j1", 1, device=Device("Petrel", kind="instant camera"))
        gate = replace(job.receiving.gate, battery="out", has_flash=True, measured_v=1.5)
        done = receiving.answer_gate(job, gate, "now")
        self.assertEqual(done.reason, "Before opening: battery: out, has a flash, flash capacitor 1.5 V measured")
        self.assertEqual(gate_open(done.job), ("Film or pack",))
        done = record_trial(job, TakenTrial("lamps", "ready", "battery", "dead", "cold"), "2026-11-03T10:00:00")
        self.assertEqual(done.reason, "Lamps at ready, battery: dead (cold)")


class Lessons(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.workshop = open_workshop(Path(folder.name) / "w.violet")
        self.addCleanup(self.workshop.close)

    def _job(self, device: Device, lines: tuple[str, ...] = ()) -> Job:
        job_id = self.workshop.new_job().job.job_id
        self.workshop.perform(job_id, lambda job, at: describe_device(job, device, job.intake, at))
        return self.workshop.perform(job_id, lambda job, at: ActResult(strip(job, lines), "Open", "stripped")).job

    def test_the_next_of_the_model_begins_from_the_last(self) -> None:
        self._job(Device("Kittiwake II"), LINES[:2])
        self._job(Device("Kittiwake"), LINES)
        self._job(Device("Kittiwake"), LINES[:3])
        fresh = self._job(Device("Kittiwake"))
        self.workshop.describe_pending()  # as the window does beside: lessons are found by words
        offer = offer_for(self.workshop, fresh)
        self.assertEqual(offer.jobs, 2)  # the other model is not among them
        self.assertEqual({step.confirmed for step in offer.steps[:3]}, {2})
        job = opening.add_steps(fresh, offer.steps, offer.source, "now").job
        self.assertTrue(all(step.planned for step in job.opening.steps))
        taken = opening.take_planned(job, job.opening.steps[1].step_id, "now").job
        self.assertEqual([step.planned for step in taken.opening.steps], [False, *[True] * (len(offer.steps) - 1)])
        self.assertEqual(taken.opening.steps[0].confirmed, 3)

    def test_a_typed_line_that_the_plan_has_is_the_planned_step(self) -> None:
        plan = strip(Job("j1", 1), ("screw x3 top cover M1.4x3 chrome lh -> A1", "top cover -> A2; hides meter lead"))
        job = opening.add_steps(Job("j2", 2), plan.opening.steps, "job 1", "now").job
        step, met = opening.typed_step(job, "screw Top Cover -> B4")
        self.assertIsNotNone(met)
        self.assertEqual((step.count, step.size, step.hand, step.tray), (3, "M1.4x3", "left", "B4"))
        done = opening.take_step(job, "screw x4 top cover", "2026-11-03T10:00:00")
        self.assertEqual(done.reason, "Off: 4 screws of top cover -> A1, as planned")
        first, second = done.job.opening.steps
        self.assertEqual((first.count, first.planned, first.off_at), (4, False, "2026-11-03T10:00:00"))
        self.assertTrue(second.planned)
        more = opening.take_step(done.job, "spring counter", "now").job
        self.assertEqual([one.planned for one in more.opening.steps], [False, False, True])  # before what is planned
        self.assertEqual(opening.typed_step(more, "screw x4 top cover")[1], None)  # off already: another of its kind
        last = opening.take_step(more, "top cover", "now").job.opening.steps[-1]
        self.assertEqual((last.hides, last.planned), (("meter lead",), False))

    def test_family_counts_as_the_same(self) -> None:
        self._job(Device("Razorbill", family="Auk movement 2"), LINES[:2])
        other = self._job(Device("Guillemot", family="auk movement 2"))
        self.workshop.describe_pending()
        self.assertEqual(len(offer_for(self.workshop, other).steps), 2)
        self.assertTrue(offer_for(self.workshop, self._job(Device("Gannet"))).empty)

    def test_next_asks_to_close_before_the_sheet(self) -> None:
        job = strip(Job("j9", 9, device=Device("Kittiwake")))
        self.assertEqual(station_states(job, STATIONS)["Open"], "begun")
        self.assertEqual(next_act(job, STATIONS).kind, "describe")


if __name__ == "__main__":
    unittest.main()
