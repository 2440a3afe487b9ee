"""Joins live instruments to the job page: what the bar shows, where a reading goes, what a take does.

Which station is in view does not matter here: its page says what it asks for and takes what is put in.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSettings, QTimer, Signal, Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Setting
from violet_dial.core.steady.samples import FUNCTION_WORDS, UNITS, Capture
from violet_dial.gui.live_figure import LiveKind, LiveState
from violet_dial.gui.sounds import Sounds
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.sound_card import SoundCard, SoundSource
from violet_dial.job.document import Job
from violet_dial.services.camera import CameraProcess, FrameSource, kind_of
from violet_dial.services.circuits import has_circuit
from violet_dial.services.live import Event, InstrumentShown, LiveBench, instruments_from_json, instruments_to_json
from violet_dial.services.live import Slot as Place
from violet_dial.services.simulated import SimulatedInstruments
from violet_dial.services.station import Exercises

if TYPE_CHECKING:
    from violet_dial.gui.job_page import JobPage

POLL_MS = 50


class LiveControl(QObject):
    """Owns the live bench. Polls it twenty times a second while there is an instrument, and not at all without."""

    said = Signal(str)
    changed = Signal()

    def __init__(
        self, parent: QObject, settings: QSettings | None = None, exercises: Callable[[], Exercises | None] = lambda: None
    ) -> None:
        super().__init__(parent)
        self._settings, self._exercises = settings, exercises
        self.bench = LiveBench()
        self.sounds = Sounds()
        self.simulated: SimulatedInstruments | None = None
        self._page: JobPage | None = None
        self.camera_address = str(settings.value("camera", "")) if settings is not None else ""
        self._taken_version: int | None = None  # what the last take by an instrument made, so that F11 takes back that alone
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
        simulated = {instrument.address for instrument in self.simulated.instruments} if self.simulated else set()
        lasting = tuple(instrument for instrument in self.bench.instruments if instrument.address not in simulated)
        if self._settings is not None:
            self._settings.setValue("instruments", instruments_to_json(lasting))

    def let_go(self) -> None:
        """Let go of every real instrument for now; they are kept for the next time."""
        simulated = {instrument.address for instrument in self.simulated.instruments} if self.simulated else set()
        for kept in self.bench.instruments:
            if kept.address not in simulated:
                self.bench.disconnect(kept.name)

    def start_simulated(self, hidden: dict[str, str] | None = None) -> None:
        """Start the simulated bench and connect to it."""
        if self.simulated is not None:
            return
        self.simulated = SimulatedInstruments(hidden, self._exercises)
        for kept in self.simulated.instruments:
            self.add(kept, keep=False)
        self._load()

    def stop_simulated(self) -> None:
        """Let go of the simulated bench."""
        if self.simulated is None:
            return
        for kept in self.simulated.instruments:
            if kept in self.bench.instruments:
                self.bench.disconnect(kept.name)
        self.simulated.close()
        self.simulated = None
        if not self.bench.instruments:
            self._timer.stop()
        self.show()

    def close(self) -> None:
        self._timer.stop()
        self.bench.close()
        if self.simulated is not None:
            self.simulated.close()

    def sound_card(self, job: Job, works: str, sensors: int) -> SoundSource:
        """The card that records a shutter: the simulated one while there is a simulated bench."""
        return self.simulated.card(job, works, sensors) if self.simulated is not None else SoundCard(sensors)

    def camera(self, job: Job) -> FrameSource:
        """The camera before a dial: the one that was chosen, else that of the simulated bench.

        Raises InvalidInput: there is none.
        """
        if self.camera_address:
            return CameraProcess(self.camera_address)
        if self.simulated is None:
            raise InvalidInput(
                "Camera", "none", "a line like: camera /dev/video0 (a film or a folder too), or the simulated bench (F12)"
            )
        return self.simulated.camera(job)

    def camera_chosen(self) -> str:
        """Which camera `camera` would be; empty for none."""
        return self.camera_address or ("simulated" if self.simulated is not None else "")

    def use_camera(self, address: str) -> None:
        """Choose a camera by its address, kept for the next start; an empty one lets it go.

        Raises InvalidInput: no such address.
        """
        if address:
            kind_of(address)
        self.camera_address = address
        if self._settings is not None:
            self._settings.setValue("camera", address)

    def scope(self) -> Kept | None:
        """The oscilloscope of the simulated bench; None without one."""
        return self.simulated.scope if self.simulated is not None else None

    def hear(self, taken: bool) -> None:
        """The sound of something taken, or refused."""
        self.sounds.play("taken" if taken else "refused")

    def meter_on(self) -> str:
        """The function of the meter in front; empty without one that shows something."""
        front = self.bench.front
        live = front is not None and front.status.state == "live" and front.sample is not None
        return front.sample.function if live and front is not None and front.sample is not None else ""

    # where a reading goes

    def attach(self, page: JobPage | None) -> None:
        """The page whose bar shows the instruments."""
        self._page = page
        self._taken_version = None
        if page is not None:
            page.turned.connect(self.aim)
            page.live_take_asked.connect(self.take)
        self.aim()

    @Slot()
    def aim(self) -> None:
        """Where the next reading goes, from what the page in view asks for."""
        page = self._page
        place = page.page.slot if page is not None and page.view is not None else None
        self.bench.looked_at = page.page.looks_at if page is not None else "volt"
        if place != self.bench.slot:
            self.bench.aim(place)
            if self.bench.hands_free:
                self.bench.set_light()
        self._load()
        self.show()

    def _load(self) -> None:
        if self.simulated is not None and self._page is not None and self._page.view is not None:
            self.simulated.load(self._page.view.job)

    def set_light(self) -> None:
        """Ask a settable lamp for the light that Next wants."""
        self.aim()
        self.bench.set_light()

    def touch(self) -> None:
        """Simulated hands put the probes where the test wants them, or lift them."""
        if self.simulated is None or self._page is None or self._page.view is None:
            self.said.emit("There is no simulated bench: F12 starts one. With a real meter, touch the two spots.")
            return
        if self._page.page.by_hand():
            return
        ask, job = self._page.page.asks, self._page.view.job
        setting = job.tracing.setting if has_circuit(job) else Setting()
        try:
            words = self.simulated.touch(ask, setting)
        except InvalidInput as error:
            self.said.emit(str(error))
        else:
            if ask is not None and ask.part:
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
        page = self._page
        if page is None or page.view is None:
            return
        before = page.view.version_id
        if not page.page.put_capture(capture):
            self.sounds.play("refused")
            return
        if page.view.version_id != before:
            self._taken_version = page.view.version_id
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
        """The last take by an instrument undone, where nothing else was done since."""
        page = self._page
        if page is None or page.view is None or page.page.drop_capture():
            return
        if self._taken_version is not None and page.view.version_id == self._taken_version:
            self._taken_version = None
            page.undo()
        else:
            self.said.emit("The last act was not a take by an instrument; Ctrl+Z takes back any act.")

    def toggle_hands_free(self) -> None:
        """Readings are taken when steady, or only by the key."""
        self.bench.hands_free = not self.bench.hands_free
        if self.bench.hands_free:
            self.bench.set_light()
        if self._page is not None and self._page.view is not None:
            self._page.page.hands_changed(self.bench.hands_free)
        self.show()

    def toggle_sounds(self) -> None:
        """Sounds on or off."""
        self.sounds.silent = not self.sounds.silent
        why = f" ({self.sounds.failed})" if self.sounds.failed else ""
        self.said.emit("Sounds are off." if self.sounds.silent else f"Sounds are on{why}.")

    # the bar

    def show(self) -> None:
        """What the bar shows now."""
        page = self._page
        if page is None or page.view is None:
            return
        front = self.bench.front
        hands = f"hands-free {'on' if self.bench.hands_free else 'off'}  F10"
        aside = ""
        if self.simulated is not None and page.page.looks_at != "lux":
            aside = f"{'lift' if self.simulated.touching else 'touch'}  Ctrl+T"
        if front is None:
            page.bar.show_live(None)
        else:
            state = live_state(front, self.bench.slot, self.bench.hands_free)
            page.bar.show_live(replace(state, goes=self._goes(front), hands=hands, hands_on=self.bench.hands_free, aside=aside))
        page.bar.set_live_ready(front is not None and not self.bench.why_not(front, any_light=True))

    def _goes(self, front: InstrumentShown) -> str:
        """Where the next reading goes, or why nowhere."""
        slot, page = self.bench.slot, self._page
        if slot is None or page is None:
            asks = page.page.asks if page is not None else None
            if asks is None:
                return page.page.slot_missing if page is not None else ""
            what = WANTED.get(asks.test, "a look")
            return f"Next wants {what}{' (Ctrl+T)' if self.simulated is not None else ''}: type it"
        if front.sample is not None and front.sample.function != slot.function:
            return f"{FUNCTION_WORDS[slot.function]} asked for → {slot.words}"
        if not slot.aim_lx:
            return f"→ {slot.words}"
        if page.page.awaits:
            return page.page.awaits
        return self.bench.why_not(front) or f"→ {slot.words}, {slot.aim_lx:,.0f} lx".replace(",", "\u00a0")


WANTED = {"amp": "a current, in series", "capacitance": "a capacitance"}


def live_state(front: InstrumentShown, slot: Place | None, hands_on: bool) -> LiveState:
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
    if kind == "steady" and hands_on and (slot is None or slot.function != "lux") and not verdict.fresh:
        kind, words = "held", "zero, or in the air: F8 takes it" if verdict.doubtful else "taken: lift off"
    elif kind == "settling" and verdict.remaining_s >= 1:
        words = f"settling, {min(verdict.remaining_s, 99):.0f} s"
    return LiveState(kind, name, front.figure, words)
