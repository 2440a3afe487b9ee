"""All that is known of a device, and what is believed after it: records of a diagnosis, nothing worked out."""

from dataclasses import dataclass, field
from typing import Any

import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.foreseen import Foreseen
from violet_dial.core.diagnosis.hypotheses import Hypothesis, Priors
from violet_dial.core.diagnosis.likelihood import Spread
from violet_dial.core.diagnosis.predict import Meter
from violet_dial.core.records.circuit import Evidence, Fault

Array = npt.NDArray[Any]
MISFIT = 0.01  # a leader whose readings would lie so far off this seldom fits badly


@dataclass(frozen=True)
class Repair:
    """A fault put right: evidence before it was taken with the fault, evidence after without."""

    fault: Fault


@dataclass(frozen=True)
class Case:
    """All that is known: the circuit, what was taken in each epoch (between repairs), repairs, beliefs, the meter."""

    circuit: Circuit
    epochs: tuple[tuple[Evidence, ...], ...] = ((),)
    repairs: tuple[Repair, ...] = ()
    belief: Priors = field(default_factory=Priors)
    meter: Meter = field(default_factory=Meter)

    @property
    def now(self) -> tuple[Evidence, ...]:
        """Evidence since the last repair."""
        return self.epochs[-1]

    @property
    def on_bench(self) -> bool:
        """Whether a bench supply stood in for the battery in any of it."""
        return any(evidence.setting.supply == "bench" for epoch in self.epochs for evidence in epoch)

    @property
    def whole(self) -> tuple[object, ...]:
        """What the single faults on the list depend on."""
        return self.circuit.text, self.belief, self.repairs, self.on_bench

    @property
    def sisters(self) -> list[Evidence]:
        """What working units of the same model showed."""
        return [one for epoch in self.epochs for one in epoch if one.sister]


@dataclass(frozen=True)
class Suspect:
    """A fault, or a pair, that may be what is wrong; ``place`` of its likeliest variant among the hypotheses."""

    name: str
    words: str
    probability: float
    faults: tuple[Fault, ...]
    place: int


@dataclass(frozen=True)
class Fitting:
    """How well the leader fits: ``misfit`` the sum of squares of what is left of ``readings``, in standard deviations, and
    the ``chance`` of so much when it is the truth."""

    misfit: float = 0.0
    readings: int = 0
    chance: float = 1.0

    @property
    def is_bad(self) -> bool:
        return self.chance < MISFIT


@dataclass(frozen=True)
class Diagnosis:
    """The posterior: hypotheses with ``probability`` (h,), gathered into suspects; what nothing explains."""

    case: Case
    hypotheses: tuple[Hypothesis, ...]
    probability: Array
    suspects: tuple[Suspect, ...]
    healthy: float
    unlisted: float
    fitting: Fitting
    unexplained: tuple[Evidence, ...]
    entropy_bits: float
    spread: Spread
    pairs_cut: int
    forecast: Foreseen
    states: str = ""  # that the circuit may stand in several, said
