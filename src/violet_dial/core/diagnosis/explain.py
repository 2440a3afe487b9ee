"""What speaks for and against a suspect, in sentences with figures."""

import math
from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of, lights_of
from violet_dial.core.diagnosis.case import Case, Diagnosis, Suspect
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM, evidence_words
from violet_dial.core.diagnosis.foreseen import HEALTHY
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.laws import fit_of, law_of
from violet_dial.core.diagnosis.likelihood import COMMON, COUNTS, own_sigma, scale_value, widened
from violet_dial.core.diagnosis.next_test import is_needle, shown_value
from violet_dial.core.diagnosis.predict import Predictor, identity
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import Evidence, Fault

FITS, CONTRADICTS = 2.0, 3.0  # standard deviations
SEARCH_OHM = np.logspace(0, 6, 121)
OFTEN_UNLISTED = 0.2  # a chance of what is on no list from which that is said: beforehand it is 0.13
RANGED = ("high resistance", "leaks to chassis", "high internal resistance")


@dataclass(frozen=True)
class Reasons:
    """Sentences for and against one suspect."""

    pro: tuple[str, ...]
    con: tuple[str, ...]


def short_words(circuit: Circuit, name: str) -> str:
    """A part in as few words as tell it: its noted name, colour and kind, or its designator."""
    note = circuit.note(name)
    if "name" in note:
        return note["name"]
    if "colour" in note and circuit.has(name):
        return f"{note['colour']} {kind_of(circuit, circuit.part(name))}"
    return name


def spoken(circuit: Circuit, name: str) -> str:
    """The name of a hypothesis as spoken: ``plus clip: high resistance``."""
    said = []
    for one in name.split(" and "):
        part, _, mode = one.partition(" ")
        said.append(f"{short_words(circuit, part)}: {mode}" if circuit.has(part) else one)
    return ", with ".join(said)


def evidence_said(circuit: Circuit, evidence: Evidence) -> str:
    """Evidence with its part as spoken of."""
    words = evidence_words(evidence)
    return words.replace(evidence.part, short_words(circuit, evidence.part), 1) if evidence.part else words


def suspect_words(circuit: Circuit, suspect: Suspect) -> str:
    """A suspect as spoken of: ``plus clip: high resistance, about 46 kΩ``."""
    said = [f"{short_words(circuit, fault.part)}: {fault.words.removeprefix(fault.part).strip()}" for fault in suspect.faults]
    return ", with ".join(said)


def warnings_of(diagnosis: Diagnosis) -> tuple[str, ...]:
    """What is to be said beside the suspects, wherever they are shown: that the likeliest fits badly, what nothing explains,
    that it may well be something on no list, and that the circuit may stand in several states."""
    said, count = [], len(diagnosis.case.now)
    if diagnosis.fitting.is_bad and diagnosis.suspects:
        chance = diagnosis.fitting.chance
        seldom = "fewer than one case in 10 000" if chance < 1e-4 else f"one case in {1 / chance:.0f}"
        so_far = f"{count} readings this far off come" if count > 1 else "a reading this far off comes"
        said.append(f"The leader fits badly: {so_far} up in {seldom}.")
    if diagnosis.unexplained:
        said.append(f"Nothing explains: {'; '.join(evidence_words(odd) for odd in diagnosis.unexplained)}.")
    if diagnosis.unlisted > OFTEN_UNLISTED:
        said.append(f"It may be something that is not on the list: {diagnosis.unlisted:.0%}.")
    return (*said, *([diagnosis.states] if diagnosis.states else []))


class Explainer:
    """Explains suspects of one diagnosis; what is solved for one is there for the others.

    ``diagnosis``: suspects with their probabilities.
    """

    def __init__(self, diagnosis: Diagnosis, suspects: tuple[Suspect, ...]) -> None:
        self.diagnosis, self.case = diagnosis, diagnosis.case
        self._place = {suspect.name: place for place, suspect in enumerate(suspects, start=1)}
        held = (HEALTHY, *(replace(diagnosis.hypotheses[suspect.place], faults=suspect.faults) for suspect in suspects))
        self._predictor = Predictor(self.case.circuit, held, self.case.meter, draws=0)

    def reasons(self, suspect: Suspect) -> Reasons:
        """What speaks for and against a suspect, over the evidence since the last repair."""
        circuit, place = self.case.circuit, self._place[suspect.name]
        pro, con = [], []
        for evidence in self.case.now:
            if evidence.sister:
                continue
            prediction = self._predictor.of(evidence)
            sigma = widened(evidence, prediction)
            here, there = (self._shown(evidence, float(prediction.mean[n])) for n in (place, 0))
            away, healthy_away = (self._away(evidence, float(prediction.mean[n]), float(sigma[n])) for n in (place, 0))
            words = evidence_said(circuit, evidence)
            if away < FITS and healthy_away > CONTRADICTS:
                needed = _needed(self.case, suspect, evidence)
                pro.append(needed or f"{words}: a healthy one shows {there}, this fault {here}")
            elif away > CONTRADICTS:
                con.append(f"{words}: this fault would show {here}")
        pro += [_found_near(self.case, fault) for fault in suspect.faults if _found_near(self.case, fault)]
        return Reasons(tuple(pro), tuple(con))

    def _shown(self, evidence: Evidence, mean: float) -> str:
        value = float(mean < math.log10(CONTINUITY_OHM)) if evidence.test == "continuity" else mean
        return shown_value(evidence, value, is_needle(self.case.circuit, evidence))

    def _away(self, evidence: Evidence, mean: float, sigma: float) -> float:
        """How far off, in standard deviations; against a stop, past full light and on the side that beeps there is none."""
        law = law_of(self.case.circuit, evidence)
        return abs(float(fit_of(law, scale_value(evidence), np.array([mean]), np.array([sigma**2])).away[0]))

    def arithmetic(self, suspect: Suspect) -> tuple[str, ...]:
        """The sum: the chance beforehand, what each reading should show with what blurs it, and how much it is worth."""
        place = self._place[suspect.name]
        lines = [f"beforehand: {self._beforehand(suspect):.2g} for 1 of no fault"]
        for evidence in self.case.now:
            if not evidence.sister:
                lines.append(self._line(evidence, place))
        fitting = self.diagnosis.fitting
        if fitting.readings and self.diagnosis.suspects and self.diagnosis.suspects[0].name == suspect.name:
            fits = "fits badly" if fitting.is_bad else "fits"
            lines.append(
                f"what is left of {fitting.readings} readings: {fitting.misfit:.1f} squares of σ, as much by chance in "
                f"{fitting.chance:.2g} of cases: it {fits}"
            )
        lines.append(
            f"readings counted for {COUNTS:g}, a wrong one and what is on no list weighed in: {suspect.probability:.1%} of all; "
            f"no fault {self.diagnosis.healthy:.1%}, not on the list {self.diagnosis.unlisted:.1%}"
        )
        return tuple(lines)

    def _beforehand(self, suspect: Suspect) -> float:
        """How likely beforehand beside no fault, over all figures."""
        healthy = next(
            hypothesis.log_prior
            for hypothesis in self.diagnosis.hypotheses
            if not hypothesis.faults and hypothesis.law == "plain"
        )
        return sum(
            math.exp(hypothesis.log_prior - healthy)
            for hypothesis in self.diagnosis.hypotheses
            if hypothesis.name == suspect.name
        )

    def _line(self, evidence: Evidence, place: int) -> str:
        """One reading: what this fault says of it, what blurs that, and the density beside a healthy device's."""
        prediction = self._predictor.of(evidence)
        own = own_sigma(evidence, prediction)
        whole = widened(evidence, prediction)
        count = prediction.load.shape[1] - 2
        lights = len(lights_of(self.case.circuit))
        pieces = np.split(np.square(prediction.load[place]), [count - lights, count])
        parts, light, figures = (f"{_small(math.sqrt(piece.sum()))}²" for piece in pieces)
        blurs = (f"meter and sketch {_small(own[place])}²", f"parts {parts}", *((f"light {light}",) if lights else ()))
        law = law_of(self.case.circuit, evidence)
        density = fit_of(law, scale_value(evidence), prediction.mean, np.square(whole)).log_density
        worth = float(np.clip(density[place] - density[0], -50, 50)) / math.log(10.0)
        scale = " of log10" if evidence.test in ("ohm", "capacitance", "continuity", "time") else ""
        return (
            f"{evidence_said(self.case.circuit, evidence)}: says {self._shown(evidence, float(prediction.mean[place]))}, "
            f"σ {_small(whole[place])}{scale} = √({' + '.join(blurs)} + figure {figures}); {_times(10 ** abs(worth))} as "
            f"{'likely' if worth >= 0 else 'unlikely'} as with no fault"
        )


def _small(value: float) -> str:
    return f"{value:.2g}" if value >= 1e-4 else "0"


def _times(factor: float) -> str:
    """How many times, as one says it."""
    if factor < 1.05:
        return "just"
    if factor >= 1e6:
        return "over a million times"
    return f"{factor:.2g} times" if factor < 100 else f"{factor:,.0f} times".replace(",", "\u00a0")


def reasons_for(case: Case, diagnosis: Diagnosis, suspect: Suspect) -> Reasons:
    """What speaks for and against a suspect, over the evidence since the last repair.

    Parameters
    ----------
    case : circuit, evidence in epochs and belief
    diagnosis : suspects with their probabilities
    """
    return Explainer(replace(diagnosis, case=case), (suspect,)).reasons(suspect)


@dataclass(frozen=True)
class Difference:
    """The same reading on this unit and on a working sister: how far apart, and how far two healthy ones may be."""

    here: Evidence
    sister: Evidence
    difference: float
    sigma: float

    @property
    def is_apart(self) -> bool:
        """Whether two healthy units would seldom differ so much."""
        return abs(self.difference) > CONTRADICTS * self.sigma


def differences(case: Case) -> tuple[Difference, ...]:
    """Unit beside unit: what the sketch gets wrong is the same in both and falls out.

    ``case``: circuit and evidence; the last epoch is compared.

    Returns
    -------
    differences on the scale readings are judged on: volt, ampere, share, log10 of ohm and farad
    """
    sisters = {identity(sister): sister for sister in case.sisters}
    pairs = [(one, sisters[identity(one)]) for one in case.now if not one.sister and identity(one) in sisters]
    if not pairs:
        return ()
    predictor = Predictor(case.circuit, (HEALTHY,), case.meter)
    found = []
    for here, sister in pairs:
        prediction = predictor.of(here)
        own = math.hypot(prediction.sigma[0], prediction.bend[0], prediction.doubt[0])
        parts = (1.0 - COMMON) * float(np.square(prediction.load[0]).sum())
        away = scale_value(here) - scale_value(sister)
        found.append(Difference(here, sister, away, math.sqrt(2.0 * (own**2 + parts))))
    return tuple(found)


def _found_near(case: Case, fault: Fault) -> str:
    factor = dict(case.belief.raised).get(fault.part.lower(), 1.0)
    return f"found near {short_words(case.circuit, fault.part)}: {factor:.0f} times as likely beforehand" if factor > 1.5 else ""


def _needed(case: Case, suspect: Suspect, evidence: Evidence) -> str:
    """The range of an unknown resistance that would give this reading; empty when there is none to say."""
    ranged = [fault for fault in suspect.faults if fault.mode in RANGED]
    if len(ranged) != 1 or len(suspect.faults) != 1 or evidence.test not in ("volt", "ohm"):
        return ""
    trials = tuple(Hypothesis((replace(ranged[0], figure=float(ohm)),), 0.0) for ohm in SEARCH_OHM)
    predictor = Predictor(case.circuit, trials, case.meter, draws=0)
    raw = predictor.volts if evidence.test == "volt" else predictor.ohms
    prediction = raw(evidence.plus, evidence.minus, evidence.setting)
    fits = np.abs(scale_value(evidence) - prediction.mean) < FITS * widened(evidence, prediction)
    if not fits.any():
        return ""
    low, high = SEARCH_OHM[fits].min(), SEARCH_OHM[fits].max()
    where = short_words(case.circuit, ranged[0].part)
    way = "from it to chassis" if ranged[0].mode == "leaks to chassis" else "in series"
    ohms = f"{format_engineering(float(low), 3)}Ω or more" if high >= SEARCH_OHM[-1] else _from_to(float(low), float(high))
    return f"{evidence_words(evidence)} needs {ohms} {way}: {where} could be that"


def _from_to(low: float, high: float) -> str:
    """A range of resistances, the unit said once where it is the same: ``22 to 30 kΩ``."""
    first, last = format_engineering(low, 3), format_engineering(high, 3)
    number, unit = first.split(" ")
    return f"{number} to {last}Ω" if last.endswith(f" {unit}") else f"{first}Ω to {last}Ω"
