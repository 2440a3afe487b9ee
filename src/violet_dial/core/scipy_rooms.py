"""SciPy's rooms, brought in when they are first needed: the start does without them, and two threads never bring in two at
once, which Python may answer with a deadlock where they need each other."""

import importlib
import threading
from typing import Any

_LOCK = threading.RLock()


def scipy_room(name: str) -> Any:
    """A part of SciPy."""
    with _LOCK:
        return importlib.import_module(f"scipy.{name}")
