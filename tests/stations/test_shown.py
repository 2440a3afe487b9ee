"""What the pages show, as plain functions of the job: nothing yet, and all that is kept; the same job, the same picture."""

import unittest
from dataclasses import is_dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Device, Intake, Job
from violet_dial.stations.light import acts as light_acts
from violet_dial.stations.light.state import shown as light_shown
from violet_dial.stations.open.acts import take_step
from violet_dial.stations.open.state import back_shown, page_names, step_detail
from violet_dial.stations.receive.acts import FindingSeen, place_finding
from violet_dial.stations.receive.state import describe_shown, look_shown, walk_shown

AT = "2026-11-03T09:00:00+00:00"
EMPTY = Job("j" * 32, 1)
DESCRIBED = Job("j" * 32, 1, Device("Kittiwake hand meter", cell="selenium"), Intake("reads high"))


def read(job: Job, reference: str, indicated: str) -> Job:
    return light_acts.take_typed(job, light_acts.TypedReading(reference, indicated), AT).job


class Shown(unittest.TestCase):
    def test_light(self) -> None:
        empty = light_shown(DESCRIBED)
        self.assertEqual((empty.headline, empty.readings, empty.flags), ("No readings yet", (), ""))
        self.assertTrue(all(slot.index == -1 for slot in empty.slots))
        job = DESCRIBED
        for light in (5, 8, 10, 12, 15):
            job = read(job, str(light), f"{light + 0.7}")
        done = light_shown(job)
        self.assertIn("0.7", done.headline)
        self.assertEqual(len(done.readings), 5)
        self.assertTrue(done.sum_of(2))
        self.assertEqual((done.sum_of(-1), done.sum_of(99)), ("", ""))
        self.assertEqual(light_shown(job), done)
        shifted = light_acts.record_adjustment(job, -0.7, "two notches back", AT).job
        self.assertEqual((light_shown(shifted).headline, light_shown(shifted, 0).headline), ("No readings yet", done.headline))
        with self.assertRaises(InvalidInput):
            read(job, "no light", "8")

    def test_receive(self) -> None:
        self.assertEqual(describe_shown(EMPTY).lines["name"], "")
        self.assertEqual(describe_shown(DESCRIBED).lines["headline_fault"], "reads high")
        self.assertEqual((look_shown(EMPTY, -1).lines, look_shown(EMPTY, -1).screw), ((), None))
        seen = place_finding(DESCRIBED, FindingSeen("green crust", "back", 0.5, 0.5, "a patch", "under the cover"), AT).job
        found = look_shown(seen, 0)
        self.assertEqual(len(found.lines), 1)
        self.assertTrue(found.meaning)
        self.assertTrue(found.caution)
        self.assertGreater(len(walk_shown(DESCRIBED).acts), 2)

    def test_open(self) -> None:
        self.assertEqual((back_shown(EMPTY).rows, page_names(EMPTY)[0]), ((), "Off"))
        self.assertIn("One line for each thing", step_detail((), 0))
        job = take_step(DESCRIBED, "screw x3 back plate M1.7x4 -> A1", AT).job
        self.assertEqual(page_names(job)[0], "Off · 1")
        self.assertIn("back plate", step_detail(job.opening.steps, 0))
        self.assertEqual(len(back_shown(job).rows), 1)
        self.assertEqual(back_shown(job).trouble, "")

    def test_all_that_is_shown_is_frozen(self) -> None:
        for one in (light_shown(EMPTY), describe_shown(EMPTY), look_shown(EMPTY, -1), back_shown(EMPTY)):
            self.assertTrue(is_dataclass(one))
            with self.assertRaises(AttributeError):
                one.rows = ()


if __name__ == "__main__":
    unittest.main()
