"""This copy beside an older one, in turn, in one run: start, an act, the jobs screen, the suspects; as ratios.

Usage: bench/run against REVISION. Each copy is measured by its own bench, so that each is driven as it wants to be.
"""

import os
import re
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.measure import row

ROOT = Path(__file__).resolve().parent.parent
ROUNDS = 5
MOST = 1.05  # how much slower anything may be than before
FIGURE = re.compile(r"^ {2}(?P<name>\S.*?) {2,}(?P<figure>[\d.]+) (?P<unit>ms|s)\b")
WANTED = ("process start to first painted window", "one act with", "opening the jobs screen with", "suspects of")
SUSPECTS = """
import time
from pathlib import Path
import violet_dial
from bench.measure import row
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.next_test import rank_tests
from violet_dial.core.diagnosis.posterior import Case, Diagnostician
for path in sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir")):
    circuit = read_spice(path.read_text())
    now = usual_setting(circuit)
    times = []
    for _ in range(3):
        began = time.process_time()  # of all threads: what it costs, whatever else the machine does
        rank_tests(Diagnostician().diagnose(Case(circuit, ((),))), now, Reach())
        times.append(time.process_time() - began)
    row(f"suspects of {path.stem}", f"{min(times) * 1e3:.1f} ms")
"""
ACTS = """
import tempfile
from pathlib import Path
from bench import acts
with tempfile.TemporaryDirectory() as name:
    acts.report_act(Path(name))
    acts.report_jobs(Path(name))
"""
REPORTS = ("from bench import start_up; start_up.report()", ACTS, SUSPECTS)


def figures(tree: Path, script: str) -> dict[str, float]:
    """What a copy's own bench says, in ms by name."""
    paths = os.pathsep.join((str(tree / "src"), str(tree)))
    environment = {**os.environ, "PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-P", "-c", script], cwd=tree, env=environment, capture_output=True, text=True, check=True
    )
    met = [FIGURE.match(line) for line in done.stdout.splitlines()]
    return {
        one["name"]: float(one["figure"]) * (1e3 if one["unit"] == "s" else 1.0)
        for one in met
        if one is not None and one["name"].startswith(WANTED)
    }


def report(revision: str) -> None:
    """Old and new in turn, and the median of the ratios."""
    with tempfile.TemporaryDirectory() as name:
        old = Path(name) / "old"
        subprocess.run(["git", "worktree", "add", "--quiet", "--detach", str(old), revision], cwd=ROOT, check=True)
        try:
            for script in REPORTS:
                _compare(old, script)
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", str(old)], cwd=ROOT, check=True)


def _compare(old: Path, script: str) -> None:
    rounds = []
    for number in range(ROUNDS):
        trees = (old, ROOT) if number % 2 else (ROOT, old)
        by_tree = {tree: figures(tree, script) for tree in trees}
        rounds.append((by_tree[old], by_tree[ROOT]))
    for name in rounds[0][1]:
        pairs = [(before[name], now[name]) for before, now in rounds if name in before]
        if pairs:
            ratio = statistics.median(now / before for before, now in pairs)
            was, is_now = (statistics.median(side) for side in zip(*pairs, strict=True))
            row(name, f"{was:.1f} ms, now {is_now:.1f} ms", f"ratio {ratio:.2f}, goal: at most {MOST:g}")
