"""One command without the window, as a station or the command line itself describes it."""

import argparse
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """One command without the window: how its arguments are added, and what it does; gives the exit status."""

    name: str
    help: str
    arguments: Callable[[argparse.ArgumentParser], None]
    run: Callable[[argparse.Namespace], int]
