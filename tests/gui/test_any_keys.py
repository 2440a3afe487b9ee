"""Keys pressed without thought: nothing breaks, every act is on the disk, and the window goes on."""

import random
import sys
import unittest
from types import TracebackType

from PySide6.QtCore import Qt

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, application, wait_until
from tests.workshops import open_workshop
from violet_dial.job.document import Job
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.stations.open.acts import take_step
from violet_dial.stations.trace.acts import choose_circuit

PLAIN = (
    KEY.Key_Return, KEY.Key_Tab, KEY.Key_Up, KEY.Key_Down, KEY.Key_Left, KEY.Key_Right, KEY.Key_Delete, KEY.Key_PageDown,
    KEY.Key_PageUp, KEY.Key_Home, KEY.Key_End, KEY.Key_Escape, KEY.Key_Space, KEY.Key_Backspace,
    KEY.Key_F2, KEY.Key_F3, KEY.Key_F4, KEY.Key_F5, KEY.Key_F6, KEY.Key_F7, KEY.Key_F8, KEY.Key_F9, KEY.Key_F10, KEY.Key_F11,
)  # fmt: skip
WITH_CTRL = (
    KEY.Key_Z, KEY.Key_G, KEY.Key_L, KEY.Key_R, KEY.Key_T, KEY.Key_M, KEY.Key_H, KEY.Key_I, KEY.Key_E, KEY.Key_B, KEY.Key_P,
    KEY.Key_S, KEY.Key_O, KEY.Key_Tab, KEY.Key_Plus, KEY.Key_Minus, KEY.Key_N, KEY.Key_F,
)  # fmt: skip
WORDS = (
    "8", "9.3", "ev 12", "1/3", "-2", "1e9", "nonsense", "screw x3 top cover -> A1", "top cover", "knob rewind lh",
    "green crust: clip",     "missing screw", "clip+ to gnd 1.35 V", "needle dead", "S1 off", "red wire 38k", "lift Rser",
    "meter cell through top; 6 min",
    "Kittiwake", "0", "12 uA", "OL", "'; DROP TABLE job", "<b>x</b>",
)  # fmt: skip


class AnyKeys(WindowTest):
    SEEDS, PRESSES = (1, 6), 240

    def setUp(self) -> None:
        super().setUp()
        self.faults: list[str] = []
        before = sys.excepthook
        sys.excepthook = self._fault
        self.addCleanup(setattr, sys, "excepthook", before)

    def _fault(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        place = trace
        while place is not None and place.tb_next is not None:
            place = place.tb_next
        where = f"{place.tb_frame.f_code.co_filename}:{place.tb_lineno}" if place else ""
        self.faults.append(f"{kind.__name__}: {fault} at {where}")

    def begin(self) -> None:
        """A job with something at every station, so that keys find something to act on."""
        self.new_job()
        self.take("8", "8.6")
        text = next(one.text for one in templates() if one.stem == "cds-series")
        self.page.perform(lambda job, at: choose_circuit(job, "meter", text, at))
        self.page.perform(lambda job, at: type_evidence(job, "clip+ to gnd 1.36 V", at))
        self.page.perform(lambda job, at: take_step(job, "screw x3 top cover -> A1", at))
        self.window.live.sounds.silent = True

    def one_press(self, draw: random.Random) -> str:
        kind = draw.random()
        if kind < 0.30:
            word = draw.choice(WORDS)
            self.type_in(word)
            return word
        if kind < 0.40:
            key, modifier = (
                draw.choice((KEY.Key_1, KEY.Key_2, KEY.Key_3, KEY.Key_4, KEY.Key_5, KEY.Key_6, KEY.Key_7, KEY.Key_8)),
                ALT,
            )
        elif kind < 0.55:
            key, modifier = draw.choice(WITH_CTRL), CTRL
        elif kind < 0.62:
            key, modifier = draw.choice((KEY.Key_Z, KEY.Key_Tab)), CTRL | SHIFT
        else:
            key, modifier = draw.choice(PLAIN), Qt.KeyboardModifier.NoModifier
        self.press(key, modifier)
        return f"{modifier.name} {key.name}"

    def kept(self) -> dict[str, Job]:
        """Every job as another window finds it on the disk."""
        other = open_workshop(self.folder / "w.violet")
        try:
            return {card.job_id: other.view(card.job_id).job for card in other.cards()}
        finally:
            other.close()

    def test_nothing_breaks_and_nothing_is_lost(self) -> None:
        for seed in self.SEEDS:
            draw = random.Random(seed)
            self.begin()
            pressed: list[str] = []
            acts = 0
            for _ in range(self.PRESSES):
                pressed.append(self.one_press(draw))
                self.assertEqual(self.faults, [], f"seed {seed}: {pressed[-12:]}")
                for _ in range(3):  # what opened is worked by the next key, and then left
                    if draw.random() < 0.7 and application().activeModalWidget() is not None:
                        self.press(KEY.Key_Escape)
                if application().activeModalWidget() is not None:
                    continue
                if not self.window.on_job:
                    self.press(KEY.Key_Return)  # back into the job that is chosen, or a new one
                if self.window.on_job and self.page.view is not None:
                    self.assertEqual(self.page.view.job, self.window.workshop.view(self.page.view.job.job_id).job)
                    acts = max(acts, len(self.page.view.log))
            self.assertGreater(acts, 8, f"seed {seed}: too little happened to prove anything")
            while application().activeModalWidget() is not None:
                self.press(KEY.Key_Escape)
            self.window.leave_job()
            application().processEvents()
            kept = self.kept()
            for card in self.window.workshop.cards():
                self.assertEqual(kept[card.job_id], self.window.workshop.view(card.job_id).job)
            self.press(KEY.Key_Escape)
        self.assertTrue(wait_until(lambda: not self.page.at("Trace").suspects.answer.busy))
        self.assertEqual(self.faults, [])


if __name__ == "__main__":
    unittest.main()
