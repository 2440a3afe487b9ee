"""The map by keys alone: lines said, the circuit that follows, spots put on a photo, the next touch taken."""

import unittest
from typing import Any

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Pin
from violet_dial.core.records.circuit import OVERLOAD_OHM
from violet_dial.demo.pictures import board_picture
from violet_dial.demo.story import stories
from violet_dial.job.map_file import read_map
from violet_dial.services.circuits import circuit_text_of
from violet_dial.stations.trace.acts import choose_circuit
from violet_dial.stations.trace.map_acts import pin_on_photo

BOARD = next(story.boards[0] for story in stories() if story.boards)

LINES = (
    "battery 1.35 clip+ to chassis", "red wire clip+ to S1", "S1 off/on: common to -, run", "R4 2k2 from run to coil+",
    "movement coil+ to chassis 120 uA full",
)  # fmt: skip


class Map(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Phalarope compact", "needle dead")
        self.press(KEY.Key_3, ALT)
        self.press(KEY.Key_Tab, CTRL | SHIFT)
        self.assertIs(self.trace.here, self.trace.board)

    @property
    def trace(self) -> Any:
        return self.page.at("Trace")

    @property
    def board(self) -> Board:
        assert self.page.view is not None
        found: Board = self.page.view.job.tracing.board
        return found

    def settle(self) -> None:
        self.until(lambda: self.trace.settled)

    def say(self, line: str) -> None:
        self.trace.board.focus_first()
        self.type_in(line)
        self.press(KEY.Key_Return)
        self.settle()

    def say_all(self) -> None:
        for line in LINES:
            self.say(line)

    def test_lines_become_a_circuit_that_suspects_are_ranked_on(self) -> None:
        self.assertIn("Nothing is on the map yet", self.trace.board.next.why.text())
        self.trace.board.focus_first()
        self.type_in("red wire clip+ to ")
        self.assertIn("then two spots", self.trace.board.typed.said.text())
        self.press(KEY.Key_A, CTRL)
        self.say_all()
        self.assertEqual([one.name for one in self.board.items], ["battery", "red wire", "S1", "R4", "movement"])
        assert self.page.view is not None
        self.assertIn("R4 run coil+ 2200", circuit_text_of(self.page.view.job))
        self.press(KEY.Key_Tab, CTRL)
        self.assertIsNot(self.trace.here, self.trace.board)
        self.settle()
        self.assertGreater(len(self.trace.result.diagnosis.suspects), 5)
        self.press(KEY.Key_Tab, CTRL | SHIFT)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.board.items), 4)

    def test_the_next_touch_is_taken(self) -> None:
        self.say_all()
        panel = self.trace.board.next
        self.assertIsNotNone(panel.asked)
        panel.typed.edit.setFocus()
        self.type_in("four")
        self.press(KEY.Key_Return)
        self.assertEqual(self.board.touches, ())
        self.press(KEY.Key_A, CTRL)
        asked = panel.asked
        shows = "open" if asked.expects == "open" else f"{asked.ohm:.5g}"
        self.type_in(shows)
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual([(one.a, one.b) for one in self.board.touches], [(asked.a, asked.b)])
        self.press(KEY.Key_Z, CTRL)
        self.settle()
        panel.typed.edit.setFocus()
        self.press(KEY.Key_A, CTRL)
        self.type_in("open")
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual([(one.ohm, one.beep) for one in self.board.touches], [(OVERLOAD_OHM, None)])  # a figure, not a silence

    def test_a_lead_drawn_along_a_row_is_one_act(self) -> None:
        for n in range(1, 9):
            self.say(f"track hub to p{n}")
        self.say("R1 1k hub to chassis")
        panel = self.trace.board.next
        while panel.asked is not None and not panel.asked.over:
            panel.typed.edit.setFocus()
            self.press(KEY.Key_A, CTRL)
            self.type_in("beep" if panel.asked.expects_beep else "1k")
            self.press(KEY.Key_Return)
            self.settle()
        self.assertRegex(panel.spots.text(), r"^hub\nalong p\d, p\d, p\d, p\d$")
        made, row = len(self.board.touches), panel.asked.along
        panel.typed.edit.setFocus()
        self.type_in("p99")
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.board.touches), made)
        self.press(KEY.Key_A, CTRL)
        self.type_in(f"{row[1]} no beep")
        self.assertIn(f"{row[0]} a beep; {row[1]} no beep", panel.typed.said.text())
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual([one.beep for one in self.board.touches[made:]], [True, False, True, True])
        self.press(KEY.Key_Z, CTRL)
        self.settle()
        self.assertEqual(len(self.board.touches), made)

    def test_a_touch_is_evidence_for_the_suspects(self) -> None:
        self.say_all()
        self.say("clip+ to S1 4k7")
        self.assertIn("red wire has some ohms", self.trace.board.said.text())
        _, sections = self.trace.opened()
        lines = dict(sections)["Touches of the map"]
        self.assertRegex(lines[0], r"clip\+ to S1: 4.7 kΩ\tthe map has 150 mΩ ± .*not there, broken or corroded")
        self.press(KEY.Key_Tab, CTRL)
        self.settle()
        self.assertIn("Rred_wire", self.trace.result.diagnosis.suspects[0].faults[0].part)

    def test_a_short_is_asked_about_once(self) -> None:
        self.say_all()
        self.say("track clip+ to chassis")
        self.assertEqual(len(self.board.items), 5)
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual(len(self.board.items), 6)

    def test_a_new_spot_that_may_be_part_of_a_figure_is_asked_about_and_escape_keeps_nothing(self) -> None:
        self.say_all()
        before = self.board
        self.say("R9 10 m rail to slow")
        self.assertEqual(self.board, before)
        self.press(KEY.Key_Escape)
        self.assertEqual(self.board, before)
        self.trace.board.focus_first()
        self.press(KEY.Key_A, CTRL)
        self.say("R9 10 k clip+ to slow")
        self.assertEqual(self.board.found_item("R9").value("ohm", 0.0), 10e3)
        self.say("R8 10 m rail to slow")
        self.press(KEY.Key_Return)
        self.settle()
        self.assertIsNotNone(self.board.spot("m rail"))

    def test_a_touch_says_how_the_switch_stood(self) -> None:
        self.say_all()
        switch = next(item for item in self.board.items if item.kind == "switch")
        common, other = switch.ends[0].spot, switch.ends[1].spot
        position = {leg: where for where, leg in switch.closes}[switch.ends[1].leg]
        self.say(f"{common} to {other} beep, {switch.name} {position}")
        self.assertEqual(dict(self.board.touches[-1].setting.switches)[switch.name.lower()], position)

    def test_a_photo_is_laid_down_and_a_spot_put_on_it(self) -> None:
        picture = self.folder / "board.png"
        picture.write_bytes(board_picture(BOARD.spots, BOARD.tracks))
        self.trace.board.laying.setFocus()
        self.press(KEY.Key_Space)  # no photo yet: the chooser
        self.name_file(picture)
        self.until(lambda: self.page.view is not None and len(self.page.view.job.photos) == 1, "the photo is kept")
        self.until(lambda: self.page.settled)
        self.trace.board.laying.setFocus()
        self.press(KEY.Key_Space)
        self.assertEqual([one.name for one in self.board.grounds], ["board.png"])
        self.press(KEY.Key_F5)
        self.assertIs(self.focused, self.trace.board.photo)
        for key in (KEY.Key_Right, KEY.Key_Right, KEY.Key_Plus, KEY.Key_Down):
            self.press(key)
        self.press(KEY.Key_Left, SHIFT)
        self.press(KEY.Key_Return)
        self.type_in("clip+")
        self.press(KEY.Key_Return)
        pin = self.board.found_spot("clip+").pins[0]
        self.assertAlmostEqual(pin.x, 0.5 + 2 * 0.02 - 0.004 / 1.5, places=6)
        self.press(KEY.Key_Return)
        self.press(KEY.Key_Return)  # nothing said: no spot there after all
        self.assertIs(self.focused, self.trace.board.photo)
        self.press(KEY.Key_M)
        self.press(KEY.Key_T)
        self.press(KEY.Key_BracketRight)
        ground = self.board.grounds[0]
        self.assertEqual((ground.mirrored, ground.turned, ground.brightness), (True, 90, 0.15))

    def test_the_next_of_the_model_begins_from_its_map(self) -> None:
        self.say_all()
        self.say("clip+ to S1 4k7")
        self.press(KEY.Key_Escape)
        self.new_job("Phalarope compact", "dead too")
        self.press(KEY.Key_3, ALT)
        self.press(KEY.Key_Tab, CTRL | SHIFT)
        self.assertIn("Begin from the map of job 0001", self.trace.board.adopt.text())
        self.trace.board.adopt.setFocus()
        self.press(KEY.Key_Space)
        self.settle()
        self.assertEqual([one.name for one in self.board.items], ["battery", "red wire", "S1", "R4", "movement"])
        self.assertEqual((self.board.touches, self.trace.board.adopt.isVisible()), ((), False))

    def test_views_are_turned_by_one_key(self) -> None:
        self.say_all()
        page = self.trace.board
        self.assertIn("Point clip+, at battery, red wire", page.drawing.accessibleName())
        self.press(KEY.Key_R, CTRL)
        self.assertEqual(page.model.rowCount(), len(LINES))
        self.press(KEY.Key_R, CTRL)
        self.assertEqual(page.contacts.rows, (("S1 off", "S1 to run", "apart", "not touched"),
                                              ("S1 on", "S1 to run", "joined", "not touched")))  # fmt: skip
        page.switches.setFocus()
        page.switches.selectRow(1)
        self.press(KEY.Key_Return)
        self.assertEqual(page.typed.edit.text(), "S1 to run ")
        self.press(KEY.Key_R, CTRL)
        self.press(KEY.Key_R, CTRL)
        self.press(KEY.Key_F5)
        self.press(KEY.Key_Minus)  # all of it in view
        self.press(KEY.Key_Right)
        self.assertIn("Point s1", page.drawing.accessibleName())

    def test_the_map_goes_out_as_a_file_and_comes_in_again(self) -> None:
        self.say_all()
        before = self.board
        path = self.folder / "board.json"
        self.press(KEY.Key_E, CTRL)
        self.name_file(path)
        self.until(path.exists)
        self.say("take out R4")
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.until(lambda: self.board == before)
        for data in (b"{", b"[]", b'{"map_version": 9}', b'{"map_version": 1, "board": {"spots": 4}}', b"x" * 8_000_001):
            self.assertRaises(InvalidInput, read_map, data)

    def test_an_edited_text_keeps_the_places_on_the_photos(self) -> None:
        self.say_all()
        pin = Pin("p", 0.2, 0.3)
        self.page.perform(lambda job, at: pin_on_photo(job, "run", pin, at))
        assert self.page.view is not None
        text = circuit_text_of(self.page.view.job).replace("R4 run coil+ 2200", "R4 run coil+ 2700")
        self.page.perform(lambda job, at: choose_circuit(job, "x", text, at))
        self.assertEqual(self.board.found_spot("run").pins, (pin,))
        self.assertEqual(self.board.found_item("R4").value("ohm", 0.0), 2700.0)

    def test_list_says_better_and_takes_out(self) -> None:
        self.say_all()
        self.trace.board.views.turn_to(2)
        table = self.trace.board.table
        table.setFocus()
        table.selectRow(3)
        self.press(KEY.Key_Return)
        self.assertIn("R4:= R4 2k2 from run", self.trace.board.typed.edit.text())
        self.press(KEY.Key_A, CTRL)
        self.type_in("R4:= R4 3k3 from run to coil+")
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual(self.board.found_item("R4").value("ohm", 0.0), 3300.0)
        table.setFocus()
        table.selectRow(self.board.items.index(self.board.found_item("red wire")))
        self.press(KEY.Key_Delete)
        self.settle()
        self.assertIsNone(self.board.item("red wire"))
        self.assertIn("leads nowhere", self.trace.board.said.text())

    def test_what_evidence_was_taken_at_is_not_taken_away(self) -> None:
        self.say_all()
        self.press(KEY.Key_Tab, CTRL)
        self.settle()
        self.trace.suspects.typed.edit.setFocus()
        self.type_in("clip+ to gnd 1.36 V")
        self.press(KEY.Key_Return)
        self.settle()
        self.press(KEY.Key_Tab, CTRL | SHIFT)
        self.say("rename clip+ to plus clip")
        self.assertIsNotNone(self.board.spot("clip+"))
        self.assertIn("no point", self.said)


if __name__ == "__main__":
    unittest.main()
