"""Fault modes on every circuit that ships: chances, words, when they show, and that each changes what can be measured."""

import math
import unittest
from collections import defaultdict
from dataclasses import replace
from pathlib import Path

import numpy as np

import violet_dial
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import kind_of, usual_setting
from violet_dial.core.diagnosis.allowed import useful_settings
from violet_dial.core.diagnosis.expansion import coarse_pairs, leaders_of, pairable
from violet_dial.core.diagnosis.faults import MODES, WEIGHTS, changes_of, faults_of, prior_weight, rebuilt, shows
from violet_dial.core.diagnosis.hypotheses import COMPANY, Hypothesis, Priors, singles_of
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import LEADS, Fault, Setting

CIRCUITS = sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))
HEALTHY = Hypothesis((), 0.0)
TOLD_APART = 1e-4  # V, decades of ohms, or shares of a look: less is not told
TOLD = (*LEADS, "switch", "battery", "movement", "cds", "photocell", "lamp", "led", "solenoid", "motor")


def circuits() -> dict[str, Circuit]:
    return {path.stem: read_spice(path.read_text(encoding="utf-8")) for path in CIRCUITS}


class Modes(unittest.TestCase):
    def test_every_kind_fails_in_ways_that_share_its_weight(self) -> None:
        for kind, modes in MODES.items():
            with self.subTest(kind):
                self.assertAlmostEqual(sum(one.share for one in modes), 1.0, places=9)
                self.assertIn(kind, WEIGHTS)
        self.assertTrue(all(0 < weight < 0.1 for weight in WEIGHTS.values()))

    def test_every_part_that_can_fail_does(self) -> None:
        for stem, circuit in circuits().items():
            failing = {fault.part for fault, _ in faults_of(circuit)}
            for part in circuit.parts:
                kind = kind_of(circuit, part)
                sound = circuit.note(part.name).get("healthy_always")
                if kind not in ("supply", "source", "instrument") and not sound:
                    self.assertIn(part.name, failing, f"{stem}: {part.name} is a {kind}")

    def test_each_fault_of_what_leads_and_shows_can_be_seen(self) -> None:
        """In some useful setting a voltage, resistance or look differs. Leaks to chassis may drown in a motor's few ohms."""
        for stem, circuit in circuits().items():
            faults = [
                one
                for one, _ in faults_of(circuit)
                if kind_of(circuit, circuit.part(one.part)) in TOLD and one.mode != "leaks to chassis"
            ]
            self.assertGreater(len(faults), 30)
            predictor = Predictor(circuit, (HEALTHY, *(Hypothesis((one,), 0.0) for one in faults)))
            seen = [part.name for part in circuit.parts if kind_of(circuit, part) in ("movement", "lamp", "led", "solenoid")]
            apart = np.zeros(len(faults))
            for setting in self.settings_of(circuit):
                block = predictor.block(setting)
                nodes = np.stack([block.across(node, "0") for node in block.circuit.nodes], axis=1)
                apart = np.maximum(apart, np.abs(nodes[1:] - nodes[0]).max(axis=1))
                off = replace(setting, supply="off")
                for node in circuit.nodes if (apart < TOLD_APART).any() else ():
                    ohms = predictor.ohms(node, "0", off).mean if node in predictor.block(off).system.index else np.zeros(1)
                    apart = np.maximum(apart, np.abs(ohms[1:] - ohms[0])) if len(ohms) > 1 else apart
                for name in seen if (apart < TOLD_APART).any() else ():
                    looks = predictor.look(name, setting).mean
                    apart = np.maximum(apart, np.abs(looks[1:] - looks[0]))
            silent = {fault.words for fault, away in zip(faults, apart, strict=True) if away < TOLD_APART}
            self.assertEqual(silent, set(), stem)

    def settings_of(self, circuit: Circuit) -> list[Setting]:
        useful = [*useful_settings(circuit, usual_setting(circuit))]
        return [*useful, replace(useful[0], state=("cold",)), replace(useful[0], supply="battery")]


class Showing(unittest.TestCase):
    def test_some_faults_show_only_when(self) -> None:
        now = Setting()
        for only, without, with_it in (
            ("not bent", replace(now, state=("bent",)), now),
            ("cold", now, replace(now, state=("cold",))),
            ("supply battery", replace(now, supply="bench"), replace(now, supply="battery")),
        ):
            fault = Fault("R1", "open", only=only)
            circuit = read_spice("t\nV1 a 0 1\nR1 a 0 1k\n.end\n")
            self.assertFalse(shows(fault, without), only)
            self.assertTrue(shows(fault, with_it), only)
            self.assertEqual(changes_of(circuit, fault, without), ())
            self.assertEqual(len(changes_of(circuit, fault, with_it)), 1)

    def test_a_part_that_is_lifted_cannot_show_its_fault(self) -> None:
        circuit = read_spice("t\nV1 a 0 1\nR1 a 0 1k\n.end\n")
        self.assertEqual(changes_of(circuit, Fault("R7", "open"), Setting()), ())

    def test_a_reversed_diode_is_another_circuit(self) -> None:
        circuit = read_spice("t\nV1 a 0 1\nR1 a b 1k\nD1 b 0 d\n.model d D\n.end\n")
        turned = rebuilt(circuit, Fault("D1", "reversed"))
        assert turned is not None
        self.assertEqual(turned.part("D1").nodes, ("0", "b"))
        self.assertIsNone(rebuilt(circuit, Fault("R1", "open")))

    def test_words_carry_two_figures_and_no_more(self) -> None:
        self.assertEqual(Fault("Rw", "high resistance", 21544.3).words, "Rw high resistance, about 22 kΩ")
        self.assertEqual(Fault("Rw", "open").words, "Rw open")


class Chances(unittest.TestCase):
    def test_findings_raise_and_the_technician_edits(self) -> None:
        circuit = circuits()["cds-series"]
        fault = next(one for one, _ in faults_of(circuit) if one.name == "Rwred open")
        plain = prior_weight(circuit, fault, {}, {})
        self.assertAlmostEqual(plain, WEIGHTS["wire"] * 0.4)
        self.assertAlmostEqual(prior_weight(circuit, fault, {"rwred": 5.0}, {}), 5 * plain)
        self.assertAlmostEqual(prior_weight(circuit, fault, {}, {"wire": 0.3}), 0.12)
        self.assertEqual(prior_weight(circuit, fault, {"rwred": 1e9}, {}), 0.5)  # never certain beforehand

    def test_pairs_never_hold_one_part_twice_and_are_rarer_than_either(self) -> None:
        circuit = circuits()["cds-two-range"]
        singles = singles_of(circuit, Priors())
        pairs = coarse_pairs(
            circuit, pairable(circuit, singles), leaders_of(singles, np.array([one.log_prior for one in singles]))
        )
        chance: dict[str, float] = defaultdict(float)
        for one in singles:
            chance[one.name] += math.exp(one.log_prior)
        together: dict[str, float] = defaultdict(float)
        parts: dict[str, int] = defaultdict(int)
        self.assertGreater(len(pairs), 50)
        for pair in pairs:
            first, second = pair.faults
            self.assertNotEqual(first.part, second.part)
            together[pair.name] += math.exp(pair.log_prior)
            parts[first.part] += 1
        for name, weight in together.items():
            first_name, second_name = name.split(" and ")
            self.assertAlmostEqual(weight, COMPANY * chance[first_name] * chance[second_name], delta=1e-6 + 0.01 * weight)
            self.assertLess(weight, min(chance[first_name], chance[second_name]))
        self.assertGreater(len(parts), 5)
