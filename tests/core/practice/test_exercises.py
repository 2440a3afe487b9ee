"""Exercises: the same everywhere, solvable, answered by the hidden device; sealed; what is done in them and what it is worth."""

import json
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.costs import DISCHARGED, PARTS, mending
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.exercise import (
    LEVELS,
    Exercise,
    ExerciseWish,
    can_be_told,
    exercise_of,
    sealed,
    table_of,
    unsealed,
)
from violet_dial.core.practice.mind import Mind
from violet_dial.core.practice.players import play
from violet_dial.core.practice.score import calibration, checked_chance, quadratic, score_of
from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.services.circuits import circuit_from, templates

CIRCUITS = {one.stem: circuit_from(one.text) for one in templates()}
# What these seeds give, written down once: another machine must give the same.
GIVEN = {
    (0, 1): ("cds-series", "Rclip open"), (4, 1): ("cds-series", "Vbat weak"),
    (5, 2): ("needle", "needle falls off in dim light"), (3, 4): ("regulator-clock", "clip+ bridged to clkin"),
}  # fmt: skip


def exercise(stem: str, *faults: Fault, wrong: float = 0.0) -> Exercise:
    return Exercise(7, 1, "meter", stem, faults, ("open",) * len(faults), wrong)


class Drawn(unittest.TestCase):
    def test_a_seed_gives_the_same_everywhere(self) -> None:
        for (seed, level), (stem, name) in GIVEN.items():
            found = exercise_of(ExerciseWish(seed, level), CIRCUITS)
            self.assertEqual((found.stem, found.faults[0].name), (stem, name), (seed, level))
            self.assertEqual(found, exercise_of(ExerciseWish(seed, level), CIRCUITS))

    def test_answers_are_the_same_and_those_of_the_device(self) -> None:
        found = exercise_of(ExerciseWish(0, 1), CIRCUITS)
        one, two = Bench(found, CIRCUITS[found.stem]), Bench(found, CIRCUITS[found.stem])
        ask = Evidence("volt", 0.0, "lead", "0", setting=usual_setting(one.circuit))
        two.answer(replace(ask, plus="clip+"))  # what was asked before changes nothing
        self.assertEqual(one.answer(ask), two.answer(ask))
        self.assertNotEqual(one.answer(ask).value, one.answer(ask, 1).value)  # another touch
        self.assertLess(abs(one.answer(ask).value), 0.02)  # the clip is open
        self.assertGreater(one.answer(ask, mended=found.faults).value, 1.2)

    def test_levels_differ_and_every_exercise_can_be_told(self) -> None:
        for level in range(1, len(LEVELS) + 1):
            for seed in range(3):
                found = exercise_of(ExerciseWish(seed, level), CIRCUITS)
                asked = LEVELS[level - 1]
                self.assertEqual((len(found.faults), found.wrong, found.misleads), (asked.faults, asked.wrong, asked.misleads))
                for fault, kind in zip(found.faults, found.kinds, strict=True):
                    if found.stem in CIRCUITS:
                        self.assertIn(kind, asked.kinds)
                        self.assertTrue(can_be_told(CIRCUITS[found.stem], fault))

    def test_what_no_test_shows_is_not_given(self) -> None:
        circuit = CIRCUITS["cds-series"]
        self.assertFalse(can_be_told(circuit, Fault("Rwred", "high resistance", 0.02)))  # as good as sound
        table = table_of(circuit)
        self.assertEqual(table.mean.shape, (len(table.asks), len(table.singles)))

    def test_wrong_readings_come_as_often_as_said(self) -> None:
        fault = Fault("Rwred", "high resistance", 22e3)
        ask = Evidence("volt", 0.0, "clip+", "0", setting=usual_setting(CIRCUITS["cds-series"]))
        bench = Bench(exercise("cds-series", fault, wrong=0.2), CIRCUITS["cds-series"])
        off = [abs(bench.answer(ask, nth).value - 1.35) > 0.15 for nth in range(400)]
        self.assertAlmostEqual(float(np.mean(off)), 0.2 * 5.7 / 6, delta=0.06)  # 3 deviations; some wrong ones lie near

    def test_bad_wishes(self) -> None:
        for wish in ((-1, 1, "any"), (2**40, 1, "any"), (1, 0, "any"), (1, 9, "any"), (1, 1, "toaster")):
            with self.subTest(wish), self.assertRaises(InvalidInput):
                ExerciseWish(*wish)


class Slips(unittest.TestCase):
    def bench(self, stem: str, *faults: Fault) -> Bench:
        return Bench(exercise(stem, *faults), CIRCUITS[stem])

    def test_ohms_with_the_supply_in_or_across_a_movement(self) -> None:
        bench = self.bench("cds-series", Fault("Rclip", "open"))
        movement = next(one for one in bench.circuit.parts if bench.circuit.note(one.name).get("kind") == "movement")
        stands = replace(usual_setting(bench.circuit), supply="off")
        across = Evidence("ohm", 0.0, movement.nodes[0], movement.nodes[1], setting=stands)
        kinds = [bench.slip(across, is_fed, False) for is_fed in (True, False)]
        self.assertEqual([one.kind if one else "" for one in kinds], ["ohms with the supply in", "ohms across a movement"])
        sound = Evidence("ohm", 0.0, "clip+", "lead", setting=stands)
        self.assertIsNone(bench.slip(sound, False, False))

    def test_power_on_a_short_burns_unless_ohms_came_first(self) -> None:
        bench = self.bench("silicon-lamps", Fault("Rwred", "touches chassis", 0.05, to_node="rail0"))
        ask = Evidence("volt", 0.0, "clip+", "0", setting=usual_setting(bench.circuit))
        slip = bench.slip(ask, True, False)
        self.assertEqual(slip.kind if slip else "", "power before the short was found")
        self.assertIsNone(bench.slip(ask, True, True))
        self.assertIsNone(bench.slip(ask, True, False, mended=(Fault("Rwred", "touches chassis"),)))

    def test_a_flash_capacitor_ends_it(self) -> None:
        text = "* flash\nVbat clip+ 0 6\n*: Vbat kind=battery\nRa clip+ hot 1k\nRb hot 0 10k\n*: hot flash=yes\n"
        circuit = circuit_from(text)
        bench = Bench(exercise("cds-series", Fault("Ra", "open")), circuit)
        slip = bench.slip(Evidence("volt", 0.0, "hot", "0", setting=usual_setting(circuit)), True, True)
        self.assertTrue(slip is not None and slip.ends)
        hidden = (Fault("Ra", "open"),)
        self.assertTrue(begin(circuit, hidden, (Move("slip", slip=slip),)).is_over)
        emptied = begin(circuit, hidden, (Move("slip", slip=DISCHARGED),))
        self.assertEqual((emptied.is_discharged, emptied.slips, emptied.minutes), (True, (), 3.0))
        ask = Evidence("volt", 0.0, "hot", "0", setting=usual_setting(circuit))
        self.assertIsNone(bench.slip(ask, True, True, is_discharged=True))
        self.assertFalse(emptied.after(Move("test", replace(ask, plus="clip+"))).is_discharged)  # it was fed again


class Courses(unittest.TestCase):
    fault = Fault("Rwred", "high resistance", 22e3)

    def course(self, *moves: Move) -> Course:
        return begin(CIRCUITS["cds-series"], (self.fault,), moves)

    def test_covers_count_once_and_parts_cost(self) -> None:
        stands = usual_setting(CIRCUITS["cds-series"])
        behind = Evidence("volt", 0.1, "sw", "0", setting=stands)  # behind the base plate, 4 minutes
        first, again = (one.minutes for one in self.course(Move("test", behind), Move("test", behind)).steps)
        self.assertAlmostEqual(first - again, 4.0)
        sound = Fault("Rclip", "open")
        done = self.course(Move("mended", fault=sound), Move("mended", fault=self.fault))
        self.assertEqual(mending(done.circuit, sound), PARTS["clip"])
        self.assertAlmostEqual(done.money, PARTS["clip"][1] + PARTS["wire"][1])
        self.assertEqual([one.is_right for one in done.steps], [False, True])
        self.assertEqual((done.needless, done.works, done.is_over), ((sound,), True, True))

    def test_bits_are_those_of_the_truth(self) -> None:
        """The drop in front of the red lead tells; a look at the battery does not."""
        stands = usual_setting(CIRCUITS["cds-series"])
        bench = Bench(exercise("cds-series", self.fault), CIRCUITS["cds-series"])
        asks = [Evidence("volt", 0.0, plus, minus, setting=stands) for plus, minus in (("clip+", "0"), ("lead", "sw"))]
        bits = Mind().bits(self.course(*(Move("test", bench.answer(ask)) for ask in asks)))
        self.assertGreater(bits[1], 1.0)
        self.assertLess(abs(bits[0]), 1.0)

    def test_the_rule_is_proper(self) -> None:
        chances = np.linspace(0.01, 0.99, 99)
        for q in (0.1, 0.35, 0.8, 0.97):
            expected = [q * quadratic(p, True) + (1 - q) * quadratic(p, False) for p in chances]
            self.assertAlmostEqual(float(chances[int(np.argmax(expected))]), q, delta=0.006)
        self.assertLess(quadratic(0.99, False), quadratic(0.6, False))  # sure and wrong costs
        for wrong in (0.0, 1.0, -0.2, 1.5):
            with self.assertRaises(InvalidInput):
                checked_chance(wrong)

    def test_the_sum_of_a_score(self) -> None:
        said = Move("said", fault=self.fault, chance=0.8)
        course = self.course(Move("mended", fault=Fault("Rclip", "open")), said, Move("mended", fault=self.fault))
        score = score_of(course, course.minutes / 2)
        self.assertAlmostEqual(score.points, 60 * (1 - 0.04) + 40 * 0.5 - 5)
        self.assertIn(f"points = {score.points:.1f}", score.opened()[-1])
        given_up = score_of(self.course(Move("given up")), 10.0)
        self.assertEqual((given_up.points, given_up.found), (0.0, False))

    def test_saying_it_again_gains_nothing(self) -> None:
        """The last word on each place counts, and 60 points is the most that saying brings."""
        said = Move("said", fault=self.fault, chance=0.9)
        once = score_of(self.course(said), 10.0).said
        self.assertAlmostEqual(score_of(self.course(*(said,) * 10), 10.0).said, once)
        doubted = Move("said", fault=self.fault, chance=0.2)
        self.assertAlmostEqual(score_of(self.course(said, doubted), 10.0).said, 60 * (1 - 0.64))
        other = Move("said", fault=replace(self.fault, mode="high resistance", figure=1e6), chance=0.9)
        self.assertLessEqual(score_of(self.course(said, other, Move("mended", fault=self.fault), said), 10.0).said, 60.0)

    def test_chances_said_are_held_against_what_was_right(self) -> None:
        """Exact intervals: 7 of 10 lies in 34.8 to 93.3 % (Clopper-Pearson, as scipy.stats.binomtest gives it)."""
        from scipy.stats import binomtest

        (band,) = calibration(tuple((0.9, n < 7) for n in range(10)))
        exact = binomtest(7, 10).proportion_ci(0.95, "exact")
        self.assertAlmostEqual(band.right_low, exact.low, places=6)
        self.assertAlmostEqual(band.right_high, exact.high, places=6)
        self.assertEqual((band.count, band.said, band.right), (10, 0.9, 0.7))

    def test_players_end_and_the_better_one_has_more(self) -> None:
        points: dict[str, float] = {}
        best: dict[int, float] = {}
        for player in ("next", "halves", "random"):
            every = []
            for seed in (0, 2, 4):
                found = exercise_of(ExerciseWish(seed, 1), CIRCUITS)
                course = play(found, CIRCUITS[found.stem], player)
                self.assertTrue(course.is_over)
                best.setdefault(seed, course.minutes)
                every.append(score_of(course, best[seed]).points)
            points[player] = float(np.mean(every))
        self.assertGreater(points["next"], 90.0)
        self.assertGreater(points["next"], max(points["halves"], points["random"]))
        with self.assertRaises(InvalidInput):
            play(found, CIRCUITS[found.stem], "luck")


class Seals(unittest.TestCase):
    def test_nothing_of_it_is_read_by_looking(self) -> None:
        text = json.dumps({"faults": ["Rwred high resistance"], "stem": "cds-series"})
        closed = sealed(text, "salt")
        self.assertEqual(unsealed(closed), text)
        for word in ("Rwred", "high", "cds", "fault"):
            self.assertNotIn(word.lower(), closed.lower())
        self.assertNotEqual(closed[:40], sealed(text, "other salt")[:40])

    @settings(max_examples=60, deadline=None)
    @given(st.text(max_size=300), st.text(max_size=20))
    def test_any_text_comes_back(self, text: str, salt: str) -> None:
        try:
            closed = sealed(text, salt)
        except UnicodeEncodeError:
            return  # half of a letter
        self.assertEqual(unsealed(closed), text)

    def test_what_was_changed_is_refused(self) -> None:
        closed = sealed("a device", "salt")
        other = closed[:20] + ("A" if closed[20] != "A" else "B") + closed[21:]
        for text in ("", "VD1:", "VD1:!!", "XX" + closed, closed[:-4], other):
            with self.subTest(text), self.assertRaises(InvalidInput):
                unsealed(text)


if __name__ == "__main__":
    unittest.main()
