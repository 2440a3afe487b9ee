"""The page Firings: the lanes, one line to type, and the sound card that counts firings by itself."""

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt, QTimer, Signal, Slot
from PySide6.QtGui import QKeyEvent, QMouseEvent

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said, time_said
from violet_dial.core.light.marks import parse_time
from violet_dial.core.proof.log import KINDS
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled, say, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.hearing import HeardPage
from violet_dial.kit.picture import PictureView
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.theme.look import Look
from violet_dial.report.shapes import Box, Shape
from violet_dial.services.job_shutter import speeds_of
from violet_dial.services.listening import Taken
from violet_dial.stations.prove import acts
from violet_dial.stations.prove.firings_state import FiringsShown, SettingRow, firings_shown, kinds_said, said_rows
from violet_dial.stations.prove.pictures import FOOT, HEAD, NAME, ROW, SAID, SettingRows
from violet_dial.stations.prove.sum import firings_opened

LEAST_WIDE = 120


class FiringsView(PictureView):
    """Up and Down go from setting to setting, and the device stands there; Enter counts a clean firing, F a failure, 1 to 7 its
    kind, Del leaves the last one out."""

    chosen = Signal(str)
    fired = Signal(str)  # how it failed; empty for a clean one
    dropped = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.shown: FiringsShown | None = None

    def least(self) -> tuple[float, float]:
        return NAME + SAID + LEAST_WIDE, (ROW - 14) * max(len(self.lanes), 3) + HEAD + FOOT

    @property
    def lanes(self) -> tuple[SettingRow, ...]:
        return self.shown.lanes if self.shown is not None else ()

    @property
    def place(self) -> int:
        """The lane the device stands at."""
        return next((place for place, lane in enumerate(self.lanes) if lane.is_now), -1)

    def show_firings(self, shown: FiringsShown | None) -> None:
        """Draw these."""
        grown = len(shown.lanes if shown else ()) != len(self.lanes)
        self.shown = shown
        if grown:
            self.updateGeometry()
        now = self.lanes[self.place].sentence if self.place >= 0 else "no setting yet"
        self.say(f"Firings by setting. {now}. {shown.headline if shown else ''}")
        self.draw_anew()

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = Qt.Key(event.key()), event.text()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.lanes:
            step = -1 if key == Qt.Key.Key_Up else 1
            place = min(max(self.place + step, 0), len(self.lanes) - 1) if self.place >= 0 else 0
            self.chosen.emit(self.lanes[place].setting)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.fired.emit("")
        elif text in ("f", "F"):
            self.fired.emit("failed")
        elif text.isdigit() and 1 <= int(text) <= len(KINDS):
            self.fired.emit(KINDS[int(text) - 1])
        elif key == Qt.Key.Key_Delete and self.place >= 0:
            self.dropped.emit(self.lanes[self.place].setting)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for place, lane in enumerate(self.lanes):
            if self._box(place).contains(event.position()):
                self.chosen.emit(lane.setting)

    # drawing

    def _drawn_lanes(self, shown: FiringsShown) -> SettingRows:
        return SettingRows(shown, self.width(), self.height(), self.scale)

    def _box(self, place: int) -> QRectF:
        if self.shown is None:
            return QRectF()
        top, tall = self._drawn_lanes(self.shown).row(place)
        return QRectF(0, top, self.width(), tall)

    def shapes(self) -> Iterable[Shape]:
        if self.shown is None:
            return
        lanes = self._drawn_lanes(self.shown)
        if self.place >= 0:
            top, tall = lanes.row(self.place)
            soft, width = ("soft", 2.0) if self.hasFocus() else ("none", 1.0)
            yield Box((1, top + 2), (self.width() - 2, tall - 4), soft, "violet", width, 6)
        yield from lanes.shapes()


KEYS = (
    "On the lanes (F5): Enter or F8 counts a clean firing, F or Shift+F8 a failure, 1 to 7 its kind, Del takes the last "
    "one out; up and down choose the setting. Lines: roll 12 failed 2 at 1/250 · after cleaned contacts · battery 2.95 · "
    "rested 14 h · cold · claim 1 in 20 at 95 % · school fixed. F10 arms the sound card: each firing then counts itself."
)
WORDS = (
    "after ", "roll 36 failed 0 at ", "battery ", "supply bench", "rested ", "position ", "lens off", "claim 1 in 20 at 95 %",
    "school fixed", "school film", "settings ",
)  # fmt: skip
BEATS = 3.0  # times the usual pause between firings, after which one that did not come is asked for
LEAST_PAUSE_S, USUAL_PAUSE_S = 4.0, 2.0
COUNTED_LATE = "Nothing was heard for {:.0f} s: if you fired, F counts the failure; if not, go on."


class FiringsPage(HeardPage):
    """Shows one frozen value."""

    says_beside = True
    opens = staticmethod(firings_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.shown: FiringsShown | None = None
        self._pause_s = USUAL_PAUSE_S
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.stands = labelled("", "small", True)
        self.view = FiringsView(context.look)
        self.typed = self._line("A setting, a result, a repair", acts.understand, self._offers)
        self.typed.edit.setPlaceholderText("1/250 clean")
        self._missed = QTimer(self, singleShot=True)  # a firing that should have come
        self._missed.timeout.connect(self._ask)
        self.lay((self.headline, self.reason, self.stands), scrolled(self.view), (self.listens, self.typed), is_scrolled=False)
        self.view.chosen.connect(lambda name: self._context.perform(lambda job, at: acts.stand_at(job, name)))
        self.view.dropped.connect(lambda name: self._context.perform(lambda job, at: acts.drop_last(job, at, name)))
        self.view.fired.connect(self.count)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._missed.stop()
        self._pause_s = USUAL_PAUSE_S
        self.view.show_firings(None)

    def draw(self, job: Job) -> None:
        self.hearing.show_job(job)
        self.shown = shown = firings_shown(job)
        say((self.headline, shown.headline), (self.reason, shown.reason), (self.stands, shown.stands))
        self.view.show_firings(shown)
        self.draw_listens()

    @Slot()
    def draw_listens(self) -> None:
        armed = self.hearing.armed
        self.listens.setText(f"{self.heard_last + ' · ' if self.heard_last else ''}{self.hearing.words}" if armed else "")
        self.listens.setVisible(armed)

    # acts

    @Slot(str)
    def count(self, failed: str = "") -> None:
        """A firing counted by a key: clean, or how it failed."""
        kept = self._context.perform(lambda job, at: acts.count_firings(job, at, failed))
        self._context.instruments.hear(kept)
        if self.hearing.armed:
            self._missed.start(int(1000 * self._pause_s * BEATS))

    @staticmethod
    def _offers(job: Job, text: str) -> tuple[str, ...]:
        marks = tuple(f"{time_said(speed)} " for speed in speeds_of(job))
        return tuple(mark for mark in (*marks, *WORDS) if mark.startswith(text.lower()) and mark.strip() != text.strip())

    # the sound card

    def toggle(self) -> None:
        super().toggle()
        if not self.hearing.armed:
            self._missed.stop()

    def fire(self) -> bool:
        """Simulated hands fire the shutter at the setting it stands at."""
        marked_s = self._marked_s
        if marked_s is None or self._job is None:
            return False
        fires = self.fired(marked_s)
        if self.hearing.armed:
            self._missed.start(int(1000 * self._pause_s * BEATS))
        return fires

    @property
    def _marked_s(self) -> float | None:
        """The marked time of the setting it stands at; None for a setting that is no speed."""
        try:
            return parse_time(self._job.proving.stand.setting)[0] if self._job is not None else None
        except InvalidInput:
            return None

    @Slot(object)
    def heard(self, taken: Taken) -> None:
        marked_s = self._marked_s
        if taken.seen is None or marked_s is None:
            self._context.instruments.hear(False)
            self._context.say(taken.fault or "Say the setting it stands at first, for instance 1/250.")
            return
        time_s = taken.seen.firing.time_s
        kept = self._context.perform(lambda job, at: acts.count_heard(job, at, marked_s, time_s))
        self._context.instruments.hear(kept)
        self.heard_last = f"{time_said(marked_s)}: {measured_said(time_s)} counted"
        if self._missed.isActive():
            since = self._missed.interval() - self._missed.remainingTime()
            self._pause_s = max(0.7 * self._pause_s + 0.3 * since / 1000, LEAST_PAUSE_S / BEATS)
        self._missed.start(int(1000 * max(self._pause_s * BEATS, LEAST_PAUSE_S)))
        self.draw_listens()

    @Slot()
    def _ask(self) -> None:
        """One that should have come and did not."""
        if self.hearing.armed:
            self._context.instruments.hear(False)
            self._context.say(COUNTED_LATE.format(self._missed.interval() / 1000))

    def by_hand(self) -> bool:
        return self.fire()

    # in the house

    @property
    def beside(self) -> SideSaid:
        rows = said_rows(self._known())
        title = "What the firings say" if rows else "What they say shows with the first firing"
        return SideSaid(title, rows, kinds_said(self._known()), keys=KEYS)

    def take_typed(self) -> None:
        self.count("")

    @property
    def slot_missing(self) -> str:
        return "no reading is asked for here: F8 counts a clean firing"

    def to_picture(self) -> None:
        self.view.setFocus()

    def focus_first(self) -> None:
        """To the lanes once a setting is known, else to the line."""
        there = self._job is not None and self._job.proving.stand.setting
        (self.view if there else self.typed.edit).setFocus(Qt.FocusReason.OtherFocusReason)
