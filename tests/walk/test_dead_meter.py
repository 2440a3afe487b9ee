"""A device that came in dead, nothing known: to the fault and the signed sheet, by real keys, doing what Next says.

What the meter and the eye show is a simulated device's, with a fault that the application is not told.
"""

import unittest
from pathlib import Path
from typing import Any

from pypdfium2 import PdfDocument

from tests.walk.walker import Walk
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.instruments.simulated.device import hidden_fault
from violet_dial.services.circuits import circuit_from, templates

MOST_TESTS = 12
OVERLOAD_OHM = 2e7


class Device:
    """A device of one of the circuits that ship, with a hidden fault."""

    def __init__(self, stem: str, fault: str) -> None:
        self.circuit = circuit_from(next(one.text for one in templates() if one.stem == stem))
        self.hidden = Hypothesis((hidden_fault(self.circuit, fault),) if fault else (), 0.0)

    def shows(self, asks: dict[str, Any]) -> str:
        """What would be typed for a test, with its unit."""
        setting = Setting(**{key: _tuples(value) for key, value in asks.pop("setting").items()})
        ask = Evidence(**{**asks, "value": 0.0, "setting": setting})
        value = float(Predictor(self.circuit, (self.hidden,), draws=0).of(ask).mean[0])
        if ask.test == "seen":
            return f"{100 * min(max(value, 0.0), 1.0):.0f} %"
        if ask.test == "volt":
            return f"{value:.3f} V"
        if ask.test == "ohm":
            return f"{10**value:.3g} ohm" if 10**value < OVERLOAD_OHM else "OL"
        if ask.test == "continuity":
            return "beeps" if 10**value < CONTINUITY_OHM else "no beep"
        assert ask.test == "amp", ask
        return f"{abs(value):.4g} A"


def _tuples(value: Any) -> Any:
    return tuple(_tuples(one) for one in value) if isinstance(value, list) else value


class DeadMeter(Walk):
    def test_to_the_fault_and_the_signed_sheet(self) -> None:
        self.sees("Nothing on the bench yet")
        self.keys("ctrl+n")
        self.focus_on("Headline fault")
        self.type("needle dead, battery good")
        self.keys("Return")
        self.focus_on("Device")
        self.type("Puffin reflex")
        self.keys("Return")
        self.next_is("choose circuit")
        self.assertIn("Puffin reflex", self.state["title"])
        self.keys("F9")
        self.over("The circuit")
        self.keys("Down", "Return")
        self.sees("understood")
        self.keys("Return")
        self.over("")
        self.next_is("test")
        self.trace(Device("cds-series", "Rwblue:open"))
        self.mend()

    def trace(self, under: Device) -> None:
        for _ in range(MOST_TESTS):
            if self.state["next"][0] != "test":
                break
            self.focus_on("What the test shows")
            before = self.state["acts"]
            self.type(under.shows(self.state["asks"]))
            self.keys("Return")
            self.wait(lambda state, least=before: state["acts"] > least and state["settled"], "it is taken")

    def mend(self) -> None:
        self.next_is("suspects")
        self.keys("F9")
        self.assertEqual(self.state["next"][1], "Put right: blue wire: open")
        self.focus_on("Suspect 1 of 5: blue wire: open, 9")
        self.keys("r")
        again = self.next_is("again")["next"]
        self.assertIn("m+ to gnd", again[1])
        self.keys("F9")
        self.type("m+ to gnd 0.55 V")
        self.keys("Return")
        self.next_is("read")
        self.keys("F9")
        self.at("Light")
        self.read_on(0.1)
        self.sees("Right from Ev 5 to 15")
        self.sign_and_print("Blue wire renewed.")
        sheet = extract_text(self.home / "sheet.pdf")
        for said in (
            "Puffin reflex",
            "needle dead, battery good",
            "Blue wire: open: put right",
            "m+ to gnd m+ to gnd 1.349 V",
            "After the repair: Right",
            "A. Tystie",
        ):
            self.assertIn(said, sheet)


def extract_text(path: Path) -> str:
    """The words of a PDF."""
    with PdfDocument(path) as document:
        return " ".join(page.get_textpage().get_text_range() for page in document)


if __name__ == "__main__":
    unittest.main()
