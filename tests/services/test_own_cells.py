"""Cells of the bench's own are at hand in every job of the workshop, the newest of a name first."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from tests.workshops import open_workshop
from violet_dial.core.power.cells import SIZES
from violet_dial.services.lessons import own_cells_of
from violet_dial.stations.power.acts import take_own_cells
from violet_dial.stations.power.table import own_of


class OwnCells(unittest.TestCase):
    def test_at_hand_elsewhere_and_not_twice(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        workshop = open_workshop(Path(folder.name) / "w.violet")
        self.addCleanup(workshop.close)
        first, second, third = (workshop.new_job().job.job_id for _ in range(3))
        cell = replace(own_of(SIZES["SR44"]), name="bench cell")
        newer = replace(cell, ah=0.2)
        workshop.perform(first, lambda job, at: take_own_cells(job, (cell,), "a.csv", at))
        workshop.describe_pending()  # as the window does beside: the words that search finds it by
        self.assertEqual(own_cells_of(workshop, workshop.view(third).job), (cell,))
        self.assertEqual(own_cells_of(workshop, workshop.view(first).job), ())
        workshop.perform(second, lambda job, at: take_own_cells(job, (newer,), "b.csv", at))
        workshop.describe_pending()
        found = own_cells_of(workshop, workshop.view(third).job)
        self.assertEqual([one.name for one in found], ["bench cell"])


if __name__ == "__main__":
    unittest.main()
