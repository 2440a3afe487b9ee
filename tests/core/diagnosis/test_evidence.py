"""Evidence as typed at the bench: what each line means, what is refused, and that what is said can be typed again."""

import math
import unittest
from dataclasses import replace
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

import violet_dial
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import LOOKS, evidence_words, understand_evidence
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Setting

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"
SERIES = read_spice((CIRCUITS / "cds-series.cir").read_text(encoding="utf-8"))
LAMPS = read_spice((CIRCUITS / "silicon-lamps.cir").read_text(encoding="utf-8"))
NOW = usual_setting(SERIES)


def meant(line: str, now: Setting = NOW) -> Evidence:
    found = understand_evidence(SERIES, line, now).evidence
    assert found is not None
    return found


class Readings(unittest.TestCase):
    def test_figures_and_units(self) -> None:
        for line, test, value in (
            ("clip+ to gnd 1.52 V", "volt", 1.52), ("clip+ gnd 1,52 V", "volt", 1.52), ("clip+ 1.52V", "volt", 1.52),
            ("sw to gnd −80 mV", "volt", -0.08), ("sw to gnd 80 mV", "volt", 0.08), ("m+ to coil+ 2.2 Ω", "ohm", 2.2),
            ("Rser 330 ohm", "ohm", 330.0), ("Rser 0.33k", "ohm", 330.0), ("red wire 38k", "ohm", 38e3),
            ("Rcds 1.2 MΩ", "ohm", 1.2e6), ("red wire OL", "ohm", OVERLOAD_OHM), ("clip+ to lead beeps", "continuity", 1.0),
            ("clip+ to lead no beep", "continuity", 0.0), ("Rser 12 uA", "amp", 12e-6), ("Rser -3 mA", "amp", -3e-3),
        ):  # fmt: skip
            with self.subTest(line):
                found = meant(line)
                self.assertEqual(found.test, test)
                self.assertAlmostEqual(found.value, value, delta=1e-9 * abs(value))

    def test_ohms_are_taken_with_the_cells_out_whatever_stands(self) -> None:
        self.assertEqual(meant("red wire 38k", replace(NOW, supply="battery")).setting.supply, "off")
        self.assertEqual(meant("clip+ to gnd 1.3 V", replace(NOW, supply="battery")).setting.supply, "battery")

    def test_a_part_is_meant_by_name_kind_colour_or_what_it_is_called(self) -> None:
        for words in ("Rwred", "rwred", "red wire", "red"):
            self.assertEqual((meant(f"{words} 5 ohm").plus, meant(f"{words} 5 ohm").minus), ("lead", "sw"), words)
        for words in ("needle", "movement", "meter", "Rmeter"):
            self.assertEqual(meant(f"{words} at 40 %").part, "Rmeter", words)
        with self.assertRaisesRegex(InvalidInput, "red wire \\(Rwred\\), blue wire"):
            meant("wire 5 ohm")  # there are two

    def test_what_is_seen(self) -> None:
        for word, value in LOOKS.items():
            self.assertEqual(meant(f"needle {word}").value, value, word)
        self.assertEqual(meant("needle at 0.4").value, 0.4)
        lamp = understand_evidence(LAMPS, "slow lamp dim", usual_setting(LAMPS)).evidence
        assert lamp is not None
        self.assertEqual((lamp.test, lamp.value), ("seen", 0.5))

    def test_a_sister_unit_is_marked(self) -> None:
        found = meant("sister m+ to gnd 0.30 V")
        self.assertTrue(found.sister)
        self.assertTrue(evidence_words(found).startswith("sister unit, m+ to gnd 300 mV"))

    def test_what_means_nothing_is_refused_with_what_would(self) -> None:
        for line, expected in (
            ("", "points and a figure"), ("clip+ to gnd", "points and a figure"), ("clip+ to nowhere 3 V", "one of gnd"),
            ("Rser dark", "can be seen"), ("clip+ to gnd 12 uA", "the part the current goes through"),
            ("clip+ to gnd 5 uF", "the part the current goes through"), ("S1 sideways", "one of off, on"), ("lift R99", "one of"),
            ("red wire -5 ohm", "0 or more"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, expected):
                understand_evidence(SERIES, line, NOW)
        for value in (math.nan, math.inf):
            with self.assertRaisesRegex(InvalidInput, "finite"):
                Evidence("volt", value, "a", "0")
        with self.assertRaisesRegex(InvalidInput, "in the unit of the reading"):
            Evidence("volt", 1.0, "a", "0", u=-1.0)

    @settings(max_examples=200, deadline=None)
    @given(
        st.sampled_from(["volt", "ohm", "amp", "capacitance", "seen"]),
        st.floats(-11.0, 6.0),
        st.booleans(),
        st.sampled_from(["clip+", "lead", "sw", "m+", "coil+"]),
    )
    def test_what_is_said_can_be_typed_again(self, test: str, decade: float, minus: bool, node: str) -> None:
        value = 10.0**decade * (-1.0 if minus and test in ("volt", "amp") else 1.0)
        if test == "volt":
            value = max(-1e3, min(value, 1e3))
        if test == "seen":
            value = round(10.0 ** min(decade, 0.0), 2)
        part = {"amp": "Rser", "capacitance": "Rser", "seen": "Rmeter"}.get(test, "")
        setting = replace(NOW, supply="off") if test == "ohm" else NOW
        points = ("", "") if part else (node, "0")
        before = Evidence(test, value, *points, part=part, setting=setting)  # type: ignore[arg-type]
        words = evidence_words(replace(before, setting=Setting()))
        again = meant(words)
        self.assertEqual((again.test, again.plus, again.minus, again.part), (test, *points, part), words)
        tolerance = 0.005 if test == "seen" else 1e-3 * abs(value) + 1e-15
        self.assertAlmostEqual(again.value, value, delta=tolerance, msg=words)


class Standing(unittest.TestCase):
    def after(self, *lines: str) -> Setting:
        now = NOW
        for line in lines:
            typed = understand_evidence(SERIES, line, now)
            self.assertIsNone(typed.evidence)
            now = typed.setting
        return now

    def test_switch_supply_light_state_and_lifted_parts(self) -> None:
        self.assertEqual(dict(self.after("S1 off").switches)["s1"], "off")
        self.assertEqual(self.after("cells out").supply, "off")
        self.assertEqual(self.after("cells out", "on bench supply").supply, "bench")
        self.assertEqual(self.after("battery out", "battery in").supply, "battery")
        self.assertEqual(self.after("250 lx").light_lx, 250.0)
        self.assertAlmostEqual(self.after("light 1k lx").light_lx, 1000.0)
        self.assertTrue(self.after("light 1k lx").is_light_said)
        self.assertFalse(self.after("bent").is_light_said)
        for line in ("-5 lx", "abc lx by the room", "300 lx by the moon"):
            with self.assertRaises(InvalidInput):
                self.after(line)
        said = {"300 lx by the room": "300 lx by the room", "300 lx lamp": "300 lx by the lamp", "300 lx": "300 lx"}
        for line, words in said.items():
            self.assertEqual(self.after("500 lx by the room", line).words.split(", ")[-1], words)
        self.assertEqual(self.after("bent", "cold").state, ("bent", "cold"))
        self.assertEqual(self.after("bent", "cold", "straight").state, ("cold",))
        self.assertEqual(self.after("lift Rtrim", "lift rser").disconnected, ("Rtrim", "Rser"))
        self.assertEqual(self.after("lift Rtrim", "lift Rser", "refit Rtrim").disconnected, ("Rser",))

    def test_a_change_is_said(self) -> None:
        self.assertEqual(understand_evidence(SERIES, "S1 off", NOW).words, "now: S1 off")
        self.assertIn("supply out", understand_evidence(SERIES, "cells out", NOW).words)
