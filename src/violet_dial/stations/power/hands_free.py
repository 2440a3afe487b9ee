"""Readings the connected meter takes by itself: a cell at rest, then under its load; a diode both ways, before and behind it."""

import math

from violet_dial.core.errors import InvalidInput
from violet_dial.core.steady.samples import Capture
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.job.power import CellRead
from violet_dial.services import live
from violet_dial.stations.power.acts import say_fit, take_cell

USUAL_LOAD_OHM = 47.0
USUAL_SIZE = "LR44"


class CellHands:
    """Two steps: at rest, then under the load of the cell before (47 Ω where there was none)."""

    def __init__(self) -> None:
        self._rest_v: float | None = None

    def begin(self) -> None:
        """Another job: at rest first."""
        self._rest_v = None

    def _size(self, job: Job) -> str:
        return job.power.cells[-1].size if job.power.cells else USUAL_SIZE

    def _ohm(self, job: Job) -> float:
        return next((one.load_ohm for one in reversed(job.power.cells) if one.load_ohm), USUAL_LOAD_OHM)

    def slot(self, job: Job) -> live.Slot:
        """Where the next reading goes."""
        step = "at rest" if self._rest_v is None else f"under {self._ohm(job):g} Ω"
        return live.Slot(f"{self._size(job)} {step}", "volt")

    @property
    def awaits(self) -> str:
        """What is to be done before the second reading."""
        return "" if self._rest_v is None else f"at rest {self._rest_v:.3f} V: put the load across the cell"

    def put(self, job: Job, capture: Capture) -> Act | None:
        """The first reading is remembered, the second makes the act.

        Raises
        ------
        InvalidInput
            No more volts under the load than at rest are possible.
        """
        if self._rest_v is None:
            self._rest_v = abs(capture.value)
            return None
        read = CellRead(self._size(job), self._rest_v, abs(capture.value), self._ohm(job))
        if read.load_v is not None and read.load_v > read.rest_v * 1.02:
            raise InvalidInput(
                "Volts under the load", read.load_v, f"at most those at rest, {read.rest_v:.3f} V; F2 takes that back"
            )
        self._rest_v = None
        return lambda one, at: take_cell(one, read, at)

    def drop(self) -> bool:
        """Take back the reading at rest."""
        had, self._rest_v = self._rest_v is not None, None
        return had


class FitHands:
    """Three steps: the diode test forward, then reverse, then volts before and behind in the light of the middle."""

    def __init__(self) -> None:
        self._before_v: float | None = None

    def begin(self) -> None:
        """Another job: from the first step."""
        self._before_v = None

    def slot(self, job: Job) -> live.Slot:
        """Where the next reading goes."""
        done = {one.what for one in job.power.fitted}
        if "forward" not in done:
            return live.Slot("diode, red on the end without a band", "diode")
        if "reverse" not in done:
            return live.Slot("diode, red on the band", "diode")
        return live.Slot("before the diode" if self._before_v is None else "behind the diode", "volt")

    @property
    def awaits(self) -> str:
        """What is to be done before the next reading."""
        return "" if self._before_v is None else f"before it {self._before_v:.3f} V: now behind it"

    def put(self, job: Job, capture: Capture) -> Act | None:
        """A reading of the step at hand; volts before it are remembered until those behind it come."""
        done = {one.what for one in job.power.fitted}
        volts = None if math.isinf(capture.value) or capture.value >= 9e5 else abs(capture.value)
        for what in ("forward", "reverse"):
            if what not in done:
                said = f"{what} {'OL' if volts is None else f'{volts:.4g}'}"
                return lambda one, at: say_fit(one, said, at)
        if self._before_v is None:
            self._before_v = volts
            return None
        span = job.light.setup
        middle = (span.range_from_ev100 + span.range_to_ev100) / 2
        said = f"Ev {middle:g}: {self._before_v:.4g} before {volts or 0:.4g} behind"
        self._before_v = None
        return lambda one, at: say_fit(one, said, at)

    def drop(self) -> bool:
        """Take back the volts before the diode."""
        had, self._before_v = self._before_v is not None, None
        return had
