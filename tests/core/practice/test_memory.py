"""Skills fade and come back; what is due comes first; clocks that are set back harm nothing."""

import unittest

from violet_dial.core.practice.memory import DUE, FIRST_DAYS, GOOD, GROWS, PastCase, advice, decay, skills

NOW = 27.0


def done(day: int, good: bool = True, kind: str = "open", device: str = "meter", level: int = 1) -> PastCase:
    return PastCase(float(day), (kind,), device, level, 90.0 if good else GOOD - 1, good)


class Skills(unittest.TestCase):
    def test_it_fades_by_half_each_half_life(self) -> None:
        (one,) = skills((done(24),), NOW)
        self.assertAlmostEqual(one.chance, 0.5)
        self.assertAlmostEqual(decay(4.0, 8.0), 0.25)
        (again,) = skills((done(20), done(24)), NOW)
        self.assertAlmostEqual(again.half_life_days, FIRST_DAYS * GROWS)
        self.assertGreater(again.chance, one.chance)

    def test_a_failure_shortens_and_lowers(self) -> None:
        (good,) = skills((done(20), done(26)), NOW)
        (bad,) = skills((done(20), done(26, good=False)), NOW)
        self.assertLess(bad.half_life_days, good.half_life_days)
        self.assertLess(bad.chance, DUE)
        self.assertEqual((bad.count, bad.good), (2, 1))

    def test_a_clock_set_back(self) -> None:
        (one,) = skills((done(29), done(20)), NOW)  # the newest lies in what is now the future
        self.assertEqual((one.days, one.chance), (0.0, 1.0))

    def test_what_is_due_first_else_the_hardest_within_reach(self) -> None:
        self.assertEqual(advice((), NOW, 5).level, 1)
        due = (done(10, kind="battery"), done(27))
        self.assertIn("battery, meter", advice(due, NOW, 5).why)
        fresh = tuple(done(27, level=level) for level in (1, 1, 2, 2))
        self.assertEqual(advice(fresh, NOW, 5).level, 3)
        hard = (*fresh, *(done(27, good=number > 0, level=3, kind="bridge") for number in range(3)))
        self.assertEqual(advice(hard, NOW, 5).level, 3)  # two of three went well: not yet beyond it
        self.assertEqual(advice((done(27, level=2),), NOW, 5).level, 3)


if __name__ == "__main__":
    unittest.main()
