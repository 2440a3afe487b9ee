"""A swing of a regulated supply points to the capacitor that steadies it; elsewhere it says nothing."""

import unittest

import numpy as np

from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.diagnosis.recorded import SWINGS, regulated
from violet_dial.core.errors import InvalidInput
from violet_dial.services.circuits import circuit_from, templates

CIRCUIT = circuit_from(next(one.text for one in templates() if one.stem == "regulator-clock"))


class Swings(unittest.TestCase):
    def chances(self, *lines: str) -> dict[str, float]:
        setting = usual_setting(CIRCUIT)
        evidence = tuple(understand_evidence(CIRCUIT, line, setting).evidence for line in lines)
        found = Diagnostician().diagnose(Case(CIRCUIT, (evidence,)))  # type: ignore[arg-type]
        return {one.name: one.probability for one in found.suspects}

    def test_what_steadies_a_point(self) -> None:
        self.assertEqual(regulated(CIRCUIT, "vreg"), ("Cstab",))
        self.assertEqual(regulated(CIRCUIT, "vregb"), ("Cstab",))
        self.assertEqual(regulated(CIRCUIT, "clip+"), ())

    def test_a_sawtooth_points_to_the_capacitor_and_a_flat_line_away_from_it(self) -> None:
        before = self.chances()
        swings = self.chances(f"vreg to gnd sawtooth {SWINGS * 2.6:.2f} V")
        still = self.chances("vreg flat")
        self.assertEqual(max(swings, key=lambda name: swings[name]), "Cstab open")
        self.assertGreater(swings["Cstab open"], 10 * before.get("Cstab open", 1e-4))
        self.assertLess(still.get("Cstab open", 0.0), before.get("Cstab open", 0.0) + 1e-9)

    def test_where_no_regulator_feeds_it_nothing_is_said(self) -> None:
        before, after = self.chances(), self.chances("clip+ to gnd sawtooth 1.1 V")
        for name, chance in before.items():
            self.assertTrue(np.isclose(after.get(name, 0.0), chance, atol=0.02), name)

    def test_a_clock_that_has_gone_points_to_its_way_and_its_chip(self) -> None:
        found = self.chances("vreg 2.6 V", "no clock at clkin")
        best = sorted(found, key=lambda name: -found[name])[:6]
        self.assertTrue({"Rclk open", "Rtrack open", "Xb.Bout no output"} & {*best}, best)
        self.assertNotIn("Cstab open", best)
        there = self.chances("vreg 2.6 V", "clock at clkin 64 Hz")
        self.assertLess(there.get("Rclk open", 0.0), found.get("Rclk open", 0.0))

    def test_a_device_that_wakes_by_itself_has_lost_what_holds_it_off(self) -> None:
        found = self.chances("wakes by itself")
        best = sorted(found, key=lambda name: -found[name])[:6]
        self.assertTrue({"Rbe open", "Rbe too high", "Qon collector to emitter leaky"} & {*best}, best)
        asleep = self.chances("stays asleep")
        self.assertLess(asleep.get("Rbe open", 0.0), found.get("Rbe open", 1.0))

    def test_a_supply_that_dips_when_the_magnet_draws_points_to_what_is_in_its_way(self) -> None:
        circuit = circuit_from(next(one.text for one in templates() if one.stem == "silicon-shutter"))
        stands = usual_setting(circuit).with_switch("s2", "pressed")
        evidence = understand_evidence(circuit, "rail dips 1.4 V", stands).evidence
        assert evidence is not None
        self.assertEqual((evidence.test, evidence.value), ("dip", 1.4))
        found = Diagnostician().diagnose(Case(circuit, ((evidence,),)))
        best = {one.name for one in found.suspects[:8]}
        self.assertTrue(best & {"Rs2 high resistance", "Rclip high resistance", "Vbat high internal resistance"}, best)
        small = Predictor(circuit, (Hypothesis((), 0.0),), draws=0).of(evidence)
        self.assertLess(float(small.mean[0]), 0.1)  # 28 mA through a few tenths of an ohm

    def test_how_it_is_typed(self) -> None:
        setting = usual_setting(CIRCUIT)
        typed = understand_evidence(CIRCUIT, "vreg to gnd ripple 20 mV", setting)
        assert typed.evidence is not None
        self.assertEqual((typed.evidence.test, typed.evidence.value), ("ripple", 0.02))
        self.assertIn("swings 20 mV", typed.words)
        for line, value, words in (
            ("no clock between clk and clkin", 0.0, "no clock"),
            ("clock at clkin 51 Hz", 1.0, "clock 51 Hz"),
        ):
            typed = understand_evidence(CIRCUIT, line, setting)
            assert typed.evidence is not None
            self.assertEqual((typed.evidence.test, typed.evidence.value), ("clock", value))
            self.assertIn(words, typed.words)
        for line in ("vreg sawtooth 1.1 A", "no clock at nowhere", "no clock at clkin 51 Hz"):
            with self.assertRaises(InvalidInput):
                understand_evidence(CIRCUIT, line, setting)


if __name__ == "__main__":
    unittest.main()
