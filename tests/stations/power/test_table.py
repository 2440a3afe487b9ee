"""Files at Power: cells out and in again, a measured discharge in, the calendar entry read by its library; bad rows by line."""

import unittest
from dataclasses import replace

import numpy as np
from icalendar import Calendar

from tests.core.power.test_measured import discharge
from tests.stations.power.test_acts import AT, job_with
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.power.cells import SIZES
from violet_dial.stations.power import acts
from violet_dial.stations.power.bench import own_size
from violet_dial.stations.power.table import FILE_IN, FILE_OUT, every_cell, own_of, read_cells, reminder, write_cells


class OutAndIn(unittest.TestCase):
    def test_every_cell_comes_back_with_its_figures_and_their_source(self) -> None:
        cells = every_cell(job_with())
        back, _, said = read_cells(write_cells(cells).encode(), "all.csv")
        self.assertEqual(back, cells)
        self.assertIn(f"{len(SIZES)} cells offered, none rejected", said)
        self.assertTrue(all("common practice" in one.source and "[memory]" in one.source for one in back))

    def test_a_cell_of_the_bench_is_the_same_cell(self) -> None:
        for name in ("LR44", "4SR44", "PR44", "CR17345"):
            mine, size = own_size(own_of(SIZES[name])), SIZES[name]
            for left in (1.0, 0.6, 0.2, 0.05):
                at = np.array(left)
                self.assertAlmostEqual(float(mine.chemistry.rest_v(at)), float(size.chemistry.rest_v(at)), delta=0.03)
                self.assertAlmostEqual(
                    mine.ohm * float(mine.chemistry.rise_at(at)),
                    size.ohm * float(size.chemistry.rise_at(at)),
                    delta=0.3 * size.ohm,
                )
            self.assertEqual((mine.cells, mine.ah), (size.cells, size.ah))

    def test_a_measured_discharge_becomes_a_cell(self) -> None:
        rows = zip(*discharge(SIZES["LR44"], (680.0,)), strict=True)
        data = "time_s,volts,load\n" + "\n".join(f"{time:.1f},{volts:.4f},{load:g}" for time, volts, load in rows)
        cells, _, said = read_cells(data.encode(), "tired button.csv")
        self.assertEqual(cells[0].name, "tired button")
        self.assertIn("mV from its curve", said)
        listing, act = FILE_IN.read(job_with(), "tired button.csv", data.encode())
        assert listing is not None
        job = act(job_with(), AT).job
        self.assertEqual(acts.say_line(job, "tired button + schottky", AT).job.power.choices[-1], "tired button + schottky")

    def test_bad_rows_are_named_by_their_line(self) -> None:
        head = "cell,charge_left,volts,ohm,ah\n"
        good = "mine,1.0,1.5,5,0.1\nmine,0.0,1.0,20,\n"
        cells, offered, _ = read_cells((head + good + "mine,-0.2,0.8,30,\n").encode(), "x.csv")
        self.assertEqual((len(cells), offered and offered.rejected[0].line), (1, 4))
        for rows, words in (("mine,1.0,1.5,5,0.1\nmine,-0.2,1,9,\n", "line 3.*0 to 1"),
                            ("mine,1.0,1.2,5,0.1\nmine,0.0,1.5,9,\n", "charges itself"),
                            ("mine,1.0,1.5,5,\nmine,0.0,1.0,9,\n", "ah")):  # fmt: skip
            self.assertRaisesRegex(InvalidInput, words, read_cells, (head + rows).encode(), "x.csv")
        self.assertRaises(InvalidInput, read_cells, b"time,volts,load\n0,1.5,six\n", "x.csv")
        self.assertRaises(NotEnoughData, read_cells, b"time,volts,load\n0,1.5,680\n", "x.csv")
        self.assertRaises(InvalidInput, read_cells, b"a,b\n1,2\n", "x.csv")


class Calendars(unittest.TestCase):
    def test_a_cell_that_will_be_due(self) -> None:
        job = acts.choose(job_with(), "PR44", "Zinc-air, six to ten weeks", AT).job
        event = next(iter(Calendar.from_ical(reminder(job)).walk("VEVENT")))
        self.assertEqual(event.decoded("dtstart").isoformat(), "2027-01-15")
        self.assertIn("Tystie", str(event["summary"]))
        self.assertEqual(str(event["description"]), "Zinc-air, six to ten weeks")
        self.assertEqual(FILE_OUT.name(job), "job-0001-battery-due.ics")
        self.assertEqual(FILE_OUT.write(job, "due.ics", None), reminder(job))

    def test_no_date_no_entry(self) -> None:
        job = acts.choose(job_with(), "SR44", "Silver", AT).job
        self.assertRaisesRegex(InvalidInput, "once opened", reminder, job)
        self.assertEqual(FILE_OUT.name(replace(job)), "job-0001-cells.csv")


if __name__ == "__main__":
    unittest.main()
