"""A key of the window, for the key sheet and the window that hears it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Key:
    """One entry of the table of keys.

    ``act`` is the page's method that a shortcut calls; empty where the widget that has the focus handles the key itself.
    ``anywhere``: the key works at every station and goes to this one first.
    """

    keys: tuple[str, ...]
    words: str
    act: str = ""
    anywhere: bool = False
