"""A meter before a camera is checked by itself, paused by hand and goes on, by real keys on a real screen."""

import unittest

from tests.walk.walker import Walk

LONG_S = 180


class ByItself(Walk):
    ARGUMENTS = ("--demo",)

    def test_the_check_runs_is_paused_and_goes_on(self) -> None:
        self.sees("Jobs")
        self.card("Garganey hand meter")
        self.keys("alt+5")
        self.at("Light")
        self.next_is("read")
        self.keys("ctrl+Tab")
        self.sees("Colour")
        self.keys("ctrl+Tab")
        self.wait(lambda state: any(word.startswith("The needle shows") for word in state["words"]), "the needle is read")
        self.keys("F10")
        self.wait(lambda state: any("1 taken" in word for word in state["words"]), "it takes one by itself", LONG_S)
        self.keys("F10")
        self.wait(lambda state: any(word.startswith("F8 takes light") for word in state["words"]), "it stands")
        version = self.state["version"]
        self.keys("ctrl+z")
        self.wait(lambda state: state["version"] != version, "one is taken back")
        self.keys("F10")
        self.wait(lambda state: any("1 taken" in word for word in state["words"]), "it goes on", LONG_S)


if __name__ == "__main__":
    unittest.main()
