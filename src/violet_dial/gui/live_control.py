"""Joins live instruments to the job page: what the bar shows, where a reading goes, what a take does."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSettings, QTimer, Signal, Slot

from violet_dial.core.circuit.trade import Setting
from violet_dial.core.diagnosis.evidence import Evidence
from violet_dial.core.errors import InvalidInput
from violet_dial.core.steady.samples import FUNCTION_WORDS, UNITS, Capture, Function
from violet_dial.gui.sounds import Sounds
from violet_dial.gui.widgets.live_figure import LiveKind, LiveState
from violet_dial.instruments.kept import Kept
from violet_dial.services.bench_list import instruments_from_json, instruments_to_json
from violet_dial.services.live import Event, LiveBench, Shown
from violet_dial.services.live import Slot as Place
from violet_dial.services.practice import PracticeBench
from violet_dial.services.tracing import captured_evidence, take_evidence

if TYPE_CHECKING:
    from violet_dial.gui.job_page import JobPage

POLL_MS = 50
_METERED: dict[str, Function] = {"volt": "volt", "ohm": "ohm"}


class LiveControl(QObject):
    """Owns the live bench. Polls it twenty times a second while there is an instrument, and not at all without."""

    said = Signal(str)
    changed = Signal()

    def __init__(self, parent: QObject, settings: QSettings | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self.bench = LiveBench()
        self.sounds = Sounds()
        self.practice: PracticeBench | None = None
        self._page: JobPage | None = None
        self._taken_at = ""  # when the last hands-free take was kept, so that F11 takes back that one alone
        self._timer = QTimer(self, interval=POLL_MS)
        self._timer.timeout.connect(self.poll)

    # instruments

    def connect_kept(self) -> None:
        """Begin to read the instruments that were kept."""
        if self._settings is None:
            return
        try:
            kept = instruments_from_json(str(self._settings.value("instruments", "")))
        except InvalidInput as error:
            self.said.emit(str(error))
            return
        for one in kept:
            self.add(one, keep=False)

    def add(self, kept: Kept, keep: bool = True) -> None:
        """Read an instrument from now on; kept ones are read again at the next start."""
        self.bench.connect(kept)
        if keep:
            self._keep()
        self._timer.start()
        self.aim()

    def remove(self, name: str) -> None:
        """Let go of an instrument."""
        self.bench.disconnect(name)
        self._keep()
        if not self.bench.instruments:
            self._timer.stop()
        self.show()

    def _keep(self) -> None:
        practising = {one.address for one in self.practice.instruments} if self.practice else set()
        lasting = tuple(one for one in self.bench.instruments if one.address not in practising)
        if self._settings is not None:
            self._settings.setValue("instruments", instruments_to_json(lasting))

    def start_practice(self, hidden: dict[str, str] | None = None) -> None:
        """Start the simulated bench and connect to it."""
        if self.practice is not None:
            return
        self.practice = PracticeBench(hidden)
        for kept in self.practice.instruments:
            self.add(kept, keep=False)
        self._load()

    def stop_practice(self) -> None:
        """Let go of the simulated bench."""
        if self.practice is None:
            return
        for kept in self.practice.instruments:
            if kept in self.bench.instruments:
                self.bench.disconnect(kept.name)
        self.practice.close()
        self.practice = None
        if not self.bench.instruments:
            self._timer.stop()
        self.show()

    def close(self) -> None:
        self._timer.stop()
        self.bench.close()
        if self.practice is not None:
            self.practice.close()

    # where a reading goes

    def attach(self, page: JobPage | None) -> None:
        """The page whose bar shows the instruments."""
        self._page = page
        if page is not None:
            page.turned.connect(self.aim)
            page.bar.live_take_asked.connect(self.take)
        self.aim()

    @property
    def _ask(self) -> Evidence | None:
        """The test Trace asks for now."""
        page = self._page
        if page is None or page.station != "Trace" or not page.trace.settled or page.trace.next.test is None:
            return None
        return page.trace.next.test.ask

    def _place(self) -> Place | None:
        page, ask = self._page, self._ask
        if page is None or page.view is None:
            return None
        if ask is not None and ask.test in _METERED:
            return Place(f"{ask.plus} to {'gnd' if ask.minus == '0' else ask.minus}", _METERED[ask.test])
        if page.station == "Light" and page.bar_control.aimed_lx > 0:
            return Place("reference light", "lux", page.bar_control.aimed_lx)
        return None

    @Slot()
    def aim(self) -> None:
        """Where the next reading goes, from what the page asks for."""
        place = self._place()
        self.bench.looked_at = "lux" if self._page is not None and self._page.station == "Light" else "volt"
        if place != self.bench.slot:
            self.bench.aim(place)
            if self.bench.hands_free:
                self.bench.set_light()
        self._load()
        self.show()

    def _load(self) -> None:
        if self.practice is not None and self._page is not None and self._page.view is not None:
            self.practice.load(self._page.view.job)

    def set_light(self) -> None:
        """Ask a settable lamp for the light that Next wants."""
        self.aim()
        self.bench.set_light()

    def touch(self) -> None:
        """Simulated hands put the probes where the test wants them, or lift them."""
        if self.practice is None or self._page is None or self._page.view is None:
            self.said.emit("There is no simulated bench: F12 starts one. With a real meter, touch the two spots.")
            return
        ask, tracing = self._ask, self._page.view.job.tracing
        setting = tracing.setting if tracing.circuit_text else Setting()
        try:
            words = self.practice.touch(ask, setting)
        except InvalidInput as error:
            self.said.emit(str(error))
        else:
            if ask is not None and ask.test == "seen":
                self.said.emit(words)

    # taking

    @Slot()
    def poll(self) -> None:
        """Take in what the instruments sent, and show it."""
        for event in self.bench.poll():
            self._happened(event)
        self.show()

    def _happened(self, event: Event) -> None:
        if event.kind == "taken" and event.capture is not None:
            self._put(event.capture, event.words)
        elif event.kind == "refused":
            self.sounds.play("refused")
            self.said.emit(event.words)
        elif event.kind == "lost":
            self.sounds.play("lost")
        self.changed.emit()

    def _put(self, capture: Capture, words: str) -> None:
        """A reading into its place."""
        page, ask = self._page, self._ask
        if page is None:
            return
        if ask is not None:
            evidence = captured_evidence(ask, capture)
            if not page.perform(lambda job, at: take_evidence(job, evidence, at, capture)):
                self.sounds.play("refused")
                return
            self._taken_at = page.view.log[0].kept_at if page.view and page.view.log else ""
        elif page.station == "Light":
            page.bar_control.put_light(capture)
        self.sounds.play("taken")
        page.bar.live.show_taken(words)

    @Slot()
    def take(self) -> None:
        """The reading as it stands, into its place: the key for it."""
        try:
            capture = self.bench.take()
        except InvalidInput as error:
            self.sounds.play("refused")
            self.said.emit(str(error))
            return
        slot = self.bench.slot
        self._put(capture, f"→ {slot.words if slot else ''}")

    def take_back(self) -> None:
        """The last take by an instrument undone."""
        page = self._page
        if page is None or page.view is None:
            return
        if page.station == "Light" and page.bar_control.drop_light():
            return
        if (
            self._taken_at
            and page.view.log
            and page.view.log[0].kept_at == self._taken_at
            and not page.view.log[0].undone
        ):
            self._taken_at = ""
            page.undo()
        else:
            self.said.emit("The last act was not a take by an instrument; Ctrl+Z takes back any act.")

    def toggle_hands_free(self) -> None:
        """Readings are taken when steady, or only by the key."""
        self.bench.hands_free = not self.bench.hands_free
        if self.bench.hands_free:
            self.bench.set_light()
        self.show()

    def toggle_sounds(self) -> None:
        """Sounds on or off."""
        self.sounds.silent = not self.sounds.silent
        why = f" ({self.sounds.failed})" if self.sounds.failed else ""
        self.said.emit("Sounds are off." if self.sounds.silent else f"Sounds are on{why}.")

    # the bar

    def show(self) -> None:
        """What the bar shows now."""
        if self._page is None:
            return
        front = self.bench.front
        hands = f"hands-free {'on' if self.bench.hands_free else 'off'}  F10"
        aside = ""
        if self.practice is not None and self._page.station != "Light":
            aside = f"{'lift' if self.practice.touching else 'touch'}  Ctrl+T"
        if front is None:
            self._page.bar.show_live(None)
        else:
            state = live_state(front, self.bench.slot, self.bench.hands_free)
            self._page.bar.show_live(
                replace(state, goes=self._goes(front), hands=hands, hands_on=self.bench.hands_free, aside=aside)
            )
        self._page.bar.set_live_ready(front is not None and not self.bench.why_not(front, any_light=True))

    def _goes(self, front: Shown) -> str:
        slot, page = self.bench.slot, self._page
        if slot is None or page is None:
            if page is not None and page.station == "Light":
                return "no lux meter in the chain: F4"
            if self._ask is None:
                return "no reading is asked for here"
            return f"Next wants a look{' (Ctrl+T)' if self.practice is not None else ''}: type it"
        if front.sample is not None and front.sample.function != slot.function:
            return f"{FUNCTION_WORDS[slot.function]} asked for → {slot.words}"
        if not slot.aim_lx:
            return f"→ {slot.words}"
        if page.bar_control.has_light:
            return "light taken: type what the needle shows"
        return self.bench.why_not(front) or f"→ {slot.words}, {slot.aim_lx:,.0f} lx".replace(",", "\u00a0")


def live_state(front: Shown, slot: Place | None, hands_on: bool) -> LiveState:
    """An instrument and how still it stands, in the words of the bar."""
    name, verdict, sample = front.name, front.verdict, front.sample
    if front.status.state == "connecting":
        return LiveState("looking", name, "—", "looking for it")
    if front.status.state != "live":
        return LiveState("lost", name, "—", "link lost, trying")
    if verdict is None or sample is None:
        return LiveState("looking", name, "—", "waiting for a figure")
    scale = f" · range {sample.full_scale:g} {UNITS[sample.function]}" if sample.full_scale else ""
    name = f"{name} · {FUNCTION_WORDS[sample.function]}{scale}"
    kind: LiveKind = verdict.kind
    words: str = {"open": "leads in the air", "overload": "beyond the range"}.get(verdict.kind, verdict.kind)
    if kind == "steady" and hands_on and slot is not None and slot.function != "lux" and not verdict.fresh:
        kind, words = "held", "zero, or in the air: F8 takes it" if verdict.doubtful else "taken: lift off"
    elif kind == "settling" and verdict.remaining_s >= 1:
        words = f"settling, {min(verdict.remaining_s, 99):.0f} s"
    return LiveState(kind, name, front.figure, words)
