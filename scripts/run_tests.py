"""Runs the test modules, each in a process of its own, some more at a time than there are processors, the longest first. Every
process is a fork of this one, which has loaded what most of them need.

run_tests.py            every module
run_tests.py cover      every module, with coverage
run_tests.py fast       those that take a moment each: half a minute in all
run_tests.py keep       every module, and how long each took is kept for the next run, here and wherever this is checked out
run_tests.py NAME ...   modules whose name has NAME in it, what they print shown

Properties are tried on the same examples in every run, so that a change is blamed for what it did; EXPLORE=1 draws new ones.
"""

import gc
import importlib
import json
import os
import signal
import sys
import tempfile
import time
import traceback
import unittest
from pathlib import Path
from typing import IO, NamedTuple

ROOT = Path(__file__).resolve().parent.parent
KEPT = ROOT / "tests" / "seconds.json"  # how long each module took when that was kept last
MOST_S = 1200  # of one process
NEW_S = 5.0  # of a module that was not run yet
FAST_S = 1.5  # what the fast run leaves out takes longer
BESIDE = 2  # more processes at a time than there are processors: windows and links wait a lot
LOADED = (
    "tests.gui.window",
    "tests.walk.walker",
    "hypothesis",
    "reportlab.platypus",
    "scipy.stats",
    "scipy.signal",
    "scipy.ndimage",
)
MANY = 8  # processes from which it pays to load these first
LOOKS_S = 0.05  # how often it looks which are done
TOOK = "seconds: "  # the last line of what a process prints


def modules() -> list[str]:
    """Every test module, dotted."""
    paths = sorted((ROOT / "tests").rglob("test_*.py"))
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in paths]


def run_here(module: str) -> int:
    """Run a module in this process, and say how long it took."""
    began = time.monotonic()
    result = unittest.TextTestRunner().run(unittest.defaultTestLoader.loadTestsFromName(module))
    print(f"{TOOK}{time.monotonic() - began:.1f}", flush=True)
    return int(not result.wasSuccessful())


class Running(NamedTuple):
    """A module in a process of its own, when that began, and what it prints."""

    module: str
    began: float
    said: IO[bytes]


def start(module: str, cover: bool) -> tuple[int, Running]:
    """Run a module beside this process; the number of its own."""
    said = tempfile.TemporaryFile()  # noqa: SIM115 - read when the module is done
    child = os.fork()
    if child:
        return child, Running(module, time.monotonic(), said)
    status = 1
    try:
        os.dup2(said.fileno(), 1)
        os.dup2(said.fileno(), 2)
        if cover:
            os.execv(sys.executable, [sys.executable, "-m", "coverage", "run", __file__, "here", module])
        status = run_here(module)
    except BaseException:  # noqa: BLE001 - whatever it is, this process must end here
        traceback.print_exc()
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)


def wait_for(children: dict[int, Running]) -> tuple[Running, int]:
    """The next that is done, or has had its time, and how it ended."""
    while True:
        child, status = os.waitpid(-1, os.WNOHANG)
        if child:
            return children.pop(child), status
        for late, running in children.items():
            if time.monotonic() - running.began > MOST_S:
                running.said.write(f"did not end within {MOST_S} s\n".encode())
                os.kill(late, signal.SIGKILL)
        time.sleep(LOOKS_S)


def run_all(chosen: list[str], shows: bool, cover: bool) -> tuple[dict[str, float], list[str]]:
    """Run modules beside each other; how long each took, and which failed."""
    took: dict[str, float] = {}
    failed: list[str] = []
    waiting, children = chosen[::-1], dict[int, Running]()
    while waiting or children:
        while waiting and len(children) < (os.cpu_count() or 1) + BESIDE:
            child, running = start(waiting.pop(), cover)
            children[child] = running
        done, status = wait_for(children)
        done.said.seek(0)
        said = done.said.read().decode(errors="replace")
        seconds = [float(line.removeprefix(TOOK)) for line in said.splitlines() if line.startswith(TOOK)]
        if status or shows:
            print(said, file=sys.stderr)
        if status:
            failed.append(done.module)
        elif seconds:
            took[done.module] = seconds[-1]
        print(f"{'FAILED' if status else 'ok':<7}{sum(seconds[-1:]):6.1f} s  {done.module}", flush=True)
    return took, failed


def make_ready(count: int, cover: bool) -> None:
    """What every process is to find as it begins, and what most import where there are many: loaded once."""
    os.chdir(ROOT)
    sys.path.insert(0, str(ROOT))
    given = {"QT_QPA_PLATFORM": "offscreen", "QT_LOGGING_RULES": "qt.qpa.*=false", **os.environ}
    os.environ.update(given if "EXPLORE" in given else {**given, "CI": "1"})  # CI: hypothesis tries the same examples each time
    for name in LOADED if count >= MANY and not cover else ():
        importlib.import_module(name)
    gc.freeze()  # what is loaded stays shared


def main(arguments: list[str]) -> int:
    """Run what was asked for; 1 when anything failed."""
    if arguments[:1] == ["here"]:
        sys.path.insert(0, str(ROOT))
        return run_here(arguments[1])
    signal.signal(signal.SIGINT, signal.default_int_handler)  # ignored where this runs in the background
    way = arguments[0] if arguments and arguments[0] in ("fast", "cover", "keep") else ""
    names = [] if way else arguments
    usual: dict[str, float] = json.loads(KEPT.read_text())
    chosen = [name for name in modules() if not names or any(part in name for part in names)]
    if way == "fast":
        chosen = [name for name in chosen if usual.get(name, NEW_S) <= FAST_S]
    began = time.monotonic()
    make_ready(len(chosen), way == "cover")
    chosen.sort(key=lambda name: -usual.get(name, NEW_S))
    took, failed = run_all(chosen, bool(names), way == "cover")
    if way == "keep":
        still = {name: seconds for name, seconds in usual.items() if name in chosen}
        KEPT.write_text(json.dumps(still | took, indent=0, sort_keys=True) + "\n")
    print(f"{len(chosen)} modules in {time.monotonic() - began:.0f} s, {len(failed)} failed {' '.join(failed)}".strip())
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
