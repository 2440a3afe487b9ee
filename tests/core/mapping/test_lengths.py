"""Tracks have length from a photo whose scale is known, and should measure what copper of that length does."""

import unittest
from dataclasses import replace

from tests.core.mapping.boards import said
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Ground, Pin, Touch
from violet_dial.core.mapping.change import lay, pin
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.facts import expected_lead_ohm, lead_suspects, length_mm, with_scale

COPPER_OHM_MM = 1.0 / 58.0 * 1e-3  # ohm millimetre: annealed copper, IEC 60028 [memory]
FOIL_MM = 0.035  # one ounce a square foot; common practice, no source


def board() -> Board:
    """Spots at the corners of a photo twice as wide as it is high, a track along its long side."""
    found = said("spot a\nspot b\nspot c\ntrack a to b\nred wire b to c")
    found = lay(found, Ground("p", "front", aspect=2.0))
    for name, x, y in (("a", 0.1, 0.1), ("b", 0.6, 0.1), ("c", 0.1, 0.6)):
        found = pin(found, name, Pin("p", x, y), "p")
    return found


class Lengths(unittest.TestCase):
    def test_two_points_and_their_distance_give_the_scale(self) -> None:
        found, name = with_scale(board(), "a", "C", 25.0)
        self.assertEqual(name, "front")
        # half the height is 25 mm, so the height is 50 and the width 100; a to b is half of that
        self.assertAlmostEqual(length_mm(found, found.found_item("track")) or 0, 50.0)
        self.assertIsNone(length_mm(found, found.found_item("red wire")), "a wire does not lie straight")
        self.assertIsNone(length_mm(board(), board().found_item("track")))

    def test_the_track_should_measure_what_copper_does(self) -> None:
        found, _ = with_scale(board(), "a", "c", 25.0)
        ohm = expected_lead_ohm(found, found.found_item("track"))
        self.assertAlmostEqual(ohm, COPPER_OHM_MM * 50.0 / (0.5 * FOIL_MM), delta=0.005 * ohm)
        self.assertIn(f"{ohm:.6g}", compiled(found).text)
        longer, _ = with_scale(board(), "a", "c", 50.0)
        self.assertAlmostEqual(expected_lead_ohm(longer, longer.found_item("track")), 2 * ohm)

    def test_ten_times_that_is_a_suspect(self) -> None:
        found, _ = with_scale(board(), "a", "c", 25.0)
        for ohm, suspect in ((0.15, False), (0.55, False), (0.75, True), (4700.0, True)):
            with self.subTest(ohm):
                touched = replace(found, touches=(Touch("a", "b", ohm),))
                self.assertEqual(bool(lead_suspects(touched)), suspect)
        self.assertIn("50 mm of it should show 49 mΩ", lead_suspects(touched)[0])
        self.assertEqual(lead_suspects(replace(found, touches=(Touch("b", "c", 0.5),))), ())

    def test_bad_scales(self) -> None:
        for one, other, distance in (("a", "a", 5.0), ("a", "nowhere", 5.0), ("a", "b", 0.0), ("a", "b", float("nan"))):
            with self.subTest(f"{one} {other} {distance}"):
                self.assertRaises(InvalidInput, with_scale, board(), one, other, distance)
        self.assertRaises(InvalidInput, with_scale, said("spot a\nspot b"), "a", "b", 5.0)


if __name__ == "__main__":
    unittest.main()
