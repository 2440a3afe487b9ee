"""The application as its user has it: a process of its own, on an X server with a window manager, real keys and pointer.

What is on the screen is read from the read-only line that the application prints. A walk that fails leaves its picture.
"""

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PIL import Image

from tests.workshops import demo_at
from violet_dial.services.places import APPLICATION, DEMO_FILE

NEEDED = ("Xvfb", "openbox", "xdotool", "xwd")
WAIT_S, MOST_TABS, MOST_READINGS = 75.0, 60, 12
GOES_S = 6.0  # a window that was closed is gone by then
START_S = 180.0  # the demo is laid out first, beside other tests
PICTURES = Path(os.environ.get("VIOLET_DIAL_WALK_PICTURES", tempfile.gettempdir()))
TITLE_BAR = 28  # what the window manager draws round a window
State = dict[str, Any]


class Screen:
    """An X server with a window manager."""

    def __init__(self, width: int, height: int) -> None:
        missing = [name for name in NEEDED if shutil.which(name) is None]
        if missing:
            raise RuntimeError(f"walks need {', '.join(missing)}: ./test says how to install them")
        read, write = os.pipe()
        screen = f"{width}x{height}x24"
        # -r: no key repeats by itself, as one would where a busy machine lets go of it late
        command = ["Xvfb", "-r", "-displayfd", str(write), "-screen", "0", screen, "-nolisten", "tcp"]
        self._server = subprocess.Popen(command, pass_fds=(write,), stderr=subprocess.DEVNULL)
        os.close(write)
        with os.fdopen(read) as numbers:
            self.display = f":{numbers.readline().strip()}"
        self.environment = {**os.environ, "DISPLAY": self.display}
        quiet = subprocess.DEVNULL
        self._manager = subprocess.Popen(["openbox"], env=self.environment, stdout=quiet, stderr=quiet)

    def picture(self, path: Path) -> None:
        """What is on the screen, as PNG."""
        raw = subprocess.run(["xwd", "-root", "-silent"], env=self.environment, capture_output=True, check=True).stdout
        head = [int.from_bytes(raw[at : at + 4], "big") for at in range(0, 100, 4)]
        size, width, height, line, colours = head[0], head[4], head[5], head[12], head[19]
        order = "BGRX" if head[11] == 32 else "BGR"
        pixels = raw[size + 12 * colours :]
        Image.frombytes("RGB", (width, height), pixels[: line * height], "raw", order, line, 1).save(path)

    def close(self) -> None:
        for process in (self._manager, self._server):
            process.terminate()
            process.wait(10)


class Walk(unittest.TestCase):
    """Starts the application anew for each test; ``ARGUMENTS`` say how."""

    ARGUMENTS: tuple[str, ...] = ()
    FRESH = False  # whether the application lays the demo out itself
    SIZE = (1280, 800)

    def setUp(self) -> None:
        self.screen = Screen(*self.SIZE)
        self.addCleanup(self.screen.close)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)
        self.state: State = {}
        self._new = threading.Condition()
        self.start()
        self.addCleanup(self.stop)

    def start(self) -> None:
        """The application, its window full over the screen."""
        self.start_unseen()
        self.wait(lambda state: state.get("active"), "the window is up and has the keys", START_S)
        self.pointer("windowsize", *self.window(), str(self.SIZE[0] - 2), str(self.SIZE[1] - TITLE_BAR))

    def start_unseen(self) -> None:
        """The application; what it shows first is for the walk to see."""
        home = str(self.home)
        environment = {
            **self.screen.environment, "HOME": home, "XDG_DATA_HOME": f"{home}/data", "XDG_CONFIG_HOME": f"{home}/config",
            "XDG_STATE_HOME": f"{home}/state", "XDG_RUNTIME_DIR": home, "QT_QPA_PLATFORM": "xcb", "VIOLET_DIAL_SAY_STATE": "1",
            "LC_ALL": "C.UTF-8",
        }  # fmt: skip
        environment.pop("WAYLAND_DISPLAY", None)
        if "--demo" in self.ARGUMENTS and not self.FRESH:
            demo_at(self.home / "data" / APPLICATION / DEMO_FILE)
        command = [sys.executable, "-m", "violet_dial.cli.main", *self.ARGUMENTS]
        self.said = open(self.home / "said.txt", "w+")  # noqa: SIM115
        self.addCleanup(self.said.close)
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=self.said, text=True, cwd=home)
        threading.Thread(target=self._read, args=(self.process,), daemon=True).start()

    def window(self) -> list[str]:
        """The application's window as the X server knows it."""
        found = subprocess.run(
            ["xdotool", "search", "--onlyvisible", "--pid", str(self.process.pid)],
            env=self.screen.environment, capture_output=True, text=True, check=False,
        )  # fmt: skip
        return found.stdout.split()[:1]

    def stop(self) -> None:
        if self.process.poll() is None:
            self.process.terminate()
            self.process.wait(15)
        if self.process.stdout is not None:
            self.process.stdout.close()

    def _read(self, process: "subprocess.Popen[str]") -> None:
        assert process.stdout is not None
        for line in process.stdout:
            with self._new:
                self.state = json.loads(line)
                self._new.notify_all()

    def run(self, result: unittest.TestResult | None = None) -> unittest.TestResult | None:
        before = len(result.failures) + len(result.errors) if result is not None else 0
        self._result, self._before = result, before
        return super().run(result)

    # hands

    def pointer(self, *arguments: str) -> None:
        subprocess.run(["xdotool", *arguments], env=self.screen.environment, check=True, capture_output=True)

    def keys(self, *keys: str) -> None:
        """Keys pressed, as xdotool names them: ``F9``, ``ctrl+n``, ``Return``."""
        for key in keys:
            self.pointer("key", "--clearmodifiers", key)
            time.sleep(0.06)

    def type(self, text: str) -> None:
        """A text typed, key by key."""
        self.pointer("type", "--delay", "6", text)
        time.sleep(0.05)

    def click(self, words: str) -> None:
        """The pointer to a button that begins so, once it stands still, and its left key."""
        before: list[int] = []
        for _ in range(40):
            self.wait(lambda state: any(one.startswith(words) for one in state["buttons"]), f"a button “{words}”")
            place = next(place for one, place in self.state["buttons"].items() if one.startswith(words))
            if place == before:
                break
            before = place
            time.sleep(0.2)
        self.pointer("mousemove", str(before[0]), str(before[1]), "click", "1")

    # eyes

    def wait(self, condition: Callable[[State], Any], why: str, most_s: float = WAIT_S) -> State:
        """Until what is on the screen is so; a picture is left where it never is."""
        deadline = time.monotonic() + most_s
        with self._new:
            while not self._holds(condition):
                if time.monotonic() > deadline or self.process.poll() is not None:
                    self.leave_picture(why)
                self._new.wait(0.1)
            return self.state

    def _holds(self, condition: Callable[[State], Any]) -> bool:
        return bool(self.state) and bool(condition(self.state))

    def leave_picture(self, why: str) -> None:
        path = PICTURES / f"walk-{self.id().rsplit('.', 2)[-2]}-{self.id().rsplit('.', 1)[-1]}.png"
        try:
            self.screen.picture(path)
        except (OSError, subprocess.CalledProcessError):
            path = Path("none could be taken")
        self.said.flush()
        self.said.seek(0)
        shown = json.dumps({key: value for key, value in self.state.items() if key != "words"}, ensure_ascii=False)
        self.fail(
            f"never: {why}\npicture: {path}\nstate: {shown}\nwords: {self.state.get('words')}\nsaid: {self.said.read()[-1500:]}"
        )

    def sees(self, text: str) -> None:
        """Words come onto the screen."""
        self.wait(lambda state: any(text in word for word in state["words"]), f"“{text}” is to be seen")

    def at(self, station: str) -> None:
        self.wait(lambda state: state["station"] == station and state["settled"], f"at {station}, settled")

    def next_is(self, kind: str) -> State:
        return self.wait(lambda state: state.get("next") and state["next"][0] == kind and state["settled"], f"Next is {kind}")

    def over(self, title: str) -> None:
        """A window over the page is there; with an empty title none is."""
        self.wait(
            lambda state: self.has_keys(state) and (state["over"].startswith(title) if title else not state["over"]),
            f"window “{title}” over the page",
        )

    @staticmethod
    def has_keys(state: State) -> bool:
        """Whether the window in front is the one that the X server gives the keys to."""
        return bool(state["active"] == (state["over"] or state["title"]))

    def tab_to(self, name: str, key: str = "Tab") -> None:
        """By Tab alone to what a screen reader calls so."""
        for _ in range(MOST_TABS):
            if name in self.state["focus"][1]:
                return
            before = self.state["focus"]
            self.keys(key)
            self.wait(lambda state, before=before: state["focus"] != before, f"{key} goes on from {before[1]}")
        self.leave_picture(f"{key} comes to {name}")

    def focus_on(self, name: str) -> None:
        self.wait(lambda state: name in state["focus"][1], f"the keys go to {name}")

    def name_file(self, path: Path) -> None:
        """The file chooser that is open: a path typed, Enter, and it is gone."""
        self.wait(
            lambda state: state["focus"][0] == "QLineEdit" and state["over"] and self.has_keys(state), "a file is asked for"
        )
        title = self.state["over"]
        self.keys("ctrl+a")
        self.type(str(path))
        for _ in range(3):
            self.keys("Return")  # the first may only close the list of completions; one too many goes to the page
            if self._gone(title):
                break
        self.wait(lambda state: state["over"] != title and self.has_keys(state), "the file chooser is gone")

    def _gone(self, title: str) -> bool:
        """Whether a window goes within a while."""
        deadline = time.monotonic() + GOES_S
        while self.state["over"] == title and time.monotonic() < deadline:
            time.sleep(0.05)
        return bool(self.state["over"] != title)

    # the work, doing what Next says

    def read_on(self, error_stops: float) -> None:
        """Each reading Next asks for, as a meter would show it that is ``error_stops`` off everywhere."""
        for _ in range(MOST_READINGS):
            if self.state["next"][0] != "read":
                return
            self.take_next(error_stops)
        self.leave_picture("Next has readings enough")

    def take_next(self, error_stops: float) -> None:
        """One reading, at the light that Next has put into the bar."""
        light = re.search(r"Ev (\d+)", self.state["next"][1])
        assert light is not None and self.state["bar"]["reference"], self.state
        before = self.state["acts"]
        self.type(f"{int(light.group(1)) + error_stops:g}")
        self.keys("Return")
        self.wait(lambda state: state["acts"] > before and state["settled"], "the reading is taken")

    def sign_and_print(self, done: str) -> None:
        """The words on the sheet, the name, and the sheet as PDF; back to the jobs."""
        self.next_is("write")
        self.keys("F9")
        self.at("Return")
        self.focus_on("Done")
        self.type(done)
        self.tab_to("Signed by")
        self.type("A. Tystie")
        self.keys("Return")
        self.next_is("hand over")
        self.keys("ctrl+s")
        self.name_file(self.home / "sheet.pdf")
        self.wait(lambda state: "Written" in state["message"] and "sheet.pdf" in state["message"], "the sheet is written")
        self.assertTrue((self.home / "sheet.pdf").read_bytes().startswith(b"%PDF"))
        self.keys("Escape", "Escape")
        self.wait(lambda state: state["station"] == "", "the jobs are shown")

    def card(self, name: str) -> None:
        """By keys: a job found by its name and opened."""
        self.wait(lambda state: state["station"] == "", "the jobs are shown")
        self.keys("slash")
        self.focus_on("Search jobs")
        self.keys("ctrl+a")
        self.type(name)
        time.sleep(0.4)
        self.keys("Return")
        self.wait(
            lambda state: state["station"] or "Search jobs" not in state["focus"][1], f"{name} is open, or cards have the keys"
        )
        if not self.state["station"]:
            self.keys("Return")  # several have it: the first card
        self.wait(lambda state: name in state["title"], f"{name} is open")
