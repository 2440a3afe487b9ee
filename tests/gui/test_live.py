"""The third hand, by keys alone: readings taken from live instruments into Trace and Light, and adding an instrument."""

import unittest
from dataclasses import replace

from PySide6.QtGui import QImage

from tests.gui.window import ALT, CTRL, KEY, WindowTest, wait_until
from violet_dial.core.records.light import Chain, LuxMeter
from violet_dial.gui.instruments_window import InstrumentsWindow
from violet_dial.gui.live_control import LiveControl, live_state
from violet_dial.gui.live_figure import LiveFigure, LiveState
from violet_dial.gui.sounds import LOUDNESS, NOTES, RATE_HZ, Sounds, tone
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.link import LinkStatus
from violet_dial.job.light import LightSetup
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.live import InstrumentShown
from violet_dial.services.simulated import SimulatedInstruments
from violet_dial.stations.light.acts import change_setup
from violet_dial.stations.trace.acts import choose_circuit

HIDDEN = {"meter": "Rwred:high resistance:150k"}


class Live(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Gannet reflex", "needle dead")
        self.live.sounds.silent = True

    @property
    def live(self) -> LiveControl:
        return self.window.live

    def shown(self) -> LiveState:
        return self.page.bar.live.state


class AtTrace(Live):
    def setUp(self) -> None:
        super().setUp()
        text = next(one.text for one in templates() if one.stem == "cds-series")
        self.page.perform(lambda job, at: choose_circuit(job, "meter", text, at))
        self.page.perform(lambda job, at: type_evidence(job, "needle dead", at))
        self.press(KEY.Key_3, ALT)
        self.live.start_simulated(HIDDEN)
        self.until(lambda: self.page.at("Trace").settled and self.shown().state == "leads in the air", self.shown())

    def count(self) -> int:
        return len(self.page.view.job.tracing.now) if self.page.view else 0

    def to_volts(self) -> None:
        """The next test is one a voltmeter answers."""
        page = self.page.at("Trace")
        volts = next(one for one in page.result.ranking.tests if one.ask.test == "volt")
        page.suspects.next._shown = replace(page.suspects.next._shown, test=volts)
        self.assertEqual(self.page.at("Trace").suspects.next.test.ask.test, "volt")
        self.live.aim()

    def test_touch_steady_taken_suspects_move(self) -> None:
        self.to_volts()
        before = self.page.at("Trace").result.diagnosis.suspects[0].probability
        self.press(KEY.Key_F10)
        self.assertIn("hands-free on", self.shown().hands)
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: self.count() == 2, self.shown())
        self.until(lambda: self.page.at("Trace").settled)
        taken = self.page.view.job.tracing.now[-1]
        self.assertEqual(taken.capture.function, "volt")
        self.assertGreater(taken.evidence.u, 0)
        self.assertNotEqual(before, self.page.at("Trace").result.diagnosis.suspects[0].probability)
        self.until(lambda: self.shown().state == "taken: lift off", self.shown())
        self.press(KEY.Key_F11)
        self.assertEqual(self.count(), 1)
        self.press(KEY.Key_F11)
        self.assertIn("not a take", self.said)

    def test_the_take_key_takes_what_stands_without_hands_free(self) -> None:
        self.to_volts()
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: self.shown().state == "steady", self.shown())
        self.assertEqual(self.count(), 1)
        self.assertTrue(self.page.bar.take.isEnabled())
        self.press(KEY.Key_F8)
        self.assertEqual(self.count(), 2)
        self.assertIn("→", self.page.bar.live.flash)
        self.page.perform(lambda job, at: type_evidence(job, "clip+ to gnd 1.35 V", at))  # within the same second
        self.press(KEY.Key_F11)
        self.assertIn("not a take", self.said)  # the typed act stays: it is not what F11 takes back
        self.assertEqual(self.count(), 3)

    def test_preference_is_turned_by_its_key(self) -> None:
        self.press(KEY.Key_R, CTRL)
        self.assertEqual(self.page.view.job.tracing.prefer, "fewest tests")
        self.until(lambda: self.page.at("Trace").settled)
        best = max(self.page.at("Trace").result.ranking.tests, key=lambda one: one.bits)
        self.assertEqual(self.page.at("Trace").suspects.next.test, best)

    def test_a_lost_link_is_shown_and_heals_and_the_job_goes_on(self) -> None:
        self.live.simulated.bench.answer("SIM:FAULT AWAY,1")
        self.until(lambda: self.shown().kind == "lost", self.shown())
        self.page.perform(lambda job, at: type_evidence(job, "clip+ to gnd 1.35 V", at))
        self.assertEqual(self.count(), 2)
        self.until(lambda: self.shown().state == "leads in the air", self.shown())

    def test_the_bar_is_on_every_station_and_gone_with_the_instruments(self) -> None:
        for number in range(1, 7):
            self.press(KEY(KEY.Key_0 + number), ALT)
            self.assertTrue(self.page.bar.live.isVisible(), number)
        self.live.stop_simulated()
        self.assertFalse(self.page.bar._metered)
        self.assertIn("F12", self.shown().state)


class AtLight(Live):
    def test_a_run_of_lights_hands_free_with_one_number_typed_each(self) -> None:
        self.new_job("Fulmar meter", "reads high")
        setup = LightSetup(chain=Chain(LuxMeter()))
        self.page.perform(lambda job, at: change_setup(job, setup, at))
        self.live.start_simulated()
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_F10)
        self.press(KEY.Key_F9)
        for taken in range(1, 3):
            self.until(lambda: self.page.at("Light").awaits, self.shown())
            self.assertIs(self.focused, self.page.bar.lines["reading"])
            self.type_in("10")
            self.press(KEY.Key_Return)
            self.assertEqual(len(self.page.view.job.light.current.readings), taken)
        first = self.page.view.job.light.current.readings[0]
        self.assertEqual(first.capture.function, "lux")
        self.assertIn("simulated", first.reference_sum[0])
        self.until(lambda: self.page.at("Light").awaits)
        self.press(KEY.Key_F11)
        self.assertEqual(self.page.at("Light").awaits, "")

    def test_without_a_lux_meter_in_the_chain_it_says_what_to_do(self) -> None:
        self.live.start_simulated()
        self.press(KEY.Key_5, ALT)
        self.until(lambda: "F4" in self.shown().goes, self.shown())
        self.press(KEY.Key_F8)
        self.assertTrue(self.said)


class Adding(Live):
    def window_of(self) -> InstrumentsWindow:
        window = InstrumentsWindow(self.window, self.look, self.live)
        self.addCleanup(window.done, 0)
        return window

    def test_type_the_address_see_figures_name_it_done(self) -> None:
        practice = SimulatedInstruments()
        self.addCleanup(practice.close)
        address = practice.instruments[0].address.split("::")
        window = self.window_of()
        window.typed_address.setText(f"{address[1]}:{address[2]}")
        window.typed_address.returnPressed.emit()
        self.until(lambda: window.shows.text().endswith("V"), window.said.text())
        window.name.setText("bench meter")
        window.accuracy.setText("volt 0.5 % + 2m")
        window.name.returnPressed.emit()
        self.assertEqual([one.name for one in self.live.bench.instruments], ["bench meter"])
        self.until(lambda: bool(window.model.rows) and window.model.rows[0][3] == "leads in the air", window.model.rows)
        again = LiveControl(self.window, self.look.settings)  # the next start
        self.addCleanup(again.close)
        again.connect_kept()
        self.assertEqual(again.bench.instruments, self.live.bench.instruments)
        window.table.setFocus()
        window.table.choose(0)
        window.table.struck_row.emit(0)
        self.assertEqual(self.live.bench.instruments, ())

    def test_what_cannot_be_is_said_where_it_was_typed(self) -> None:
        window = self.window_of()
        for address, accuracy, word in (("nowhere", "", "expected host:port"), ("127.0.0.1:9", "volt much", "Accuracy")):
            window.typed_address.setText(address)
            window.accuracy.setText(accuracy)
            window.try_address()
            self.assertIn(word, window.said.text())
        window.accuracy.setText("")
        window.speaks.setCurrentText("SCPI supply of the lamp")
        self.assertTrue(window.curve.isVisibleTo(window))
        window.curve.setText("3 V 40 lx; 2 V 60 lx")
        window.try_address()
        self.assertIn("rising", window.said.text())
        window.curve.setText("3 V 40 lx; 6 V 420 lx")
        window.try_address()
        self.until(lambda: "Next try" in window.said.text(), window.said.text())
        window.keep_it()
        self.assertIn("Name", window.said.text())

    def test_f12_opens_it_and_the_simulated_bench_starts_there(self) -> None:
        self.press(KEY.Key_F12)
        window = self.dialog
        assert isinstance(window, InstrumentsWindow)
        window.simulated.click()
        self.assertEqual(len(window.model.rows), 2)
        self.assertFalse(window.pattern.isVisibleTo(window))
        window.speaks.setCurrentText("lines of text")
        self.assertTrue(window.pattern.isVisibleTo(window))
        self.press(KEY.Key_Escape)
        self.assertTrue(self.no_dialog)
        self.assertIsNotNone(self.live.simulated)

    def test_a_damaged_list_of_instruments_is_said(self) -> None:
        self.look.settings.setValue("instruments", "[{]")
        control = LiveControl(self.window, self.look.settings)
        said: list[str] = []
        control.said.connect(said.append)
        control.connect_kept()
        self.assertIn("Kept instruments", said[0])


class Showing(WindowTest):
    def picture(self, state: LiveState) -> QImage:
        figure = LiveFigure(self.look)
        figure.resize(420, 88)
        figure.show_state(state)
        self.assertTrue(wait_until(lambda: figure.state == state))
        return figure.grab().toImage()

    def test_each_state_looks_different_without_colour(self) -> None:
        kinds = ("hunting", "settling", "steady", "open", "overload", "lost")
        pictures = [
            self.picture(LiveState(kind, "meter", "1.523 V")).convertToFormat(QImage.Format.Format_Grayscale8)  # type: ignore[arg-type]
            for kind in kinds
        ]
        for place, one in enumerate(pictures):
            for other in pictures[place + 1 :]:
                self.assertNotEqual(one, other)

    def test_a_figure_waits_its_turn_and_a_state_does_not(self) -> None:
        figure = LiveFigure(self.look)
        figure.show_state(LiveState("steady", "meter", "1.000 V", "steady"))
        figure.show_state(LiveState("steady", "meter", "1.001 V", "steady"))
        self.assertEqual(figure.state.figure, "1.000 V")
        figure.show_state(LiveState("hunting", "meter", "1.002 V", "hunting"))
        self.assertEqual(figure.state.figure, "1.002 V")
        figure.show_state(LiveState("hunting", "meter", "1.003 V", "hunting"))
        self.assertTrue(wait_until(lambda: figure.state.figure == "1.003 V"))

    def test_words_before_there_is_a_figure(self) -> None:
        for state, word in (("connecting", "looking"), ("lost", "lost"), ("live", "waiting")):
            shown = InstrumentShown("meter", LinkStatus(state, ""))  # type: ignore[arg-type]
            self.assertIn(word, live_state(shown, None, False).state)


class Hearing(unittest.TestCase):
    def test_tones_are_distinct_bounded_and_do_not_click(self) -> None:
        made = {name: tone(name) for name in NOTES}
        for name, samples in made.items():
            self.assertEqual(len(samples), sum(round(seconds * RATE_HZ) for _, seconds in NOTES[name]))
            self.assertLessEqual(abs(samples).max(), LOUDNESS)
            self.assertLess(abs(samples[:8]).max(), 0.01)
            self.assertLess(abs(samples[-8:]).max(), 0.01)
        self.assertEqual(len({samples.tobytes() for samples in made.values()}), 3)

    def test_played_on_a_null_device_and_not_when_silent(self) -> None:
        import miniaudio

        sounds = Sounds([miniaudio.Backend.NULL])
        sounds.play("taken")
        sounds.wait(5)
        self.assertEqual((sounds.played, sounds.failed), (["taken"], ""))
        sounds.silent = True
        sounds.play("lost")
        self.assertEqual(sounds.played, ["taken"])


class KeptList(unittest.TestCase):
    def test_settings_without_a_list_are_an_empty_bench(self) -> None:
        from violet_dial.services.live import instruments_from_json, instruments_to_json

        kept = (Kept("m", "TCPIP::h::1::SOCKET"), Kept("s", "ASRL/dev/ttyS0::INSTR", "lines of text"))
        self.assertEqual(instruments_from_json(""), ())
        self.assertEqual(instruments_from_json(instruments_to_json(kept)), kept)
