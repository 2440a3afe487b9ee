"""Touches that may be made: what each should show, what it would see, how long it takes; a lead drawn along several spots."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.mapping.board import Board, node_of
from violet_dial.core.mapping.doubts import BEEPS_OHM, own_sigma, rows_of, shown
from violet_dial.core.mapping.search import MapJudgement
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM, Setting

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
TOUCH_MIN, SWITCH_MIN = 0.15, 0.5  # of one touch, of turning a switch; common practice, no source
SWEPT_MIN = 0.03  # of each spot further that a lead is drawn along; common practice, no source
MOST_SWEPT, LEAST_SWEPT = 12, 3  # spots along which one lead is drawn
SILENT_FROM_OHM, BEEPS_TO_OHM = 2 * BEEPS_OHM[-1], BEEPS_OHM[1]  # no meter beeps from the one, every one to the other
APART = 4.0  # standard deviations by which readings are told apart
HEARD = 3  # touches that were all heard, from which on the meter is one that beeps and shows nothing
SOUND_OHM = 1.0  # below it a beep is what is waited for


@dataclass(frozen=True)
class NextTouch:
    """Two spots to touch: what the map expects there, how much it settles, in what setting, and what it would settle.

    ``over``: where a lead is drawn along several spots, ``b`` first, those after it: all should beep, or none.
    """

    a: str
    b: str
    setting: Setting
    expects: str
    ohm: float
    bits: float
    minutes: float
    settles: tuple[str, ...]
    over: tuple[str, ...] = ()

    @property
    def along(self) -> tuple[str, ...]:
        """The spots that the second lead touches."""
        return (self.b, *self.over)

    @property
    def expects_beep(self) -> bool:
        """Whether the meter should beep."""
        return self.ohm < SILENT_FROM_OHM

    @property
    def words(self) -> str:
        return f"{self.a} to {', '.join(self.along)}"


@dataclass(frozen=True)
class Swept:
    """A lead held at a spot and the other drawn along some: the touches by their places, what they are worth, minutes."""

    a: str
    places: tuple[int, ...]
    worth: float
    minutes: float

    @property
    def rate(self) -> float:
        return self.worth / self.minutes


class PossibleTouches:
    """Touches that may be made in a setting, t of them, and what each would show were something laid on the map.

    Parameters
    ----------
    found : what is believed
    pairs : spots, two each
    turned : switches that stand otherwise now
    """

    def __init__(self, found: MapJudgement, setting: Setting, pairs: Sequence[tuple[str, str]], turned: int = 0) -> None:
        self.found, self.setting, self.pairs = found, setting, pairs
        self.there = found.network(found.best, setting)
        self.rows = rows_of(self.there, pairs)
        self.ohm = self.there.ohm(*self.rows)
        self.sigma = own_sigma(self.there, *self.rows, self.ohm)
        self._turning = turned * SWITCH_MIN
        self._behind = {spot.name: (spot.behind, spot.minutes or 3.0) for spot in found.said.spots if spot.behind}
        self.by_ear = is_by_ear(found.said, self.ohm <= BEEPS_TO_OHM)
        self.minutes = np.array([self._minutes(pair) for pair in pairs])

    def lay(self, pairs: Sequence[tuple[str, str]], siemens: Array) -> None:
        """Which touches see siemens laid between each pair of spots, and which along a row do, by a beep, (t, p) each: a beep
        where there was none, or, where the meter is only heard, none where there was one. ``by_figure``: what a beep would not
        tell.

        Parameters
        ----------
        pairs : spots, p times two
        siemens : shape (p,)
        """
        ohm, other = self.ohm[:, None], self.there.ohm_with(self.rows, rows_of(self.there, pairs), siemens)
        falls_silent = (ohm <= BEEPS_TO_OHM) & (other >= SILENT_FROM_OHM)
        self.hears = ((other <= BEEPS_TO_OHM) & (ohm >= SILENT_FROM_OHM)) | (falls_silent & self.by_ear[:, None])
        self.shows = np.abs(shown(other) - shown(ohm)) > APART * self.sigma[:, None]
        self.sees = np.where(self.by_ear[:, None], self.hears, self.shows)
        self.by_figure = self.shows & ~falls_silent & (ohm < SOUND_OHM)

    def apart(self, ohm: Array) -> Array:
        """Ohms as they are told apart: in standard deviations, or whether they beep, (t,)."""
        found: Array = np.where(self.by_ear, 2 * APART * (ohm <= self.found.beep_ohm), shown(ohm) / self.sigma)
        return found

    def _minutes(self, names: Sequence[str]) -> float:
        """Minutes of a touch, or of one drawn along: to turn switches, to lay the spots bare, and by itself."""
        bare = dict(self._behind[name] for name in names if name in self._behind)
        return TOUCH_MIN + self._turning + SWEPT_MIN * (len(names) - 2) + sum(bare.values())

    def row(self, name: str, places: Sequence[int], worth: float) -> Swept:
        """A lead held at a spot, and the other drawn along the rest of these touches."""
        return Swept(name, tuple(places), worth, self._minutes((name, *self._along(name, places))))

    def swept(self, worth: Callable[[Flags], Array], is_new: Flags) -> Swept | None:
        """The spot from which a lead is best drawn along others that should all be silent, or all beep.

        Parameters
        ----------
        worth : of touches that see these, (t, p) to (t,)
        is_new : whether a touch was not made yet, shape (t,)
        """
        alone = worth(self.hears) * is_new
        rows: dict[tuple[str, bool], list[int]] = {}
        for n in map(int, np.flatnonzero(alone > 0)):
            for name in self.pairs[n]:
                rows.setdefault((name, bool(self.ohm[n] < SILENT_FROM_OHM)), []).append(n)
        best: Swept | None = None
        for (name, _), places in rows.items():
            order = sorted(places, key=lambda n: -alone[n])[:MOST_SWEPT]
            seen = np.cumsum(self.hears[order], axis=0) > 0
            new = self.hears[order] & ~np.concatenate([np.zeros_like(seen[:1]), seen[:-1]])
            total = np.cumsum(worth(new))
            for count in range(LEAST_SWEPT, len(order) + 1):
                one = self.row(name, order[:count], float(total[count - 1]))
                best = one if best is None or one.rate > best.rate else best
        return best

    def _along(self, name: str, places: Sequence[int]) -> tuple[str, ...]:
        return tuple(next(end for end in self.pairs[n] if end != name) for n in places)

    def touch(self, place: int, bits: float, settles: tuple[str, ...], by_figure: bool = False) -> NextTouch:
        """One of them, to be made. ``by_figure``: a beep would not tell."""
        pair, ohm = self.pairs[place], float(self.ohm[place])
        expects = expected_words(self.found, self.setting, pair, ohm)
        expects = f"{format_engineering(LEADS_OHM, 1)}Ω or little more: the figure, not a beep" if by_figure else expects
        return NextTouch(*pair, self.setting, expects, ohm, bits, float(self.minutes[place]), settles)

    def sweep(self, one: Swept, settles: tuple[str, ...]) -> NextTouch:
        """Several of them, a lead drawn along."""
        first, *rest = self._along(one.a, one.places)
        ohm = float(self.ohm[one.places[0]])
        expects = "no beep at any of them" if ohm >= SILENT_FROM_OHM else "a beep at each"
        return NextTouch(one.a, first, self.setting, expects, ohm, one.worth, one.minutes, settles, tuple(rest))


def is_by_ear(board: Board, is_low: Flags) -> Flags:
    """Whether the meter is only heard where touches like these were made: what is low was never given in ohms, or nothing was.

    ``is_low``: of some touches, whether they should beep, (t,).
    """
    low = [touch.beep is not None for touch in board.touches if touch.beep is True or touch.ohm <= BEEPS_TO_OHM]
    every = [touch.beep is not None for touch in board.touches]
    heard = [len(some) >= HEARD and all(some) for some in (low, every)]
    return np.where(is_low, heard[0], heard[1])


def expected_words(found: MapJudgement, setting: Setting, pair: tuple[str, str], ohm: float) -> str:
    """What should be shown, in words; a light cell that hangs on it is covered, as it would drive the meter."""
    if ohm > OVERLOAD_OHM / 2:
        return "open"
    said = "a beep" if ohm < SOUND_OHM else f"about {format_engineering(ohm, 3)}Ω"
    circuit, there = found.base.circuit, found.network(found.best, setting)
    cells = [part.nodes for part in circuit.parts if kind_of(circuit, part) == "photocell"]
    pieces = {int(there.piece[there.row(node)]) for nodes in cells for node in nodes[:2]}
    is_lit = ohm >= SOUND_OHM and int(there.piece[there.row(node_of(pair[0]))]) in pieces
    return f"{said}, the light cell covered" if is_lit else said
