"""SciPy's rooms, brought in when something in them is first used: the start does without them, and two threads never bring in two
at once, which Python may answer with a deadlock where they need each other."""

import importlib
import threading
from typing import Any

_LOCK = threading.RLock()


class Room:
    """A part of SciPy, by its name."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __getattr__(self, name: str) -> Any:
        with _LOCK:
            found = getattr(importlib.import_module(f"scipy.{self._name}"), name)
        setattr(self, name, found)
        return found


constants, csgraph = Room("constants"), Room("sparse.csgraph")
interpolate, ndimage, optimize, signal = Room("interpolate"), Room("ndimage"), Room("optimize"), Room("signal")
linalg = Room("linalg")
sparse, spatial, special, stats, wavfile = (Room("sparse"), Room("spatial"), Room("special"), Room("stats"), Room("io.wavfile"))
