"""The posterior and the worth of a test against brute force on small circuits; recovery of known faults."""

import math
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from scipy import stats

import violet_dial
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import CELL_OHM, tolerance_of, usual_setting
from violet_dial.core.diagnosis.allowed import Reach, candidates, is_safe
from violet_dial.core.diagnosis.case import Case, Repair
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.diagnosis.explain import reasons_for
from violet_dial.core.diagnosis.faults import changes_of, faults_of
from violet_dial.core.diagnosis.hypotheses import Priors, singles_of
from violet_dial.core.diagnosis.laws import TAIL
from violet_dial.core.diagnosis.likelihood import COUNTS, Spread, begin, follow, own_sigma
from violet_dial.core.diagnosis.next_test import _Kernel, rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Prediction, Predictor
from violet_dial.core.diagnosis.standing import LEAK_S
from violet_dial.core.diagnosis.tolerances import blurring
from violet_dial.core.errors import InvalidInput, TaskCancelled
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.core.task import SilentTask

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"
LOOP = """Loop
V1 bat 0 1.5
*: V1 kind=battery
R1 bat lead 0.05
*: R1 kind=clip place="battery cover"
R2 lead sw 0.05
*: R2 kind=wire colour=red behind="base plate" minutes=6
R3 sw m 9k
*: R3 kind=resistor
R4 m 0 1k
*: R4 kind=movement full_a=200u
.end
"""


def with_fault(circuit: Circuit, fault: Fault) -> Circuit:
    """The circuit with a fault built in, part by part: another way than the solver's changes."""
    parts = list(circuit.parts)
    for count, change in enumerate(changes_of(circuit, fault, Setting())):
        for place, part in enumerate(parts):
            if part.name == change.source:
                parts[place] = replace(part, value=part.value * change.source_factor)
                if change.series_ohm:
                    inner = f"inner{count}"
                    parts[place] = replace(parts[place], nodes=(inner, part.nodes[1]))
                    parts.append(
                        replace(part, name=f"Rs{count}", letter="R", nodes=(inner, part.nodes[0]), value=change.series_ohm)
                    )
            elif part.letter == "R" and change.siemens and set(part.nodes) == set(change.nodes) and part.name == fault.part:
                parts[place] = replace(part, value=1.0 / (1.0 / part.value + change.siemens))
        if fault.to_node:
            parts.append(replace(parts[1], name=f"Rx{count}", nodes=change.nodes, value=1.0 / change.siemens))
    parts += [replace(parts[1], name=f"Rleak{node}", nodes=(node, "0"), value=1.0 / LEAK_S) for node in circuit.nodes]
    return circuit.with_parts(tuple(parts))


def sagging(circuit: Circuit) -> Circuit:
    """The battery with a small cell's own resistance, as a part."""
    battery = circuit.parts[0]
    cell = replace(battery, nodes=("emf", "0"))
    own = replace(circuit.parts[1], name="Rcell", nodes=("emf", battery.nodes[0]), value=CELL_OHM)
    return circuit.with_parts((cell, own, *circuit.parts[1:]))


class BruteForce(unittest.TestCase):
    def setUp(self) -> None:
        self.circuit = read_spice(LOOP)
        self.singles = singles_of(self.circuit, Priors())
        self.predictor = Predictor(self.circuit, self.singles)

    def test_every_voltage_under_every_fault(self) -> None:
        setting = usual_setting(self.circuit)
        for node in self.circuit.nodes:
            predicted = self.predictor.volts(node, "0", setting).mean
            for place, hypothesis in enumerate(self.singles):
                one = self.circuit
                for fault in hypothesis.faults:
                    one = with_fault(self.circuit, fault)
                one = one.with_parts((*sagging(one).parts, replace(one.parts[1], name="Rin", nodes=(node, "0"), value=10e6)))
                expected = operating_point(one).voltages[node]
                self.assertAlmostEqual(
                    predicted[place], expected, delta=2e-4 + 2e-4 * abs(expected), msg=f"{node} {hypothesis.name}"
                )

    def test_posterior_is_bayes_rule_with_the_joint_density(self) -> None:
        """Readings share the parts' own values, so their density is one of all of them together (SciPy)."""
        evidence = (Evidence("volt", 1.47, "bat", "0"), Evidence("volt", 1.46, "lead", "0"), Evidence("volt", 0.145, "m", "0"))
        found = Diagnostician().diagnose(Case(self.circuit, (evidence,)))
        self.assertAlmostEqual(float(found.probability.sum()), 1.0, places=12)
        predictor = Predictor(self.circuit, found.hypotheses, draws=0)
        predictions = [predictor.of(one) for one in evidence]
        values = np.array([one.value for one in evidence])
        checked = 0
        for place, hypothesis in enumerate(found.hypotheses):
            if hypothesis.law != "plain":
                continue
            mean = np.array([one.mean[place] for one in predictions])
            load = np.stack([one.load[place] for one in predictions])
            own = np.array([own_sigma(e, p)[place] for e, p in zip(evidence, predictions, strict=True)])
            if (np.abs(values - mean) > 2 * np.sqrt(np.square(own) + np.square(load).sum(axis=1))).any():
                continue  # where a reading may be wrong the mixture is not one normal
            covariance = load @ load.T + np.diag(np.square(own))
            expected = hypothesis.log_prior
            for n in range(len(values)):  # each given those before it, with the tail of Student's t
                gain = np.linalg.solve(covariance[:n, :n], covariance[:n, n]) if n else np.zeros(0)
                center = mean[n] + gain @ (values[:n] - mean[:n])
                scale = math.sqrt((covariance[n, n] - gain @ covariance[:n, n]) * (TAIL - 2) / TAIL)
                expected += COUNTS * float(stats.t(TAIL, center, scale).logpdf(values[n]))
            if not checked:
                offset = expected - math.log(found.probability[place])
            self.assertAlmostEqual(math.log(found.probability[place]) + offset, expected, delta=0.05)
            checked += 1
        self.assertGreater(checked, 15)

    def test_linearised_tolerance_against_sampling(self) -> None:
        rng = np.random.default_rng(8)
        setting = usual_setting(self.circuit)
        place = next(
            n for n, one in enumerate(self.singles) if one.name == "R2 high resistance" and 3e3 < one.faults[0].figure < 8e3
        )
        faulty = with_fault(self.circuit, self.singles[place].faults[0])
        sampled = []
        for _ in range(400):
            parts = []
            for part in faulty.parts:
                share = tolerance_of(self.circuit, self.circuit.part(part.name)) if self.circuit.has(part.name) else 0.0
                parts.append(replace(part, value=part.value * (1 + share * rng.standard_normal())))
            sampled.append(operating_point(faulty.with_parts(tuple(parts))).voltages["m"])
        linear = float(np.sqrt(np.square(self.predictor.volts("m", "0", setting).load[place, :-2]).sum()))
        self.assertAlmostEqual(linear, float(np.std(sampled)), delta=0.12 * float(np.std(sampled)))

    def test_information_against_the_sum_over_outcomes(self) -> None:
        rng = np.random.default_rng(9)
        for _ in range(30):
            count = int(rng.integers(3, 9))
            weight = rng.dirichlet(np.ones(count))
            names = [f"n{int(n)}" for n in rng.integers(0, 5, count)]
            mean, sigma = rng.uniform(0, 3, count), rng.choice([0.02, 0.1, 0.4], count)
            kernel = _Kernel(weight, names)
            bits = kernel.bits(kernel.distance(mean, sigma))
            grid = np.linspace(-3, 6, 18001)
            density = weight[:, None] * stats.norm.pdf(grid, mean[:, None], sigma[:, None])
            by_name = np.stack(
                [density[[n for n, one in enumerate(names) if one == name]].sum(axis=0) for name in sorted(set(names))]
            )
            total = by_name.sum(axis=0)
            prior = by_name.sum(axis=1) * (grid[1] - grid[0])
            with np.errstate(all="ignore"):
                after = -np.nansum(np.where(by_name > 0, by_name * np.log2(by_name / total), 0.0)) * (grid[1] - grid[0])
            exact = float(-(prior * np.log2(prior)).sum() - after)
            self.assertAlmostEqual(bits, exact, delta=0.12 + 0.12 * exact)  # the estimator's own error, shown here


class Finding(unittest.TestCase):
    def setUp(self) -> None:
        self.circuit = read_spice(LOOP)
        self.keeper = Diagnostician()

    def diagnose(self, *lines: str, **more: object):  # type: ignore[no-untyped-def]
        now = usual_setting(self.circuit)
        found = tuple(understand_evidence(self.circuit, line, now).evidence for line in lines)
        case = Case(self.circuit, (found,), **more)  # type: ignore[arg-type]
        return case, self.keeper.diagnose(case)

    def test_half_a_volt_is_not_some_voltage(self) -> None:
        """0.5 V of 1.5 V at the switch into 10 kohm needs about 20 kohm in the feed (divider worked by hand)."""
        case, found = self.diagnose("bat to gnd 1.5 V", "sw to gnd 0.5 V", "needle at 17 %")
        names = {one.name for one in found.suspects[:2]}
        self.assertEqual(names, {"R1 high resistance", "R2 high resistance"})
        self.assertGreater(sum(one.probability for one in found.suspects[:2]), 0.9)
        said = " ".join(reasons_for(case, found, found.suspects[0]).pro)
        low, high = said.split("needs ")[1].split("Ω")[0].split(" to ")
        self.assertLess(float(low.split()[0]), 20.0)
        self.assertGreater(float(high.split()[0]), 20.0)
        self.assertIn("in series", said)

    def test_corrosion_found_nearby_raises_its_neighbours(self) -> None:
        _, plain = self.diagnose("sw to gnd 0.5 V")
        _, raised = self.diagnose("sw to gnd 0.5 V", belief=Priors((("r2", 12.0),)))
        chance = {name: {one.name: one.probability for one in found.suspects} for name, found in (("p", plain), ("r", raised))}
        odds = {key: one["R2 high resistance"] / one["R1 high resistance"] for key, one in chance.items()}
        self.assertAlmostEqual(odds["r"] / odds["p"], 12.0, delta=1.5)

    def test_a_wrong_reading_is_named_and_does_not_rule_out_the_truth(self) -> None:
        _, found = self.diagnose("bat to gnd 1.5 V", "lead to gnd 0.00 V", "sw to gnd 0.00 V", "needle dead", "m to gnd 0.9 V")
        self.assertEqual(found.suspects[0].name, "R1 open")
        self.assertEqual([one.plus for one in found.unexplained], ["m"])

    def test_a_sister_unit_corrects_the_sketch(self) -> None:
        """The sketch says 0.15 V at the movement; the sister shows 0.30 V, and so does this one: nothing is wrong there."""
        _, without = self.diagnose("m to gnd 0.30 V")
        _, with_sister = self.diagnose("sister m to gnd 0.30 V", "m to gnd 0.30 V")
        self.assertGreater(with_sister.healthy, 5 * without.healthy)
        self.assertLess(without.healthy, 0.1)

    def test_after_a_repair_the_next_fault_is_found(self) -> None:
        first = Fault("R1", "open", 0.0, 0.4)
        before = (Evidence("volt", 1.5, "bat", "0"), Evidence("volt", 0.0, "lead", "0"))
        after = (Evidence("volt", 1.5, "lead", "0"), Evidence("volt", 0.0, "sw", "0"))
        found = self.keeper.diagnose(Case(self.circuit, (before, after), (Repair(first),)))
        self.assertEqual(found.suspects[0].name, "R2 open")
        self.assertGreater(found.suspects[0].probability, 0.6)
        renewed = self.keeper.diagnose(Case(self.circuit, (before, ()), (Repair(first),)))
        chance = {one.name: one.probability for one in renewed.suspects}
        self.assertLess(chance.get("R1 open", 0.0), chance["R2 open"])

    def test_a_battery_a_little_low_is_low_in_every_reading(self) -> None:
        """Five readings of one battery 4 % low say no more against it than one: its tolerance is one and the same."""
        once = self.diagnose("bat to gnd 1.44 V")[1].healthy
        lines = ("bat to gnd 1.44 V", "lead to gnd 1.44 V", "sw to gnd 1.44 V", "m to gnd 0.144 V", "needle at 72 %")
        self.assertGreater(self.diagnose(*lines)[1].healthy, once)

    def test_two_faults_at_once(self) -> None:
        pair = "R1 high resistance and R2 high resistance"
        _, found = self.diagnose("bat to gnd 1.5 V", "sw to gnd 0.70 V", "lead to gnd 1.0 V")
        self.assertIn(pair, [one.name for one in found.suspects[:2]])  # one of the two may still be read wrongly
        _, found = self.diagnose("bat to gnd 1.5 V", "sw to gnd 0.70 V", "lead to gnd 1.0 V", "lead to sw 0.30 V")
        self.assertEqual(found.suspects[0].name, "R1 high resistance and R2 high resistance")

    def test_works_only_when_bent_and_only_on_the_supply(self) -> None:
        text = LOOP.replace("kind=wire colour=red", "kind=joint")
        circuit = read_spice(text)
        straight, bent = Setting(), Setting(state=("bent",))
        joint = (Evidence("volt", 0.0, "m", "0", setting=straight), Evidence("volt", 0.15, "m", "0", setting=bent))
        self.assertEqual(self.keeper.diagnose(Case(circuit, (joint,))).suspects[0].name, "R2 open unless bent")
        blob = (Evidence("volt", 0.03, "sw", "0"), Evidence("volt", 1.5, "sw", "0", setting=Setting(supply="bench")))
        top = [one.name for one in self.keeper.diagnose(Case(self.circuit, (blob,))).suspects[:3]]
        self.assertTrue(any("when the cells press" in name for name in top), top)

    def test_continuity_capacitance_and_current(self) -> None:
        _, found = self.diagnose("bat to lead no beep")
        self.assertIn(found.suspects[0].name, ("R1 open", "R1 high resistance"))
        circuit = read_spice(LOOP.replace("R4 m 0 1k", "C1 m 0 2.2u\nR4 m 0 1k"))
        wrong = Diagnostician().diagnose(Case(circuit, ((Evidence("capacitance", 22e-6, part="C1"),),)))
        self.assertEqual(wrong.suspects[0].name, "C1 too high")
        self.assertAlmostEqual(wrong.suspects[0].faults[0].figure, 10.0, delta=2.0)
        _, through = self.diagnose("R3 1 uA", "bat to gnd 1.5 V")
        self.assertLess(through.healthy, self.diagnose()[1].healthy)

    def test_the_job_before_says_nothing_of_this_one(self) -> None:
        circuit = read_spice((CIRCUITS / "selenium-booster.cir").read_text(encoding="utf-8"))
        bright, dim = (
            tuple(
                Evidence("seen", value, part="Rmeter", setting=Setting(light_lx=lux, lit_by="room"))
                for value, lux in ((first, 300.0), (1.6 * first, 600.0))
            )
            for first in (1.3, 0.45)
        )
        keeper = Diagnostician()
        keeper.diagnose(Case(circuit, (bright,)))
        after, alone = (each.diagnose(Case(circuit, (dim,))) for each in (keeper, Diagnostician()))
        self.assertEqual((after.healthy, after.suspects), (alone.healthy, alone.suspects))

    def test_cancelling_stops_at_once(self) -> None:
        class Stopped(SilentTask):
            def check(self) -> None:
                raise TaskCancelled

        with self.assertRaises(TaskCancelled):
            self.keeper.diagnose(Case(self.circuit, ((Evidence("volt", 1.0, "m", "0"),),)), Stopped())


class NextTest(unittest.TestCase):
    def setUp(self) -> None:
        self.circuit = read_spice(LOOP)
        self.keeper = Diagnostician()
        self.now = usual_setting(self.circuit)

    def test_a_cover_costs_its_minutes_until_it_is_off(self) -> None:
        found = self.keeper.diagnose(Case(self.circuit))
        closed = rank_tests(found, self.now, Reach())
        opened = rank_tests(found, self.now, Reach(frozenset({"base plate"})))
        cost = {(test.ask.test, test.ask.plus, test.ask.minus): test for test in closed.tests}
        free = {(test.ask.test, test.ask.plus, test.ask.minus): test for test in opened.tests}
        for key in cost.keys() & free.keys():
            if cost[key].opens:
                self.assertGreaterEqual(cost[key].minutes - free[key].minutes, 5.9)
        self.assertTrue(all(test.worth <= before.worth for before, test in zip(closed.tests, closed.tests[1:], strict=False)))

    def test_outcomes_leave_what_bayes_leaves(self) -> None:
        found = self.keeper.diagnose(Case(self.circuit))
        for test in rank_tests(found, self.now, Reach()).tests[:4]:
            self.assertAlmostEqual(sum(one.probability for one in test.outcomes), 1.0, delta=0.06)
            for outcome in test.outcomes:
                self.assertLessEqual(sum(share for _, share in outcome.leaves), 1.0 + 1e-9)

    def test_unsafe_tests_are_left_out(self) -> None:
        text = LOOP + "*: sw flash=yes\n"
        circuit = read_spice(text.replace(".end\n", "") + ".end\n")
        predictor = Predictor(circuit, singles_of(circuit, Priors()))
        asked = candidates(circuit, self.now, True)
        self.assertFalse(any("sw" in (ask.plus, ask.minus) for ask in asked))
        self.assertTrue(all(ask.setting.supply == "off" for ask in asked if ask.test == "ohm"))
        self.assertFalse(is_safe(predictor, Evidence("ohm", 0.0, "m", "0")))  # straight across the movement
        self.assertTrue(is_safe(predictor, Evidence("ohm", 0.0, "bat", "lead")))

    def test_what_was_taken_is_not_asked_again(self) -> None:
        first = rank_tests(self.keeper.diagnose(Case(self.circuit)), self.now, Reach()).tests[0].ask
        taken = replace(first, value=0.5)
        again = rank_tests(self.keeper.diagnose(Case(self.circuit, ((taken,),))), self.now, Reach(taken=(taken,)))
        self.assertNotIn(first, [replace(test.ask, value=0.0) for test in again.tests])

    def test_what_shows_alike_keeps_its_odds(self) -> None:
        """A contact that sticks and a blob across it differ in nothing here: no reading may speak for one of them."""
        text = LOOP.replace("R4 m 0 1k", "Q1 m b 0 ger\nI1 0 b 5u\nR4 top m 1k").replace(
            "R3 sw m 9k\n*: R3 kind=resistor", "R3 sw top 0.05\n*: R3 kind=switch switch=S1 closed=on positions=off|on"
        )
        circuit = read_spice(text.replace(".end", ".model ger NPN(IS=2e-6 BF=80)\n.end"))
        off = Setting(switches=(("s1", "off"),))
        asks = (
            Evidence("volt", 0.0, "sw", "top", setting=off),
            Evidence("volt", 1.1, "m", "0", setting=off),
            Evidence("amp", 4e-4, part="V1", setting=off),
        )
        odds = []
        for count in (1, 2, 3):
            chance = {one.name: one.probability for one in self.keeper.diagnose(Case(circuit, (asks[:count],))).suspects}
            odds.append(math.log(chance["R3 stuck closed"] / chance["sw bridged to top"]))
        self.assertGreater(min(odds), 0.0)
        self.assertLess(max(odds) - min(odds), 0.1, odds)

    def test_tenths_of_an_ohm_are_not_known_to_the_last(self) -> None:
        """At two amperes a clip of 34 milliohm that is drawn as 100 drops a third: nothing lies across it."""
        circuit = read_spice((CIRCUITS / "motor-transfer.cir").read_text(encoding="utf-8"))
        now = Setting(switches=(("s1", "pressed"), ("s2", "home")))
        asks = (Evidence("amp", 1.73, part="Vbat", setting=now), Evidence("volt", 0.054, "clip+", "lead", setting=now))
        found = self.keeper.diagnose(Case(circuit, (asks,)))
        chance = {one.name: one.probability for one in found.suspects}
        self.assertLess(chance.get("clip+ bridged to feed", 0.0) + chance.get("clip+ bridged to lead", 0.0), found.healthy)
        self.assertEqual({*blurring(read_spice(LOOP))}, {"V1", "R3", "R4"})

    def test_what_lines_miss_goes_with_what_is_known(self) -> None:
        """Beforehand all of it; of a part that is known and near its figure nothing; of one known to be far off all again."""
        one, own = np.ones(1), np.array([2.0])
        prediction = Prediction(one, 0 * one, np.array([[3.0, 0.0]]), np.sqrt(3.0) * one, one)
        for mean, known, bend in ((0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (0.0, 0.5, 0.5), (3.0, 1.0, 1.0), (1.0, 1.0, 3**-0.5)):
            spread = Spread(np.array([[mean, 0.0]]), (np.array([[math.sqrt(known), 0.0]]),))
            _, variance, _ = spread.conditioned(prediction, own)
            self.assertAlmostEqual(float(variance[0]), 1.0 + 3.0 * bend**2 + 9.0 * (1.0 - known), msg=str((mean, known)))

    def test_twins_are_shown_as_one_group(self) -> None:
        text = LOOP.replace("R3 sw m 9k", "R3 sw inner 4.5k\nR5 inner m 4.5k").replace("*: R4", "*: inner flash=yes\n*: R4")
        circuit = read_spice(text)
        asks = (Evidence("volt", 1.5, "sw", "0"), Evidence("volt", 0.0, "m", "0"))
        found = self.keeper.diagnose(Case(circuit, (asks,)))
        groups = rank_tests(found, self.now, Reach(taken=asks)).groups
        self.assertTrue(any({"R3 open", "R5 open"} <= set(group) for group in groups), groups)


class Typing(unittest.TestCase):
    def test_as_said(self) -> None:
        circuit = read_spice(LOOP)
        now = Setting()
        for line, test, value in (
            ("bat to gnd 1.52 V", "volt", 1.52), ("red wire 38k", "ohm", 38e3), ("needle dead", "seen", 0.0),
            ("needle at 40 %", "seen", 0.4), ("R2 OL", "ohm", 5e7), ("sw 0,31 V", "volt", 0.31), ("R3 150 uA", "amp", 150e-6),
        ):  # fmt: skip
            evidence = understand_evidence(circuit, line, now).evidence
            assert evidence is not None
            self.assertEqual(evidence.test, test)
            self.assertAlmostEqual(evidence.value, value)
        self.assertEqual(understand_evidence(circuit, "cells out", now).setting.supply, "off")
        self.assertEqual(understand_evidence(circuit, "lift R2", now).setting.disconnected, ("R2",))
        for line, word in (
            ("nowhere 3 V", "one of"),
            ("bat lead", "points and a figure"),
            ("R3 dark", "can be seen"),
            ("S9 on", "one of|points"),
        ):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                understand_evidence(circuit, line, now)

    def test_every_kind_of_fault_can_be_put_in(self) -> None:
        for fault, _ in faults_of(read_spice(LOOP)):
            changes_of(read_spice(LOOP), fault, Setting())
        singles = singles_of(read_spice(LOOP), Priors())
        predictor = Predictor(read_spice(LOOP), singles)
        before = begin(singles, predictor.toleranced + 2)
        after = follow(before, predictor, Evidence("volt", 1.0, "m", "0"))
        self.assertTrue(((after.doubts[0][1] >= 0) & (after.doubts[0][1] <= 1)).all())


if __name__ == "__main__":
    unittest.main()
