"""Whole lines a half-typed choice may become."""

from violet_dial.core.power.cells import SIZES
from violet_dial.core.power.feeds import DIODES
from violet_dial.job.power import OwnCell, Power
from violet_dial.stations.power.bench import diodes_of, sizes_of


def offers_of(power: Power, text: str, at_hand: tuple[OwnCell, ...] = ()) -> tuple[str, ...]:
    """Completions of the last word, best first: cells first, then what goes with them."""
    head, plus, tail = text.rpartition("+")
    word = tail.strip().lower()
    if not plus:
        every = (
            *sizes_of(power),
            *(one.name for one in at_hand),
            *SIZES,
            "supply 1.5 V",
            "design 1.35 V",
            "drawer 150 ohm",
            "diode name IS=1e-7 N=1.1",
        )
        return tuple(one for one in every if one.lower().startswith(word))
    every = (*DIODES, *diodes_of(power), "adapter 0.2 V", "moved", "1 k")
    return tuple(f"{head.strip()} + {one}" for one in every if one.lower().startswith(word))
