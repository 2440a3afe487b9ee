"""A test in the words of the bench: what is done, and what it costs; and what a line of evidence may become."""

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.allowed import CAPPED_LX
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.diagnosis.next_test import Test
from violet_dial.core.mapping.layered import part_label

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
