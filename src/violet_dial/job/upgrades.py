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


UPGRADES: dict[int, Callable[[Raw], Raw]] = {1: from_1, 2: from_2}


def upgraded(raw: Raw) -> Raw:
    """The raw document of an older format as one of this format; one of this or an unknown format as it is."""
    version = raw.get("format_version")
    if not isinstance(version, int) or version not in UPGRADES:
        return raw
    for step in range(version, FORMAT_VERSION):
        raw = UPGRADES[step](raw)
    return raw
