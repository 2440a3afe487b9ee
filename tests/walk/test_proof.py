"""A body that failed now and then: its firings counted, heard and proved, a day of another one ticked off, the sheet written, by
real keys on a real screen."""

import unittest

from tests.walk.test_dead_meter import extract_text
from tests.walk.walker import Walk


class Proof(Walk):
    ARGUMENTS = ("--demo",)

    def setUp(self) -> None:
        super().setUp()
        self.sees("Jobs")

    def kept(self, *keys: str) -> None:
        """Keys that make an act."""
        version = self.state["version"]
        self.keys(*keys)
        self.wait(lambda state: state["version"] > version and state["settled"], f"{keys} is kept")

    def back(self) -> None:
        self.keys("Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")

    def test_from_half_proved_to_the_sheet(self) -> None:
        self.card("Razorbill reflex")
        self.at("Prove")
        self.next_is("prove")
        self.sees("28 more clean firings")
        self.keys("F5")
        for _ in range(3):
            self.kept("Return")
        self.kept("F8")
        self.sees("24 more clean firings")
        self.wrong_and_right()
        self.hands_free()
        self.tab_to("A setting, a result, a repair")
        self.type("1/250 clean 3")  # left in the middle of it
        self.back()
        self.a_day_of_another()
        self.card("Razorbill reflex")
        self.at("Prove")
        self.keys("alt+8")
        self.at("Return")
        self.focus_on("Signed by")  # all else is written
        self.type("M. Tystie")
        self.keys("Return")
        self.keys("ctrl+s")
        self.name_file(self.home / "sheet.pdf")
        self.wait(lambda state: "sheet.pdf" in state["message"], "it says what was written")
        sheet = extract_text(self.home / "sheet.pdf").replace("\n", " ").replace("\r", "")
        for said in ("Is it fixed", "Not proved yet", "swab, then fluid", "after contacts, fluid", "Signed M. Tystie"):
            self.assertIn(said, sheet)

    def wrong_and_right(self) -> None:
        """A line that is not understood keeps nothing; a failure by its key is kept and taken back."""
        version = self.state["version"]
        self.tab_to("A setting, a result, a repair")
        self.type("1/250 perhaps")
        self.keys("Return")
        self.sees("roll 12 failed 2 at 1/250")
        self.assertEqual(self.state["version"], version)
        self.keys("ctrl+a", "BackSpace", "F5")
        self.kept("4")
        self.sees("73 more clean firings")
        self.keys("ctrl+z")
        self.sees("24 more clean firings")

    def hands_free(self) -> None:
        """The sound card counts what simulated hands fire at a speed that does not fail."""
        self.keys("Up", "F10")
        self.sees("simulated sound card listens")
        for _ in range(2):
            self.kept("ctrl+t")
        self.keys("F10")
        self.sees("22 more clean firings")

    def a_day_of_another(self) -> None:
        """Opened and left as it is; its day ticked off on its card."""
        self.card("Fulmar magnet camera")
        self.at("Prove")
        self.next_is("exercise")
        self.back()
        self.keys("ctrl+shift+x")
        self.wait(lambda state: "15 fired" in state["message"], "the day is ticked off")


if __name__ == "__main__":
    unittest.main()
