"""Practice by real keys on a real screen: an exercise begun, worked with wrong lines and Esc in the middle, found and looked back
over; a second one given up; the process ended and opened again; nothing of it among the jobs."""

import unittest

from tests.walk.walker import Walk


class Practice(Walk):
    def begun(self, seed: str, level: int = 1, kind: int = 0) -> None:
        """Enter through the fields of a new exercise, its seed typed; ``kind`` is how far down its device stands."""
        self.over("New exercise")
        self.keys("Return", *["Down"] * kind, "Return", "Return")
        self.type(seed)
        self.keys("Return", "Return")
        self.wait(lambda state: f"Practice {seed}, level {level}" in state["title"] and state["settled"], "the exercise is open")
        self.keys("F9")
        self.at("Practise")

    def line(self, text: str) -> None:
        """A line that is kept."""
        version = self.state["version"]
        self.keys("ctrl+a")
        self.type(text)
        self.keys("Return")
        self.wait(lambda state: state["version"] > version and state["settled"], f"{text} is kept")

    def test_two_exercises_and_the_jobs_untouched(self) -> None:
        self.keys("ctrl+shift+p")
        self.sees("No exercise yet")
        self.keys("Return")
        self.begun("2")
        self.line("clip+ to gnd volts")
        self.wrong_and_left()
        self.keys("F9")
        self.line("lead to sw ohms")
        self.sees("ohms with the supply in")
        self.line("sw to swo volts")
        self.line("say meter switch high resistance 85 %")
        self.line("mend meter switch high resistance")
        self.looked_back()
        self.keys("ctrl+n")
        self.begun("4", 2)  # what is within reach now
        self.line("give up")
        self.sees("battery: reversed")
        self.process.terminate()
        self.assertEqual(self.process.wait(15), 0)
        self.stop()
        self.state = {}
        self.start()
        self.sees("Nothing on the bench yet")
        self.keys("ctrl+shift+p")
        self.sees("Back to the jobs")
        self.keys("Return")
        self.wait(lambda state: "Practice 4, level 2" in state["title"], "the newest exercise is there")

    def test_a_shutter_timed_at_expose(self) -> None:
        self.keys("ctrl+shift+p")
        self.sees("No exercise yet")
        self.keys("Return")
        self.begun("3", kind=6)
        self.line("1/125")
        self.keys("alt+6")
        self.at("Expose")
        self.sees("yours to find")
        self.keys("F8")
        self.sees("simulated sound card listens")
        for _ in range(2):
            version = self.state["version"]
            self.keys("ctrl+t")
            self.wait(lambda state, before=version: state["version"] > before and state["settled"], "it is taken")
        self.keys("F8")
        self.sees("F8 arms the sound card")
        self.keys("alt+9")
        self.at("Practise")
        for word in ("1/125", "1/500"):
            self.wait(lambda state, said=word: said in state["words"], f"{word} was tested")
        self.line("give up")
        self.wait(lambda state: any("points" in word for word in state["words"]), "it is worked out", 90)

    def wrong_and_left(self) -> None:
        """A figure of one's own is refused; Esc in the middle of a line; suspects are not shown at Trace."""
        version = self.state["version"]
        self.type("clip+ to gnd 9 V")
        self.keys("Return")
        self.sees("without its figure")
        self.assertEqual(self.state["version"], version)
        self.keys("ctrl+a")
        self.type("lead to sw vo")
        self.keys("Escape")
        self.wait(lambda state: not state["station"], "the exercises are shown")
        self.keys("Return")
        self.wait(lambda state: bool(state["station"]) and state["settled"], "the exercise again")
        self.keys("alt+3")
        self.at("Trace")
        self.sees("yours to find")
        self.keys("alt+9")
        self.at("Practise")

    def looked_back(self) -> None:
        """Points, the replay, the stations as they stood, and back to the exercises."""
        self.wait(lambda state: state["settled"] and any("points" in word for word in state["words"]), "it is worked out", 90)
        self.keys("F9")
        self.sees("best there")
        self.keys("Return")
        self.sees("Leave the replay")
        self.keys("F9")
        self.sees("Look back over it")
        self.keys("Escape")
        self.wait(lambda state: not state["station"], "the exercises are shown")


if __name__ == "__main__":
    unittest.main()
