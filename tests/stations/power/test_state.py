"""What Power shows and wants: lanes as figures, pages in words, Next, the sheet, search; worked out as its worker does."""

import unittest
from dataclasses import replace
from functools import lru_cache

from tests.stations.power.test_acts import AT, SERIES, SHUTTER, job_with
from tests.workshops import next_act
from violet_dial.core.errors import InvalidInput
from violet_dial.core.task import SilentTask
from violet_dial.job.document import Job
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.sheet import sheet_of
from violet_dial.stations import STATIONS
from violet_dial.stations.power import acts, state
from violet_dial.stations.power.lanes_state import At, lanes_shown, opened
from violet_dial.stations.power.pages_state import cell_shown, differences, fit_shown, use_shown
from violet_dial.stations.power.work import PowerWorked, design_for, question_of, work_out

TWO_RANGE = next(one for one in templates() if one.stem == "cds-two-range")


@lru_cache(maxsize=16)
def worked(job: Job) -> PowerWorked:
    return work_out(job, SilentTask())


def small(text: str = SERIES.text, cell: str = "CdS", *choices: str) -> Job:
    """A job with few choices and a short range: quick to work out."""
    job = job_with(text, cell)
    setup = replace(job.light.setup, range_from_ev100=1.0, range_to_ev100=8.0)
    return replace(job, power=replace(job.power, choices=choices), light=replace(job.light, setup=setup))


class Shown(unittest.TestCase):
    def test_lanes_carry_the_figures_the_core_gave(self) -> None:
        job = small(SERIES.text, "CdS", "PR44", "LR44", "SR44 + schottky")
        found = worked(job)
        shown = lanes_shown(found.lanes, At(3, 2), "PR44")
        errors = found.lanes.lanes[1].errors[2].error_stops
        self.assertAlmostEqual(shown.rows[1].here[4] or 0.0, errors[4, 3])
        self.assertAlmostEqual(shown.rows[1].low[-1] or 0.0, errors[-1][errors[-1] == errors[-1]].min())
        self.assertEqual([one.mark for one in shown.rows], ["inside", "undecided", "inside"])
        self.assertEqual([one.is_chosen for one in shown.rows], [True, False, False])
        self.assertIsNotNone(shown.rows[1].leaves)
        self.assertIn("Ev 4 · 20 °C", shown.stands)
        self.assertTrue(shown.headline.startswith("Best: "))
        self.assertEqual(question_of(job), found.question)

    def test_the_sum_has_the_values_put_in(self) -> None:
        found = worked(small(SERIES.text, "CdS", "PR44", "LR44", "SR44 + schottky"))
        _, sections = opened(found, 2, At(3, 2))
        text = "\n".join(line for _, lines in sections for line in lines)
        for word in ("IS 1.2e-07", "IEC 60086-2", "common practice", "tolerance ±", "clips", "S1 on"):
            self.assertIn(word, text)

    def test_a_device_without_its_own_circuit_says_so(self) -> None:
        job = replace(small(SERIES.text, "CdS", "SR44"), tracing=Job("x", 2).tracing)
        self.assertIn("Trace this one", worked(job).said)
        selenium = replace(job, device=replace(job.device, cell="selenium"))
        self.assertRaisesRegex(InvalidInput, "needs none", work_out, selenium, SilentTask())

    def test_a_stack_that_sags_is_said_to_let_go_in_the_cold(self) -> None:
        job = acts.type_cell(small(SHUTTER.text, "silicon", "4SR44"), "4LR44 4.72 3.10 180", AT).job
        shown = cell_shown(job, worked(job))
        self.assertIn("at the clips", shown.device)
        self.assertIn("the magnet holds; at 0 °C", shown.device)
        self.assertIn("lets go however well", shown.device)
        self.assertIn("Internal resistance 94.1", shown.reason)
        self.assertIn("No cell read yet", cell_shown(small(), None).headline)

    def test_the_battery_test_and_what_is_wrong_when_the_cell_is_good(self) -> None:
        job = small(TWO_RANGE.text, "CdS", "SR44")
        job = acts.type_cell(job, "SR44 1.56", AT).job
        first = worked(job).test
        assert first is not None
        expected = 1.56 / (10e3 + 1e3 + 0.1) / 150e-6  # through the test resistor and the coil
        self.assertAlmostEqual(first.shares[0][1], expected, delta=0.002)
        self.assertIn("Type what it shows", cell_shown(job, worked(job)).test)
        good = acts.read_test(job, f"test {100 * expected:.0f} %", AT).job
        self.assertIn("as it should", cell_shown(good, worked(good)).test)
        bad = acts.read_test(job, "test 45 %", AT).job
        found = worked(bad).test
        assert found is not None
        self.assertIn("although the cell is good", cell_shown(bad, worked(bad)).test)
        named = dict(found.suspects)
        self.assertIn("something not on the list", named)
        self.assertLess(named["nothing at all"], 0.1)

    def test_use_leak_and_budget_in_words(self) -> None:
        job = small(SERIES.text, "CdS", "SR44")
        job = acts.say_use(acts.say_use(job, "4 rolls a month", AT).job, "metering 600 min a roll", AT).job
        shown = use_shown(job, worked(job))
        self.assertEqual(shown.rows[0][0], "metering")
        self.assertIn("rolls", shown.headline)
        leaky = type_evidence(type_evidence(job, "S1 off", AT).job, "battery 40 uA", AT).job
        self.assertIn("leaks over the board", use_shown(leaky, worked(leaky)).reason)

    def test_fitting_is_judged_for_the_battery_that_was_taken(self) -> None:
        job = small(SERIES.text, "CdS", "PR44", "SR44 + schottky")
        self.assertIn("No diode", fit_shown(acts.choose(job, "PR44", "x", AT).job, worked(job)).headline)
        job = acts.choose(job, "SR44 + schottky", "x", AT).job
        self.assertIn("Not read yet", fit_shown(job, worked(job)).headline)
        for line in ("forward OL", "reverse 0.25", "Ev 6: 1.56 before 0.00 behind"):
            job = acts.say_fit(job, line, AT).job
        shown = fit_shown(job, worked(job))
        self.assertTrue(shown.headline.startswith("Wrong way round"))
        self.assertEqual(shown.chances[0][0], "wrong way round")

    def test_four_things_differ_between_batteries_and_the_supply(self) -> None:
        found = differences(worked(small(SHUTTER.text, "silicon", "4SR44")))
        self.assertEqual(len(found), 4)
        self.assertIn("mA", found[0].why)

    def test_the_drawer_gives_a_choice_and_a_bridge_refuses(self) -> None:
        job = small(SERIES.text, "CdS", "SR44")
        found, turned = design_for(job, "SR44", SilentTask())
        self.assertLess(found.worst_stops, found.plain_stops)
        self.assertIsNotNone(turned)
        bridge = next(one for one in templates() if one.stem == "cds-bridge")
        job = small(bridge.text, "CdS", "SR44")
        job = replace(job, light=replace(job.light, setup=replace(job.light.setup, range_to_ev100=14.0)))
        self.assertRaisesRegex(InvalidInput, "null", design_for, job, "SR44", SilentTask())


class Wanted(unittest.TestCase):
    def test_next_wants_a_battery_where_the_complaint_is_about_one(self) -> None:
        job = small(SERIES.text, "CdS", "PR44", "LR44")
        job = replace(job, intake=replace(job.intake, headline_fault="wrong cell, reads high"))
        self.assertEqual(state.next_of(job, None).kind, "choices")
        found = state.next_of(job, worked(job))
        assert found is not None and found.act is not None
        taken = found.act(job, AT).job
        self.assertEqual(taken.power.chosen.said, "PR44")
        self.assertIsNone(state.next_of(taken, worked(taken)))
        self.assertEqual((state.state(job), state.state(taken), state.finding(taken)), ("begun", "done", "Battery: PR44"))
        self.assertEqual(next_act(job, STATIONS, {"Power": worked(job)}).station, "Power")

    def test_a_magnet_is_read_under_load_first(self) -> None:
        job = small(SHUTTER.text, "silicon", "4SR44")
        job = replace(job, intake=replace(job.intake, headline_fault="drops out"))
        found = state.next_of(job, worked(job))
        assert found is not None
        self.assertEqual((found.kind, found.page), ("cell", state.CELL))

    def test_nothing_is_wanted_of_a_selenium_meter_or_without_a_reason(self) -> None:
        job = job_with(cell="CdS")
        self.assertIsNone(state.next_of(job, None))
        self.assertIsNone(state.next_of(replace(job, device=replace(job.device, cell="selenium")), None))

    def test_the_sheet_has_the_battery_its_error_and_its_cautions(self) -> None:
        job = acts.type_cell(
            acts.choose(job_with(), "PR44", "Zinc-air 1.4 V: within 0.15 stop", AT).job, "LR44 1.2 1.0 47", AT
        ).job
        said = str(sheet_of(job, STATIONS, "20 November 2026").blocks)
        for word in ("within 0.15 stop", "15 January 2027", "do not tape over its holes", "% of the charge"):
            self.assertIn(word, said)

    def test_words_and_files_for_search_and_the_bundle(self) -> None:
        from violet_dial.core.power.cells import SIZES
        from violet_dial.stations.power.table import own_of

        own = replace(own_of(SIZES["SR44"]), name="bench cell")
        job = acts.take_own_cells(acts.choose(job_with(), "PR44", "Zinc-air", AT).job, (own,), "x.csv", AT).job
        self.assertIn("own cell bench cell", state.words(job))
        self.assertEqual([name for name, _ in state.members(job)], ["cells.csv", "battery-due.ics"])


if __name__ == "__main__":
    unittest.main()
