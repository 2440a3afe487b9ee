"""What speaks for and against a suspect, in sentences with figures."""

from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.evidence import Evidence, evidence_words
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.likelihood import prediction_of, scale_value, widened
from violet_dial.core.diagnosis.next_test import is_needle, shown_value
from violet_dial.core.diagnosis.posterior import Case, Diagnosis, Suspect
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.quantities import format_engineering

FITS, CONTRADICTS = 2.0, 3.0  # standard deviations
SEARCH_OHM = np.logspace(0, 6, 121)
RANGED = ("high resistance", "leaks to chassis", "high internal resistance")


@dataclass(frozen=True)
class Reasons:
    """Sentences for and against one suspect."""

    pro: tuple[str, ...]
    con: tuple[str, ...]


def short_words(circuit: Circuit, name: str) -> str:
    """A part in as few words as tell it: its noted name, colour and kind, or its designator.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    """
    note = circuit.note(name)
    if "name" in note:
        return note["name"]
    if "colour" in note and circuit.has(name):
        return f"{note['colour']} {kind_of(circuit, circuit.part(name))}"
    return name


def spoken(circuit: Circuit, name: str) -> str:
    """The name of a hypothesis as spoken: ``plus clip: high resistance``.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    """
    said = []
    for one in name.split(" and "):
        part, _, mode = one.partition(" ")
        said.append(f"{short_words(circuit, part)}: {mode}" if circuit.has(part) else one)
    return ", with ".join(said)


def evidence_said(circuit: Circuit, evidence: Evidence) -> str:
    """Evidence with its part as spoken of.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    evidence : one reading or observation, its value in the unit of its test
    """
    words = evidence_words(evidence)
    return words.replace(evidence.part, short_words(circuit, evidence.part), 1) if evidence.part else words


def suspect_words(circuit: Circuit, suspect: Suspect) -> str:
    """A suspect as spoken of: ``plus clip: high resistance, about 46 kΩ``.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    """
    said = [f"{short_words(circuit, one.part)}: {one.words.removeprefix(one.part).strip()}" for one in suspect.faults]
    return ", with ".join(said)


def reasons_for(case: Case, diagnosis: Diagnosis, suspect: Suspect) -> Reasons:
    """What speaks for and against a suspect, over the evidence since the last repair.

    Parameters
    ----------
    case : circuit, evidence in epochs and belief
    diagnosis : suspects with their probabilities
    """
    healthy = next(place for place, one in enumerate(diagnosis.hypotheses) if not one.faults)
    pro, con = [], []
    for evidence in case.now:
        if evidence.sister or evidence.test in ("continuity", "capacitance"):
            continue
        prediction = prediction_of(diagnosis.predictor, evidence)
        sigma = widened(evidence, prediction)
        value = scale_value(evidence)
        away = abs(value - prediction.mean[suspect.place]) / sigma[suspect.place]
        healthy_away = abs(value - prediction.mean[healthy]) / sigma[healthy]
        needle = is_needle(case.circuit, evidence)
        here, there = (
            shown_value(evidence, float(prediction.mean[place]), needle) for place in (suspect.place, healthy)
        )
        words = evidence_said(case.circuit, evidence)
        if away < FITS and healthy_away > CONTRADICTS:
            needed = _needed(case, suspect, evidence)
            pro.append(needed or f"{words}: a healthy one shows {there}, this fault {here}")
        elif away > CONTRADICTS:
            con.append(f"{words}: this fault would show {here}")
    pro += [_found_near(case, one) for one in suspect.faults if _found_near(case, one)]
    return Reasons(tuple(pro), tuple(con))


def _found_near(case: Case, fault: Fault) -> str:
    factor = dict(case.belief.raised).get(fault.part.lower(), 1.0)
    return (
        f"found near {short_words(case.circuit, fault.part)}: {factor:.0f} times as likely beforehand"
        if factor > 1.5
        else ""
    )


def _needed(case: Case, suspect: Suspect, evidence: Evidence) -> str:
    """The range of an unknown resistance that would give this reading; empty when there is none to say."""
    ranged = [fault for fault in suspect.faults if fault.mode in RANGED]
    if len(ranged) != 1 or len(suspect.faults) != 1 or evidence.test not in ("volt", "ohm"):
        return ""
    trials = tuple(Hypothesis((replace(ranged[0], figure=float(ohm)),), 0.0) for ohm in SEARCH_OHM)
    predictor = Predictor(case.circuit, trials, case.meter, Predictor(case.circuit, (), case.meter))
    raw = predictor.volts if evidence.test == "volt" else predictor.ohms
    prediction = raw(evidence.plus, evidence.minus, evidence.setting)
    fits = np.abs(scale_value(evidence) - prediction.mean) < FITS * widened(evidence, prediction)
    if not fits.any():
        return ""
    low, high = SEARCH_OHM[fits].min(), SEARCH_OHM[fits].max()
    where = short_words(case.circuit, ranged[0].part)
    way = "from it to chassis" if ranged[0].mode == "leaks to chassis" else "in series"
    ohms = (
        f"{format_engineering(float(low), 3)}Ω or more" if high >= SEARCH_OHM[-1] else _from_to(float(low), float(high))
    )
    return f"{evidence_words(evidence)} needs {ohms} {way}: {where} could be that"


def _from_to(low: float, high: float) -> str:
    """A range of resistances, the unit said once where it is the same: ``22 to 30 kΩ``."""
    first, last = format_engineering(low, 3), format_engineering(high, 3)
    number, unit = first.split(" ")
    return f"{number} to {last}Ω" if last.endswith(f" {unit}") else f"{first}Ω to {last}Ω"
