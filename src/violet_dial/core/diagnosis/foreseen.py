"""What tests that were not made would show, under every hypothesis that has been likely so far: each worked out once."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.allowed import candidates, is_safe
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Meter, Prediction, Predictor
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.core.task import Task

HEALTHY = Hypothesis((), 0.0)
MOST_KEPT = 6_000  # figures of a prediction of all single faults, up to which all of them are worked out at once
MOST_PIECES = 12  # beyond it all is begun anew: what was likely long ago is let go of


@dataclass(frozen=True)
class _Piece:
    """Hypotheses that came to be likely together, and what is said of them."""

    places: dict[object, int]
    predictor: Predictor


class Foreseen:
    """Predictions that grow with the hypotheses that come to matter."""

    def __init__(self, circuit: Circuit, singles: tuple[Hypothesis, ...], meter: Meter) -> None:
        self.circuit, self.meter = circuit, meter
        self.sound = Predictor(circuit, (HEALTHY,), meter, draws=0)
        self._singles = singles if len(singles) * (self.sound.toleranced + 2) <= MOST_KEPT else ()
        self._pieces: list[_Piece] = []
        self._asks: dict[tuple[Setting, bool], tuple[Evidence, ...]] = {}

    def asks(self, setting: Setting, with_ohms: bool) -> tuple[Evidence, ...]:
        """The tests of `candidates` that may be suggested."""
        key = setting, with_ohms
        if key not in self._asks:
            self._asks[key] = tuple(ask for ask in candidates(self.circuit, *key) if is_safe(self.sound, ask))
        return self._asks[key]

    def all_of(self, hypotheses: tuple[Hypothesis, ...], asks: list[Evidence], task: Task) -> list[Prediction]:
        """What each hypothesis says of each test.

        ``asks``: the tests, with the setting the device is to stand in; their values are not looked at. Raises InvalidInput:
        as `Predictor.all_of`.
        """
        keys = [_key(hypothesis) for hypothesis in hypotheses]
        self._take_in(hypotheses, keys)
        parts, order = [], []
        for piece in self._pieces:
            here = [n for n, key in enumerate(keys) if key in piece.places and n not in order]
            if here:
                places = [piece.places[keys[n]] for n in here]
                parts.append([one.part(places) for one in piece.predictor.all_of(asks, task)])
                piece.predictor.forget_blocks()
                order += here
        back = np.argsort(order)
        return [_beside(several).part(back) for several in zip(*parts, strict=True)]

    def _take_in(self, hypotheses: tuple[Hypothesis, ...], keys: list[object]) -> None:
        if not self._pieces and self._singles:
            self._add(self._singles)
        known = {key for piece in self._pieces for key in piece.places}
        new = [hypothesis for hypothesis, key in zip(hypotheses, keys, strict=True) if key not in known]
        if new and len(self._pieces) >= MOST_PIECES:
            self._pieces = []
            self._take_in(hypotheses, keys)
        elif new:
            self._add((HEALTHY, *new))

    def _add(self, hypotheses: tuple[Hypothesis, ...]) -> None:
        places = {_key(hypothesis): n for n, hypothesis in enumerate(hypotheses)}
        self._pieces.append(_Piece(places, Predictor(self.circuit, hypotheses, self.meter, draws=0)))


def _key(one: Hypothesis) -> object:
    return one.faults, one.spans


def _beside(several: tuple[Prediction, ...]) -> Prediction:
    if len(several) == 1:
        return several[0]
    names = ("mean", "sigma", "load", "bend", "doubt")
    return Prediction(*(np.concatenate([getattr(one, name) for one in several]) for name in names))
