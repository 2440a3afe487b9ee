"""Findings, the function walk, the gate and the hunt. Facts of the trade: common practice, no source."""

import unittest
from dataclasses import replace
from pathlib import Path
from typing import get_args
from xml.etree import ElementTree

import violet_dial
from violet_dial.core.errors import InvalidInput
from violet_dial.core.receiving.findings import FINDING_KINDS, MEANINGS
from violet_dial.core.receiving.gate import Gate, gate_points
from violet_dial.core.receiving.places import SPOTS, VIEWS, DeviceKind, hunting_list, nearest_spot, spot_named, spots_of
from violet_dial.core.receiving.walk import Trial, acts_for, find_clashes

KINDS: tuple[DeviceKind, ...] = get_args(DeviceKind)


class Places(unittest.TestCase):
    def test_every_view_has_an_outline_and_every_place_lies_on_it(self) -> None:
        outlines = Path(violet_dial.__file__).parent / "assets" / "outlines"
        for kind in KINDS:
            stem = "board" if kind == "other" else kind.replace(" ", "-")
            for view in VIEWS:
                root = ElementTree.parse(outlines / f"{stem}-{view}.svg").getroot()
                self.assertTrue(root.attrib["viewBox"].startswith("0 0 "))
                names = [spot.name for spot in spots_of(kind, view)]
                self.assertEqual(len(names), len(set(names)))
                for spot in spots_of(kind, view):
                    self.assertTrue(0.02 <= spot.x <= 0.98 and 0.02 <= spot.y <= 0.98, (kind, spot))
                    self.assertEqual(nearest_spot(kind, view, spot.x, spot.y), spot)

    def test_named_by_the_beginning(self) -> None:
        self.assertEqual(spot_named("reflex", "acc")[1].name, "accessory shoe")
        with self.assertRaisesRegex(InvalidInput, "rewind knob, rewind button"):
            spot_named("reflex", "rewind")
        self.assertIn("accessory shoe", [spot.name for spot in SPOTS["reflex"]["top"]])


class Findings(unittest.TestCase):
    def test_each_kind_says_what_it_means(self) -> None:
        self.assertEqual(set(MEANINGS), set(FINDING_KINDS))
        for meaning in MEANINGS.values():
            self.assertTrue(meaning.tracing)
            self.assertGreaterEqual(meaning.weight, 1.0)
        self.assertIn("hazardous until known", MEANINGS["crystals"].caution)
        self.assertIn("caustic", MEANINGS["white crust"].caution)
        self.assertIn("wire", MEANINGS["green crust"].suspects)


class Walk(unittest.TestCase):
    def test_acts_fit_the_device(self) -> None:
        self.assertIn("self-timer", [act.name for act in acts_for("rangefinder compact")])
        self.assertNotIn("battery test", [act.name for act in acts_for("hand meter", selenium=True)])

    def test_clashes(self) -> None:
        needle = Trial("needle under light", "Ev 6", "battery", "works")
        cases = (
            ((needle, Trial("battery test", "", "battery", "dead")), "battery test is dead"),
            ((Trial("lamps", "slow", "bench supply", "works"), Trial("lamps", "slow", "battery", "dead")), "not on cells"),
            ((Trial("release", "1/30", "battery", "dead"), Trial("release", "1/125", "battery", "works")), "1/30 fails"),
            ((needle, Trial("needle under a cap", "", "battery", "wrong")), "fall back"),
        )
        for trials, words in cases:
            self.assertIn(words, " ".join(clash.title for clash in find_clashes(trials)))
        self.assertEqual(find_clashes((needle,)), ())

    def test_the_newest_result_counts(self) -> None:
        dead, well = Trial("battery test", "", "battery", "dead"), Trial("battery test", "", "battery", "works")
        needle = Trial("needle under light", "", "battery", "works")
        self.assertEqual(find_clashes((needle, dead, well)), ())


class SafetyGate(unittest.TestCase):
    def test_points_close_one_by_one(self) -> None:
        gate = Gate(has_flash=True)
        self.assertEqual([point.open for point in gate_points(gate, "instant camera")], [True, True, True])
        gate = replace(gate, film="nothing inside", battery="out", measured_v=48.0)
        self.assertEqual([point.open for point in gate_points(gate, "instant camera")], [False, False, True])
        gate = replace(gate, measured_v=2.0)
        self.assertFalse(any(point.open for point in gate_points(gate, "instant camera")))

    def test_it_never_calls_anything_safe(self) -> None:
        for measured in (None, 0.0, 400.0):
            for point in gate_points(Gate("nothing inside", "out", True, measured_v=measured), "instant camera"):
                self.assertNotIn("safe", point.advice.lower())
        last = gate_points(Gate(has_flash=True, measured_v=0.0), "board")[-1]
        self.assertIn("measure again", last.advice)


class Hunt(unittest.TestCase):
    def test_cheapest_first_and_gravity_heeded(self) -> None:
        for kind in KINDS:
            for view in VIEWS:
                minutes = [hunt.minutes for hunt in hunting_list(kind, view)]
                self.assertEqual(minutes, sorted(minutes))
        shoe = [hunt.place for hunt in hunting_list("rangefinder compact", "top")]
        self.assertLess(shoe.index("under the base plate"), shoe.index("under the top cover, on the advance side"))


if __name__ == "__main__":
    unittest.main()
