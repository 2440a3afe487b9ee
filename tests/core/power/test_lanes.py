"""Lives and choices: hours beside sums done by hand, which choice is best, the scale moved along, the sentence."""

import math
import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import span_words
from violet_dial.core.power.cells import SIZES
from violet_dial.core.power.device import device_of
from violet_dial.core.power.feeds import BatteryChoice, read_choice
from violet_dial.core.power.lanes import BatteryResults, Judge, best_of, hours_of, usual_choices
from violet_dial.core.power.meter_error import AskedLights, Reader, at_lights
from violet_dial.core.power.said import error_short, error_words, none_words, reason
from violet_dial.services.circuits import circuit_from, templates

TEXTS = {one.stem: one.text for one in templates()}


def lanes(stem: str, choices: tuple[str, ...], asked: AskedLights | None = None) -> BatteryResults:
    several = [read_choice(one) for one in choices]
    return Judge(device_of(circuit_from(TEXTS[stem])), asked or AskedLights(1.35, 0.0, 8.0), several).judge(several)


class Hours(unittest.TestCase):
    def test_charge_over_current_and_own_loss(self) -> None:
        left, amp = np.array([1.0, 0.5, 0.1]), np.full(3, 100e-6)
        silver = SIZES["SR44"]
        hours = hours_of(BatteryChoice(silver), left, amp)
        rate = 100e-6 / silver.ah + silver.chemistry.yearly_loss / 8766
        self.assertTrue(np.allclose(hours, [0.0, 0.5 / rate, 0.9 / rate]))

    def test_air_ends_it_whatever_is_drawn(self) -> None:
        hours = hours_of(read_choice("PR44"), np.array([1.0, 0.1]), np.full(2, 1e-6))
        self.assertEqual(hours[-1], 8 * 168)

    def test_a_supply_never_ends(self) -> None:
        self.assertTrue(math.isinf(hours_of(read_choice("supply 1.5 V"), np.array([1.0, 0.1]), np.zeros(2))[-1]))

    def test_spans_as_a_person_says_them(self) -> None:
        for low, high, said in ((5.0, 9.0, "5 to 9 hours"), (100.0, 200.0, "4.2 to 8.3 days"),
                                (3000.0, 9000.0, "4.1 to 12 months"), (9000.0, 30000.0, "1 to 3.4 years"),
                                (1344.0, 1344.0, "8 weeks")):  # fmt: skip
            self.assertEqual(span_words(low, high), said)


class Best(unittest.TestCase):
    def test_mercury_and_a_supply_never_are(self) -> None:
        found = lanes("cds-series", ("MR9", "supply 1.35 V", "SR44 + silicon"))
        self.assertEqual(found.best, 2)

    def test_within_tolerance_goes_before_a_small_error_that_leaves_it(self) -> None:
        found = lanes("cds-series", ("LR44", "SR44 + schottky", "SR44 + silicon"))
        self.assertTrue(found.lanes[found.best].serves)
        self.assertEqual(found.lanes[found.best].choice.name, "SR44 with Schottky diode")

    def test_none_where_the_device_follows_nothing_on_any(self) -> None:
        found = lanes("silicon-shutter", ("SR44", "LR44"), AskedLights(6.0, 5.0, 12.0))
        self.assertEqual(best_of(found.lanes), -1)

    def test_none_where_the_only_one_is_two_stops_off(self) -> None:
        found = lanes("cds-series", ("CR11108",))
        self.assertEqual(found.best, -1)
        self.assertRegex(none_words(found), "None of these is to be taken; least wrong: CR11108, up to 2 stop high")

    def test_no_choice_is_refused(self) -> None:
        device = device_of(circuit_from(TEXTS["cds-series"]))
        self.assertRaisesRegex(InvalidInput, "SR44", Judge(device, AskedLights(1.35), []).judge, [])

    def test_usual_ones_fit_the_voltage(self) -> None:
        names = [one.name for one in usual_choices(1.35)]
        self.assertTrue({"PR44", "SR44", "LR44", "MR9"} <= set(names))
        for word in ("diode", "adapter", "moved"):
            self.assertTrue(any(word in name for name in names), word)
        self.assertEqual([one.size.cells for one in usual_choices(6.0) if one.size], [4, 4, 2])
        self.assertEqual(next(one.size.cells for one in usual_choices(2.7) if one.size), 2)


class Lives(unittest.TestCase):
    def test_a_lane_leaves_the_tolerance_where_its_errors_do(self) -> None:
        found = lanes("cds-series", ("LR44",))
        lane = found.lanes[0]
        beyond = (np.abs(lane.error_stops[0]) > found.asked.allowed + 1e-9).any(axis=1)
        self.assertEqual(lane.inside.tolist(), (~beyond).tolist())
        self.assertFalse(lane.inside[-1])
        self.assertEqual(lane.leaves, int(np.flatnonzero(lane.inside)[-1]) + 1)
        self.assertLess(lane.hours_in_tolerance, lane.hours_to_cutoff)

    def test_the_scale_moved_halves_the_spread(self) -> None:
        plain, moved = lanes("cds-series", ("SR44", "SR44 + moved")).lanes
        middle = (np.nanmax(plain.error_stops) + np.nanmin(plain.error_stops)) / 2
        self.assertAlmostEqual(moved.shift_stops, -float(middle), delta=0.02)
        self.assertTrue(np.allclose(moved.error_stops, plain.error_stops + moved.shift_stops, equal_nan=True))

    def test_a_device_that_gives_up_ends_its_lane(self) -> None:
        lane = lanes("silicon-shutter", ("4LR44",), AskedLights(6.0, 5.0, 12.0, (-10.0,))).lanes[0]
        self.assertLess(lane.ends, len(lane.works))
        self.assertEqual(lane.hours_to_cutoff, lane.hours[lane.ends])

    def test_words_say_the_band_the_life_and_why(self) -> None:
        found = lanes("cds-series", ("PR44", "SR44 + schottky", "LR44"))
        air, diode, alkaline = (reason(one, found) for one in found.lanes)
        self.assertIn("Zinc-air 1.4 V (PR44): within 0.15 stop; 6 to 10 weeks once opened", air)
        self.assertIn("within 0.21 stop", diode)
        self.assertIn("takes the voltage away", diode)
        self.assertIn("stop low", alkaline)
        bridge = lanes("cds-bridge", ("LR44",), AskedLights(1.35, 2.0, 16.0))
        self.assertIn("Leave it", reason(bridge.lanes[0], bridge))

    def test_one_scale_drawn_at_one_temperature(self) -> None:
        """On a stiff supply at the design voltage all error is the device's own: none where its scale was drawn."""
        found = lanes("silicon-lamps", ("supply 6 V",), AskedLights(6.0, 4.0, 12.0, (20.0, 40.0)))
        cool, warm = (float(np.nanmax(np.abs(error.error_stops))) for error in found.lanes[0].errors)
        self.assertLess(cool, 1e-6)
        self.assertGreater(warm, 0.3)
        alone = Reader(device_of(circuit_from(TEXTS["silicon-lamps"])), found.asked, 40.0)
        drawn = Reader(device_of(circuit_from(TEXTS["silicon-lamps"])), found.asked, 20.0)
        moved = np.abs(alone._lamp_design - drawn._lamp_design)
        self.assertTrue(np.isclose(moved, warm, atol=0.02).any(), "one of its lamps changes so much later")

    def test_the_range_that_is_followed_is_said_first(self) -> None:
        found = lanes("cds-series", ("SR44 + schottky",), AskedLights(1.35, 0.0, 14.0))
        self.assertRegex(reason(found.lanes[0], found), r"follows Ev 0 to \d+ alone, there ")
        self.assertRegex(error_short(found.lanes[0], found), r"^follows Ev 0 to \d+ alone, there ")

    def test_an_error_belongs_to_the_light_that_it_is_shown_in(self) -> None:
        """A meter that reads 1.5 high: at the mark 10.5 it is so in the light of Ev 9."""
        marks = np.arange(5.0, 15.0)
        off = 1.5 + 0.1 * (marks - 10.5)
        by_light = at_lights(marks, off[None])[0]
        self.assertAlmostEqual(float(by_light[4]), 1.5, places=6)
        self.assertTrue(np.isnan(by_light[-1]), "no mark is left there")

    def test_a_span_is_named_where_only_a_part_is_within(self) -> None:
        found = lanes("cds-series", ("SR44 + silicon",))
        self.assertRegex(error_words(found.lanes[0], found), r"within [\d.]+ stop up to Ev \d, elsewhere [\d.]+ stop low")


if __name__ == "__main__":
    unittest.main()
