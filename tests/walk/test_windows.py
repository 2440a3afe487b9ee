"""Every window opened and used by real keys, left by Esc and by Enter; and a name for all that the keys can come to."""

import unittest

from tests.walk.walker import Walk

# Where one goes, the keys that open a window, and how its title begins.
READ_ONLY = (
    ("alt+3", ("F3",), "Evidence and next test"), ("alt+4", ("F3",), "How the batteries were judged"),
    ("alt+5", ("F3",), "How this was worked out"),
    ("alt+8", ("F3",), "How this was worked out"), ("alt+1", ("F1",), "Keys"), ("alt+5", ("F12",), "Instruments"),
)  # fmt: skip
SET_UPS = (
    ("alt+2", ("F5", "Return"), "base plate"), ("alt+3", ("F4",), "The circuit"), ("alt+5", ("F4",), "Set-up of the light check"),
    ("alt+5", ("ctrl+h",), "Put aside"),
)  # fmt: skip
READS = (
    ("alt+1", ("ctrl+o",), "Attach photos"), ("alt+2", ("ctrl+i",), "A strip-down from a CSV"),
    ("alt+3", ("ctrl+i",), "A circuit as SPICE text"), ("alt+4", ("ctrl+i",), "Cells from a CSV"),
    ("alt+5", ("ctrl+i",), "Readings from a CSV"),
)  # fmt: skip
WRITES = (
    ("alt+2", ("ctrl+e",), "strip-down.csv"), ("alt+2", ("ctrl+s",), "checklist.pdf"), ("alt+3", ("ctrl+e",), "evidence.csv"),
    ("alt+4", ("ctrl+e",), "cells.csv"),
    ("alt+5", ("ctrl+e",), "readings.csv"), ("alt+8", ("ctrl+b",), "job.zip"),
    ("alt+8", ("ctrl+s",), "sheet.html"),  # the last: that it was written is an act
)  # fmt: skip
PLACES = ("alt+1", "ctrl+Tab", "ctrl+Tab", "alt+2", "ctrl+Tab", "ctrl+Tab", "ctrl+Tab", "alt+3", "alt+4", "ctrl+Tab",
          "ctrl+Tab", "ctrl+Tab", "ctrl+Tab", "alt+5", "alt+8")  # fmt: skip


class Windows(Walk):
    ARGUMENTS = ("--demo",)

    def setUp(self) -> None:
        super().setUp()
        self.sees("Jobs")

    def opens(self, go: str, keys: tuple[str, ...]) -> None:
        self.keys(go)
        self.wait(lambda state: state["settled"], f"{go}, settled")
        self.keys(*keys)
        self.wait(lambda state: state["over"] and self.has_keys(state), f"{go} and {keys} open a window")

    def test_esc_leaves_every_window_and_keeps_nothing(self) -> None:
        self.card("Gannet reflex")
        version = self.state["version"]
        for go, keys, title in (*READ_ONLY, *SET_UPS, *READS):
            with self.subTest(title):
                self.opens(go, keys)
                self.over(title)
                self.keys("Escape")
                self.over("")
                self.assertEqual(self.state["version"], version)
        for go, keys, name in WRITES:
            with self.subTest(name):
                before = self.state["version"]
                self.opens(go, keys)
                self.keys("Escape")
                self.over("")
                self.opens(go, keys)
                self.assertEqual(self.state["version"], before)
                self.name_file(self.home / name)
                self.wait(lambda state, name=name: name in state["message"], "it says what was written")
                self.assertTrue((self.home / name).exists())

    def test_enter_does_what_a_window_is_for(self) -> None:
        self.card("Gannet reflex")
        self.opens("alt+5", ("ctrl+h",))
        self.type("a cell from afar")
        self.keys("Return")
        self.over("")
        self.sees("waits for a cell from afar")
        self.opens("alt+5", ("ctrl+h",))
        self.keys("ctrl+a", "Delete", "Return")
        self.over("")
        self.wait(lambda state: not any("from afar" in word for word in state["words"]), "it is taken up again")
        self.opens("alt+2", ("F5", "Return"))
        self.tab_to("Note")
        self.type("felt washer below")
        before = self.state["version"]
        self.keys("ctrl+Return")
        self.over("")
        self.wait(lambda state: state["version"] > before, "the step is kept")
        self.opens("alt+5", ("F4",))
        self.tab_to("Film speed")
        self.keys("ctrl+a")
        self.type("1,234")
        self.keys("ctrl+Return")
        self.over("Set-up of the light check")  # nothing is kept that was not understood
        self.keys("ctrl+a")
        self.type("400")
        before = self.state["version"]
        self.keys("ctrl+Return")
        self.over("")
        self.wait(lambda state: state["version"] > before, "the set-up is kept")
        self.sees("ISO 400")
        self.opens("alt+5", ("F12",))
        self.type("no address")
        self.keys("Return")
        self.sees("expected")
        self.over("Instruments")
        self.keys("Escape", "y")  # what was typed would be lost: it is asked
        self.over("")

    def test_readings_come_in_from_a_csv(self) -> None:
        (self.home / "readings.csv").write_text('reference_ev100,indicated_ev100\n8,"8.1"\n12,12.1\nsix,7\n')
        self.card("Gannet reflex")
        for leave in ("Escape", "Return"):
            wanted = self.state["acts"] + (leave == "Return")
            self.opens("alt+5", ("ctrl+i",))
            self.name_file(self.home / "readings.csv")
            self.wait(lambda state: state["over"] and self.has_keys(state), "the rows are shown before they are taken")
            self.sees("six")
            self.keys(leave)
            self.over("")
            self.wait(lambda state, acts=wanted: state["acts"] == acts, f"{leave}: taken or not")

    def test_the_pointer_does_what_the_keys_do(self) -> None:
        self.click("New job")
        self.focus_on("Headline fault")
        self.type("reads high")
        self.keys("Return")
        self.type("Little Auk meter")
        self.keys("Return")
        self.next_is("read")
        self.click("Set light")
        self.at("Light")
        self.click("ISO 100")
        self.over("Set-up of the light check")
        self.click("Leave as it was")
        self.over("")
        self.click("Open the sum")
        self.over("How this was worked out")
        self.click("Close")
        self.over("")

    def test_all_that_the_keys_come_to_has_a_name(self) -> None:
        self.tab_round("the jobs")
        self.card("Fulmar")
        for go in PLACES:
            before = self.state
            self.keys(go)
            self.wait(lambda state, before=before: state is not before and state["settled"], go)
            self.tab_round(go)
        for go, keys, title in (*READ_ONLY, *SET_UPS):
            if title != "base plate":  # this job has no steps
                self.opens(go, keys)
                self.tab_round(title)
                self.keys("Escape")
                self.over("")

    def tab_round(self, where: str) -> None:
        """Tab until it has come round; each stop has a name."""
        seen: list[list[str]] = []
        while self.state["focus"][:2] not in seen:
            seen.append(self.state["focus"][:2])
            self.assertTrue(seen[-1][1].strip(), f"{where}: no name for {seen[-1]}, after {seen[-3:-1]}")
            before = self.state["focus"]
            self.keys("Tab")
            self.wait(lambda state, before=before: state["focus"] != before, f"{where}: Tab goes on")
        self.assertGreater(len(seen), 1, where)


if __name__ == "__main__":
    unittest.main()
