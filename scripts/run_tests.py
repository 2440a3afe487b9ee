"""Runs the test modules, some more processes at a time than there are processors, the longest first. Modules of a folder share a
process, so that what they all import is loaded once, as long as they are done within `TOGETHER_S`.

run_tests.py            every module
run_tests.py cover      every module, with coverage
run_tests.py fast       those that take a moment each: half a minute in all
run_tests.py keep       every module, and how long each took is kept for the next run, here and wherever this is checked out
run_tests.py NAME ...   modules whose name has NAME in it, what they print shown

Properties are tried on the same examples in every run, so that a change is blamed for what it did; EXPLORE=1 draws new ones.
"""

import json
import os
import signal
import subprocess
import sys
import time
import unittest
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
KEPT = ROOT / "tests" / "seconds.json"  # how long each module took when that was kept last
MOST_S = 1200  # of one process
NEW_S = 5.0  # of a module that was not run yet
TOGETHER_S = 45.0  # modules of a folder that share a process
FAST_S = 1.5  # what the fast run leaves out takes longer
BESIDE = 2  # more processes at a time than there are processors: windows and links wait a lot
TOOK = "seconds of "  # a line of what a process prints


def modules() -> list[str]:
    """Every test module, dotted."""
    paths = sorted((ROOT / "tests").rglob("test_*.py"))
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in paths]


def batches(chosen: list[str], usual: dict[str, float]) -> list[list[str]]:
    """What runs in one process each, the longest first."""

    def expected(batch: list[str]) -> float:
        return sum(usual.get(name, NEW_S) for name in batch)

    made: dict[str, list[list[str]]] = {}
    for module in sorted(chosen, key=lambda name: -expected([name])):
        folder = made.setdefault(module.rpartition(".")[0], [])
        for batch in folder:
            if expected([*batch, module]) <= TOGETHER_S:
                batch.append(module)
                break
        else:
            folder.append([module])
    return sorted((batch for folder in made.values() for batch in folder), key=lambda batch: -expected(batch))


def run_here(batch: list[str]) -> int:
    """Run modules in this process, and say how long each took."""
    failed = False
    for module in batch:
        began = time.monotonic()
        result = unittest.TextTestRunner().run(unittest.defaultTestLoader.loadTestsFromName(module))
        failed |= not result.wasSuccessful()
        print(f"{TOOK}{module} {time.monotonic() - began:.1f}", flush=True)
    return int(failed)


def run(batch: list[str], cover: bool) -> tuple[list[str], int, str]:
    """Run modules in a process of their own; their names, exit status, and what they printed."""
    environment = {"QT_QPA_PLATFORM": "offscreen", "QT_LOGGING_RULES": "qt.qpa.*=false", **os.environ}
    if "EXPLORE" not in os.environ:
        environment["CI"] = "1"  # by which hypothesis tries the same examples each time
    command = [sys.executable, *(("-m", "coverage", "run") if cover else ()), __file__, "here", *batch]
    try:
        done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, timeout=MOST_S, check=False)
        return batch, done.returncode, done.stdout + done.stderr
    except subprocess.TimeoutExpired as error:
        said = (error.stderr or b"").decode(errors="replace")
        return batch, 124, f"{' '.join(batch)} did not end within {MOST_S} s\n{said}"


def run_all(together: list[list[str]], shows: bool, cover: bool) -> tuple[dict[str, float], list[str]]:
    """Run batches beside each other; how long each module took, and which failed."""
    took: dict[str, float] = {}
    failed: list[str] = []
    with ThreadPoolExecutor((os.cpu_count() or 1) + BESIDE) as pool:
        for done in as_completed([pool.submit(run, batch, cover) for batch in together]):
            batch, status, said = done.result()
            lines = [line.removeprefix(TOOK).split() for line in said.splitlines() if line.startswith(TOOK)]
            seconds = {name: float(text) for name, text in lines}
            took |= seconds
            if status or shows:
                print(said, file=sys.stderr)
            if status:
                failed += [name for name in batch if f"({name}." in said or name not in seconds] or batch
            for name in batch:
                stands = "FAILED" if name in failed else "ok"
                print(f"{stands:<7}{seconds.get(name, 0.0):6.1f} s  {name}", flush=True)
    return took, failed


def main(arguments: list[str]) -> int:
    """Run what was asked for; 1 when anything failed."""
    if arguments[:1] == ["here"]:
        sys.path.insert(0, str(ROOT))
        return run_here(arguments[1:])
    signal.signal(signal.SIGINT, signal.default_int_handler)  # ignored where this runs in the background
    way = arguments[0] if arguments and arguments[0] in ("fast", "cover", "keep") else ""
    names = [] if way else arguments
    usual: dict[str, float] = json.loads(KEPT.read_text())
    chosen = [name for name in modules() if not names or any(part in name for part in names)]
    if way == "fast":
        chosen = [name for name in chosen if usual.get(name, NEW_S) <= FAST_S]
    began = time.monotonic()
    took, failed = run_all(batches(chosen, usual), bool(names), way == "cover")
    if way == "keep":
        still = {name: seconds for name, seconds in usual.items() if name in chosen}
        KEPT.write_text(json.dumps(still | took, indent=0, sort_keys=True) + "\n")
    print(f"{len(chosen)} modules in {time.monotonic() - began:.0f} s, {len(failed)} failed {' '.join(failed)}".strip())
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
