"""Where the icons drawn for this product are."""

from pathlib import Path

_ICONS = Path(__file__).parent.parent.parent / "assets" / "icons"


def icon_path(name: str) -> str:
    """Path of an icon with forward slashes, as style sheets want it."""
    return (_ICONS / f"{name}.svg").as_posix()
