"""The drawer: every part and every pair beside the loop worked by hand, the trimmer beside a search by SciPy."""

import itertools
import unittest

import numpy as np

from tests.core.power import series
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.design import LIFE, InDrawer, combinations, design, design_words, trim, with_parts
from violet_dial.core.power.device import device_of
from violet_dial.core.power.feeds import Diode, read_choice
from violet_dial.core.power.lanes import Judge
from violet_dial.core.power.meter_error import AskedLights
from violet_dial.services.circuits import circuit_from, templates

TEXT = next(one.text for one in templates() if one.stem == "cds-series")
ASKED = AskedLights(1.35, 0.0, 7.0)


def drawer(seed: int, count: int = 40) -> list[InDrawer]:
    rng = np.random.default_rng(seed)
    half = count // 2
    diodes = [
        InDrawer(f"d{n}", Diode(f"d{n}", 10 ** rng.uniform(-11, -5), rng.uniform(1.0, 2.0), rng.uniform(0, 20)))
        for n in range(half)
    ]
    return diodes + [InDrawer(f"r{n}", ohm=10 ** rng.uniform(0.5, 5), count=1 + n % 2) for n in range(half)]


class Drawer(unittest.TestCase):
    def setUp(self) -> None:
        self.judge = Judge(device_of(circuit_from(TEXT)), ASKED, [read_choice("SR44")])

    def test_the_same_answer_as_brute_force_over_forty_parts(self) -> None:
        for seed, cell in ((1, "SR44"), (2, "LR44"), (3, "SR44")):
            parts, choice = drawer(seed), read_choice(cell)
            found = design(self.judge.readers, choice, parts)
            worst = {
                places: series.worst_stops(with_parts(choice, [parts[one] for one in places]), ASKED, LIFE)
                for places in combinations(parts)
            }
            best = min(worst, key=lambda places: worst[places])
            with self.subTest(seed=seed):
                self.assertEqual(found.tried, len(worst))
                self.assertEqual(found.parts, tuple(parts[one].name for one in best))
                self.assertAlmostEqual(found.worst_stops, worst[best], delta=1e-3)
                self.assertAlmostEqual(found.plain_stops, worst[()], delta=1e-3)

    def test_each_part_as_often_as_there_is_of_it(self) -> None:
        every = combinations([InDrawer("a", ohm=10.0, count=1), InDrawer("b", ohm=20.0, count=2)])
        self.assertEqual(every, [(), (0,), (1,), (0, 1), (1, 1)])
        whole = [InDrawer(f"r{n}", ohm=1.0 + n) for n in range(40)]
        self.assertEqual(len(combinations(whole)), 1 + 40 + 40 + len(list(itertools.combinations(range(40), 2))))

    def test_an_empty_drawer_and_impossible_parts_are_refused(self) -> None:
        self.assertRaises(InvalidInput, design, self.judge.readers, read_choice("SR44"), [])
        self.assertRaises(InvalidInput, InDrawer, "r", None, -5.0)
        self.assertRaises(InvalidInput, InDrawer, "r", None, 5.0, 0)

    def test_the_trimmer_leaves_less_than_where_it_stands(self) -> None:
        choice = read_choice("SR44")
        found = trim(self.judge, choice)
        assert found is not None
        plain = float(self.judge.readers[0].worst_of([choice], np.array(LIFE))[0])
        self.assertLess(found.worst_stops, 0.5 * plain)
        for ohm in (found.ohm * 0.8, found.ohm * 1.25):
            turned = self.judge.readers[0].turned("Rtrim", ohm)
            self.assertGreater(float(turned.worst_of([choice], np.array(LIFE))[0]), found.worst_stops)
        self.assertIn("Rtrim", design_words(design(self.judge.readers, choice, drawer(1, 4)), found))

    def test_a_bridge_has_nothing_to_trim_for(self) -> None:
        text = next(one.text for one in templates() if one.stem == "cds-bridge")
        judge = Judge(device_of(circuit_from(text)), AskedLights(1.35, 2.0, 14.0), [read_choice("SR44")])
        self.assertIsNone(trim(judge, read_choice("SR44")))


if __name__ == "__main__":
    unittest.main()
