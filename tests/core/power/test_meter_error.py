"""The error in stops: a series meter beside its loop worked by hand, a bridge that does not mind, a time that halves."""

import unittest

import numpy as np

from tests.core.power import series
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import Points, Port, device_of
from violet_dial.core.power.fed import light_where, value_at
from violet_dial.core.power.feeds import read_choice
from violet_dial.core.power.meter_error import AskedLights, Reader
from violet_dial.services.circuits import circuit_from, templates

TEXTS = {one.stem: one.text for one in templates()}
CHARGES = (1.0, 0.6, 0.1)


def reader(stem: str, asked: AskedLights, temperature_c: float = 20.0) -> Reader:
    return Reader(device_of(circuit_from(TEXTS[stem])), asked, temperature_c)


class Series(unittest.TestCase):
    def test_as_worked_by_hand(self) -> None:
        asked = AskedLights(1.35, 0.0, 8.0, left=CHARGES, most_v=1.9)
        for temperature_c in (-10.0, 20.0, 40.0):
            one = reader("cds-series", asked, temperature_c)
            for text in ("LR44", "SR44", "PR44", "MR9", "SR44 + schottky", "SR44 + silicon + 220 ohm", "SR44 + adapter 0.2"):
                choice = read_choice(text)
                ours = one.errors(choice).error_stops
                for q, left in enumerate(CHARGES):
                    for m, mark in enumerate(asked.marks):
                        if not np.isnan(ours[q, m]):
                            hand = series.error_stops(choice, left, temperature_c, float(mark))
                            self.assertAlmostEqual(ours[q, m], hand, delta=2e-3, msg=f"{text} {left} {temperature_c} {mark}")
                self.assertGreaterEqual(int(np.isfinite(ours).sum()), 8 * len(CHARGES))

    def test_more_volts_read_high_and_fewer_low(self) -> None:
        one = reader("cds-series", AskedLights(1.35, 0.0, 8.0, left=(1.0,), most_v=1.9))
        high, low, right = (one.errors(read_choice(f"supply {volts} V")).error_stops for volts in (1.55, 1.2, 1.35))
        self.assertTrue((high[:, :8] > 0.2).all() and (low[:, :8] < -0.2).all())
        self.assertLess(np.nanmax(np.abs(right)), 1e-4)

    def test_a_needle_at_its_stop_follows_nothing(self) -> None:
        found = (
            reader("cds-series", AskedLights(1.35, 2.0, 16.0, left=(1.0,), most_v=1.9)).errors(read_choice("SR44")).error_stops
        )
        self.assertTrue(np.isfinite(found[0, :7]).all() and np.isnan(found[0, 7:]).all())


class Others(unittest.TestCase):
    def test_a_bridge_does_not_mind_and_says_so_by_its_needle_alone(self) -> None:
        """The same circuit without any name or place noted but the kinds: read at its null because the needle changes sign."""
        bare = "\n".join(line for line in TEXTS["cds-bridge"].splitlines() if not line.startswith("*:"))
        bare = bare.replace(
            ".end", "*: Vbat kind=battery\n*: Rcds kind=cds r10=200k\n*: Rmeter kind=movement\n*: Rasa kind=trimmer\n.end"
        )
        asked = AskedLights(1.35, 2.0, 16.0, left=CHARGES, most_v=1.9)
        for text in (TEXTS["cds-bridge"], bare, bare.replace("*: Rasa kind=trimmer\n", "")):
            one = Reader(device_of(circuit_from(text)), asked, 20.0)
            self.assertEqual(one.mode, "null")
            for choice in ("LR44", "SR44", "SR44 + schottky"):
                self.assertLess(one.errors(read_choice(choice)).worst, 0.01)

    def test_half_the_light_is_one_stop_longer(self) -> None:
        port = Port(device_of(circuit_from(TEXTS["silicon-shutter"])))
        place = port.device.places("time")[0]
        shown = port.points(Points(np.array([7.0, 8.0, 9.0]), np.full(3, 6.0))).shown[:, place]
        self.assertTrue(np.allclose(np.log2(shown[1:] / shown[:-1]), 1.0, atol=0.01))

    def test_a_stack_that_sags_lets_the_magnet_go(self) -> None:
        one = reader("silicon-shutter", AskedLights(6.0, 5.0, 12.0, left=(1.0, 0.5, 0.1), most_v=6.7))
        self.assertTrue(one.errors(read_choice("4SR44")).holds.all())
        self.assertFalse(one.errors(read_choice("supply 6 V 400 ohm")).holds.any())
        self.assertAlmostEqual(
            one.drop_out_v(), 0.015 * 180 + 0.1, delta=0.1
        )  # hold current through its coil, and the transistor

    def test_what_cannot_be_judged_is_refused(self) -> None:
        for stem, words in (("selenium-movement", "a battery"), ("motor-transfer", "follows the light")):
            self.assertRaisesRegex(InvalidInput, words, device_of, circuit_from(TEXTS[stem]))
        self.assertRaisesRegex(InvalidInput, "Vbat", device_of, circuit_from(TEXTS["cds-series"]), None, "Vother")
        apart = TEXTS["cds-series"].replace("Rcds cell+ m+ 10k", "Rcds cell+ 0 10k\nRlink cell+ m+ 1k")
        stiff = apart.replace("Rser swo cell+ 330", "Rser swo cell+ 1u")  # the cell beside the needle, not before it
        self.assertRaisesRegex(
            InvalidInput, "nothing changes", Reader, device_of(circuit_from(stiff)), AskedLights(1.35, 0.0, 4.0), 20.0
        )
        for wrong in ({"design_v": 0.0}, {"design_v": 1.35, "ev_from": 9.0, "ev_to": 3.0}, {"design_v": 1.35, "left": (-0.1,)},
                      {"design_v": 1.35, "temperatures_c": (90.0,)}):  # fmt: skip
            self.assertRaises(InvalidInput, AskedLights, **wrong)


class Between(unittest.TestCase):
    def test_cubics_give_back_a_smooth_curve(self) -> None:
        grid = np.linspace(-4.0, 20.0, 49)
        curve = np.tanh((grid - 8) / 5) + 0.02 * grid
        at = np.array([0.3, 7.7, 12.1])
        self.assertTrue(np.allclose(value_at(curve, grid, at), np.tanh((at - 8) / 5) + 0.02 * at, atol=2e-5))
        back = light_where(curve[None], grid, np.tanh((at - 8) / 5) + 0.02 * at, at)
        self.assertTrue(np.allclose(back[0], at, atol=2e-4))

    def test_nothing_where_the_figure_is_never_met(self) -> None:
        grid = np.linspace(0.0, 10.0, 21)
        self.assertTrue(np.isnan(light_where(grid[None], grid, np.array([40.0]), np.array([5.0]))).all())


if __name__ == "__main__":
    unittest.main()
