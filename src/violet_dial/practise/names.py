"""Faults by the names people say: ``red wire open``, ``Rwred high resistance``, ``clip+ bridged to lead``."""

import difflib
import re
from functools import lru_cache

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.diagnosis.extended import extended_of, neighbours
from violet_dial.core.diagnosis.faults import TOUCH_OHM
from violet_dial.core.diagnosis.hypotheses import Priors, singles_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Fault
from violet_dial.services.circuits import circuit_from


def fault_named(circuit: Circuit, words: str, of_part: bool = False) -> Fault:
    """A fault by its words, ``red wire open`` or ``Rwred open``. Raises InvalidInput: no such fault; near ones are named."""
    known = _named(circuit.text)
    key = _plain(words)
    if key in known:
        return known[key]
    if of_part:
        several = [fault for name, fault in known.items() if name.startswith(f"{key} ") and not fault.to_node]
        if several and len({one.part for one in several}) == 1:
            return several[0]
    near = difflib.get_close_matches(key, known, 4, 0.4) or list(known)[:4]
    raise InvalidInput("Fault", words, f"a part and how it fails, for instance {', '.join(near)}")


def _plain(words: str) -> str:
    return " ".join(re.sub(r"[:,]", " ", words.lower()).split())


@lru_cache(maxsize=8)
def _named(text: str) -> dict[str, Fault]:
    """Every fault of a circuit by the ways it is named."""
    circuit = circuit_from(text)
    hypotheses = (*singles_of(circuit, Priors()), *extended_of(circuit, Priors(), 0.0))
    faults = [
        hypothesis.faults[0] for hypothesis in hypotheses if len(hypothesis.faults) == 1 and hypothesis.law == "plain"
    ]
    for one, other in neighbours(circuit):
        if GROUND not in (one, other):
            faults.append(Fault(one, f"bridged to {other}", TOUCH_OHM, to_node=other))
    found: dict[str, Fault] = {}
    for fault in faults:
        spoken_part = short_words(circuit, fault.part) if circuit.has(fault.part) else fault.part
        for part in (fault.part, spoken_part):
            found.setdefault(_plain(f"{part} {fault.mode}"), fault)
    return found


def names_like(circuit: Circuit, words: str) -> tuple[str, ...]:
    """Names of faults that have all these words in them."""
    return tuple(name for name in _named(circuit.text) if all(part in name for part in _plain(words).split()))
