"""Lamps in a finder or on a body, seen by a camera: on, off, winking, or not to be told."""

import itertools
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput

Array = npt.NDArray[np.float64]
State = Literal["on", "off", "winking", "not told"]
RING = (1.6, 2.6)  # of a lamp's radius: the ground around it
LIT = 0.06  # of full white: brighter than its ground by more than it is when off, a lamp is lit
LEAST_TURNS = 3  # between on and off, from which it winks
NEVER = 0.3  # of the pictures, that may show it darker than when it was off
GLARED = 0.97


@dataclass(frozen=True)
class LampSpot:
    """Where a lamp is in the picture, px, and its radius; ``off`` by how much it is brighter than its ground when it is off."""

    name: str
    x: float
    y: float
    radius: float
    off: float = 0.0


def glow(spot: LampSpot, picture: Array) -> float:
    """By how much a lamp is brighter than its ground, of full white; nan where glare covers the ground.

    Raises InvalidInput: the lamp lies outside the picture.

    Parameters
    ----------
    picture : float array, shape (h, w); brightness 0 to 1
    """
    tall, wide = picture.shape
    reach = spot.radius * RING[1]
    left, top = int(spot.x - reach) - 1, int(spot.y - reach) - 1
    right, bottom = int(spot.x + reach) + 2, int(spot.y + reach) + 2
    if spot.radius < 1 or left < 0 or top < 0 or right > wide or bottom > tall:
        raise InvalidInput(
            f"Lamp {spot.name}", f"{spot.x:.0f}, {spot.y:.0f}", "a place inside the picture, with some ground round it"
        )
    part = picture[top:bottom, left:right]
    y, x = np.mgrid[top:bottom, left:right]
    away = np.hypot(x - spot.x, y - spot.y) / spot.radius
    ground = part[(away > RING[0]) & (away < RING[1])]
    if float((ground > GLARED).mean()) > 0.3:
        return float("nan")
    return float(part[away <= 0.8].mean() - np.median(ground))


def lamp_state(spot: LampSpot, glows: tuple[float, ...]) -> State:
    """What a lamp does over some pictures in a row."""
    known = [one for one in glows if np.isfinite(one)]
    if len(known) < max(1, len(glows) // 2):
        return "not told"
    if sum(one - spot.off < -LIT for one in known) > NEVER * len(known):
        return "not told"  # darker than it was when off: it was not off then
    lit = [one - spot.off > LIT for one in known]
    turns = sum(a != b for a, b in itertools.pairwise(lit))
    if turns >= LEAST_TURNS:
        return "winking"
    share = sum(lit) / len(lit)
    return "on" if share > 0.7 else "off" if share < 0.3 else "not told"
