"""Runs the test modules, one more process at a time than there are processors (windows wait a lot); slowest first. Modules that
open windows, links or other programs, or that take long, have a process of their own; the others share one by their folder, so
that what they all import is loaded once.

run_tests.py            every module
run_tests.py cover      every module, with coverage
run_tests.py fast       those that take a moment: under a minute
run_tests.py NAME ...   modules whose name has NAME in it, what they print shown
"""

import json
import os
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SECONDS = ROOT / ".test-seconds.json"  # how long each took last time; only the order depends on it
MOST_S, UNKNOWN_S = 1200, 60.0
LONGEST = (
    "tests.gui.test_this_job_alone",
    "tests.walk.test_windows",
    "tests.core.diagnosis.test_truths",
)  # before it is known
# What the fast run leaves out: real windows, links, other programs, and long simulations.
SLOW = (
    "tests.walk", "tests.gui", "tests.stations.trace.test_page", "tests.core.calibration.test_adjustment",
    "tests.core.opening.test_way_in", "tests.core.test_doctests", "tests.job.test_document", "tests.instruments", "tests.cli",
    "tests.store.test_crash", "tests.hostile", "tests.services.test_decoder",
    "tests.services.test_long_days", "tests.services.test_live", "tests.core.circuit.test_any_netlist",
    "tests.core.circuit.test_against_ngspice", "tests.core.diagnosis", "tests.core.steady",
)  # fmt: skip
ALONE = (
    "tests.walk", "tests.gui", "tests.kit", "tests.hostile", "tests.instruments", "tests.stations.trace.test_page",
    "tests.core.diagnosis.test_truths", "tests.core.test_independence", "tests.core.test_doctests", "tests.job.test_document",
    "tests.store.test_crash", "tests.services.test_decoder", "tests.services.test_long_days", "tests.services.test_live",
    "tests.services.test_listening", "tests.services.test_camera", "tests.services.test_by_itself", "tests.core.eye.test_needle",
    "tests.cli.test_main", "tests.core.circuit.test_any_netlist", "tests.core.circuit.test_against_ngspice",
    "tests.core.mapping.test_touching", "tests.core.calibration.test_adjustment", "tests.stations.trace.test_map",
)  # fmt: skip


def batches(chosen: list[str]) -> list[tuple[str, ...]]:
    """What runs in one process each."""
    found: dict[str, list[str]] = {}
    for one in chosen:
        parts = one.split(".")
        folder = ".".join(parts[:3] if parts[1] in ("core", "stations") and len(parts) > 3 else parts[:2])
        found.setdefault(one if one.startswith(ALONE) else folder, []).append(one)
    return [tuple(several) for several in found.values()]


def modules() -> list[str]:
    """Every test module, dotted."""
    found = sorted((ROOT / "tests").rglob("test_*.py"))
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in found]


def run(batch: tuple[str, ...], command: list[str]) -> tuple[tuple[str, ...], int, float, str]:
    """Run modules in one process; their names, exit status, seconds, and what they printed."""
    began = time.monotonic()
    environment = {"QT_QPA_PLATFORM": "offscreen", "QT_LOGGING_RULES": "qt.qpa.*=false", **os.environ}
    try:
        done = subprocess.run(
            [*command, *batch], cwd=ROOT, env=environment, capture_output=True, text=True, timeout=MOST_S, check=False
        )
        status, said = done.returncode, done.stdout + done.stderr
    except subprocess.TimeoutExpired as error:
        status, said = (
            124,
            f"{' '.join(batch)} did not end within {MOST_S} s\n{(error.stderr or b'').decode(errors='replace')}",
        )
    return batch, status, time.monotonic() - began, said


def main(arguments: list[str]) -> int:
    """Run what was asked for; 1 when anything failed."""
    signal.signal(signal.SIGINT, signal.default_int_handler)  # ignored where this runs in the background
    fast, cover = arguments == ["fast"], arguments == ["cover"]
    names = [] if fast or cover else arguments
    chosen = [one for one in modules() if not (fast and one.startswith(SLOW))]
    chosen = [one for one in chosen if not names or any(name in one for name in names)]
    before = json.loads(SECONDS.read_text()) if SECONDS.exists() else {}
    usual = {one: 2 * UNKNOWN_S if one in LONGEST else UNKNOWN_S if one.startswith(SLOW) else 4.0 for one in chosen}
    together = [(one,) for one in chosen] if names else batches(chosen)
    together.sort(key=lambda several: -before.get(several[0], sum(usual[one] for one in several)))
    command = [sys.executable, "-m", *(("coverage", "run", "-m") if cover else ()), "unittest"]
    began, failed, took = time.monotonic(), [], dict(before)
    with ThreadPoolExecutor((os.cpu_count() or 1) + 1) as pool:
        for done in as_completed([pool.submit(run, several, command) for several in together]):
            batch, status, seconds, said = done.result()
            took[batch[0]] = round(seconds, 1)
            if status or names:
                print(said, file=sys.stderr)
            if status:
                failed += [one for one in batch if one in said] or list(batch)
            more = f" and {len(batch) - 1} more of its folder" if len(batch) > 1 else ""
            print(f"{'FAILED' if status else 'ok':<7}{seconds:6.1f} s  {batch[0]}{more}", flush=True)
    SECONDS.write_text(json.dumps(took, indent=1, sort_keys=True))
    print(f"{len(chosen)} modules in {time.monotonic() - began:.0f} s, {len(failed)} failed {' '.join(failed)}".strip())
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
