"""Tables, rows of words and pages under names: only what changed is touched, and keys do what they say."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtGui import QIcon
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from tests.gui.window import KEY, application, sweep, wait_until
from violet_dial.kit.cards import ElidedLabel, labelled, scrolled, scrolled_back
from violet_dial.kit.rows import MarkWidget, Rows
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.side_panel import SidePanel, SideSaid
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.text_window import sections_html
from violet_dial.kit.theme.look import Look

ROWS = (("1", "clip+ to gnd 1.36 V", "as usual"), ("2", "needle at 2 %", "as usual"), ("3", "lead open", ""))


class Table(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.look = Look()
        self.model = RowsModel(self.look, ("", "evidence", "stood"))
        self.table = RowsTable(self.look, "Evidence", 1)
        self.table.setModel(self.model)
        self.table.set_widths(40, 300, 120)
        self.table.resize(600, 200)
        self.table.show()
        self.addCleanup(sweep)
        self.heard: list[tuple[object, ...]] = []
        self.model.dataChanged.connect(lambda first, last: self.heard.append(("changed", first.row(), last.row())))
        self.model.rowsInserted.connect(lambda _, first, last: self.heard.append(("inserted", first, last)))
        self.model.modelReset.connect(lambda: self.heard.append(("reset",)))
        self.table.entered_row.connect(lambda row: self.heard.append(("entered", row)))
        self.table.struck_row.connect(lambda row: self.heard.append(("struck", row)))
        self.table.letter.connect(lambda letter, row: self.heard.append((letter, row)))

    def test_only_what_changed_is_touched(self) -> None:
        self.model.show(ROWS[:2])
        self.model.show(ROWS)
        self.model.show((ROWS[0], ("2", "needle at 4 %", "as usual"), ROWS[2]))
        self.model.show(ROWS[:1])
        self.assertEqual(self.heard, [("reset",), ("inserted", 2, 2), ("changed", 1, 1), ("reset",)])

    def test_the_chosen_row_stays_chosen_when_one_is_added(self) -> None:
        self.model.show(ROWS[:2])
        self.table.choose(1)
        self.model.show(ROWS)
        self.assertEqual(self.table.row, 1)
        self.table.choose(7)  # none such
        self.assertEqual(self.table.row, 1)

    def test_keys_go_out_with_the_row(self) -> None:
        self.model.show(ROWS)
        self.heard.clear()
        for key in (KEY.Key_Return, KEY.Key_Delete, KEY.Key_R):
            QTest.keyClick(self.table, key)
        self.assertEqual(self.heard, [])  # no row is chosen
        self.table.choose(0)
        QTest.keyClick(self.table, KEY.Key_Down)
        for key in (KEY.Key_Return, KEY.Key_Delete, KEY.Key_R):
            QTest.keyClick(self.table, key)
        self.assertEqual(self.heard, [("entered", 1), ("struck", 1), ("R", 1)])

    def test_marks_stand_in_the_second_column_and_what_is_off_stands_out(self) -> None:
        self.model.show(ROWS, ("inside", "high", "empty"))
        role = Qt.ItemDataRole
        self.assertIsNone(self.model.data(self.model.index(0, 1), role.ForegroundRole))
        self.assertEqual(self.model.data(self.model.index(1, 1), role.ForegroundRole), self.look.colour("out"))
        shapes = set()
        for row in range(3):
            icon = self.model.data(self.model.index(row, 1), role.DecorationRole)
            assert isinstance(icon, QIcon)
            shapes.add(bytes(icon.pixmap(14, 14).toImage().constBits()))
        self.assertEqual(len(shapes), 3)
        self.assertIsNone(self.model.data(self.model.index(0, 0), role.DecorationRole))

    def test_a_column_goes_where_there_is_no_room(self) -> None:
        self.table.drop_when_narrow(2, 400)
        for wide, hidden in ((300, True), (700, False)):
            self.table.resize(wide, 200)
            self.assertTrue(wait_until(lambda hidden=hidden: self.table.isColumnHidden(2) == hidden))


class Pages(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.drawn: list[str] = []
        pages = tuple((name, QLabel(name)) for name in ("Map", "Suspects", "Sister"))
        draws = tuple((lambda name=name: self.drawn.append(name)) for name, _ in pages)
        self.pages = SubPages(pages, draws)
        self.addCleanup(sweep)
        self.turned: list[int] = []
        self.pages.turned.connect(self.turned.append)

    def test_only_the_page_in_view_is_drawn(self) -> None:
        self.pages.draw()
        self.assertEqual(self.drawn, ["Map"])
        self.pages.turn(1)
        self.pages.turn(1)
        self.pages.turn(1)
        self.assertEqual((self.drawn, self.turned), (["Map", "Suspects", "Sister"], [1, 2, 0]))
        self.pages.draw()
        self.pages.draw()
        self.assertEqual(self.drawn[3:], ["Map", "Map"])

    def test_another_job_begins_at_the_first_and_draws_nothing_of_the_last(self) -> None:
        self.pages.turn_to(2)
        self.pages.draw()
        self.pages.begin()
        self.assertEqual((self.pages.place, self.drawn), (0, ["Sister"]))

    def test_a_page_shown_quietly_tells_nobody(self) -> None:
        self.pages.show_page(1)
        self.assertEqual((self.pages.place, self.turned), (1, []))
        self.pages.rename(1, "Likely faults")
        self.assertTrue(self.pages._group.button(1).isChecked())
        self.assertEqual(self.pages._group.button(1).text(), "Likely faults")


class Said(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.look = Look()

    def words(self, widget: QWidget) -> list[str]:
        return [label.text() for label in widget.findChildren(QLabel) if not label.isHidden() and label.text()]

    def test_rows_are_those_shown_last_and_a_reader_is_told(self) -> None:
        rows = Rows(self.look, "Life")
        rows.show_rows((("SR44", "14 months"), ("LR44", "9 months")), ("cell", "life"), ("inside", "low"))
        self.assertEqual(rows.accessibleName(), "Life: SR44, 14 months; LR44, 9 months")
        self.assertEqual(len(rows.findChildren(MarkWidget)), 2)
        rows.show_rows((("PR44", "6 weeks"),))
        inside = rows._inside
        assert inside is not None
        self.assertEqual(self.words(inside), ["PR44", "6 weeks"])
        rows.show_rows(())
        self.assertTrue(rows.isHidden())
        self.assertEqual(rows.accessibleName(), "Life: none")

    def test_a_panel_hides_what_has_nothing_to_say(self) -> None:
        panel = SidePanel(self.look)
        panel.show_panel(SideSaid("What is wrong", (("80 %", "the slow speeds hang"),), "", "Take the batteries out."))
        self.assertEqual([panel.words.isHidden(), panel.caution.isHidden(), panel.keys.isHidden()], [True, False, True])
        panel.show_panel(SideSaid("", (), "Nothing yet.", "", "F8 arms it"))
        self.assertEqual([panel.title.isHidden(), panel.rows.isHidden(), panel.caution.isHidden()], [True, True, True])

    def test_a_line_without_room_ends_in_an_ellipsis_and_its_tip_is_whole(self) -> None:
        label = ElidedLabel()
        label.setText("needle dead, clip corroded, from the loan pool")
        label.resize(80, 20)
        self.assertLess(label.minimumSizeHint().width(), 60)
        self.assertEqual(label.toolTip(), label.text())
        self.assertFalse(label.grab().isNull())

    def test_what_the_keys_go_to_is_brought_into_view(self) -> None:
        page, host = QWidget(), QWidget()
        layout = QVBoxLayout(page)
        for place in range(40):
            row = labelled(f"row {place}", "")
            row.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            layout.addWidget(row)
        area = scrolled(page)
        outer = QVBoxLayout(host)
        outer.addWidget(area)
        host.resize(300, 200)
        host.show()
        host.activateWindow()
        self.addCleanup(sweep)
        self.assertTrue(wait_until(host.isActiveWindow))
        layout.itemAt(35).widget().setFocus()
        self.assertTrue(wait_until(lambda: area.verticalScrollBar().value() > 0))
        scrolled_back(host)
        self.assertEqual(area.verticalScrollBar().value(), 0)

    def test_sections_are_escaped_and_a_tab_parts_key_from_meaning(self) -> None:
        html = sections_html((("Keys <b>", ("F3\topens & closes", "plain <i>")),), self.look)
        for part in ("Keys &lt;b&gt;", "<b>F3</b>", "opens &amp; closes", "plain &lt;i&gt;"):
            self.assertIn(part, html)


if __name__ == "__main__":
    unittest.main()
