"""Exercises drawn by seed: a device of a kind, faults hidden in it, what misleads about it; given only where allowed
tests can tell what is wrong.

The same seed, level and kind give the same exercise on every machine: figures come from NumPy's PCG64, which is the same
everywhere, and nothing else is drawn from.

What is hidden is sealed in the job, the bundle, the log and the file so that nobody reads it by looking. That keeps out eyes, not
burglars: the bench of the trainee must open it to answer, so whoever takes the program apart can do so too.
"""

import base64
import binascii
import hashlib
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.faults import shows
from violet_dial.core.diagnosis.hypotheses import Hypothesis, Priors, coarser, named, singles_of
from violet_dial.core.diagnosis.likelihood import widened
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.drawn import SEEN, all_asks, drawn_fault, same
from violet_dial.core.practice.form import NEEDLE, SPEEDS, Form, drawn_form, form_of
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.core.task import Task

HEAD = "VD1:"
_PERSON = b"violet-dial seal"  # BLAKE2: what it is for
_SALT, _MARK = 12, 8  # bytes
MOST_TEXT = 400_000
EXPECTED = "a sealed text as this application writes it, whole"


def sealed(text: str, salt: str) -> str:
    """The text closed; the same text and salt give the same. ASCII, one line.

    ``text``: at most `MOST_TEXT` characters. Raises InvalidInput: too long.
    """
    if len(text) > MOST_TEXT:
        raise InvalidInput("What is sealed", f"{len(text)} characters", f"at most {MOST_TEXT}")
    data = zlib.compress(text.encode("utf-8"), 9)
    grain = hashlib.blake2b(salt.encode("utf-8") + data, digest_size=_SALT, person=_PERSON).digest()
    mark = hashlib.blake2b(grain + data, digest_size=_MARK, person=_PERSON).digest()
    return HEAD + base64.urlsafe_b64encode(grain + mark + _mixed(data, grain)).decode("ascii")


def unsealed(text: str) -> str:
    """What was closed. Raises InvalidInput: not a sealed text, or one that was changed."""
    if not text.startswith(HEAD) or len(text) > 2 * MOST_TEXT:
        raise InvalidInput("Sealed", text[:20] or "nothing", EXPECTED)
    try:
        raw = base64.b64decode(text[len(HEAD) :], altchars=b"-_", validate=True)
    except (binascii.Error, ValueError) as error:
        raise InvalidInput("Sealed", text[:20], EXPECTED) from error
    grain, mark, data = raw[:_SALT], raw[_SALT : _SALT + _MARK], raw[_SALT + _MARK :]
    data = _mixed(data, grain)
    if hashlib.blake2b(grain + data, digest_size=_MARK, person=_PERSON).digest() != mark:
        raise InvalidInput("Sealed", "a text that was changed", EXPECTED)
    reader = zlib.decompressobj()
    plain = reader.decompress(data, 4 * MOST_TEXT)
    if reader.unconsumed_tail:
        raise InvalidInput("Sealed", "more than an exercise can hold", EXPECTED)
    return plain.decode("utf-8")


def _mixed(data: bytes, grain: bytes) -> bytes:
    """The data laid over a stream that follows from the grain; twice is the data again."""
    stream = hashlib.shake_256(_PERSON + grain).digest(len(data))
    return bytes(datum ^ other for datum, other in zip(data, stream, strict=True))


Array = npt.NDArray[Any]
DEVICES: dict[str, tuple[str, ...]] = {
    "meter": ("cds-series", "cds-bridge", "cds-two-range", "selenium-movement", "selenium-booster", "selenium-amplifier"),
    "lamps and magnet": ("silicon-lamps",),
    "magnet shutter": ("silicon-shutter",),
    "motor drive": ("motor-transfer", "regulator-clock"),
    "meter under light": (NEEDLE,),
    "shutter speeds": (SPEEDS,),
}
FORMS = (NEEDLE, SPEEDS)  # judged by readings alone
ANY = "any"
MOST_SEED = 2**31 - 1
MOST_DRAWS = 400
RUNGS = 2  # of a fault's figures that the proof goes over


@dataclass(frozen=True)
class Level:
    """What a level asks: kinds of faults, how many, how often a reading is wrong, what misleads, whether there are
    papers, how many minutes there are."""

    kinds: tuple[str, ...]
    devices: tuple[str, ...]
    faults: int = 1
    wrong: float = 0.0
    misleads: bool = False
    papers: bool = True
    minutes: float = 60.0

    @property
    def words(self) -> str:
        """The level in a few words."""
        count = "one fault" if self.faults == 1 else f"{self.faults} faults"
        wrong = f", one reading in {1 / self.wrong:.0f} wrong" if self.wrong else ""
        misleads = ", what is said and seen may mislead" if self.misleads else ""
        papers = "" if self.papers else ", no papers"
        return f"{count} of {len(self.kinds)} kinds{wrong}{misleads}{papers}, {self.minutes:.0f} min"


_CIRCUITS = tuple(name for name, stems in DEVICES.items() if not set(stems) & set(FORMS))
_PLAIN = ("open", "battery", "switch")
_USUAL = (*_PLAIN, "corroded", "cell", "load", "trimmer")
_HARD = (*_USUAL, "wrong value", "decade", "capacitor", "junction", "bridge", "chassis")
LEVELS: tuple[Level, ...] = (
    Level(_PLAIN, ("meter",), minutes=60.0),
    Level(_USUAL, ("meter", "magnet shutter", "meter under light"), minutes=90.0),
    Level(_HARD, tuple(DEVICES), minutes=120.0),
    Level((*_HARD, "in a state"), tuple(DEVICES), wrong=0.05, misleads=True, minutes=180.0),
    Level(_HARD, _CIRCUITS, faults=2, wrong=0.05, misleads=True, papers=False, minutes=240.0),
)


@dataclass(frozen=True)
class ExerciseWish:
    """What is wanted: a seed, a level from 1, a kind of device or any."""

    seed: int
    level: int = 1
    kind: str = ANY

    def __post_init__(self) -> None:
        if not 0 <= self.seed <= MOST_SEED:
            raise InvalidInput("Seed", self.seed, f"a whole number from 0 to {MOST_SEED}")
        if not 1 <= self.level <= len(LEVELS):
            raise InvalidInput("Level", self.level, f"1 to {len(LEVELS)}")
        if self.kind != ANY and self.kind not in DEVICES:
            raise InvalidInput("Kind of device", self.kind, f"{ANY}, or one of {', '.join(DEVICES)}")


@dataclass(frozen=True)
class Exercise:
    """A device with its secret: which circuit, the faults and their kinds, how often a reading is wrong, whether what is said and
    seen of it misleads, whether there are papers, how many minutes there are."""

    seed: int
    level: int
    device: str
    stem: str
    faults: tuple[Fault, ...]
    kinds: tuple[str, ...]
    wrong: float = 0.0
    misleads: bool = False
    papers: bool = True
    minutes: float = 60.0

    @property
    def form(self) -> Form | None:
        """What its device is judged by, where that is readings alone; None where it is a circuit."""
        return form_of(self.stem) if self.stem in FORMS else None


def exercise_of(wish: ExerciseWish, circuits: Mapping[str, Circuit]) -> Exercise:
    """The exercise of a seed.

    Raises InvalidInput: no exercise of that kind can be told by allowed tests.

    Parameters
    ----------
    wish : seed, level, kind of device
    circuits : by the stem of their names; all of `DEVICES`
    """
    level = LEVELS[wish.level - 1]
    rng = np.random.default_rng([wish.seed, wish.level, *wish.kind.encode()])
    devices = (wish.kind,) if wish.kind != ANY else level.devices
    for _draw in range(MOST_DRAWS):
        device = str(rng.choice(devices))
        stem = str(rng.choice(DEVICES[device]))
        if stem in FORMS:
            faults, kinds = drawn_form(stem, 1, rng)
            return Exercise(
                wish.seed, wish.level, device, stem, faults, kinds, level.wrong, level.misleads, minutes=level.minutes
            )
        circuit = circuits[stem]
        found = _drawn(circuit, level, rng)
        if found is None:
            continue
        faults, kinds = found
        if all(can_be_told(circuit, fault) for fault in faults):
            return Exercise(wish.seed, wish.level, device, stem, faults, kinds, level.wrong, level.misleads, level.papers,
                            level.minutes)  # fmt: skip
    raise InvalidInput("Exercise", f"seed {wish.seed}, level {wish.level}, {wish.kind}", "another seed, level or kind")


def _drawn(circuit: Circuit, level: Level, rng: np.random.Generator) -> tuple[tuple[Fault, ...], tuple[str, ...]] | None:
    """So many faults of different parts, or None where the circuit has no such parts."""
    faults: list[Fault] = []
    kinds: list[str] = []
    for _fault in range(level.faults):
        kind = str(rng.choice(level.kinds))
        fault = drawn_fault(circuit, kind, rng)
        if fault is None or fault.part in {one.part for one in faults}:
            return None
        faults.append(fault)
        kinds.append(kind)
    return tuple(faults), tuple(kinds)


@dataclass(frozen=True)
class AnswerTable:
    """What every allowed test shows for every fault on the list, noise and tolerances left out: ``mean`` and ``sigma`` (asks,
    hypotheses), the first of them without a fault."""

    asks: tuple[Evidence, ...]
    singles: tuple[Hypothesis, ...]
    mean: Array
    sigma: Array


_TABLES: dict[str, AnswerTable] = {}
_PREDICTORS: dict[str, Predictor] = {}
_ASKS: dict[str, tuple[tuple[Evidence, ...], ...]] = {}
MOST_TABLES = 40  # circuits kept
TOGETHER = 6  # tests looked at before those that were set apart are left out


def table_of(circuit: Circuit) -> AnswerTable:
    """The table of a circuit, every setting of it; kept by the circuit's text."""
    if circuit.text not in _TABLES:
        if len(_TABLES) >= MOST_TABLES:
            _TABLES.clear()
        asks = tuple(ask for several in _asks_of(circuit) for ask in several)
        predictor = _predictor_of(circuit)
        predictions = predictor.all_of(asks)
        sigma = np.array([widened(ask, prediction) for ask, prediction in zip(asks, predictions, strict=True)])
        mean = np.array([prediction.mean for prediction in predictions])
        _TABLES[circuit.text] = AnswerTable(asks, predictor.hypotheses, mean, sigma)
    return _TABLES[circuit.text]


def _predictor_of(circuit: Circuit) -> Predictor:
    """What predicts every fault on the list, kept by the circuit's text."""
    if circuit.text not in _PREDICTORS:
        if len(_PREDICTORS) >= MOST_TABLES:
            _PREDICTORS.clear()
        _PREDICTORS[circuit.text] = Predictor(circuit, _singles_of(circuit), draws=0)
    return _PREDICTORS[circuit.text]


def can_be_told(circuit: Circuit, fault: Fault) -> bool:
    """Whether allowed tests set a fault apart from a sound device and from every fault of another name on the list: the proof
    that an exercise can be solved. What only shows in a state is looked at in that state; one of two that hides the other is
    mended first.
    """
    groups = sorted(_asks_of(circuit), key=lambda asks: _when(asks[0].setting, fault))
    shown = tuple(asks[0].setting for asks in _asks_of(circuit))
    if fault.only and not any(shows(fault, setting) for setting in shown):
        return False
    hidden, whole = Hypothesis((fault,), 0.0), _predictor_of(circuit)
    left = [
        hypothesis
        for hypothesis in whole.hypotheses
        if not (hypothesis.faults and same(circuit, hypothesis.faults, fault, shown))
    ]
    few = Predictor(circuit, (hidden,), draws=0)
    for asks in groups:
        if asks[0].setting.state and not fault.only and not all(one.faults and one.faults[0].only for one in left):
            return False  # a state shows nothing new of what is always there
        for place in range(0, len(asks), TOGETHER):
            several = asks[place : place + TOGETHER]
            is_whole = whole.knows(several) or asks is groups[0]
            if not is_whole and (len(few.hypotheses) == 1 or 2 * len(left) < len(few.hypotheses)):
                few = Predictor(circuit, (hidden, *left), draws=0)
            left = _not_set_apart(few, whole if is_whole else few, left, several)
            if not left:
                return True
    return False


def _when(setting: Setting, fault: Fault) -> int:
    """Which settings are looked at first: those in which a fault shows that is not always there, else those of no state."""
    return 0 if fault.only and fault.only in setting.state else 1 if not setting.state else 2


def _not_set_apart(hidden: Predictor, beside: Predictor, left: list[Hypothesis], asks: tuple[Evidence, ...]) -> list[Hypothesis]:
    """Of those left, what some tests show as they show the hidden fault, the first of ``hidden``."""
    gone = np.zeros(len(beside.hypotheses), dtype=bool)
    for ask, one, other in zip(asks, hidden.all_of(asks), beside.all_of(asks), strict=True):
        gone |= np.abs(other.mean - one.mean[0]) / widened(ask, other) >= SEEN
    seen = dict(zip(beside.hypotheses, gone, strict=True))
    return [one for one in left if not seen[one]]


def warm(circuits: Mapping[str, Circuit], task: Task) -> None:
    """Works out beforehand what the proofs of exercises over these circuits look at first, small circuits first.

    Raises TaskCancelled.
    """
    for circuit in sorted(circuits.values(), key=lambda circuit: len(circuit.parts)):
        for asks in _asks_of(circuit):
            for place in range(0, len(asks), TOGETHER):
                task.check()
                _predictor_of(circuit).all_of(asks[place : place + TOGETHER])


def _asks_of(circuit: Circuit) -> tuple[tuple[Evidence, ...], ...]:
    """Every allowed test setting by setting, the usual one first: a few settings tell nearly all. Kept by the circuit's text."""
    if circuit.text not in _ASKS:
        if len(_ASKS) >= MOST_TABLES:
            _ASKS.clear()
        found: dict[object, list[Evidence]] = {}
        for ask in all_asks(circuit, usual_setting(circuit)):
            found.setdefault(ask.setting, []).append(ask)
        _ASKS[circuit.text] = tuple(tuple(several) for several in found.values())
    return _ASKS[circuit.text]


def _singles_of(circuit: Circuit) -> tuple[Hypothesis, ...]:
    """No fault, then every fault on the list with a few figures each."""
    every = [single for single in singles_of(circuit, Priors()) if single.law == "plain"]
    few = tuple(one for rungs in named(every).values() for one in coarser(rungs, RUNGS))
    return (Hypothesis((), 0.0), *few)
