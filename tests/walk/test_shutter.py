"""A leaf shutter whose slow speeds hang: fired by a simulated shutter, named, on the sheet, by real keys on a real screen."""

import unittest

from tests.walk.test_dead_meter import extract_text
from tests.walk.walker import Walk


class Shutter(Walk):
    ARGUMENTS = ("--demo",)

    def setUp(self) -> None:
        super().setUp()
        self.sees("Jobs")

    def fire(self) -> None:
        version = self.state["version"]
        self.keys("ctrl+t")
        self.wait(lambda state: state["version"] > version and state["settled"], "the firing is taken")

    def back(self) -> None:
        self.keys("Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")

    def test_from_the_complaint_to_the_sheet(self) -> None:
        self.card("Turnstone compact")
        self.keys("alt+6")
        self.at("Expose")
        self.next_is("fire")
        self.sees("1/4 and slower slow")
        self.keys("F8")
        self.sees("simulated sound card listens")
        for _ in range(3):
            self.fire()
        self.sees("and slower slow (over 99 %)")
        self.keys("F8")
        self.sees("F8 arms the sound card")
        self.wrong_and_right()
        self.keys("ctrl+Tab")
        self.focus_on("Lamps at an aperture and a light")
        self.sees("The slow lamp alone lights too late")
        self.type("f/5.6 40")  # left in the middle of it
        self.back()
        self.a_shot_at_another_job()
        self.card("Turnstone compact")
        self.keys("alt+8")
        self.at("Return")
        self.keys("ctrl+s")
        self.name_file(self.home / "sheet.pdf")
        self.wait(lambda state: "sheet.pdf" in state["message"], "it says what was written")
        sheet = extract_text(self.home / "sheet.pdf").replace("\n", " ").replace("\r", "")
        for said in ("Shutter speeds", "1/500", "the escapement"):
            self.assertIn(said, sheet)

    def wrong_and_right(self) -> None:
        """A line that is not understood keeps nothing; one that is, is kept and taken back."""
        version = self.state["version"]
        self.type("1/125 nine")
        self.keys("Return")
        self.sees("ms or s")
        self.assertEqual(self.state["version"], version)
        self.keys("ctrl+a")
        self.type("1/125 7.9 ms")
        self.keys("Return")
        self.wait(lambda state: state["version"] > version, "a firing typed is kept")
        self.keys("ctrl+z")

    def a_shot_at_another_job(self) -> None:
        self.card("Sandpiper instant")
        self.next_is("shoot")
        self.keys("F9")
        self.at("Expose")
        self.focus_on("A test shot")
        self.type("9 1 right")
        self.keys("Return")
        self.sees("wheel 9")
        self.back()


if __name__ == "__main__":
    unittest.main()
