"""Lines at Practise: a test without its figure, how the device stands, a fault said with a chance, what is mended, giving up.
Faults by the names people say: ``red wire open``, ``Rwred high resistance``.
"""

import difflib
import re
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.diagnosis.explain import short_words, spoken
from violet_dial.core.diagnosis.extended import extended_of, neighbours
from violet_dial.core.diagnosis.faults import TOUCH_OHM
from violet_dial.core.diagnosis.hypotheses import Priors, singles_of
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.practice.form import Form
from violet_dial.core.practice.score import COACHED, checked_chance
from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.job.act import ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.practising import COACHINGS, Coaching
from violet_dial.practise.exercise import (
    PRACTISE,
    chance_in,
    circuit_in,
    discharge,
    form_for,
    give_up,
    measure,
    mend,
    moves_of,
    read,
    say,
    stand,
)
from violet_dial.practise.forms import form_fault, form_names, test_named
from violet_dial.practise.outcome import ask_words
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
    faults = [hypothesis.faults[0] for hypothesis in hypotheses if len(hypothesis.faults) == 1 and hypothesis.law == "plain"]
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


EXPECTED = (
    "clip+ to gnd volts · red wire ohms · red wire beeps · movement amps · C1 farads · look at movement · time · vreg swings · "
    "vraw dips · clock at clk · wakes · S1 on · cells out · 1000 lx · bent · say red wire open 80 % · mend red wire open · "
    "discharge · give up"
)
# What a test is called at the end of a line, and a figure of that kind to read the rest by.
TESTS = {
    "volts": "0 V", "volt": "0 V", "v": "0 V", "ohms": "0 ohm", "ohm": "0 ohm", "beeps": "beep", "beep": "beep", "amps": "0 A",
    "amp": "0 A", "current": "0 A", "farads": "1 uF", "capacitance": "1 uF", "swings": "ripple 0 V", "dips": "dips 0 V",
}  # fmt: skip
# Whole lines that name a recording, and what Trace would have typed for one.
RECORDINGS = (
    (re.compile(r"time( at \S+)?", re.I), "{} 1 ms"),
    (re.compile(r"clock (at|between) .+", re.I), "{}"),
    (re.compile(r"wakes", re.I), "wakes by itself"),
)
MOST_OFFERED = 8
FIGURE = re.compile(r"\s[-+−]?\d[\d.,]*$")  # of one's own, where a test ends in its unit


def understand(job: Job, text: str) -> Understood:
    """A line typed at Practise. Raises InvalidInput: not understood; what is known is named."""
    line = " ".join(text.strip().split())
    word, _, rest = line.partition(" ")
    heads: dict[str, Callable[[Job, str], Understood]] = {
        "say": _said, "mend": _mended, "replace": _mended, "look": _looked, "coach": _coached,
    }  # fmt: skip
    if not line:
        raise InvalidInput("Practise", "nothing", EXPECTED)
    if line.lower() == "give up":
        return Understood("= give up: what is hidden is shown", give_up)
    if line.lower() == "discharge" and form_for(job) is None:
        return Understood("= the flash capacitor is discharged through a resistor, and measured", discharge)
    if word.lower() in heads and rest:
        return heads[word.lower()](job, rest)
    form = form_for(job)
    if form is not None:
        return _read(job, form, line)
    said = next((said for pattern, said in RECORDINGS if pattern.fullmatch(line)), "")
    if said:
        return _tested(job, said.format(line), line)
    where, _, test = line.rpartition(" ")
    if where and test.lower() in TESTS and not FIGURE.search(where):
        return _tested(job, f"{where} {TESTS[test.lower()]}", line)
    return _stands(job, line)


def _read(job: Job, form: Form, line: str) -> Understood:
    test = test_named(form, line, job.practising.readings[-1].test if job.practising.readings else "")
    return Understood(f"= measure: {test}", lambda job, at: read(job, test, at))


def fault_for(job: Job, words: str, of_part: bool = False) -> tuple[Fault, str]:
    """A fault of the job's device by its words, and as it is said."""
    form = form_for(job)
    if form is not None:
        fault = form_fault(form, words)
        return fault, fault.name
    circuit = circuit_in(job)
    fault = fault_named(circuit, words, of_part)
    return fault, spoken(circuit, fault.name)


def ask_of(job: Job, line: str) -> Evidence | None:
    """The test that a line with any figure names; None where it is no test."""
    return understand_evidence(circuit_in(job), line, job.tracing.setting).evidence


def _tested(job: Job, line: str, typed: str) -> Understood:
    ask = ask_of(job, line)
    if ask is None:
        raise InvalidInput("Practise", typed, EXPECTED)
    return _asked(job, ask, typed)


def _asked(job: Job, ask: Evidence, typed: str) -> Understood:
    words = f"= measure: {ask_words(circuit_in(job), ask)}"
    return Understood(words, lambda job, at: measure(job, replace(ask, value=0.0), typed, at))


def _looked(job: Job, rest: str) -> Understood:
    name = rest.removeprefix("at ").strip()
    ask = ask_of(job, f"{name} off")
    if ask is None:
        raise InvalidInput("Look at", name, "something that can be seen: a lamp, needle, magnet or motor")
    return _asked(job, ask, f"look at {name}")


def _stands(job: Job, line: str) -> Understood:
    """How the device stands from now on; readings of one's own are not taken here."""
    typed = understand_evidence(circuit_in(job), line, job.tracing.setting)
    if typed.evidence is not None:
        raise InvalidInput("Practise", line, "the test without its figure, the bench gives that: clip+ to gnd volts")

    return Understood(f"= {typed.words}", lambda job, at: stand(job, typed.setting, at))


def _said(job: Job, rest: str) -> Understood:
    what, share = chance_in(rest)
    chance = checked_chance(share)
    fault, words = fault_for(job, what)
    return Understood(f"= you say {words}, {chance:.0%} sure", lambda job, at: say(job, fault, chance, words, at))


def _mended(job: Job, rest: str) -> Understood:
    fault, words = fault_for(job, rest, of_part=True)
    return Understood(f"= put right, then tried: {words}", lambda job, at: mend(job, fault, words, at))


def _coached(job: Job, rest: str) -> Understood:
    found = [coaching for coaching in COACHINGS if coaching.startswith(rest.lower())]
    if len(found) != 1:
        raise InvalidInput("Coaching", rest, f"one of {', '.join(COACHINGS)}")
    cost = f", costs {COACHED[found[0]]:.0f} points" if COACHED[found[0]] else ""
    return Understood(f"= coaching: {found[0]}{cost}", lambda job, at: coach(job, found[0], at))


def coach(job: Job, how: Coaching, at: str) -> ActResult:
    """How one is coached from now on. What was told until now has told it; a nod tells nothing before the first move."""
    told = job.practising.coaching != "a nod" or bool(moves_of(job))
    helped = job.practising.coached if told else job.practising.helped
    practising = replace(job.practising, coaching=how, helped=helped)
    return ActResult(replace(job, practising=practising), PRACTISE, f"Coaching: {how}")


def offers(job: Job, text: str) -> tuple[str, ...]:
    """Whole lines that a text may become."""
    line = " ".join(text.split())
    word, _, rest = line.partition(" ")
    tail = " 80 %" if word.lower() == "say" else ""
    form = form_for(job)
    if form is not None:
        names = [name for name in form_names(form) if rest.lower() in name] if word.lower() in ("say", "mend") else []
        return tuple(f"{word} {name}{tail}" for name in names[:MOST_OFFERED])
    try:
        circuit = circuit_in(job)
    except VioletDialError:
        return ()
    if word.lower() in ("say", "mend"):
        return tuple(f"{word} {name}{tail}" for name in names_like(circuit, rest)[:MOST_OFFERED])
    met = [one for one in ("volts", "ohms") if line and line[-1] != " " and not line.lower().endswith(one)]
    return tuple(f"{line} {one}" for one in met if _is_test(job, f"{line} {TESTS[one]}"))


def _is_test(job: Job, line: str) -> bool:
    try:
        return ask_of(job, line) is not None
    except VioletDialError:
        return False
