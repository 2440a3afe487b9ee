"""What Trace shows, as a plain function of the job and the results at hand: empty, working, done, failed, and too old."""

import unittest
from dataclasses import replace

from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.task import SilentTask
from violet_dial.job.document import Device, Intake, Job
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.trace.acts import choose_circuit
from violet_dial.stations.trace.state import MOST_BARS, NOTHING_SAID, Work, next_of, shown
from violet_dial.stations.trace.work import TraceResult, work_out

AT = "2026-11-03T09:00:00+00:00"


def job_with(stem: str, *lines: str) -> Job:
    job = Job("j" * 32, 1, Device("Puffin reflex"), Intake("needle dead, battery good"))
    template = next(one for one in templates() if one.stem == stem)
    job = choose_circuit(job, template.title, template.text, AT).job
    for line in lines:
        job = type_evidence(job, line, AT).job
    return job


def result_of(job: Job) -> TraceResult:
    return work_out(job, Diagnostician(), SilentTask())


class Shown(unittest.TestCase):
    def setUp(self) -> None:
        self.job = job_with("cds-series", "1000 lx", "clip+ to gnd 1.36 V", "needle at 2 %")

    def test_empty(self) -> None:
        found = shown(Job("j" * 32, 1), Work())
        self.assertEqual((found.rows, found.bars, found.whys, found.map.places), ((), (), (), ()))
        self.assertTrue(found.settled)
        self.assertIn("No circuit yet", found.stands)

    def test_working(self) -> None:
        found = shown(self.job, Work())
        self.assertFalse(found.settled)
        self.assertIn("Working", found.summary)
        self.assertEqual((found.bars, found.next.test), ((), None))
        self.assertEqual(len(found.rows), 2)  # what was typed is there at once

    def test_done(self) -> None:
        found = shown(self.job, Work(result_of(self.job)))
        self.assertTrue(found.settled)
        self.assertEqual(len(found.bars), min(len(found.whys), MOST_BARS))
        self.assertIsNotNone(found.next.test)
        self.assertIn("No fault", found.summary)
        self.assertNotIn(NOTHING_SAID, found.whys[0])

    def test_failed(self) -> None:
        why = "No operating point was found."
        found = shown(self.job, Work(None, why))
        self.assertTrue(found.settled)
        self.assertEqual((found.summary, found.bars), (why, ()))

    def test_a_result_for_another_job_is_not_shown(self) -> None:
        """The other device's map, percentages and reasons never stand under this job's name."""
        other = result_of(job_with("selenium-movement", "needle dead"))
        found = shown(self.job, Work(other))
        self.assertFalse(found.settled)
        self.assertEqual((found.bars, found.whys, found.next.test), ((), (), None))
        empty = shown(replace(self.job, tracing=Job("k" * 32, 1).tracing), Work(other))
        self.assertEqual((empty.bars, empty.map.places), ((), ()))

    def test_next_says_the_test_only_of_a_result_for_this_very_job(self) -> None:
        result = result_of(self.job)
        act = next_of(self.job, result)
        assert act is not None
        self.assertEqual(act.kind, "test")
        later = type_evidence(self.job, "sw to gnd 0.08 V", AT).job
        stale = next_of(later, result)
        self.assertNotEqual(stale.title if stale else "", act.title)


if __name__ == "__main__":
    unittest.main()
