"""The page Eye: a camera before the dial, the needle read, marks put by keys, and a check that runs by itself."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Slot
from PySide6.QtGui import QHideEvent, QShowEvent

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.eye.needle import NeedleReading
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.typed_line import line
from violet_dial.services.live import figure_text
from violet_dial.stations.light import eye_acts
from violet_dial.stations.light.eye_looking import NeedleReader
from violet_dial.stations.light.eye_state import eye_shown, face_or_why, notes_said
from violet_dial.stations.light.eye_view import EyeView
from violet_dial.stations.light.eyes import packed
from violet_dial.stations.light.sum import eye_opened

TRIALS = ("settle", "flick", "creep", "zero")
WORDS: dict[str, str] = {
    "empty": "= what is seen without the needle is the dial", "clear": "= all marks and the empty dial away",
    "ring": "= a ring's pointer is turned to meet the needle, or the needle alone again",
    "known": "= as this model was set up in another job", "stop": "= no trial any more",
    "flick": "= the cell covered and uncovered by hand, and how the needle settles",
    "settle": "= a step of the light, and how the needle settles", "creep": "= the light creeps: whether the needle sticks",
    "zero": "= the cell is capped: where the needle stands is its zero",
}  # fmt: skip


class EyePage(StationPage):
    """Watches while it is in view."""

    opens = staticmethod(eye_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._knows = False  # the dial, from another job
        self.looking = NeedleReader(self, context)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.check, self.stands, self.notes = (labelled("", "small", True) for _place in range(3))
        self.view = EyeView(context.look)
        self.typed = line("Marks and camera", self._understood, self._take)
        self.typed.edit.setPlaceholderText("12")
        below = (self.notes, self.stands, labelled(eye_acts.EXPECTED, "small", True), self.typed)
        self.lay((self.headline, self.reason, self.check), self.view, below)
        self.looking.turned.connect(self.changed)
        self.looking.looked.connect(self._draw)
        self.view.typed.connect(self._typed_on)
        self.view.struck.connect(self._strike)
        self.view.entered.connect(self.looking.confirm)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.looking.begin()
        self.view.begin()

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        is_new, self._job = self._job is None, job
        if is_new and self.isVisible():  # it came into view before the job
            self._knows = bool(self._context.records.known_dial(job).marks)
        self.looking.show_job(job, self.isVisible())
        self._draw()

    @Slot()
    def _draw(self) -> None:
        """Draw what is seen now."""
        if self._job is None:
            return
        looking = self.looking
        if looking.frame is None:
            self.view.begin()
        else:
            self.view.show_frame(looking.frame)
        going = looking.trial or looking.walk
        trial = going.words if going is not None else ""
        run = looking.run.stands if looking.run is not None else None
        wide, tall = self.view.size_px
        shown = eye_shown(looking.dial, looking.fault, bool(wide), looking.read, trial or run)
        known = "This model was set up in another job: known puts its dial. " if self._knows and not looking.dial.marks else ""
        still = ", steady" if looking.is_steady else ""
        texts = (shown.headline + still, known + shown.reason, shown.check, notes_said(self._job))
        for label, text in zip((self.headline, self.reason, self.check, self.notes), texts, strict=True):
            if label.text() != text:
                label.setText(text)
        self.notes.setVisible(bool(texts[-1]))
        lux = self._context.instruments.lux()
        light = figure_text(lux, "lux") if lux is not None else ""
        parts = (f"{looking.name} · {wide} x {tall}" if wide else "", light, looking.lamps.said)
        self.stands.setText(" · ".join(part for part in parts if part))
        read = looking.read if isinstance(looking.read, NeedleReading) else None
        self.view.show_dial(face_or_why(looking.dial)[0], looking.dial.marks, read, tuple(looking.went))

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._knows = self._job is not None and bool(self._context.records.known_dial(self._job).marks)
        self.looking.begin_looking()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.looking.end_looking()

    # the line and the cross

    def _cross(self) -> eye_acts.Cross:
        wide, tall = self.view.size_px
        if not wide:
            raise InvalidInput("Mark", "no picture", "a camera that shows the dial (camera /dev/video0, or F12)")
        return eye_acts.Cross(round(self.view.cross.x(), 2), round(self.view.cross.y(), 2), wide, tall)

    def _understood(self, text: str) -> str:
        low = " ".join(text.strip().split())
        if low.lower() in WORDS:
            return WORDS[low.lower()]
        if low.lower().startswith("lamp "):
            return f"= the {low[5:].strip()} lamp is under the cross, and is off now"
        if low.lower().startswith("f/"):
            return f"= the lamps looked at in all lights at {low}, into Expose's map"
        if low.lower().split(" ")[0] == "camera":
            return f"= look through {low[6:].strip() or 'the simulated one'}"
        try:
            eye_acts.put_mark(eye_acts.Cross(0, 0, 0, 0), low)
        except VioletDialError as error:
            raise InvalidInput("Eye", low, eye_acts.EXPECTED) from error
        return f"= the mark {low} is under the cross"

    def _take(self, text: str) -> bool:
        low = " ".join(text.strip().split())
        try:
            return self._taken(low)
        except InvalidInput as error:
            self._context.say(str(error))
            return False

    def _taken(self, low: str) -> bool:
        word = low.lower()
        if word.split(" ")[0] == "camera":
            self.looking.other_camera(low[6:].strip())
            return True
        if word.startswith("f/"):
            self.looking.begin_walk(word)
            return True
        if word == "stop":
            self.looking.stop_trial()
            return True
        if word in TRIALS:
            self.looking.begin_trial(word)
            return True
        acts: dict[str, Callable[[], Act]] = {
            "ring": lambda: eye_acts.turn_ring, "empty": self._empty_act, "clear": lambda: eye_acts.clear_dial,
            "known": lambda: eye_acts.put_dial(self._context.records.known_dial(self._known())),
        }  # fmt: skip
        if word.startswith("lamp "):
            acts[word] = lambda: eye_acts.put_lamp(self._cross(), word[5:].strip(), self.looking.picture_now)
        kept = self._context.perform(acts[word]() if word in acts else eye_acts.put_mark(self._cross(), low))
        if kept:
            self.focus_first()
        return kept

    def _empty_act(self) -> Act:
        frame = self.looking.empty
        return eye_acts.put_empty(packed(frame), frame.shape[1], frame.shape[0])

    @Slot(str)
    def _typed_on(self, text: str) -> None:
        """What is typed on the picture goes into the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)
        self.typed.edit.insert(text)

    @Slot()
    def _strike(self) -> None:
        try:
            self._context.perform(eye_acts.take_mark_away(self._cross()))
        except InvalidInput as error:
            self._context.say(str(error))

    def focus_first(self) -> None:
        """To the picture."""
        self.view.setFocus(Qt.FocusReason.OtherFocusReason)

    @property
    def settled(self) -> bool:
        return self.looking.settled

    def close_workers(self) -> None:
        self.looking.close_workers()

    def to_picture(self) -> None:
        self.focus_first()
