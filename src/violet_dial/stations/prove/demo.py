"""Firings, contacts, exercise and seal rolls of the demo jobs. All invented."""

from datetime import date, timedelta

import numpy as np

from violet_dial.job.act import Act
from violet_dial.services.doing import Doing
from violet_dial.services.simulated import SHUTTER_OF
from violet_dial.stations.prove import acts, rounds_acts, seals_acts

SEED = 19
HIDDEN: dict[str, str] = {f"{SHUTTER_OF} Razorbill reflex": "misses 0.3 at 1/250"}  # by the device's name
SETTINGS = ("1/30", "1/60", "1/125", "1/250")
OFTEN, SELDOM = 0.45, 0.03  # how often it failed at 1/250, and elsewhere


def _fired(line: str) -> Act:
    return lambda job, at: acts.understand(job, line).act(job, at)


def _contact(line: str) -> Act:
    return lambda job, at: rounds_acts.understand_contact(job, line).act(job, at)


def now_and_then(on: Doing) -> None:
    """A body whose magnet did not hold at one speed: fired, its contacts cleaned, half proved."""
    rng = np.random.default_rng(SEED)
    on.each(_fired, ("battery 2.96", "supply battery"))
    for turn in range(8):
        for setting in SETTINGS:
            bad = rng.random() < (OFTEN if setting == "1/250" else SELDOM)
            rest = turn == 0 and setting == SETTINGS[0]
            on.each(_fired, ("rested 15 h",) if rest else ())
            on.do(_fired(f"{setting} {'no magnet' if bad else 'clean'}"))
    on.each(
        _contact,
        ("1/30 0.2", "1/60 0.3", "1/125 1.4", "1/250 6.8 14 3.1", "black", "swab", "1/30 0.2", "1/60 0.2", "1/125 0.5",
         "1/250 2.4 3.9 2.2", "black", "fluid", "1/30 0.2", "1/60 0.2", "1/125 0.3", "1/250 0.4 0.4 0.5", "no black"),
    )  # fmt: skip
    on.each(_fired, ("rested 14 h", "1/250 clean 6", "1/125 clean 9", "1/60 clean 9", "1/30 clean 9", "1/250 clean 4"))


def on_day_three(on: Doing) -> None:
    """A magnet shutter that stuck, on day three of its exercise."""
    begins = date.today() - timedelta(days=2)
    today = date.today()
    lines = (
        f"5 days 15 a day rest 4 from {begins.isoformat()}", f"done 15 failed 3 on {begins.isoformat()}",
        f"done 15 failed 1 on {(begins + timedelta(days=1)).isoformat()}",
    )  # fmt: skip
    on.each(lambda line: lambda job, at: rounds_acts.understand_exercise(job, line, today).act(job, at), lines)


def seal_roll(on: Doing) -> None:
    """A compact whose hinge seal has gone: a roll half looked at."""
    lines = (
        "roll 24", "1 streak left perforations", "2 clean", "3 streak left perforations", "4 edge left perforations", "5 clean",
        "6 streak left perforations", "7 clean", "8 clean", "9 clean", "10 clean", "11 clean", "12 clean",
        "13 edge left perforations",
    )  # fmt: skip
    on.each(lambda line: lambda job, at: seals_acts.understand(job, line).act(job, at), lines)


def soaked(on: Doing, values: tuple[tuple[str, str], ...]) -> None:
    """Readings over some days."""
    on.each(
        lambda one: lambda job, at: rounds_acts.understand_soak(job, f"{one[0]} {one[1]}".strip()).act(job, at), values
    )
