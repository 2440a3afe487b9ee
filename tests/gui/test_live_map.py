"""Hands-free at the map and beside a sister: touch after touch is asked for and taken, no key but for the simulated hands."""

import unittest

from PySide6.QtTest import QTest

from tests.gui.test_live import Live
from tests.gui.window import ALT, CTRL, KEY
from violet_dial.stations.trace.map_acts import say_line

LINES = (
    "battery 6 s0 to chassis", "red wire s0 to s1", "track s1 to s2", "connector s2 to s3", "R1 1k s3 to s4",
    "R2 1k s4 to chassis",
)  # fmt: skip


LIFTED_MS = 900  # as long as a hand takes from one spot to the next


class AtMap(Live):
    def setUp(self) -> None:
        super().setUp()
        for line in LINES:
            self.page.perform(lambda job, at, line=line: say_line(job, line, at))
        self.press(KEY.Key_3, ALT)
        self.trace = self.page.at("Trace")
        self.trace.turn_to(0)
        self.until(lambda: self.trace.settled)
        self.live.start_simulated({})
        self.until(lambda: self.shown().state == "leads in the air", self.shown())

    def touches(self) -> int:
        return len(self.page.view.job.tracing.board.touches) if self.page.view else 0

    def test_touch_after_touch(self) -> None:
        self.press(KEY.Key_F10)
        for count in (1, 2, 3):
            asked = self.trace.board.next.asked
            self.until(lambda asked=asked: self.live.bench.slot is not None and asked.a in self.live.bench.slot.words)
            self.press(KEY.Key_T, CTRL)
            self.until(lambda count=count: self.touches() == count, f"{count} {self.live.bench.front}")
            taken = self.page.view.job.tracing.board.touches[-1]
            self.assertEqual((taken.a, taken.b), (asked.a, asked.b))
            self.until(lambda: self.trace.settled)
            self.press(KEY.Key_T, CTRL)  # lifted
            self.until(lambda: self.shown().state == "leads in the air", self.shown())
            QTest.qWait(LIFTED_MS)
        self.assertEqual(self.trace.board.next.model.rowCount(), 3)

    def test_beside_a_sister_the_unit_and_the_spot_are_said(self) -> None:
        self.trace.turn_to(2)
        self.until(lambda: self.trace.settled)
        for unit in ("working unit", "sick unit"):
            asked = self.trace.sister.next.asked
            self.until(lambda unit=unit, asked=asked: self.shown().goes == f"→ {unit}, {asked.spot}", self.shown())
            self.type_in("6")
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)
        self.trace.turn_to(2)
        before = len(self.page.view.job.tracing.now)
        while self.trace.sister.next.asked is not None and self.trace.sister.next.asked.unit != "sick":
            self.type_in("6")
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)
        if self.trace.sister.next.asked is not None:  # at the sick one the simulated hands go there, and it is taken
            self.press(KEY.Key_F10)
            self.press(KEY.Key_T, CTRL)
            self.until(lambda: len(self.page.view.job.tracing.now) > before, self.shown())


if __name__ == "__main__":
    unittest.main()
