"""The five minutes that README promises, word by word, on the demo workshop."""

import unittest

from tests.walk.walker import Walk


class FiveMinutes(Walk):
    ARGUMENTS = ("--demo",)
    FRESH = True

    def test_readme_to_the_word(self) -> None:
        self.adjust_the_kittiwake()
        self.write_and_print()
        self.find_the_broken_wire()
        self.touch_the_board()

    def adjust_the_kittiwake(self) -> None:
        self.sees("Jobs")
        self.keys("Down", "Down", "Down", "Return")
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
        asked = self.state["bar"]["reference"]
        self.take_next(0.1)
        self.keys("ctrl+z")
        self.sees("No readings yet")
        again = "the bar has the light again, and Next is of it"
        self.wait(lambda state: state["bar"]["reference"] == asked and state["settled"], again)
        self.read_on(0.1)

    def write_and_print(self) -> None:
        self.sees("Right from Ev 5 to 15")
        self.sign_and_print("Cord moved two notches back.")

    def find_the_broken_wire(self) -> None:
        self.card("Gannet reflex")
        self.at("Trace")
        self.next_is("test")
        self.keys("F10", "ctrl+t")
        self.sees("red wire: high resistance, about 160 kΩ")

    def touch_the_board(self) -> None:
        self.keys("F10", "Escape")
        self.card("Puffin motor compact")
        self.at("Trace")
        self.next_is("map")
        self.sees("Touch next")
        self.keys("F9")
        self.focus_on("What the meter shows")
        before = self.state["version"]
        self.type("4k7")
        self.keys("Return")
        self.wait(lambda state: state["version"] > before, "the touch is kept")
        self.keys("ctrl+r")
        self.keys("ctrl+Tab")
        self.sees("Suspects")
        self.sees("track: high resistance")
        self.keys("ctrl+Tab")
        self.sees("Working unit")
        self.focus_on("Volts against the chassis")
        for figure in ("5.93", "6.03"):  # both units are as they should be up to the lead
            before = self.state["version"]
            self.type(figure)
            self.keys("Return")
            self.wait(lambda state, before=before: state["version"] > before, "the figure is kept")
        self.sees("Alike up to lead, apart from rail0 on; likeliest track")


if __name__ == "__main__":
    unittest.main()
