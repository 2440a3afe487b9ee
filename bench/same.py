"""This copy beside an older one: what they say of the demo and print of its files, line by line.

Usage: bench/run same REVISION. Each copy lays out its own demo; the sheets as text, the card, Next and the line of every job, the
files of its bundle and what the commands print are laid beside each other. What differs is printed; it is not judged: a change
may be meant.
"""

import difflib
import json
import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.measure import row

ROOT = Path(__file__).resolve().parent.parent
MOST_SAID = 40  # differing lines that are printed of one thing
SCRIPT = """
import json, re, sys, tempfile, zipfile, io
from pathlib import Path
from violet_dial.demo.workshop import build_demo
from violet_dial.report.html import paper_html
from violet_dial.services.sheet import card_of, sheet_of
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile
try:
    from violet_dial.services.appraisal import appraise
    def said(job):
        found = appraise(job, 1, STATIONS)
        return found.next, found.states
except ImportError:
    from violet_dial.services.next import next_act, station_states
    def said(job):
        return next_act(job, STATIONS), station_states(job, STATIONS)
def plain(html):
    html = re.sub(r"<(style|svg).*?</\\\\1>", "", html, flags=re.S)
    lines = (re.sub(r"<[^>]+>", " ", line).strip() for line in html.splitlines())
    return [" ".join(line.split()) for line in lines if line]
with tempfile.TemporaryDirectory() as name:
    path = Path(name) / "demo.violet"
    build_demo(path)
    shop = Workshop(WorkshopFile(path), lambda: STATIONS)
    found = {}
    for card in shop.cards():
        job = shop.view(card.job_id).job
        act, states = said(job)
        one = {"card": [card.title, card.headline, card.waits_for, card.finding],
               "next": [act.station, act.title, act.reason, act.cost, act.waits],
               "line": [f"{station} {state}" for station, state in states.items()],
               "sheet": plain(paper_html(sheet_of(job, STATIONS, "today"))),
               "short card": plain(paper_html(card_of(job, STATIONS, "today")))}
        with zipfile.ZipFile(io.BytesIO(shop.export_bundle(card.job_id))) as bundle:
            for member in bundle.namelist():
                if member.endswith((".csv", ".cir", ".txt")):
                    one[member] = bundle.read(member).decode().splitlines()
        found[f"{card.number:04d} {card.title}"] = one
    shop.close()
print(json.dumps(found))
"""
COMMANDS = (
    ("light", "f/8 1/125", "--iso", "400"), ("cell", "--size", "LR44", "--rest", "1.52", "--load", "1.31", "--ohm", "47"),
    ("colour", "--source", "A", "--cell", "selenium", "--calibrated", "D55"), ("exercise", "--days", "5"),
    ("practise", "--seed", "7", "--level", "3"), ("op", "CIRCUIT"), ("power", "CIRCUIT", "--design", "1.35"),
)  # fmt: skip


def _printed(tree: Path, *arguments: str) -> str:
    environment = {**os.environ, "PYTHONPATH": str(tree / "src"), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-P", *arguments], cwd=tree, env=environment, capture_output=True, text=True, check=False
    )
    return done.stdout if done.returncode == 0 else f"exit {done.returncode}\n{done.stdout}{done.stderr}"


def _of_commands(tree: Path) -> dict[str, list[str]]:
    circuits = sorted((tree / "src/violet_dial/assets/circuits").glob("*.cir"))
    found = {}
    for words in COMMANDS:
        for circuit in circuits if "CIRCUIT" in words else (Path(),):
            given = [str(circuit) if word == "CIRCUIT" else word for word in words]
            name = " ".join(word.replace(str(circuit), circuit.name) for word in given)
            found[name] = _printed(tree, "-m", "violet_dial.cli.main", *given).replace(str(tree), "").splitlines()
    return found


def _beside(name: str, before: list[str], now: list[str]) -> bool:
    """Whether two texts are the same; what differs is printed."""
    if before == now:
        return True
    print(f"  {name}")
    lines = [line for line in difflib.unified_diff(before, now, lineterm="", n=0) if not re.match(r"(---|\+\+\+|@@)", line)]
    for line in lines[:MOST_SAID]:
        print(f"    {line[:200]}")
    return False


def report(revision: str) -> None:
    """Both copies, each by its own code; how much is the same, and what is not."""
    with tempfile.TemporaryDirectory() as name:
        old = Path(name) / "old"
        subprocess.run(["git", "worktree", "add", "--quiet", "--detach", str(old), revision], cwd=ROOT, check=True)
        try:
            demos = [json.loads(_printed(tree, "-c", SCRIPT)) for tree in (old, ROOT)]
            commands = [_of_commands(tree) for tree in (old, ROOT)]
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", str(old)], cwd=ROOT, check=True)
    pairs = [(f"{job}: {part}", text, demos[1].get(job, {}).get(part, [])) for job, parts in demos[0].items()
             for part, text in parts.items()]  # fmt: skip
    pairs += [(words, text, commands[1].get(words, [])) for words, text in commands[0].items()]
    same = sum(_beside(*pair) for pair in pairs)
    row("said and printed the same as before", f"{same} of {len(pairs)}")
