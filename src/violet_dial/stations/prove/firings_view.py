"""The lanes of settings on the screen: every firing a tick in time order, the lane the device stands at under the cursor."""

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent

from violet_dial.core.proof.log import KINDS
from violet_dial.kit.picture import PictureView
from violet_dial.kit.theme.look import Look
from violet_dial.report.shapes import Box, Shape
from violet_dial.stations.prove.firings_state import FiringsShown, SettingRow
from violet_dial.stations.prove.pictures import FOOT, HEAD, NAME, ROW, SAID, SettingRows

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
