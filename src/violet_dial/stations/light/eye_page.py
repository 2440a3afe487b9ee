"""The page Eye: a camera before the dial, the needle read, marks put by keys, and a check that runs by itself."""

from collections import deque
from collections.abc import Callable
from time import monotonic

from PySide6.QtCore import Qt, QTimer, Signal, Slot
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.eye.needle import Eye, Reading, Refused, grey, read_needle
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.job.light import DialSetUp
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import House
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import line
from violet_dial.services.by_itself import ByItself, Picture
from violet_dial.services.camera import Watch
from violet_dial.services.eyes import empty_of, eye_from, packed
from violet_dial.services.live import figure_text
from violet_dial.stations.light import eye_acts
from violet_dial.stations.light.eye_run import Bench, run_of
from violet_dial.stations.light.eye_state import eye_shown, face_or_why
from violet_dial.stations.light.eye_view import COURSE_S, EyeView, Went

TICK_MS, AGAIN_MS = 150, 1_000  # where there is no camera, it is looked for again
WORDS: dict[str, str] = {
    "empty": "= the picture as it is now is the dial without its needle", "clear": "= all marks and the empty dial away",
    "known": "= as this model was set up in another job",
}  # fmt: skip


class EyePage(QWidget):
    """Watches while it is in view; ``changed`` when a run begins or ends."""

    changed = Signal()

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house = house
        self._job: Job | None = None
        self._watch: Watch | None = None
        self._fault = ""  # why there is no camera
        self._seen = 0  # pictures gone over
        self._dial = DialSetUp()
        self._empty: Picture | None = None
        self._eye: Eye | None = None
        self.read: Reading | Refused | None = None
        self._went: deque[Went] = deque()
        self.run: ByItself | None = None
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self.tick)
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._was_decoded)
        self.runner.failed.connect(house.say)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.check, self.stands = labelled("", "small", True), labelled("", "small", True)
        self.view = EyeView(house.look)
        self.typed = line("Marks and camera", self._understood, self._take)
        self.typed.edit.setPlaceholderText("12")
        self._build()

    def _build(self) -> None:
        frame, inside = card()
        inside.setSpacing(4)
        for item in (self.headline, self.reason, self.check):
            inside.addWidget(item)
        inside.addWidget(self.view, 1)
        for below in (self.stands, labelled(eye_acts.EXPECTED, "small", True), self.typed):
            inside.addWidget(below)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))
        self.view.typed.connect(self._typed_on)
        self.view.struck.connect(self._strike)

    # what is shown

    def begin(self) -> None:
        """Another job at the bench."""
        self.stop_run()
        self._let_go()
        self._job, self._dial, self._empty, self._eye, self.read = None, DialSetUp(), None, None, None
        self._went.clear()
        self.typed.clear()
        self.view.begin()

    def show_job(self, job: Job) -> None:
        """Draw all of it; another set-up of the dial makes another eye."""
        self._job = job
        dial = job.light.dial
        if dial.empty != self._dial.empty:
            self._empty = None
            self.runner.start(lambda task: (dial, empty_of(dial)))
        if dial != self._dial:
            self._dial = dial
            self._see_anew()
        if self.isVisible() and self._watch is None:
            self._look_on()
        self._show()

    @Slot(object)
    def _was_decoded(self, result: tuple[DialSetUp, Picture | None]) -> None:
        dial, empty = result
        if dial.empty == self._dial.empty:
            self._empty = empty
            self._see_anew()

    def _see_anew(self) -> None:
        try:
            self._eye = eye_from(self._dial, self._empty)
        except InvalidInput:
            self._eye = None
        self.read = None

    def _show(self) -> None:
        watch = self._watch
        fault = self._fault or (watch.fault if watch is not None else "")
        shown = eye_shown(
            self._dial, fault, bool(self.view.size_px[0]), self.read, self.run.stands if self.run is not None else None
        )
        for label, text in ((self.headline, shown.headline), (self.reason, shown.reason), (self.check, shown.check)):
            if label.text() != text:
                label.setText(text)
        wide, tall = self.view.size_px
        said = f"{watch.name} · {wide} x {tall}" if watch is not None and wide else ""
        lux = self._house.lux()
        self.stands.setText(f"{said} · {figure_text(lux, 'lux')}" if said and lux is not None else said)
        face = face_or_why(self._dial)[0]
        self.view.show_dial(face, self._dial.marks, self.read if isinstance(self.read, Reading) else None)

    # the camera

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._timer.start(TICK_MS)
        self._look_on()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        if self.run is not None and self.run.stands.stage not in ("waits", "done"):
            self._house.say("The check by itself has ended: the page Eye is no longer in view.")
        self.stop_run()
        self._timer.stop()
        self._let_go()

    def _look_on(self) -> None:
        """Watch the camera there is."""
        if self._job is None or self._watch is not None:
            return
        try:
            self._watch, self._fault = Watch(self._house.camera(self._job)), ""
        except InvalidInput as error:
            self._fault = str(error)
            self._timer.setInterval(AGAIN_MS)
            self._show()
            return
        self._seen = 0
        self._timer.setInterval(TICK_MS)
        self._watch.start()

    def _let_go(self) -> None:
        watch, self._watch = self._watch, None
        if watch is not None:
            watch.stop()

    @Slot()
    def tick(self) -> None:
        """The newest picture gone over; the run does its next thing."""
        watch = self._watch
        if watch is None:
            self._look_on()
            return
        frame = watch.frame
        if frame is not None and watch.count != self._seen:
            self._seen = watch.count
            self.view.show_frame(frame)
            self.read = self._read_of(grey(frame))
            self._note(monotonic())
        elif watch.fault:
            self.read = None
        if self.run is not None:
            before = self.run.stands
            stands = self.run.tick(monotonic())
            if stands.taken != before.taken or (stands.stage == "waits" and before.stage != "waits"):
                self._house.hear(stands.stage != "waits")
        self._show()

    def _note(self, now_s: float) -> None:
        """The needle into its course."""
        self._went.append((now_s, self.read.value if isinstance(self.read, Reading) else None))
        while now_s - self._went[0][0] > COURSE_S:
            self._went.popleft()
        self.view.show_course(tuple(self._went))

    def _read_of(self, picture: Picture) -> Reading | Refused | None:
        if self._eye is None:
            return None
        if (picture.shape[1], picture.shape[0]) != (self._dial.wide, self._dial.tall):
            return Refused("the pictures have another size than those the dial was set up with")
        return read_needle(self._eye, picture)

    # the run

    @property
    def runs(self) -> bool:
        return self.run is not None

    def begin_run(self) -> bool:
        """Let it run by itself; what is missing is said."""
        if self._watch is None or self._job is None:
            self._house.say(self._fault or "There is no camera.")
            return False
        bench = Bench(self._known, self._house.perform, self._house.lux, self._house.set_lux)
        try:
            self.run = run_of(bench, self._watch, self._eye, self._empty)
        except InvalidInput as error:
            self._house.say(str(error))
            return False
        self.changed.emit()
        self._show()
        return True

    def stop_run(self) -> None:
        """No more by itself; what was taken stays."""
        if self.run is not None:
            self.run = None
            self.changed.emit()
            self._show()

    @property
    def needle(self) -> str:
        """The needle as it is read now, as it would be typed; empty when it is not read."""
        return f"{self.read.value:.2f}" if isinstance(self.read, Reading) else ""

    @property
    def picture(self) -> str:
        """What is seen now, small, as a reading keeps it; empty without a picture."""
        frame = self._watch.frame if self._watch is not None else None
        return packed(frame, is_small=True) if frame is not None else ""

    # the line and the cross

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def _cross(self) -> eye_acts.Cross:
        wide, tall = self.view.size_px
        if not wide:
            raise InvalidInput("Mark", "no picture", "a camera that shows the dial (camera /dev/video0, or F12)")
        return eye_acts.Cross(round(self.view.cross.x(), 2), round(self.view.cross.y(), 2), wide, tall)

    def _understood(self, text: str) -> str:
        low = " ".join(text.strip().split())
        if low.lower() in WORDS:
            return WORDS[low.lower()]
        if low.lower().split(" ")[0] == "camera":
            return f"= look through {low[6:].strip() or 'the simulated one'}"
        try:
            eye_acts.put_mark(eye_acts.Cross(0, 0, 0, 0), low)
        except VioletDialError as error:
            raise InvalidInput("Eye", low, eye_acts.EXPECTED) from error
        return f"= the mark {low} is under the cross"

    def _take(self, text: str) -> bool:
        low = " ".join(text.strip().split())
        if low.lower().split(" ")[0] == "camera":
            return self._other_camera(low[6:].strip())
        acts: dict[str, Callable[[], Act]] = {
            "empty": self._empty_act, "clear": lambda: eye_acts.clear_dial,
            "known": lambda: eye_acts.put_dial(self._house.known_dial(self._known())),
        }  # fmt: skip
        try:
            act = acts[low.lower()]() if low.lower() in acts else eye_acts.put_mark(self._cross(), low)
        except InvalidInput as error:
            self._house.say(str(error))
            return False
        kept = self._house.perform(act)
        if kept:
            self.view.setFocus(Qt.FocusReason.OtherFocusReason)
        return kept

    def _empty_act(self) -> Act:
        frame = self._watch.frame if self._watch is not None else None
        if frame is None:
            raise InvalidInput("Empty", "no picture", "a camera that shows the dial")
        return eye_acts.put_empty(packed(frame), frame.shape[1], frame.shape[0])

    def _other_camera(self, address: str) -> bool:
        try:
            self._house.use_camera(address)
        except InvalidInput as error:
            self._house.say(str(error))
            return False
        self.stop_run()
        self._let_go()
        self._look_on()
        return True

    @Slot(str)
    def _typed_on(self, text: str) -> None:
        """What is typed on the picture goes into the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)
        self.typed.edit.insert(text)

    @Slot()
    def _strike(self) -> None:
        self._house.perform(eye_acts.take_mark_away(self._cross()))

    @property
    def settled(self) -> bool:
        """Whether the first picture has come and was gone over, where there is a camera that gives some."""
        watch = self._watch
        return not self.runner.busy and (watch is None or bool(watch.fault) or self._seen > 0)

    def close_workers(self) -> None:
        """Nothing goes on in the background."""
        self.stop_run()
        self._timer.stop()
        self._let_go()
        self.runner.close()

    def focus_first(self) -> None:
        """To the picture."""
        self.view.setFocus(Qt.FocusReason.OtherFocusReason)
