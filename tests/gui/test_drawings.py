"""What is drawn: marks, findings and fasteners that differ without colour, the tray, bars and tables."""

import unittest
from collections.abc import Callable, Mapping
from itertools import combinations
from typing import Any

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from tests.gui.window import KEY, application
from violet_dial.core.opening.steps import Step, WireEnd
from violet_dial.core.opening.typed import understand_step
from violet_dial.core.receiving.findings import FINDING_KINDS
from violet_dial.kit.finding_marks import draw_finding
from violet_dial.kit.picture import MarkStamps, draw_mark
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.theme.look import Look
from violet_dial.report.palette import STATE_ROLES
from violet_dial.stations.open.tray_view import TrayView, compartments_of, draw_part, size_mm
from violet_dial.stations.trace.state import SuspectBar
from violet_dial.stations.trace.suspects_view import MOST_BARS, ROW, SuspectBars

SIZE = 64


class Drawn(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.look = Look(QSettings())
        self.look.apply()

    def picture(self, draw: Callable[[QPainter], object], width: int = SIZE) -> np.ndarray:
        """What ``draw`` leaves on a card, as grey levels 0 to 1."""
        image = QImage(width, SIZE, QImage.Format.Format_Grayscale8)
        image.fill(self.look.colour("card"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw(painter)
        painter.end()
        bits = np.frombuffer(bytes(image.constBits()), dtype=np.uint8).reshape(SIZE, image.bytesPerLine())
        return bits[:, :width] / 255.0

    def all_differ(self, pictures: Mapping[Any, Any], least: float) -> None:
        for (one, first), (two, second) in combinations(pictures.items(), 2):
            self.assertGreater(float(np.abs(first - second).mean()), least, f"{one} and {two} look alike in grey")
        for name, seen in pictures.items():
            self.assertGreater(float(seen.max() - seen.min()), 0.2, f"{name} is hardly seen")


class Shapes(Drawn):
    def test_marks_of_readings_differ_without_colour(self) -> None:
        at = QPointF(SIZE / 2, SIZE / 2)
        pictures = {
            state: self.picture(lambda painter, state=state: draw_mark(painter, self.look, at, state, 20))
            for state in STATE_ROLES
        }
        self.all_differ(pictures, 0.01)
        stamps = MarkStamps(self.look, 20, 1.0)
        for state, drawn in pictures.items():
            stamped = self.picture(lambda painter, state=state: stamps.draw(painter, at, state))
            self.assertLess(float(np.abs(stamped - drawn).mean()), 0.01, state)

    def test_findings_differ_without_colour_by_day_and_by_night(self) -> None:
        at = QPointF(SIZE / 2, SIZE / 2)
        for _ in range(2):
            pictures = {
                kind: self.picture(lambda painter, kind=kind: draw_finding(painter, self.look, at, kind, 28))
                for kind in FINDING_KINDS
            }
            self.all_differ(pictures, 0.008)
            self.look.toggle_theme()

    def test_screws_tell_head_finish_hand_and_size(self) -> None:
        lines = (
            "screw top M1.7x4 slotted chrome rh", "screw top M1.7x4 cross chrome rh", "screw top M1.7x4 JIS cross chrome rh",
            "screw top M1.7x4 hex chrome rh", "screw top M1.7x4 two-pin chrome rh", "screw top M1.7x4 slotted black rh",
            "screw top M1.7x4 slotted chrome lh", "screw top M1.7x7 slotted chrome rh", "screw top M2.5x4 slotted chrome rh",
        )  # fmt: skip
        pictures = {line: self.drawn(understand_step(line, "s1")) for line in lines}
        self.all_differ(pictures, 0.0005)

    def test_kinds_have_shapes_of_their_own(self) -> None:
        lines = (
            "nut lens M3", "washer lever", "e-ring shaft", "ball detent", "knob rewind", "ring lens", "spring counter",
            "wire meter lead", "lever advance", "top cover",
        )  # fmt: skip
        pictures = {line: self.drawn(understand_step(line, "s1")) for line in lines}
        self.all_differ(pictures, 0.001)

    def drawn(self, step: Step) -> np.ndarray:
        return self.picture(lambda painter: draw_part(painter, self.look, QPointF(4, SIZE / 2), step, 7.0), 140)

    def test_drawn_to_scale(self) -> None:
        """A screw twice as long takes that many more pixels; one without a size is drawn as is usual."""
        widths: list[float] = []
        for length in (3, 6):
            step = understand_step(f"screw top M1.7x{length} slotted chrome rh", "s1")
            at = QPointF(0, SIZE / 2)
            self.picture(lambda painter, step=step, at=at: widths.append(draw_part(painter, self.look, at, step, 7.0)))
        self.assertAlmostEqual(widths[1] - widths[0], 3 * 7.0, delta=0.01)
        self.assertEqual(size_mm(understand_step("screw top M1.4x2.5", "s1")), (1.4, 2.5))
        self.assertEqual(size_mm(understand_step("screw top", "s1")), (1.7, 3.0))


class Widgets(Drawn):
    def shown(self, widget: QWidget, width: int = 300, height: int = 320) -> QImage:
        widget.resize(width, height)
        widget.show()
        self.addCleanup(widget.close)
        application().processEvents()
        return widget.grab().toImage()

    def test_tray_keeps_the_order_of_first_use_and_says_whose_place_was_clicked(self) -> None:
        lines = ("screw x3 top cover -> A2", "top cover -> B1", "spring counter -> A2", "wire meter lead")
        steps = tuple(understand_step(line, f"s{place}") for place, line in enumerate(lines))
        self.assertEqual(
            [(one.name, one.places) for one in compartments_of(steps)], [("A2", (0, 2)), ("B1", (1,)), ("beside", (3,))]
        )
        tray = TrayView(self.look)
        before = self.shown(tray)
        tray.show_steps(steps, 0)
        application().processEvents()
        after = tray.grab().toImage()
        self.assertNotEqual(before, after)
        chosen: list[int] = []
        tray.chosen.connect(chosen.append)
        board = tray.widget()
        assert board is not None
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.rect().center())
        self.assertEqual(len(chosen), 1)
        self.assertIn(chosen[0], range(4))
        whole = tuple(Step(**{**vars(step), "ends": (WireEnd("refitted", step.count, "now"),)}) for step in steps)
        tray.show_steps(whole, 0)
        self.assertNotEqual(tray.grab().toImage(), after)  # what is back is paler

    def test_bars_are_walked_and_put_right_by_keys(self) -> None:
        bars = SuspectBars(self.look)
        bars.show_bars(tuple(SuspectBar(f"part {place}: open", 0.5 / (place + 1)) for place in range(8)))
        self.shown(bars, 300, ROW * MOST_BARS)
        places: list[int] = []
        right: list[int] = []
        bars.chosen.connect(places.append)
        bars.put_right.connect(right.append)
        for key in (KEY.Key_Down, KEY.Key_Down, KEY.Key_Up, KEY.Key_R):
            QTest.keyClick(bars, key)
        self.assertEqual((places, right), ([1, 2, 1], [1]))
        self.assertEqual(bars.accessibleName(), "Suspect 2 of 5: part 1: open, 25%")
        for _ in range(9):
            QTest.keyClick(bars, KEY.Key_Down)
        self.assertEqual(bars.place, MOST_BARS - 1)  # it stops at the last that is shown
        QTest.mouseClick(bars, Qt.MouseButton.LeftButton, pos=QPoint(9, 9))
        self.assertEqual(bars.place, 0)

    def test_a_name_runs_on_where_the_next_column_is_empty(self) -> None:
        model = RowsModel(self.look, ("", "name", "size"))
        table = RowsTable(self.look, "rows", 1)
        table.setModel(model)
        table.set_widths(24, 100, 150)
        model.show((("1", "a name that is much too long for its column", ""), ("2", "the same much too long name", "M2")))
        self.shown(table, 320, 140)
        cut = table.grab().toImage()
        table.spill(1)
        application().processEvents()
        spilt = table.grab().toImage()
        size = table.visualRect(model.index(0, 2)).translated(0, table.horizontalHeader().height())
        self.assertNotEqual(cut.copy(size), spilt.copy(size))  # the name goes on there
        other = table.visualRect(model.index(1, 2)).translated(0, table.horizontalHeader().height())
        self.assertEqual(cut.copy(other), spilt.copy(other))  # and not over what stands in the next

    def test_only_changed_rows_are_made_again(self) -> None:
        model = RowsModel(self.look, ("", "name"))
        changed: list[tuple[int, int]] = []
        made: list[tuple[int, int]] = []
        resets: list[int] = []
        model.dataChanged.connect(lambda first, last: changed.append((first.row(), last.row())))
        model.rowsInserted.connect(lambda parent, first, last: made.append((first, last)))
        model.modelReset.connect(lambda: resets.append(1))
        rows = tuple((str(place), f"row {place}") for place in range(5))
        model.show(rows)
        model.show((*rows, ("5", "row 5")))
        model.show((*rows[:2], ("2", "other"), *rows[3:], ("5", "row 5")))
        self.assertEqual((len(resets), made, changed), (1, [(5, 5)], [(2, 2)]))
