"""Older job documents brought up to date: one small function a format, each giving the next one.

Frozen documents of every format are in ``tests/job/formats``; they are real files and are never made again.
"""

from collections.abc import Callable
from typing import Any

from violet_dial.job.document import FORMAT_VERSION

Raw = dict[str, Any]


def from_1(raw: Raw) -> Raw:
    """Format 1 had no findings, walk, safety gate, strip-down and tracing: they begin empty."""
    return {**raw, "format_version": 2}


def from_2(raw: Raw) -> Raw:
    """Format 2 had no captures of instruments and no choice of what the next test is to save: they begin empty."""
    return {**raw, "format_version": 3}


def from_3(raw: Raw) -> Raw:
    """Format 3 grew under its one number: Expose, Power, Prove, Practise, colour and eye came to it field by field; what a
    document of its earlier days lacks begins empty. It kept a contact's readings as pairs, and no captures at map, contacts
    and cells."""
    proving = raw.get("proving")
    if not isinstance(proving, dict) or not isinstance(proving.get("rounds"), list):
        return {**raw, "format_version": 4}
    rounds = [_round_from_3(one) for one in proving["rounds"]]
    return {**raw, "proving": {**proving, "rounds": rounds}, "format_version": 4}


def _round_from_3(raw: Any) -> Any:
    if not isinstance(raw, dict) or not isinstance(raw.get("readings"), list):
        return raw
    pairs = (pair if isinstance(pair, list) and len(pair) == 2 else (pair, None) for pair in raw["readings"])
    return {**raw, "readings": [{"where": where, "ohm": ohm} for where, ohm in pairs]}


UPGRADES: dict[int, Callable[[Raw], Raw]] = {1: from_1, 2: from_2, 3: from_3}


def upgraded(raw: Raw) -> Raw:
    """The raw document of an older format as one of this format; one of this or an unknown format as it is."""
    version = raw.get("format_version")
    if not isinstance(version, int) or version not in UPGRADES:
        return raw
    for step in range(version, FORMAT_VERSION):
        raw = UPGRADES[step](raw)
    return raw
