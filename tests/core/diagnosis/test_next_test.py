"""Which test is asked for: on every circuit that ships it is safe, can be made, is worth what is said, and costs it."""

import math
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

import violet_dial
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import access_to, kind_of, set_circuit, usual_setting
from violet_dial.core.diagnosis.allowed import (
    LOOP_KINDS,
    MINUTES,
    MINUTES_CELLS,
    MINUTES_COLD,
    MINUTES_PER_CHANGE,
    Reach,
    candidates,
    cost_of,
    is_safe,
    useful_settings,
)
from violet_dial.core.diagnosis.case import Case, Diagnosis
from violet_dial.core.diagnosis.evidence import SEEN_KINDS
from violet_dial.core.diagnosis.likelihood import own_sigma
from violet_dial.core.diagnosis.next_test import A_MINUTE, ONE_MORE_MIN, Ranking, rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import USUAL_LX, Evidence, Setting

CIRCUITS = sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))


class OnEveryCircuit(unittest.TestCase):
    ranked: dict[str, tuple[Circuit, Diagnosis, Ranking]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.ranked = {}
        for path in CIRCUITS:
            circuit = read_spice(path.read_text(encoding="utf-8"))
            diagnosis = Diagnostician().diagnose(Case(circuit, ((),)))
            cls.ranked[path.stem] = circuit, diagnosis, rank_tests(diagnosis, usual_setting(circuit), Reach())

    def test_it_can_be_made_and_is_safe(self) -> None:
        for stem, (circuit, diagnosis, ranking) in self.ranked.items():
            self.assertGreater(len(ranking.tests), 3, stem)
            for test in ranking.tests:
                ask = test.ask
                with self.subTest(stem, ask=ask):
                    stands = set_circuit(circuit, ask.setting)
                    if ask.part:
                        kind = kind_of(circuit, circuit.part(ask.part))
                        self.assertIn(kind, {"seen": SEEN_KINDS, "capacitance": ("capacitor",)}.get(ask.test, LOOP_KINDS))
                        self.assertEqual(bool(test.risk), ask.test != "seen")
                        continue
                    self.assertLessEqual({ask.plus, ask.minus}, {*stands.nodes, "0"})
                    self.assertNotEqual(ask.plus, ask.minus)
                    self.assertTrue(is_safe(diagnosis.forecast.sound, ask))
                    if ask.test == "ohm":
                        self.assertEqual(ask.setting.supply, "off")  # never with the supply in

    def test_no_ohmmeter_across_a_movement(self) -> None:
        seen = 0
        for circuit, diagnosis, _ in self.ranked.values():
            off = replace(usual_setting(circuit), supply="off")
            for part in circuit.parts:
                if kind_of(circuit, part) == "movement":
                    ask = Evidence("ohm", 0.0, part.nodes[0], part.nodes[1], setting=off)
                    self.assertFalse(is_safe(diagnosis.forecast.sound, ask), part.name)
                    seen += 1
        self.assertGreaterEqual(seen, 4)

    def test_best_first_by_what_is_to_be_saved(self) -> None:
        for circuit, diagnosis, ranking in self.ranked.values():
            worth = [test.worth for test in ranking.tests]
            self.assertEqual(worth, sorted(worth, reverse=True))
            fewest = rank_tests(diagnosis, usual_setting(circuit), Reach(prefer="fewest tests"))
            bits = [test.bits - A_MINUTE * test.minutes for test in fewest.tests]
            self.assertEqual(bits, sorted(bits, reverse=True))
            self.assertGreaterEqual(bits[0] + 1e-12, max(test.bits - A_MINUTE * test.minutes for test in ranking.tests))

    def test_worth_is_no_more_than_the_doubt_there_is(self) -> None:
        for stem, (_, diagnosis, ranking) in self.ranked.items():
            for test in ranking.tests:
                self.assertLessEqual(test.bits, diagnosis.entropy_bits + 0.05, stem)
                self.assertAlmostEqual(test.worth, test.bits / (test.minutes + ONE_MORE_MIN))
                self.assertLessEqual(sum(one.probability for one in test.outcomes), 1.0 + 1e-9)
                self.assertGreater(sum(one.probability for one in test.outcomes), 0.8)
                for outcome in test.outcomes:
                    self.assertLessEqual(sum(share for _, share in outcome.leaves), 1.0 + 1e-9)

    def test_worth_against_sampled_readings(self) -> None:
        """Information as the mean drop in entropy over readings drawn from the predictions (Monte Carlo with NumPy)."""
        rng = np.random.default_rng(4)
        for stem in ("cds-series", "selenium-movement"):
            circuit, diagnosis, ranking = self.ranked[stem]
            names = [one.name for one in diagnosis.hypotheses]
            index = {name: place for place, name in enumerate(dict.fromkeys(names))}
            of_name = np.array([index[name] for name in names])
            for test in [one for one in ranking.tests if one.ask.test == "volt"][:3]:
                prediction = Predictor(circuit, diagnosis.hypotheses, draws=0).of(test.ask)
                sigma = np.hypot(own_sigma(test.ask, prediction), np.sqrt(np.square(prediction.load).sum(axis=1)))
                drawn = rng.choice(len(names), size=1500, p=diagnosis.probability)
                readings = rng.normal(prediction.mean[drawn], sigma[drawn])
                away = (readings[:, None] - prediction.mean[None, :]) / sigma[None, :]
                likely = np.exp(-0.5 * np.square(away)) / sigma[None, :] * diagnosis.probability[None, :]
                after = np.zeros((len(readings), len(index)))
                np.add.at(after.T, of_name, likely.T)
                after /= after.sum(axis=1, keepdims=True)
                left = -(after * np.log2(np.maximum(after, 1e-300))).sum(axis=1).mean()
                before = np.bincount(of_name, weights=diagnosis.probability)
                doubt = -(before * np.log2(np.maximum(before, 1e-300))).sum()
                # The bound by pairwise distances is within 0.1 bit or a tenth (docs/science.md).
                self.assertAlmostEqual(test.bits, doubt - left, delta=0.12 + 0.1 * test.bits, msg=f"{stem} {test.ask}")


class Costs(unittest.TestCase):
    CIRCUIT = read_spice(next(path for path in CIRCUITS if path.stem == "cds-series").read_text(encoding="utf-8"))
    NOW = usual_setting(CIRCUIT)

    def minutes(self, ask: Evidence, reach: Reach | None = None, now: Setting | None = None) -> float:
        return cost_of(self.CIRCUIT, ask, now or self.NOW, reach or Reach())[0]

    def test_every_change_of_how_it_stands_is_paid_for(self) -> None:
        plain = Evidence("volt", 0.0, "clip+", "0", setting=self.NOW)
        self.assertAlmostEqual(self.minutes(plain), MINUTES["volt"])
        for setting, more in (
            (replace(self.NOW, light_lx=10.0), MINUTES_PER_CHANGE), (self.NOW.with_switch("s1", "off"), MINUTES_PER_CHANGE),
            (replace(self.NOW, supply="bench"), MINUTES_CELLS), (replace(self.NOW, state=("bent",)), MINUTES_PER_CHANGE),
            (replace(self.NOW, state=("cold",)), MINUTES_COLD),
        ):  # fmt: skip
            self.assertAlmostEqual(self.minutes(replace(plain, setting=setting)), MINUTES["volt"] + more, msg=str(setting))
        bent = replace(self.NOW, state=("bent",))
        self.assertAlmostEqual(self.minutes(replace(plain, setting=bent), now=bent), MINUTES["volt"])

    def test_a_cover_is_paid_once_and_not_when_it_is_off(self) -> None:
        across = Evidence("volt", 0.0, "cell+", "m+", setting=self.NOW)
        cover = access_to(self.CIRCUIT, "cell+")
        self.assertEqual(cover.behind, "top cover")
        total, opens = cost_of(self.CIRCUIT, across, self.NOW, Reach())
        self.assertEqual(opens, ("top cover",))
        self.assertAlmostEqual(total, MINUTES["volt"] + cover.minutes)
        self.assertAlmostEqual(self.minutes(across, Reach(frozenset({"top cover"}))), MINUTES["volt"])
        self.assertAlmostEqual(self.minutes(across, Reach(minutes={"top cover": 5.0})), MINUTES["volt"] + 5.0)


class Offered(unittest.TestCase):
    def test_settings_worth_trying(self) -> None:
        for path in CIRCUITS:
            circuit = read_spice(path.read_text(encoding="utf-8"))
            now = usual_setting(circuit)
            found = useful_settings(circuit, now)
            kinds = {kind_of(circuit, part) for part in circuit.parts}
            self.assertEqual(
                found[0], now.lit(USUAL_LX) if kinds & {"cds", "photocell"} else now, "where light counts it is said"
            )
            self.assertEqual(len(found), len(set(found)))
            states = {word for setting in found for word in setting.state}
            self.assertEqual(states, {"bent", "cold"} if kinds & {"joint", "flex"} else set(), path.stem)
            for setting in found:
                set_circuit(circuit, setting)  # every one can be had

    def test_a_warm_device_is_cooled_and_a_cold_one_warmed(self) -> None:
        circuit = read_spice("t\nV1 a 0 3\n*: V1 kind=battery\nR1 a b 0.05\n*: R1 kind=joint\nR2 b 0 1k\n.end\n")
        warm = useful_settings(circuit, Setting())
        self.assertIn(Setting(state=("cold",)), warm)
        cold = useful_settings(circuit, Setting(state=("cold",)))
        self.assertIn(Setting(), cold)
        self.assertIn(Setting(state=("bent", "cold")), cold)

    def test_nothing_is_asked_at_a_flash_circuit_or_of_a_lifted_part(self) -> None:
        text = "t\nV1 a 0 3\nR1 a hot 1k\nR2 hot 0 1k\nR3 a b 1k\nR4 b c 1k\nR5 c 0 1k\n*: hot flash=yes\n.end\n"
        circuit = read_spice(text)
        asked = candidates(circuit, Setting(), True)
        self.assertTrue(asked)
        self.assertNotIn("hot", {node for ask in asked for node in (ask.plus, ask.minus)})
        lifted = candidates(circuit, Setting(disconnected=("R4",)), True)
        self.assertFalse(any({ask.plus, ask.minus} == {"b", "c"} for ask in lifted))
        self.assertTrue(any({ask.plus, ask.minus} == {"b", "c"} for ask in asked))

    def test_worth_falls_to_nothing_when_all_is_known(self) -> None:
        circuit = Costs.CIRCUIT
        now = usual_setting(circuit)
        before = Diagnostician().diagnose(Case(circuit, ((),)))
        taken = tuple(
            Evidence("volt", value, node, "0", setting=now)
            for node, value in (("clip+", 1.35), ("lead", 1.35), ("sw", 0.0), ("swo", 0.0))
        )
        after = Diagnostician().diagnose(Case(circuit, (taken,)))
        ranking = rank_tests(after, now, Reach(taken=taken))
        self.assertLess(after.entropy_bits, before.entropy_bits)
        self.assertLess(max((test.bits for test in ranking.tests), default=0.0), 1.0)
        asked = {(test.ask.plus, test.ask.minus) for test in ranking.tests if test.ask.setting == now and test.ask.test == "volt"}
        self.assertFalse(asked & {("clip+", "0"), ("lead", "0"), ("sw", "0"), ("swo", "0")})
        self.assertTrue(math.isfinite(after.entropy_bits))


if __name__ == "__main__":
    unittest.main()
