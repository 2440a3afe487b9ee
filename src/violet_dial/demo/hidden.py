"""What is wrong with the devices of the demo, for its simulated bench."""

import tomllib
from functools import lru_cache
from pathlib import Path

TOLD = Path(__file__).parent.parent / "assets" / "demo"


@lru_cache(maxsize=1)
def hidden() -> dict[str, str]:
    """Faults by the circuit's name, or by the device's for its meter and shutter."""
    return tomllib.loads((TOLD / "hidden.toml").read_text(encoding="utf-8"))
