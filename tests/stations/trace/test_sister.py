"""A working unit beside the sick one, by keys alone: the spots are asked for, figures typed, the place where they part named."""

import unittest
from typing import Any

from tests.gui.window import ALT, CTRL, KEY, WindowTest
from violet_dial.core.diagnosis.evidence import THIRD
from violet_dial.core.records.circuit import Evidence
from violet_dial.stations.trace.sister_page import ORDERS

LINES = (
    "battery 6 s0 to chassis", "red wire s0 to s1", "track s1 to s2", "connector s2 to s3", "R1 1k s3 to s4",
    "R2 1k s4 to chassis",
)  # fmt: skip
SOUND = {"s0": 6.0, "s1": 6.0, "s2": 6.0, "s3": 6.0, "s4": 3.0}
SICK = {"s0": 6.0, "s1": 6.0, "s2": 0.02, "s3": 0.02, "s4": 0.01}  # the track from s1 to s2 is open


class Sister(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Phalarope compact", "dead")
        self.press(KEY.Key_3, ALT)
        self.page.at("Trace").turn_to(0)

    @property
    def trace(self) -> Any:
        return self.page.at("Trace")

    def say(self, *lines: str) -> None:
        for line in lines:
            self.trace.board.focus_first()
            self.type_in(line)
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)

    def to_sister(self) -> Any:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Tab, CTRL)
        self.until(lambda: self.trace.settled)
        return self.trace.sister

    def read(self, sound: dict[str, float], sick: dict[str, float]) -> list[str]:
        """Type what each unit shows until nothing more is asked for; which spots were asked for."""
        asked: list[str] = []
        panel = self.trace.sister.next
        while panel.asked is not None and len(asked) < 30:
            ask = panel.asked
            asked.append(f"{ask.unit} {ask.spot}")
            self.trace.sister.focus_first()
            self.type_in(f"{(sound if ask.unit == 'working' else sick)[ask.spot]:g}")
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)
        return asked

    def evidence(self) -> list[Evidence]:
        assert self.page.view is not None
        return [taken.evidence for taken in self.page.view.job.tracing.now]

    def test_spots_alone_are_compared_and_the_touch_that_tells_is_said(self) -> None:
        self.say(*(f"spot {name}" for name in SOUND))
        sister = self.to_sister()
        self.read(SOUND, SICK)
        self.assertIn("likeliest between s1 and s2", sister.next.words.text())
        self.assertIn("touch s1 to s2 on the sick unit", sister.next.words.text())

    def test_the_open_track_is_named_after_few_spots(self) -> None:
        self.say(*LINES)
        sister = self.to_sister()
        self.assertIn("With a working unit", sister.next.words.text())
        asked = self.read(SOUND, SICK)
        self.assertLess(len(asked), 2 * len(SOUND))
        self.assertRegex(sister.next.words.text(), r"(?i)apart from s2 on; likeliest track: (open|high resistance)")
        self.assertEqual(sister.next.why.text(), "No comparison would settle more.")
        self.assertIn("s2: working 6 V, sick 0.02 V, apart", sister.pairs.accessibleName())
        title, sections = self.trace.opened()
        self.assertIn("Both units", title)
        self.assertIn("s2: working 6 V, sick 0.02 V, apart", "; ".join(sections[0][1]))
        self.assertRegex(sections[1][0], r"track: .*beforehand, .*now")
        self.assertRegex(sections[1][1][0], r"s\d: sick less working .* this makes .* ± .* V, \d\.\d off")
        self.assertTrue(any(head.startswith("no fault") for head, _ in sections))
        # what was read is evidence at the suspects too, and undo takes it back
        self.assertEqual(len(self.evidence()), len(asked))
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.evidence()), len(asked) - 1)

    def test_units_are_taken_in_turn_or_the_working_one_first(self) -> None:
        self.say(*LINES)
        sister = self.to_sister()
        self.assertEqual(sister.next.asked.unit, "working")
        first = sister.next.asked.spot
        sister.focus_first()
        self.type_in("six")
        self.press(KEY.Key_Return)
        self.assertEqual(self.evidence(), [])
        self.press(KEY.Key_A, CTRL)
        self.type_in("6")
        self.press(KEY.Key_Return)
        self.until(lambda: self.trace.settled)
        self.assertEqual((sister.next.asked.unit, sister.next.asked.spot), ("sick", first))
        self.press(KEY.Key_R, CTRL)
        self.assertEqual(sister.next.order.text(), ORDERS[1])
        asked = self.read(SOUND, SICK)
        self.assertEqual([one.split()[0] for one in asked[:4]], ["working"] * 4)
        self.assertTrue(all(one.startswith("sick") for one in asked[4:]))

    def test_a_third_unit_beside_them(self) -> None:
        self.say(*LINES)
        sister = self.to_sister()
        spot = sister.next.asked.spot
        for figure in ("1.2", "6", "third 6"):  # the sister is low, the sick one and a third unit are not
            sister.focus_first()
            self.type_in(figure)
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)
        self.assertEqual([one.note for one in self.evidence()], ["", "", THIRD])
        self.assertEqual(self.evidence()[2].plus, spot)
        self.assertIn("may be faulty itself", sister.next.doubts.text())

    def test_spots_and_nothing_else(self) -> None:
        self.say("spot a", "spot b", "spot c", "spot d")
        sister = self.to_sister()
        self.read(dict.fromkeys("abcd", 3.0), {"a": 3.0, "b": 3.0, "c": 0.1, "d": 0.1})
        self.assertIn("Alike up to b, apart from c on", sister.next.words.text())


if __name__ == "__main__":
    unittest.main()
