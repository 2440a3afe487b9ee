"""The five minutes that README promises, word by word, on the demo workshop."""

import re
import unittest

from tests.walk.walker import Walk

MOST_READINGS = 12


class FiveMinutes(Walk):
    ARGUMENTS = ("--demo",)

    def test_readme_to_the_word(self) -> None:
        self.adjust_the_kittiwake()
        self.write_and_print()
        self.find_the_broken_wire()

    def adjust_the_kittiwake(self) -> None:
        self.sees("Jobs")
        self.keys("Down", "Down", "Return")
        self.at("Light")
        self.sees("Reads 0.67 stop high")
        self.next_is("adjust")
        self.assertIn("Turn the drum 2 notches back", self.state["next"][1])
        self.keys("F3")
        self.over("How this was worked out")
        self.sees("It is off evenly by +0.67")
        self.keys("Escape")
        self.over("")
        self.keys("F5", "Left", "Right")
        self.keys("F9")
        self.next_is("read")
        first = self.state["acts"]
        for taken in range(MOST_READINGS):
            if self.state["next"][0] != "read":
                break
            light = re.search(r"Ev (\d+)", self.state["next"][1])
            assert light is not None, self.state["next"]
            self.assertTrue(self.state["bar"]["reference"], "Next has put the light it wants into the bar")
            asked = self.state["bar"]["reference"]
            self.type(f"{light.group(1)}.1")
            self.keys("Return")
            self.wait(
                lambda state, taken=taken: state["acts"] > first + taken and state["settled"], "the reading is taken"
            )
            if taken == 0:
                self.keys("ctrl+z")
                self.sees("No readings yet")
                self.wait(lambda state, asked=asked: state["bar"]["reference"] == asked, "the bar has the light again")
                self.type(f"{light.group(1)}.1")
                self.keys("Return")
                self.wait(lambda state: state["next"][1] != light, "taken again")

    def write_and_print(self) -> None:
        self.sees("Right from Ev 5 to 15")
        self.keys("F9")
        self.at("Return")
        self.focus_on("Done")
        self.type("Cord moved two notches back.")
        self.tab_to("Signed by")
        self.type("A. Tystie")
        self.keys("Return")
        self.next_is("hand over")
        self.keys("ctrl+p")
        self.name_file(self.home / "sheet.pdf")
        self.wait(
            lambda state: "Written" in state["message"] and "sheet.pdf" in state["message"], "the sheet is written"
        )
        self.assertTrue((self.home / "sheet.pdf").read_bytes().startswith(b"%PDF"))
        self.keys("Escape", "Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")

    def find_the_broken_wire(self) -> None:
        self.card("Gannet reflex")
        self.at("Trace")
        self.next_is("test")
        self.keys("F10", "ctrl+t")
        self.sees("red wire: high resistance, about 150 kΩ")


if __name__ == "__main__":
    unittest.main()
