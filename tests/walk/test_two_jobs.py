"""Two jobs in turn at every station, and every size of window and text."""

import unittest

from tests.walk.walker import Walk

STATIONS = ("Receive", "Open", "Trace", "Power", "Light", "Expose", "Prove", "Return")


class TwoJobs(Walk):
    ARGUMENTS = ("--demo",)

    def test_each_is_as_it_was_and_nothing_of_the_other(self) -> None:
        """A job with a circuit and one without, in turn, and left by Esc in the middle of work."""
        self.sees("Jobs")
        before: dict[tuple[str, str], list[str]] = {}
        for _ in range(2):
            for name in ("Gannet reflex", "Fulmar exposure meter"):
                self.card(name)
                for number, station in enumerate(STATIONS, 1):
                    self.keys(f"alt+{number}")
                    self.at(station)
                    words = [word for word in self.state["words"] if not word.startswith("kept")]
                    self.assertEqual(before.setdefault((name, station), words), words, f"{name} at {station}")
                    self.assertEqual(any("Gannet" in word for word in words), name.startswith("Gannet"), station)
                    self.assertEqual(any("red wire" in word for word in words), (name, station) == (*self.WIRE,), station)
                self.keys("alt+3", "Escape", "Escape")
                self.wait(lambda state: state["station"] == "", "the jobs are shown")

    WIRE = ("Gannet reflex", "Trace")


class Small(Walk):
    """Everything that can be reached is inside the window, or in something that scrolls."""

    ARGUMENTS = ("--demo",)
    TEXT: tuple[tuple[str, int], ...] = (("ctrl+minus", 90), ("ctrl+plus", 150), ("ctrl+plus", 200))

    def test_text_of_every_size_by_day_and_night(self) -> None:
        self.sees("Jobs")
        self.card("Gannet reflex")
        size, night = self.state["size"], False
        for key, percent in self.TEXT:
            while self.state["look"][1] != percent:
                before = self.state["look"]
                self.keys(key)
                self.wait(lambda state, before=before: state["look"] != before, f"{key} changes the text")
            night = not night
            self.keys("F2")
            self.wait(lambda state, night=night: (state["look"][0] == "night") == night, "day and night in turn")
            for number, station in enumerate(STATIONS, 1):
                self.keys(f"alt+{number}")
                self.at(station)
                self.wait(lambda state: not state["outside"], f"all of {station} at {percent} % is inside")
                self.assertEqual(self.state["size"], size, f"{station} at {percent} % has made the window larger")


class Middle(Small):
    TEXT = (("ctrl+minus", 90), ("ctrl+plus", 200))
    SIZE = (1920, 1080)


class Large(Small):
    TEXT = (("ctrl+plus", 200),)
    SIZE = (2560, 1440)


if __name__ == "__main__":
    unittest.main()
