"""Shapes as SVG: well-formed whatever words they hold, the dial in one piece, lines cut at the sides of a picture."""

import math
import unittest
import xml.etree.ElementTree as ET

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.records.light import LightReading
from violet_dial.report.dial import DialRequest, draw_dial
from violet_dial.report.shapes import Caption, Polyline, clipped_line, dial_svg, ink, svg

PLACE = st.floats(-500, 500, allow_nan=False)
TEXT = st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=40)


class Svg(unittest.TestCase):
    @given(TEXT, TEXT)
    @settings(max_examples=60, deadline=None)
    def test_any_words_are_words(self, text: str, title: str) -> None:
        root = ET.fromstring(svg((100, 50), [Caption((1, 2), text)], title=title))
        said = [one.text or "" for one in root.iter() if one.tag.endswith("text")]
        self.assertEqual(said, [text])

    def test_colours_are_roles_or_their_own(self) -> None:
        self.assertRegex(ink("violet"), "^#[0-9A-F]{6}$")
        self.assertEqual((ink("#123456"), ink("none")), ("#123456", "none"))
        self.assertIn('stroke-dasharray="4 3"', svg((9, 9), [Polyline(((0, 0), (9, 9)), dashed=True)]))

    def test_a_dial_is_whole_and_inside_its_frame(self) -> None:
        readings = tuple(LightReading(float(ev), ev + error) for ev in range(5, 16) for error in (0.0, 0.5))
        dial = draw_dial(DialRequest(assess(readings, CheckPlan()), now_ev100=9.0))
        root = ET.fromstring(dial_svg(dial, "a <dial> & more"))
        _, _, wide, tall = (float(part) for part in root.attrib["viewBox"].split())
        places = [float(one.attrib["cx"]) for one in root.iter() if one.tag.endswith("circle")]
        heights = [float(one.attrib["cy"]) for one in root.iter() if one.tag.endswith("circle")]
        self.assertGreater(len(places), 10)
        self.assertTrue(min(places) >= 0 and max(places) <= wide and min(heights) >= 0 and max(heights) <= tall)
        self.assertEqual(root[0].text, "a <dial> & more")


class Clipped(unittest.TestCase):
    @given(PLACE, PLACE, PLACE, PLACE)
    @settings(max_examples=200, deadline=None)
    def test_what_is_left_lies_inside_and_on_the_line(self, x0: float, y0: float, x1: float, y1: float) -> None:
        found = clipped_line(((x0, y0), (x1, y1)), -100.0, 100.0)
        if found is None:
            self.assertTrue(max(x0, x1) < -100 or min(x0, x1) > 100)
            return
        for x, y in found:
            self.assertTrue(-100 - 1e-9 <= x <= 100 + 1e-9)
            across = abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / max(math.hypot(x1 - x0, y1 - y0), 1e-9)
            self.assertLess(across, 1e-6)


if __name__ == "__main__":
    unittest.main()
