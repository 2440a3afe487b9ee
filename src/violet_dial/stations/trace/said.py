"""A test in the words of the bench: what is done, and what it costs; what is done where none is left; and what a line of evidence
may become."""

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.allowed import CAPPED_LX
from violet_dial.core.diagnosis.case import Diagnosis
from violet_dial.core.diagnosis.explain import short_words, spoken, suspect_words
from violet_dial.core.diagnosis.next_test import Ranking, Test
from violet_dial.core.mapping.layered import part_label

MOST_UNSEEN = 3
FIXED_OFFERS = ("cells out", "cells in", "on bench supply", "bent", "straight", "lift ")


def test_title(circuit: Circuit, test: Test) -> str:
    """A test in one line."""
    ask = test.ask
    if ask.test == "seen":
        return f"Look at the {short_words(circuit, ask.part)}"
    minus = "gnd" if ask.minus == "0" else ask.minus
    if ask.test == "amp":
        return f"Current through the {short_words(circuit, ask.part)}"
    if ask.test == "capacitance":
        return f"Capacitance of the {short_words(circuit, ask.part)}, a leg lifted"
    capped = ", cell capped," if ask.setting.light_lx == CAPPED_LX else ","
    what = {"volt": "Volts", "ohm": f"Ohms, cells out{capped}", "continuity": f"Beep, cells out{capped}"}[ask.test]
    return f"{what} {ask.plus} to {minus}"


def test_cost(test: Test) -> str:
    """Minutes, what to open, how the device stands."""
    opened = f"open {', '.join(test.opens)}" if test.opens else "nothing to open"
    stands = test.ask.setting.words if test.ask.test not in ("ohm", "continuity", "capacitance") else ""
    return " · ".join(part for part in (f"{test.minutes:.1f} min", opened, stands, test.risk) if part)


def ending(diagnosis: Diagnosis, ranking: Ranking) -> tuple[str, str]:
    """What is to be done where no test is asked for any more, and why."""
    circuit = diagnosis.case.circuit
    if ranking.settled:
        hidden = [spoken(circuit, name) for name in ranking.settled if name != "no fault"]
        unseen = f" No allowed test would show: {'; '.join(hidden[:MOST_UNSEEN])}." if hidden else ""
        fits = f"All readings fit a sound device, {ranking.settled_probability:.0%}.{unseen}"
        return "No fault was found: read it against light", fits
    if not diagnosis.suspects:
        return "Look at it again", "No suspect is left: a reading, or the circuit, is another than was said."
    first = diagnosis.suspects[0]
    words = suspect_words(circuit, first)
    if ranking.left:
        alone = f"It alone explains the readings, {ranking.settled_probability:.1%}. Then R on it, and the same reading again."
        return f"Put right: {words}", alone
    return "Look at the likeliest suspect", f"No allowed test would part them. Likeliest: {words}, {first.probability:.0%}."


def offers_of(circuit: Circuit, text: str) -> tuple[str, ...]:
    """Whole lines that what was typed may become, best first."""
    last = text.rsplit(" ", maxsplit=1)[-1].lower()
    labels = (part_label(circuit, part) for part in circuit.parts)
    names = [*circuit.nodes, "gnd", *labels, *(part.name for part in circuit.parts)]
    low = text.lower()
    whole = [name for name in (*names, *FIXED_OFFERS) if low and name.lower().startswith(low) and name.lower() != low]
    stem = text[: len(text) - len(last)]
    tails = [stem + name for name in names if last and name.lower().startswith(last) and name.lower() != last]
    return tuple(dict.fromkeys([*whole, *tails]))[:8]
