"""Devices judged by readings alone: what is said of them is true, the best test tells most, a player finds what is wrong."""

import unittest

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.course import Move, begin
from violet_dial.core.practice.exercise import FORMS, Exercise
from violet_dial.core.practice.form import (
    KINDS,
    MARKS,
    NEEDLE,
    SPEEDS,
    FormReading,
    bits,
    by_name,
    drawn_form,
    form_of,
    off_by,
    posterior,
)
from violet_dial.core.practice.mind import Mind
from violet_dial.core.practice.players import play
from violet_dial.core.records.circuit import Fault
from violet_dial.practise.forms import TEXT, form_fault, form_names, test_named, told
from violet_dial.services.circuits import circuit_from

CIRCUIT: Circuit = circuit_from(TEXT)
DRAWN = 400


def exercise(name: str, *faults: Fault, seed: int = 3, wrong: float = 0.0) -> Exercise:
    return Exercise(seed, 3, "meter under light", name, faults, ("x",) * len(faults), wrong, minutes=120.0)


class Truths(unittest.TestCase):
    def test_what_is_said_is_as_often_right(self) -> None:
        """Faults drawn as the prior has them, a few readings at random: in each band of what is said the truth lies in it."""
        rng = np.random.default_rng(8)
        for name in FORMS:
            form = form_of(name)
            said: list[float] = []
            right: list[bool] = []
            for number in range(DRAWN):
                faults, _ = drawn_form(name, 1, rng)
                bench = Bench(exercise(name, *faults, seed=number), CIRCUIT)
                readings = tuple(bench.reads(str(rng.choice(form.tests)), n) for n in range(int(rng.integers(1, 5))))
                names = by_name(form, posterior(form, readings))
                top = next(iter(names))
                said.append(names[top])
                right.append(top == faults[0].name)
            for low, high in ((0.4, 0.8), (0.8, 1.01)):
                inside = [n for n, one in enumerate(said) if low <= one < high]
                share, mean = np.mean([right[n] for n in inside]), np.mean([said[n] for n in inside])
                deviation = np.sqrt(mean * (1 - mean) / len(inside))
                self.assertGreater(
                    share, mean - 3 * deviation - 0.02, (name, low)
                )  # none is sound or unlisted here: it is righter

    def test_bits_are_those_of_a_sum_by_hand(self) -> None:
        """Two faults and a sound device left, a test that parts one from the others by far: H(1/3) bits."""
        form = form_of(NEEDLE)
        chance = np.zeros(len(form.hypotheses))
        for name in ("no fault", "needle reads high", "needle sticks"):
            places = [n for n, one in enumerate(form.names) if one == name]
            chance[places[-1]] = 1 / 3
        worth = dict(zip(form.tests, bits(form, chance), strict=True))
        # At 10 Ev rising: 0, +1.6 and -0.65 stop, 8 and more deviations apart: all of log2(3), but for readings that are wrong.
        self.assertLess(worth["10 Ev rising"], np.log2(3))
        self.assertGreater(worth["10 Ev rising"], 0.85 * np.log2(3))

    def test_every_fault_can_be_told_from_every_other(self) -> None:
        for name in FORMS:
            form = form_of(name)
            for place, one in enumerate(form.hypotheses[:-1]):
                for other in range(place + 1, len(form.hypotheses) - 1):
                    if form.names[place] != form.names[other]:
                        apart = np.max(np.abs(form.mean[:, place] - form.mean[:, other])) / form.u
                        self.assertGreater(apart, 1.5, (one, form.hypotheses[other]))

    def test_faults_show_what_they_should(self) -> None:
        self.assertAlmostEqual(off_by(NEEDLE, "6 Ev rising", Fault("needle", "falls off in dim light", 8.0)), -1.0)
        self.assertAlmostEqual(off_by(NEEDLE, "12 Ev falling", Fault("needle", "sticks", 0.8)), 0.4)
        self.assertAlmostEqual(off_by(NEEDLE, "14 Ev rising", Fault("needle", "reads too wide", 0.1)), 0.4)
        self.assertAlmostEqual(off_by(SPEEDS, "1/500", Fault("shutter", "a time is added", MARKS["1/500"])), 1.0)
        self.assertEqual(off_by(SPEEDS, "1/250", Fault("shutter", "slow speeds hang", 1.0)), 0.0)
        self.assertEqual([off_by(SPEEDS, test, None) for test in MARKS], [0.0] * len(MARKS))


class Played(unittest.TestCase):
    def test_each_kind_is_found_by_next(self) -> None:
        for name in FORMS:
            for kind in KINDS[name][:8]:
                figure = (kind.low * kind.high) ** 0.5
                found = exercise(name, Fault(form_fault(form_of(name), kind.mode).part, kind.mode, figure))
                course = play(found, CIRCUIT, "next")
                self.assertTrue(course.works, kind)
                self.assertEqual(course.needless, (), kind)
                for player in ("halves", "random"):
                    self.assertTrue(play(found, CIRCUIT, player).is_over)

    def test_the_truth_becomes_likelier_and_what_was_mended_is_not_said_again(self) -> None:
        hidden = Fault("needle", "reads high", 0.8)
        bench = Bench(exercise(NEEDLE, hidden), CIRCUIT)
        course = begin(CIRCUIT, (hidden,), form=bench.form)
        for test in ("10 Ev rising", "14 Ev rising", "14 Ev falling"):
            course = course.after(Move("test", reading=bench.reads(test)))
        self.assertGreater(sum(Mind().bits(course)), 1.0)
        known = Mind().know(course)
        self.assertEqual(known.leader.mode if known.leader else "", "reads high")
        wrong = course.after(Move("mended", fault=Fault("needle", "sticks")))
        self.assertFalse(wrong.works)
        self.assertEqual(len(wrong.needless), 1)
        self.assertEqual(wrong.readings, ())

    def test_turning_the_light_round_costs(self) -> None:
        course = begin(CIRCUIT, (Fault("needle", "sticks", 1.0),), form=form_of(NEEDLE))
        for test in ("8 Ev rising", "8 Ev falling"):
            course = course.after(Move("test", reading=FormReading(test, 0.0)))
        minutes = [step.minutes for step in course.steps]
        self.assertAlmostEqual(minutes[1] - minutes[0], 0.5)


class Words(unittest.TestCase):
    def test_tests_and_faults_as_they_are_typed(self) -> None:
        needle, speeds = form_of(NEEDLE), form_of(SPEEDS)
        for typed, before, meant in (
            ("12 Ev", "", "12 Ev rising"), ("ev 12", "9 Ev falling", "12 Ev falling"),
            ("12 rising", "9 Ev falling", "12 Ev rising"),
        ):  # fmt: skip
            self.assertEqual(test_named(needle, typed, before), meant)
        self.assertEqual([test_named(speeds, typed, "") for typed in ("1/125", "1 s", "1/500")], ["1/125", "1", "1/500"])
        for form, typed in ((needle, "3 Ev"), (needle, "12.5 Ev"), (needle, "bright"), (speeds, "1/3000"), (speeds, "fast")):
            with self.subTest(typed), self.assertRaises(InvalidInput):
                test_named(form, typed, "")
        self.assertEqual(form_fault(speeds, "Shutter slow speeds hang").mode, "slow speeds hang")
        with self.assertRaisesRegex(InvalidInput, "sticks"):
            form_fault(needle, "stick")
        with self.assertRaises(InvalidInput):
            Bench(exercise(NEEDLE, Fault("needle", "sticks", 1.0)), CIRCUIT).reads("99 Ev rising")

    def test_the_simulated_instruments_are_told_the_same(self) -> None:
        """The dial and the shutter of the simulated bench are off by what the exercise says."""
        from violet_dial.instruments.simulated.meter import meter_truth
        from violet_dial.instruments.simulated.shutter import SimulatedShutter, hidden_faults

        for mode in form_names(form_of(NEEDLE)):
            kind = next(one for one in KINDS[NEEDLE] if one.mode == mode)
            fault = Fault("needle", mode, kind.high)
            truth = meter_truth(told(exercise(NEEDLE, fault)))
            for ev100 in (5, 10, 15):
                both = [off_by(NEEDLE, f"{ev100} Ev {way}", fault) for way in ("rising", "falling")]
                self.assertAlmostEqual(truth.steady(ev100) - ev100, sum(both) / 2, places=3)
        for mode in form_names(form_of(SPEEDS)):
            kind = next(one for one in KINDS[SPEEDS] if one.mode == mode)
            fault = Fault("shutter", mode, kind.high)
            shutter = SimulatedShutter("leaf", hidden_faults(told(exercise(SPEEDS, fault))))
            for test, marked_s in MARKS.items():
                off = np.mean([np.log2(shutter.time_of(marked_s, MARKS["1/500"]) / marked_s) for _firing in range(12)])
                self.assertAlmostEqual(float(off), off_by(SPEEDS, test, fault), delta=0.15)  # 0.04 of its own marks, 0.03 scatter


if __name__ == "__main__":
    unittest.main()
