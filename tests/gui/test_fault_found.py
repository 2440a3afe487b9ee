"""From a dead device to its fault, the way a stranger goes: do what Next says, with hands that are not there."""

import re
import unittest

from PySide6.QtTest import QTest

from tests.gui.window import ALT, CTRL, KEY, WindowTest, wait_until
from violet_dial.gui.live_control import LiveControl
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.trace.acts import choose_circuit

# Circuit, what is hidden in it, what the owner says, the part that must be named.
DEVICES = (
    ("cds-series", "Rwred:high resistance:150k", "needle at 2 %", "Rwred"),
    ("silicon-lamps", "Rwred:open", "slow lamp off", "Rwred"),
    ("selenium-movement", "Rring:open", "needle dead", "Rring"),
    ("cds-two-range", "Vbat:dead", "needle dead", "Vbat"),
)
MOST_TESTS, SURE = 12, 0.85


class FaultFound(WindowTest):
    @property
    def live(self) -> LiveControl:
        return self.window.live

    def count(self) -> int:
        assert self.page.view is not None
        return len(self.page.view.job.tracing.now)

    def named(self) -> tuple[str, float]:
        """The parts of the likeliest group: those that no allowed test can tell apart, and how likely they are."""
        result = self.page.at("Trace").result
        assert result is not None
        first = result.diagnosis.suspects[0]
        group = next((group for group in result.ranking.groups if first.name in group), (first.name,))
        likely = sum(one.probability for one in result.diagnosis.suspects if one.name in group)
        return " ".join(group), likely

    def in_the_air(self, function: str) -> bool:
        """Whether the meter is set to what is asked for and sees its leads in the air."""
        front = self.live.bench.front
        seen = front is not None and front.verdict is not None and front.sample is not None
        return bool(seen and front.verdict.kind == "open" and front.sample.function == function)

    def one_test(self) -> None:
        """What Next asks for, answered: probes put there and left until it is taken, or a look typed."""
        before, test = self.count(), self.page.at("Trace").suspects.next.test
        assert test is not None
        metered = {"volt": "volt", "ohm": "ohm", "continuity": "ohm"}.get(test.ask.test)
        if metered is not None:  # hands take a moment from one spot to the next; meanwhile the meter is set
            self.until(lambda: self.in_the_air(metered), self.page.bar.live.state)
            QTest.qWait(700)
        self.press(KEY.Key_T, CTRL)
        if metered is None:
            look = re.split(r" (?:at|is|shows) ", self.said.removesuffix("."))[-1]
            self.press(KEY.Key_F9)
            self.type_in(look)
            self.press(KEY.Key_Return)
        elif metered == "ohm":  # open ends are for the person to say: nothing is taken off them by itself
            wait_until(lambda: self.count() > before, 2500)
            if self.count() == before:
                self.press(KEY.Key_F8)
        self.until(lambda: self.count() == before + 1, (test.ask, self.said))
        if self.live.simulated is not None and self.live.simulated.touching:
            self.press(KEY.Key_T, CTRL)
        self.until(lambda: self.page.at("Trace").settled)

    def test_each_device(self) -> None:
        self.live.sounds.silent = True
        for stem, hidden, owner, part in DEVICES:
            with self.subTest(stem):
                self.new_job(f"Gannet {stem}", owner)
                text = next(one.text for one in templates() if one.stem == stem)
                self.page.perform(lambda job, at, text=text: choose_circuit(job, stem, text, at))  # noqa: B023
                self.page.perform(lambda job, at, owner=owner: type_evidence(job, owner, at))
                self.press(KEY.Key_3, ALT)
                self.live.start_simulated({stem: hidden})
                if not self.live.bench.hands_free:
                    self.press(KEY.Key_F10)
                self.until(lambda: self.page.at("Trace").settled)
                tests = 0
                while self.named()[1] < SURE or part not in self.named()[0]:
                    self.assertLess(tests, MOST_TESTS, f"{self.named()} after {tests} tests")
                    self.one_test()
                    tests += 1
                self.page.at("Trace").suspects.bars.setFocus()
                self.press(KEY.Key_R)  # put right: what was measured was with it, the device is whole now
                assert self.page.view is not None
                self.assertEqual(self.page.view.job.tracing.repairs[-1].fault.part, part)
                self.assertEqual(self.count(), 0)
                self.live.stop_simulated()
                self.press(KEY.Key_Escape)


if __name__ == "__main__":
    unittest.main()
