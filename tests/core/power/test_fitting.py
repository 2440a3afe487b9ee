"""Whether a diode was fitted right: each way it can go, and whether the chance that is stated is true."""

import math
import unittest

from bench.power import fitted_truth
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import Port, device_of
from violet_dial.core.power.feeds import read_choice
from violet_dial.core.power.fitting import PRIOR, FitReadout, check_fitting, expected_v, steps_of
from violet_dial.core.power.meter_error import AskedLights
from violet_dial.services.circuits import circuit_from, templates

TEXT = next(one.text for one in templates() if one.stem == "cds-series")
CHOICE = read_choice("SR44 + schottky")
ASKED = AskedLights(1.35, 0.0, 8.0, most_v=1.8)


class Fitted(unittest.TestCase):
    def setUp(self) -> None:
        self.port = Port(device_of(circuit_from(TEXT)).at(20.0))

    def verdict(self, *reads: FitReadout) -> str | None:
        return check_fitting(self.port, ASKED, CHOICE, reads).verdict

    def test_each_way_it_can_have_gone(self) -> None:
        right = expected_v(self.port, ASKED, CHOICE, FitReadout("behind", 1.0, 1.56, 6.0), 20.0)
        self.assertEqual(self.verdict(FitReadout("behind", round(right, 3), 1.56, 6.0)), "fitted right")
        self.assertEqual(self.verdict(FitReadout("behind", 1.56, 1.56, 6.0)), "shorted")
        self.assertEqual(self.verdict(FitReadout("behind", 0.72, 1.56, 6.0)), "none of these")
        self.assertEqual(
            self.verdict(FitReadout("behind", 0.01, 1.56, 6.0), FitReadout("forward", math.inf), FitReadout("reverse", 0.25)),
            "wrong way round",
        )
        self.assertEqual(
            self.verdict(FitReadout("behind", 0.0, 1.56, 6.0), FitReadout("forward", math.inf), FitReadout("reverse", math.inf)),
            "open",
        )
        silicon = expected_v(self.port, ASKED, read_choice("SR44 + silicon"), FitReadout("behind", 1.0, 1.56, 6.0), 20.0)
        self.assertEqual(
            self.verdict(FitReadout("forward", 0.6), FitReadout("reverse", math.inf), FitReadout("behind", silicon, 1.56, 6.0)),
            "another diode",
        )

    def test_nothing_behind_it_alone_does_not_decide(self) -> None:
        found = check_fitting(self.port, ASKED, CHOICE, [FitReadout("behind", 0.01, 1.56, 6.0)])
        self.assertIsNone(found.verdict)
        self.assertIn("Undecided", found.words)

    def test_before_anything_is_read_it_is_what_is_usual(self) -> None:
        for way, chance in check_fitting(self.port, ASKED, CHOICE, []).chances:
            self.assertAlmostEqual(chance, PRIOR[way])

    def test_what_is_stated_is_true_in_simulation(self) -> None:
        said, right, given = fitted_truth(400)
        self.assertGreater(given, 0.6)
        self.assertLess(abs(said - right), 3 * math.sqrt(said * (1 - said) / (400 * given)) + 0.005)

    def test_a_choice_without_a_diode_and_impossible_figures(self) -> None:
        self.assertRaises(InvalidInput, check_fitting, self.port, ASKED, read_choice("SR44"), [])
        self.assertRaises(InvalidInput, FitReadout, "behind", math.inf, 1.5)
        self.assertRaises(InvalidInput, FitReadout, "forward", -1.0)

    def test_the_band_looks_the_other_way_in_the_other_lead(self) -> None:
        positive, negative = (" ".join(steps_of(CHOICE, lead)) for lead in ("positive", "negative"))
        self.assertIn("away from the battery", positive)
        self.assertIn("towards the battery", negative)
        for text in (positive, negative):
            for word in ("3 mm", "sleeve", "levers", "no solder on a cell"):
                self.assertIn(word, text)
        self.assertEqual(steps_of(read_choice("SR44")), ())


if __name__ == "__main__":
    unittest.main()
