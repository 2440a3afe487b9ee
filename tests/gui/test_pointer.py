"""The same by pointer: what keys do, clicks do too."""

import unittest

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from tests.gui.window import ALT, CTRL, KEY, WindowTest, application, wait_until
from violet_dial.services.circuits import templates
from violet_dial.stations.trace.acts import choose_circuit

LEFT = Qt.MouseButton.LeftButton


class Pointer(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Gannet reflex", "needle dead")

    def click(self, widget: QWidget, x: float, y: float) -> None:
        QTest.mouseClick(widget, LEFT, pos=QPoint(round(x), round(y)))
        application().processEvents()

    def wheel(self, widget: QWidget, up: bool) -> None:
        at = QPointF(widget.rect().center())
        turn = QPoint(0, 120 if up else -120)
        event = QWheelEvent(
            at, at, QPoint(), turn, LEFT & ~LEFT, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False
        )
        application().sendEvent(widget, event)


class Light(Pointer):
    LIGHTS = ((8, 8.6), (10, 10.7), (12, 12.6))

    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_5, ALT)
        for reference, reading in self.LIGHTS:
            self.take(str(reference), str(reading))

    def test_a_mark_on_the_dial_and_a_card_in_the_strip_choose_the_reading(self) -> None:
        dial, strip = self.page.at("Light").front.dial, self.page.at("Light").front.strip
        centre, radius = dial._frame()
        for mark in dial._dial.marks[:3]:
            if mark.index < 0:
                continue
            self.click(dial, centre.x() + mark.x * radius, centre.y() - mark.y * radius)
            self.assertEqual(dial.cursor_index, mark.index)
        self.click(dial, 2, 2)  # beside every mark: nothing changes
        self.assertIn(dial.cursor_index, range(3))
        places = [place for place, slot in enumerate(strip._slots) if slot.index >= 0]
        self.click(strip, strip._inset() + (places[0] + 0.5) * strip._width(), strip.height() / 2)
        self.assertEqual(dial.cursor_index, strip._slots[places[0]].index)

    def test_an_empty_card_asks_for_its_light(self) -> None:
        strip = self.page.at("Light").front.strip
        place = next(place for place, slot in enumerate(strip._slots) if slot.index < 0)
        self.click(strip, strip._inset() + (place + 0.5) * strip._width(), strip.height() / 2)
        self.assertIn(f"{strip._slots[place].ev100:g}", self.page.bar.lines["reference"].text())

    def test_a_long_strip_is_turned_by_the_wheel(self) -> None:
        for step in range(18):
            self.take(f"{5 + step / 2:g}", f"{5.3 + step / 2:g}")
        strip = self.page.at("Light").front.strip
        for _ in range(40):
            self.wheel(strip, up=True)
        self.assertEqual(strip._first, 0)
        self.wheel(strip, up=False)
        self.assertEqual(strip._first, 1)
        for _ in range(40):
            self.wheel(strip, up=False)
        self.assertEqual(strip._first, len(strip._slots) - strip._fit())  # and no further


class Receive(Pointer):
    def test_a_click_on_the_outline_asks_what_is_there_and_a_click_on_a_mark_shows_it(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        page = self.page.at("Receive").look_over
        outline = page.outline
        box = outline._large()
        self.click(outline, box.x() + 0.25 * box.width(), box.y() + 0.6 * box.height())
        self.assertIs(self.focused, page.typed.edit)
        self.type_in("crack: glass")
        self.press(KEY.Key_Return)
        assert self.page.view is not None
        (found,) = self.page.view.job.receiving.findings
        self.assertAlmostEqual(found.x, 0.25, delta=0.01)
        self.assertAlmostEqual(found.y, 0.6, delta=0.01)
        thumbs = outline._thumbs()
        top = thumbs["top"].center()
        self.click(outline, top.x(), top.y())
        self.assertEqual(outline.view, "top")
        front = thumbs["front"].center()
        self.click(outline, front.x(), front.y())
        box = outline._large()
        self.click(outline, box.x() + found.x * box.width(), box.y() + found.y * box.height())
        self.assertEqual(outline.under_cursor, found)
        self.assertIs(self.focused, outline)  # on a mark nothing new is asked


class Trace(Pointer):
    def test_a_spot_is_dragged_and_stays(self) -> None:
        self.press(KEY.Key_3, ALT)
        text = next(one.text for one in templates() if one.stem == "cds-series")
        self.page.perform(lambda job, at: choose_circuit(job, "meter", text, at))
        self.assertTrue(wait_until(lambda: self.page.at("Trace").settled))
        drawn = self.page.at("Trace").suspects.map
        at = drawn._spot("sw")
        assert at is not None
        QTest.mousePress(drawn, LEFT, pos=at.toPoint())
        QTest.mouseRelease(drawn, LEFT, pos=(at + QPointF(0, 40)).toPoint())
        application().processEvents()
        assert self.page.view is not None
        (pin,) = self.page.view.job.tracing.pinned
        self.assertEqual(pin.node, "sw")
        self.assertGreater(pin.row, 0.2)
        self.click(drawn, at.x(), at.y() - 60)  # where no spot is
        self.assertEqual(len(self.page.view.job.tracing.pinned), 1)
        suspects = self.page.at("Trace").suspects.bars
        self.click(suspects, 30, 40)
        self.assertEqual(suspects.place, 1)
        self.assertTrue(self.page.at("Trace").suspects.why.text())


class Line(Pointer):
    def test_stations_are_reached_by_a_click(self) -> None:
        line = self.page.line
        for place, name in enumerate(("Receive", "Open", "Trace", "Power", "Light", "Expose", "Prove", "Return")):
            self.click(line, line._at(place).x(), line.height() / 2)
            self.assertEqual(self.page.station, name)


if __name__ == "__main__":
    unittest.main()
