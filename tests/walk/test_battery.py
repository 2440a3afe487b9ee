"""The wrong cell in a series meter, and a stack that sags: chosen, fitted, checked and on the sheet, by real keys."""

import unittest

from tests.walk.test_dead_meter import extract_text
from tests.walk.walker import Walk


class Battery(Walk):
    ARGUMENTS = ("--demo",)

    def setUp(self) -> None:
        super().setUp()
        self.sees("Jobs")

    def line(self, text: str, sees: str) -> None:
        """A line typed and taken; what it led to comes onto the screen."""
        self.type(text)
        self.keys("Return")
        self.sees(sees)

    def test_from_the_complaint_to_the_sheet(self) -> None:
        self.card("Tystie clip-on meter")
        self.keys("alt+4")
        self.at("Power")
        self.next_is("take")
        self.sees("Best: SR44 with Schottky diode")
        self.keys("Left", "Left")
        self.sees("Ev 6 · 20 °C")
        self.keys("Next")  # page down
        self.sees("Ev 6 · 5 °C")
        before = self.state["version"]
        self.keys("F9")
        self.wait(lambda state: state["version"] > before and state["settled"], "it is taken")
        self.keys("ctrl+Tab", "ctrl+Tab", "ctrl+Tab")
        self.focus_on("What was read at the diode")
        version = self.state["version"]
        self.line("sideways 3", "expected forward 0.25")
        self.assertEqual(self.state["version"], version)
        self.keys("ctrl+a")
        self.line("forward OL", "What should be read")
        self.line("reverse 0.25", "wrong way round")
        self.line("Ev 6: 1.56 before 0 behind", "Wrong way round (100%)")
        self.type("Ev 6: 1.5")  # left in the middle of it
        version = self.state["version"]
        self.keys("Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")
        self.card("Noddy shutter camera")
        self.keys("alt+4", "ctrl+Tab")
        self.focus_on("A cell as it was read")
        self.line("4LR44 4.6 2.9 magnet", "lets go however well")
        self.keys("Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")
        self.card("Tystie clip-on meter")
        self.assertEqual(self.state["version"], version)
        self.keys("alt+8")
        self.at("Return")
        self.keys("ctrl+s")
        self.name_file(self.home / "sheet.pdf")
        self.wait(lambda state: "sheet.pdf" in state["message"], "it says what was written")
        sheet = extract_text(self.home / "sheet.pdf")
        for said in ("SR44) with Schottky diode: within 0.28 stop", "take it out when the device rests"):
            self.assertIn(said, sheet.replace("\n", " ").replace("\r", ""))


if __name__ == "__main__":
    unittest.main()
