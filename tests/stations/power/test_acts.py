"""Acts at Power: lines as they are typed, choices, the battery taken, cells read, the use; and what is refused."""

import unittest
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.services.circuits import templates
from violet_dial.stations.power import acts
from violet_dial.stations.power.bench import choices_of, diodes_of, drawer_of, use_of
from violet_dial.stations.trace.acts import choose_circuit

SERIES = next(one for one in templates() if one.stem == "cds-series")
SHUTTER = next(one for one in templates() if one.stem == "silicon-shutter")
AT = "2026-11-20T09:00:00+00:00"


def job_with(text: str = SERIES.text, cell: str = "CdS") -> Job:
    job = Job("j", 1, Device("Tystie", cell=cell), Intake("reads high"))  # type: ignore[arg-type]
    return choose_circuit(job, "meter", text, AT).job


class Lines(unittest.TestCase):
    def test_each_kind_of_line_is_understood_and_kept(self) -> None:
        job = job_with()
        for line, words in (("design 1.3 V", "made for 1.3 V"), ("drawer 150 ohm", "150 ohm resistor, in the drawer"),
                            ("diode germ IS=2e-6 N=1.4", "germ diode, at hand"), ("drawer germ", "germ, in the drawer"),
                            ("diode old 0.21 V 1 mA 0.15 V 100 uA", "old, at hand"),
                            ("SR44 + germ + 150 ohm", "SR44 with germ diode")):  # fmt: skip
            with self.subTest(line):
                self.assertIn(words, acts.understand_line(job.power, line).words)
                job = acts.say_line(job, line, AT).job
        power = job.power
        self.assertEqual(power.design_v, 1.3)
        self.assertEqual([one.name for one in drawer_of(power)], ["150 ohm resistor", "germ"])
        self.assertEqual(set(diodes_of(power)), {"germ", "old"})
        self.assertEqual(choices_of(power, 1.3)[-1].name, "SR44 with germ diode and 150 Ω resistor")
        self.assertEqual(job_from_json(job_to_json(job)), job)

    def test_the_usual_choices_are_written_out_with_the_first_of_ones_own(self) -> None:
        job = acts.say_line(job_with(), "SR43", AT).job
        self.assertGreater(len(job.power.choices), 6)
        self.assertEqual(job.power.choices[-1], "SR43")
        self.assertRaisesRegex(InvalidInput, "not among them", acts.say_line, job, "sr43", AT)
        less = acts.drop_choice(job, 0, AT).job
        self.assertEqual(less.power.choices, job.power.choices[1:])
        self.assertRaises(InvalidInput, acts.drop_choice, job, 99, AT)

    def test_what_cannot_be_is_refused_and_says_what_could(self) -> None:
        job = job_with()
        for line in (
            "design -1 V",
            "design lots",
            "drawer moon",
            "diode x N=2",
            "SR44 + moon",
            "diode old 0.2 V 1 mA 0.2 V 1 mA",
        ):
            self.assertRaises(InvalidInput, acts.say_line, job, line, AT)
        twice = acts.say_line(job, "drawer 150 ohm", AT).job
        self.assertRaises(InvalidInput, acts.say_line, twice, "drawer 150 ohm", AT)

    def test_a_cell_of_another_job_comes_along_by_its_name(self) -> None:
        from violet_dial.core.power.cells import SIZES
        from violet_dial.stations.power.table import own_of

        other = replace(own_of(SIZES["SR44"]), name="bench cell")
        job = acts.say_line(job_with(), "bench cell + schottky", AT, (other,)).job
        self.assertEqual(job.power.own_cells, (other,))
        self.assertEqual(choices_of(job.power, 1.35)[-1].name, "bench cell with Schottky diode")


class Taken(unittest.TestCase):
    def test_the_battery_goes_to_the_sheet_and_air_is_due(self) -> None:
        job = acts.choose(job_with(), "PR44", "Zinc-air 1.4 V: within 0.15 stop", AT).job
        assert job.power.chosen is not None
        self.assertEqual(job.power.chosen.due_on, "2027-01-15")
        self.assertEqual(job.closing.battery, "Zinc-air 1.4 V: within 0.15 stop")
        other = acts.choose(job, "SR44", "Silver", AT).job
        self.assertEqual((other.closing.battery, other.power.chosen and other.power.chosen.due_on), ("Silver", ""))

    def test_words_a_person_wrote_are_left_alone(self) -> None:
        job = job_with()
        job = replace(job, closing=replace(job.closing, battery="as agreed"))
        self.assertEqual(acts.choose(job, "SR44", "Silver", AT).job.closing.battery, "as agreed")


class Cells(unittest.TestCase):
    def test_as_they_are_typed(self) -> None:
        job = job_with()
        for text, expected in (("LR44 1.52 1.31 47", ("LR44", 1.52, 1.31, 47.0, 20.0)),
                               ("SR44 1.55", ("SR44", 1.55, None, None, 20.0)),
                               ("4LR44 rest 5.9 load 4.6 ohm 47 at 5 C", ("4LR44", 5.9, 4.6, 47.0, 5.0)),
                               ("2 x CR11108 5.9 V", ("2 × CR11108", 5.9, None, None, 20.0))):  # fmt: skip
            read = acts.understand_cell(job, text)
            self.assertEqual((read.size, read.rest_v, read.load_v, read.load_ohm, read.at_c), expected)
        job = acts.type_cell(job, "LR44 1.52 1.31 47", AT).job
        self.assertEqual(acts.understand_cell(job, "1.48 1.2 47").size, "LR44")

    def test_the_device_itself_as_the_load(self) -> None:
        """At 3.1 V the magnet and its transistor take some 17 mA by the circuit: about 180 ohm."""
        read = acts.understand_cell(job_with(SHUTTER.text, "silicon"), "4LR44 4.72 3.1 magnet")
        self.assertAlmostEqual(read.load_ohm or 0.0, 180, delta=12)

    def test_what_no_cell_shows_is_refused(self) -> None:
        job = job_with()
        for text in (
            "LR44",
            "LR44 1.5 1.6 47",
            "1.5 1.4 47",
            "LR44 -1",
            "XX99 1.5",
            "LR44 1.5 1.4",
            "LR44 1.5 1.4 0",
            "LR44 1.5 at 90 C",
        ):
            with self.subTest(text):
                self.assertRaises(InvalidInput, acts.type_cell, job, text, AT)

    def test_a_battery_test_is_a_share_of_the_scale(self) -> None:
        self.assertEqual(acts.read_test(job_with(), "test 60 %", AT).job.power.test_needle, 0.6)
        self.assertRaises(InvalidInput, acts.read_test, job_with(), "test 900 %", AT)


class UseAndFitting(unittest.TestCase):
    def test_a_line_that_says_the_same_gives_way(self) -> None:
        job = job_with()
        for line in ("2 rolls a month", "metering 20 min a roll", "metering 120 uA", "3 rolls a month", "metering 30 min a roll"):
            job = acts.say_use(job, line, AT).job
        self.assertEqual(job.power.use, ("metering 120 uA", "3 rolls a month", "metering 30 min a roll"))
        self.assertEqual(use_of(job.power).rolls_a_month, 3.0)
        self.assertRaises(InvalidInput, acts.say_use, job, "often", AT)

    def test_what_is_read_at_a_diode(self) -> None:
        job = job_with()
        for line in ("forward 0.25", "reverse OL", "Ev 6: 1.56 before 1.37 behind", "lead negative"):
            job = acts.say_fit(job, line, AT).job
        self.assertEqual(
            [(one.what, one.volts) for one in job.power.fitted], [("forward", 0.25), ("reverse", None), ("behind", 1.37)]
        )
        self.assertEqual((job.power.fitted[-1].before_v, job.power.lead), (1.56, "negative"))
        self.assertRaises(InvalidInput, acts.say_fit, job, "sideways 3", AT)


if __name__ == "__main__":
    unittest.main()
