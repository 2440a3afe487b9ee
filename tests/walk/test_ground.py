"""The ground walked with real keys on a real screen: shelves and backups on the jobs screen, the workshop file taken away in the
middle of work, text typed when the process is ended, and a damaged workshop brought back before there is any other window."""

import subprocess
import unittest
from pathlib import Path

from tests.walk.walker import Walk
from tests.workshops import open_workshop


class Ground(Walk):
    def test_shelves_backups_and_a_file_taken_away(self) -> None:
        self.keys("ctrl+n")
        self.focus_on("Headline fault")
        self.type("reads high")
        self.keys("Return")
        self.type("Little Auk meter")
        self.keys("Return")
        self.wait(lambda state: "Little Auk meter" in state["title"], "it has its name")
        self.keys("Escape")
        self.wait(lambda state: not state["station"], "back on the jobs")
        self.keys("ctrl+shift+b")
        self.over("Backups")
        self.keys("alt+n")
        self.wait(lambda state: "Backup written" in state["message"], "a backup by hand")
        self.keys("ctrl+shift+c")
        self.wait(lambda state: "collected" in state["message"], "it was collected")
        self.keys("ctrl+shift+b")
        self.over("Backups")
        self.keys("Return")
        self.wait(lambda state: "Brought back" in state["message"], "the workshop as it was")
        path = self.home / "data" / "violet-dial" / "workshop.violet"
        path.rename(path.with_name("elsewhere.violet"))
        self.wait(lambda state: "while it was open" in state["message"], "it is said without any act")
        self.keys("Return")
        self.wait(lambda state: bool(state["station"]), "the job opens")
        self.keys("alt+8")
        self.at("Return")
        self.focus_on("Done")
        self.type("contacts wiped and")
        self.wait(lambda state: "wiped and" in state["focus"][2], "all of it has come")
        self.process.terminate()  # in the middle of a sentence
        self.assertEqual(self.process.wait(15), 0)
        kept = open_workshop(path)
        self.addCleanup(kept.close)
        self.assertEqual(kept.view(kept.cards()[0].job_id).job.closing.done, "contacts wiped and")
        kept.close()
        self.damaged_and_brought_back(path)

    def damaged_and_brought_back(self, path: Path) -> None:
        """The next start finds a damaged file: a window says so, Enter brings the newest backup back, and work goes on."""
        path.write_bytes(b"hurt" + path.read_bytes()[4:])
        self.stop()
        self.state = {}
        self.start_unseen()
        name = self.title_of_window("cannot be opened")
        self.assertIn("cannot be opened", name)
        self.pointer("search", "--onlyvisible", "--name", "cannot be opened", "windowactivate", "--sync")
        self.pointer("key", "Return")
        self.wait(lambda state: state.get("active"), "the window is up and has the keys")
        self.keys("Return")
        self.wait(lambda state: "Little Auk meter" in state["title"], "its job opens")

    def title_of_window(self, part: str) -> str:
        found = subprocess.run(
            ["xdotool", "search", "--sync", "--onlyvisible", "--name", part],
            env=self.screen.environment, capture_output=True, text=True, check=False, timeout=20,
        ).stdout.split()  # fmt: skip
        return subprocess.run(
            ["xdotool", "getwindowname", found[0]], env=self.screen.environment, capture_output=True, text=True, check=True
        ).stdout


if __name__ == "__main__":
    unittest.main()
