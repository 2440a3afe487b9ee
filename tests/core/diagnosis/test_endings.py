"""Where tracing ends: a fault that is proved is to be put right and "no fault" never won in its stead; a bench supply clears what
lies before it; what is wrong with the whole is said with the suspects, on the page and by the command.

Bench supply in place of the cell, working on it: the trade's standard proof of a bad cell; common practice, no source.
"""

import json
import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

import violet_dial
from tests.cli.test_power import run
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import LIGHTS, usual_setting
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.case import Case, Diagnosis
from violet_dial.core.diagnosis.explain import warnings_of
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.likelihood import told_once
from violet_dial.core.diagnosis.next_test import rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.practice.bench import FaultyDevice
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Fault
from violet_dial.stations.trace.said import ending

SHIPPED = Path(violet_dial.__file__).parent / "assets" / "circuits"


def shipped(stem: str) -> Circuit:
    return read_spice((SHIPPED / f"{stem}.cir").read_text(encoding="utf-8"))


def diagnosed(circuit: Circuit, *evidence: Evidence) -> Diagnosis:
    return Diagnostician().diagnose(Case(circuit, (evidence,)))


class Left(unittest.TestCase):
    def test_no_fault_leads_by_its_own_chance_alone(self) -> None:
        """A dead cell that answers for 0.9 is no sound device, though no test of the plan told them apart."""
        circuit = shipped("cds-bridge")
        dim = replace(usual_setting(circuit), light_lx=10.0)
        found = diagnosed(circuit, Evidence("volt", 0.05085, "top", "left", setting=dim),
                          Evidence("amp", 1.0396e-4, part="Vbat", setting=replace(dim, supply="bench")))  # fmt: skip
        ranking = rank_tests(found, dim, Reach(taken=found.case.now))
        self.assertEqual(found.suspects[0].name, "Vbat dead")
        self.assertGreater(found.suspects[0].probability, 100 * found.healthy)
        self.assertEqual(ranking.settled, ())
        self.assertTrue(ranking.left or ranking.tests)
        self.assertFalse(any({"no fault", "Vbat dead"} <= {*group} for group in ranking.groups), "the readings have parted them")

    def test_the_fault_that_is_left_is_to_be_put_right(self) -> None:
        circuit = shipped("cds-series")
        now = usual_setting(circuit)
        found = diagnosed(
            circuit, Evidence("volt", 1.337, "sw", "0", setting=now), Evidence("volt", 0.001, "swo", "0", setting=now),
            Evidence("ohm", OVERLOAD_OHM, "sw", "swo", setting=replace(now, supply="off")),
        )  # fmt: skip
        ranking = rank_tests(found, now, Reach(taken=found.case.now))
        self.assertEqual((ranking.left, ranking.tests, ranking.settled), ("Rs1 stuck open", (), ()))
        title, why = ending(found, ranking)
        self.assertEqual(title, "Put right: meter switch: stuck open")
        self.assertRegex(why, r"alone explains the readings, 9\d\.\d ?%")


class OnInsulation(unittest.TestCase):
    def test_what_only_insulation_holds_clears_nobody(self) -> None:
        """Behind an open coil all floats: what a meter shows across an open switch hangs on insulation that nobody knows."""
        circuit = shipped("cds-two-range")
        lit = usual_setting(circuit).lit(10_000.0)
        none = Evidence("volt", -0.0003, "common", "low", setting=lit)
        for volts in (0.0289, 0.07):
            found = diagnosed(circuit, none, Evidence("volt", volts, "common", "test", setting=lit.with_switch("s1", "off")))
            chance = {one.name: one.probability for one in found.suspects}
            self.assertGreater(chance["Rmeter open coil"], 0.05, volts)


class OnABenchSupply(unittest.TestCase):
    def test_a_weak_cell_is_proved_by_working_on_a_supply(self) -> None:
        """The cell's, its clip's and its lead's chances rise; what lies behind is cleared."""
        for stem, plain in (
            ("cds-series", Evidence("seen", 0.0, part="Rmeter")), ("regulator-clock", Evidence("volt", 0.0, "vin", "0"))
        ):  # fmt: skip
            with self.subTest(stem):
                circuit = shipped(stem)
                now = usual_setting(circuit)
                ask = replace(plain, setting=now)
                device = FaultyDevice(circuit, (Fault("Vbat", "weak", 0.6),), np.random.default_rng(2))
                weak, well = device.read(ask), device.read(replace(ask, setting=replace(now, supply="bench")))
                before, after = diagnosed(circuit, weak), diagnosed(circuit, weak, well)
                chance = {one.name: one.probability for one in before.suspects}
                self.assertEqual(after.suspects[0].name, "Vbat weak")
                self.assertGreater(after.suspects[0].probability, 1.1 * chance["Vbat weak"])
                self.assertLess(sum(one.probability for one in after.suspects if "touches chassis" in one.name), 0.05)

    def test_a_broken_lead_still_shows_where_the_supply_is_before_it(self) -> None:
        circuit = shipped("cds-series")
        now = usual_setting(circuit)
        device = FaultyDevice(circuit, (Fault("Rwred", "open"),), np.random.default_rng(2))
        look = Evidence("seen", 0.0, part="Rmeter", setting=now)
        asks = (look, replace(look, setting=replace(now, supply="bench")), Evidence("volt", 0.0, "sw", "0", setting=now))
        found = diagnosed(circuit, *(device.read(ask) for ask in asks))
        self.assertTrue({"Rwred open", "Rclip open"} & {one.name for one in found.suspects[:3]})

    def test_no_current_before_the_supply_accuses_nothing_behind_it(self) -> None:
        """Clipped on behind the clip and the lead, nothing drops across these, whatever is wrong: it may not be asked there."""
        circuit = shipped("motor-transfer")
        stands = replace(usual_setting(circuit), switches=(("s1", "pressed"), ("s2", "home")))
        on_bench = replace(stands, supply="bench")
        weak = Evidence("amp", 0.0433, part="Vbat", setting=stands)
        before = diagnosed(circuit, weak)
        after = diagnosed(circuit, weak, Evidence("volt", 0.0011, "clip+", "lead", setting=on_bench))
        for name in ("Rs1 high resistance", "Vbat high internal resistance"):
            was, now = ({one.name: one.probability for one in found.suspects}[name] for found in (before, after))
            self.assertLess(abs(now - was), 0.1, name)
        asks = [test.ask for test in rank_tests(before, on_bench, Reach()).tests if test.ask.setting.supply == "bench"]
        self.assertTrue(asks)
        self.assertFalse([ask for ask in asks if {"clip+", "lead"} & {ask.plus, ask.minus}])

    def test_a_cell_of_too_many_volts(self) -> None:
        """A fresh 1.55 V cell in a meter made for 1.35 V."""
        circuit = shipped("cds-series")
        now = usual_setting(circuit)
        found = diagnosed(circuit, Evidence("volt", 1.55, "clip+", "0", setting=now))
        self.assertEqual(found.suspects[0].name, "Vbat overvoltage")


class InSomeLight(unittest.TestCase):
    """A sound selenium meter at 250 lx."""

    def setUp(self) -> None:
        self.circuit = shipped("selenium-movement")
        self.now = usual_setting(self.circuit)
        device = FaultyDevice(self.circuit, (), np.random.default_rng(3))
        ask = Evidence("seen", 0.0, part="Rmeter", setting=self.now.lit(250.0))
        self.seen = replace(ask, value=device.true(ask))

    def test_a_light_that_was_not_said_accuses_nobody(self) -> None:
        unsaid = replace(self.seen, setting=self.now)
        for repeats in (1, 3):  # what the light is off by is the same in all
            found = diagnosed(self.circuit, *(unsaid,) * repeats)
            self.assertLess(found.suspects[0].probability, 0.3, repeats)
            self.assertGreater(found.healthy, 0.04, repeats)
        self.assertGreater(diagnosed(self.circuit, self.seen).healthy, 2 * found.healthy, "said, it speaks for a sound one")
        wrong = diagnosed(self.circuit, replace(self.seen, setting=self.now.lit(1000.0)))
        self.assertLess(wrong.healthy, found.healthy / 3, "said wrongly, it does not")

    def test_a_light_by_the_room_may_be_off_and_is_off_in_every_reading_alike(self) -> None:
        """250 lx taken for 1,000 by the eye."""
        asks = (self.seen, replace(self.seen, test="volt", value=0.0, part="", plus="cell", minus="0"))
        device = FaultyDevice(self.circuit, (), np.random.default_rng(3))
        read = [replace(ask, value=device.true(ask)) for ask in asks]
        sound = {}
        for by in ("room", "lamp", "lux meter"):
            found = diagnosed(self.circuit, *(replace(one, setting=self.now.lit(1000.0, by)) for one in read))
            sound[by] = found.healthy / max(one.probability for one in found.suspects)
        self.assertGreater(sound["room"], 0.15, "the room may be so far off")
        self.assertGreater(sound["room"], 5 * sound["lamp"])
        self.assertGreater(sound["lamp"], sound["lux meter"])
        rightly = diagnosed(self.circuit, *(replace(one, setting=self.now.lit(250.0)) for one in read))
        both = diagnosed(self.circuit, *(replace(one, setting=self.now.lit(1000.0, "room")) for one in read), read[0])
        self.assertGreater(both.healthy, 0.9 * rightly.healthy, "what the eye took wrongly is no other lamp's error")

    def test_what_a_light_moves_is_what_the_solver_finds_in_a_brighter_one(self) -> None:
        for stem, look in (("selenium-movement", ("cell", "0")), ("cds-series", ("m+", "0")), ("cds-bridge", ("left", "right"))):
            with self.subTest(stem):
                circuit = shipped(stem)
                stands, place = usual_setting(circuit).lit(200.0, "lamp"), LIGHTS.index("lamp")
                predictor = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)
                load = predictor.volts(*look, stands).load[0]
                self.assertEqual(len(load), predictor.toleranced + 2)
                up, down = (predictor.volts(*look, stands.lit(200.0 * math.exp(by))).mean[0] for by in (0.2, -0.2))
                self.assertAlmostEqual(load[-2 - len(LIGHTS) + place] / ((up - down) / 2), 1.0, delta=0.05)

    def test_a_lamp_that_a_brighter_light_turns_off_accuses_nobody_in_a_light_by_the_room(self) -> None:
        """At 30 lx the slow lamp of a sound one is lit, at 100 it is dark: a threshold that no straight line shows."""
        circuit = shipped("silicon-lamps")
        dark = Evidence("seen", 0.0, part="Dslow")
        pressed = usual_setting(circuit).with_switch("s2", "pressed")
        sound = {by: diagnosed(circuit, replace(dark, setting=pressed.lit(30.0, by))).healthy for by in ("room", "lux meter")}
        self.assertGreater(sound["room"], 5 * sound["lux meter"])

    def test_next_says_the_light_of_its_test(self) -> None:
        found = diagnosed(self.circuit, replace(self.seen, setting=self.now))
        for test in rank_tests(found, self.now, Reach()).tests:
            self.assertTrue(test.ask.setting.is_light_said, test.ask)

    def test_repeats_that_differ_stand_as_they_are(self) -> None:
        """They are what an open at times shows by."""
        volts = [Evidence("volt", value, "cell", "0", setting=self.now) for value in (0.3, 0.3, 0.0)]
        self.assertEqual(told_once(volts), volts)
        self.assertEqual([one.value for one in told_once([replace(volts[0], value=0.31), volts[0]])], [0.305])


class Warned(unittest.TestCase):
    def test_the_page_and_the_command_say_the_same(self) -> None:
        circuit = shipped("cds-series")
        found = diagnosed(circuit, Evidence("volt", 643.0, "clip+", "0", setting=usual_setting(circuit)))
        said = warnings_of(found)
        self.assertTrue(any("fits badly" in line for line in said), said)
        self.assertTrue(any(line.startswith("Nothing explains") and "643 V" in line for line in said), said)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "readings.csv"
            path.write_text("test,plus,minus,value\nvolt,clip+,0,643 V\n")
            given = ("trace", str(SHIPPED / "cds-series.cir"), "--readings", str(path))
            self.assertEqual(json.loads(run(*given, "--json")[1])["warnings"], list(said))
            plain = run(*given)[1]
            for line in said:
                self.assertIn(line, plain)

    def test_a_table_without_a_usable_row_says_why_to_the_end(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "readings.csv"
            path.write_text("test,plus,minus,value\nvolt,nowhere at all on this board,0,1 V\n")
            status, _, said = run("trace", str(SHIPPED / "cds-series.cir"), "--readings", str(path))
            self.assertEqual(status, 2)
            self.assertRegex(said, r"no usable row.*line 2: point: 'nowhere at all on this board' came, expected one of gnd")

    def test_ohms_with_the_supply_in_are_refused(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "readings.csv"
            path.write_text("test,plus,minus,value,setting\nohm,sw,swo,12,supply=battery\nvolt,clip+,0,1.35 V,\n")
            status, out, _ = run("trace", str(SHIPPED / "cds-series.cir"), "--readings", str(path), "--json")
            found = json.loads(out)
            self.assertEqual((status, found["rejected_count"]), (0, 1))
            self.assertIn("cells out", found["rejected"][0]["reason"])


if __name__ == "__main__":
    unittest.main()
