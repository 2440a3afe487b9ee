"""Looking through a camera at a dial: the newest picture gone over, the needle read, its course, trials of it, and the check
that runs by itself. The page shows what this holds."""

from collections import deque
from time import monotonic

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal, Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.needle import Eye, NeedleReading
from violet_dial.core.eye.pair import NeedlePair
from violet_dial.core.steady.samples import Capture, Measured, Sample
from violet_dial.job.document import Job
from violet_dial.job.light import DialSetUp
from violet_dial.kit.context import PageContext
from violet_dial.kit.runner import Runner
from violet_dial.services.camera import Frame
from violet_dial.stations.light import eye_acts
from violet_dial.stations.light.bar_state import ATTITUDE, typed_reading
from violet_dial.stations.light.by_itself import ByItself, needle_detector
from violet_dial.stations.light.dial_watch import DialReader, DialWatch, Picture, Read, SeenDial
from violet_dial.stations.light.eye_lamps import LampWatch, Walk, walk_of
from violet_dial.stations.light.eye_run import RunBench, run_of
from violet_dial.stations.light.eye_trials import NeedleTrial, at_rest, trial_of
from violet_dial.stations.light.eyes import empty_of, eye_from, packed

Went = tuple[float, float | None]  # seconds, and the needle
COURSE_S = 30.0
TICK_MS, AGAIN_MS = 150, 1_000  # where there is no camera, it is looked for again
POSES, LEAST_POSES, APART = 9, 5, 0.05  # of the needle, for the dial without it; of the scale, by which they differ
ENDED = "The check by itself has ended: the page Eye is no longer in view."


class NeedleReader(QObject):
    """``looked`` after each look, ``turned`` when a run begins or ends."""

    looked = Signal()
    turned = Signal()

    def __init__(self, parent: QObject, context: PageContext) -> None:
        super().__init__(parent)
        self._context = context
        self._job: Job | None = None
        self._watch: DialWatch | None = None
        self._chosen = ""  # which camera it is
        self._missing = ""  # why there is none
        self._seen: SeenDial | None = None  # the picture gone over last
        self._reader = DialReader(None)
        self._empty: Picture | None = None
        self._eye: Eye | None = None
        self._poses: list[tuple[float, Frame]] = []
        self.dial = DialSetUp()
        self.read: Read = None
        self.is_steady = False
        self._detector = needle_detector(1.0)
        self.went: deque[Went] = deque()
        self.run: ByItself | None = None
        self.trial: NeedleTrial | None = None
        self.lamps = LampWatch(())
        self.walk: Walk | None = None
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self.tick)
        self._runner = Runner(self)
        self._runner.succeeded.connect(self._was_decoded)
        self._runner.failed.connect(context.say)

    # what is before the camera

    def begin(self) -> None:
        """Another job at the bench."""
        self.stop_run()
        self._let_go()
        self._job, self.dial, self._empty = None, DialSetUp(), None
        self._see_anew()

    def show_job(self, job: Job, is_seen: bool) -> None:
        """The job as it stands; another set-up of the dial makes another eye."""
        self._job = job
        dial = job.light.dial
        if dial.empty != self.dial.empty:
            self._empty = None
            self._runner.start(lambda task: (dial, empty_of(dial)))
        if dial.lamps != self.dial.lamps:
            self.lamps = LampWatch(dial.lamps)
        if dial != self.dial:
            self.dial = dial
            self._see_anew()
        if is_seen and self._watch is None:
            self._look_on()

    @Slot(object)
    def _was_decoded(self, result: tuple[DialSetUp, Picture | None]) -> None:
        dial, empty = result
        if dial.empty == self.dial.empty:
            self._empty = empty
            self._see_anew()

    def _see_anew(self) -> None:
        try:
            self._eye = eye_from(self.dial, self._empty)
        except InvalidInput:
            self._eye = None
        self._detector = needle_detector(self._eye.face.scale if self._eye is not None else 1.0)
        self.read = None
        self._poses.clear()
        self._reader = DialReader(self._eye, (self.dial.tall, self.dial.wide), self.dial.has_ring)
        if self._watch is not None and self.run is None:
            self._watch.read_by(self._reader)

    # the camera

    @property
    def fault(self) -> str:
        """Why there is no picture; empty where there is one."""
        return self._missing or (self._watch.fault if self._watch is not None else "")

    @property
    def frame(self) -> Frame | None:
        """The newest picture, shape (h, w)."""
        return self._watch.frame if self._watch is not None else None

    @property
    def name(self) -> str:
        return self._watch.name if self._watch is not None else ""

    def begin_looking(self) -> None:
        """The page is in view."""
        self._timer.start(TICK_MS)
        self._look_on()

    def end_looking(self) -> None:
        """It is no more."""
        if self.run is not None and self.run.stands.stage not in ("waits", "done"):
            self._context.say(ENDED)
        self.close()

    def close(self) -> None:
        """Nothing goes on in the background."""
        self.stop_run()
        self._timer.stop()
        self._let_go()

    def close_workers(self) -> None:
        """As `close`, what is being decoded too."""
        self.close()
        self._runner.close()

    def _look_on(self) -> None:
        """Watch the camera there is."""
        if self._job is None or self._watch is not None:
            return
        self._chosen = self._context.instruments.camera_chosen()
        try:
            self._watch, self._missing = DialWatch(self._context.instruments.camera(self._job), self._reader), ""
        except InvalidInput as error:
            self._missing = str(error)
            self._timer.setInterval(AGAIN_MS)
            self.looked.emit()
            return
        self._seen = None
        self._timer.setInterval(TICK_MS)
        self._watch.start()

    def _let_go(self) -> None:
        watch, self._watch = self._watch, None
        self.read = None
        self.went.clear()
        self._poses.clear()
        if watch is not None:
            watch.stop()

    def other_camera(self, address: str) -> None:
        """Look through another one. Raises InvalidInput: no such address."""
        self._context.instruments.use_camera(address)
        self._take_up()

    def _take_up(self) -> None:
        self.stop_run()
        self._let_go()
        self._look_on()

    @Slot()
    def tick(self) -> None:
        """The newest picture gone over; the run does its next thing."""
        if self._chosen != self._context.instruments.camera_chosen() or self._watch is None:
            self._take_up()
        watch = self._watch
        if watch is None:
            return
        seen = watch.seen
        if seen is not None and seen is not self._seen:
            self._seen = seen
            self._look(seen)
        elif watch.fault:
            self.read = None
        self._run_on()
        self.looked.emit()

    def _look(self, seen: SeenDial) -> None:
        """One picture."""
        self.read, at_s = seen.read, seen.at_s
        self.lamps.look(seen.picture)
        self._walk_on(at_s)
        value = self.read.value if isinstance(self.read, NeedleReading) else None
        self.is_steady = value is not None and self._detector.feed(Sample(at_s, value, "needle")).kind == "steady"
        self.went.append((at_s, self.read.apart if isinstance(self.read, NeedlePair) else value))
        while at_s - self.went[0][0] > COURSE_S:
            self.went.popleft()
        if value is None:
            return
        apart = APART * (self._eye.face.scale if self._eye is not None else 1.0)
        if len(self._poses) < POSES and all(abs(value - one) > apart for one, _frame in self._poses):
            self._poses.append((value, seen.frame))
        if self.trial is not None and (note := self.trial.look(at_s, value)) is not None:
            self.stop_trial()
            self._context.perform(eye_acts.note_needle(note))

    @property
    def needle(self) -> str:
        """The needle as it is read now, as it would be typed; empty when it is not read."""
        return f"{self.read.value:.2f}" if isinstance(self.read, NeedleReading) else ""

    @property
    def measured(self) -> Measured | None:
        """The needle as it is read now, with its uncertainty; None when it is not read."""
        read = self.read
        if not isinstance(read, NeedleReading):
            return None
        return Measured.of(Capture(self.name or "camera", "needle", read.value, read.u))

    @property
    def picture(self) -> str:
        """What is seen now, small, as a reading keeps it; empty without a picture."""
        return packed(self.frame, is_small=True) if self.frame is not None else ""

    @property
    def picture_now(self) -> Frame:
        """The newest picture. Raises InvalidInput: there is none."""
        if (frame := self.frame) is None:
            raise InvalidInput("Picture", "none", "a camera that shows the dial")
        return frame

    @property
    def empty(self) -> Frame:
        """The dial without its needle: what most of its positions have in common, where it was seen in five or more; else the
        picture as it is. Raises InvalidInput: no picture.
        """
        frame = self.picture_now
        if len(self._poses) >= LEAST_POSES:
            return np.asarray(np.median([one for _value, one in self._poses], axis=0), dtype=np.uint8)
        return frame

    @property
    def settled(self) -> bool:
        """Whether the first picture has come and was gone over, where there is a camera that gives some."""
        return not self._runner.busy and (self._watch is None or bool(self._watch.fault) or self._seen is not None)

    # trials and runs

    def begin_trial(self, kind: str) -> None:
        """A trial of the needle: ``settle``, ``flick``, ``creep``, or ``zero``, which is noted at once.

        Raises InvalidInput: no needle read, or no lamp that can be set.
        """
        read = self.read
        if not isinstance(read, NeedleReading) or self._eye is None:
            raise InvalidInput("Needle", "not read", "a dial that is set up and a needle that is seen")
        self.stop_run()
        if kind == "zero":
            lowest = min(mark.value for mark in self.dial.marks)
            self._context.perform(eye_acts.note_needle(at_rest(read.value, read.u, lowest, self._eye.face.scale)))
            return
        self.trial = trial_of(kind, self._context.instruments.lux, self._context.instruments.set_lux, self._eye.face.scale)
        self.looked.emit()

    def begin_walk(self, aperture: str) -> None:
        """The lamps looked at in all lights at an aperture, as ``f/8``.

        Raises InvalidInput: no aperture, no lamps put, or no lamp that can be set.
        """
        self.stop_run()
        self.walk = walk_of(aperture, self.lamps, self._context.instruments.lux, self._context.instruments.set_lux)
        self.looked.emit()

    def _walk_on(self, at_s: float) -> None:
        walk = self.walk
        if walk is None:
            return
        look = walk.look(at_s)
        if look is not None and not self._context.perform(eye_acts.note_look(look)):
            self.stop_trial()
        elif walk.is_done:
            self.stop_trial()
            self._context.instruments.hear(True)

    def stop_trial(self) -> None:
        """The light as it was before."""
        walk, self.walk = self.walk, None
        if walk is not None:
            walk.end()
        trial, self.trial = self.trial, None
        if trial is not None:
            trial.end()

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    def begin_run(self) -> None:
        """Let it run by itself; what is missing is said."""
        self.stop_trial()
        if self._watch is None or self._job is None:
            self._context.say(self._missing or "There is no camera.")
            return
        bench = RunBench(
            self._known, self._context.perform, self._context.instruments.light, self._context.instruments.set_lux, self._held
        )
        try:
            self.run = run_of(bench, self._watch, self._eye, self._empty)
        except InvalidInput as error:
            self._context.say(str(error))
            return
        self.turned.emit()
        self.looked.emit()

    def confirm(self) -> None:
        """Enter on the picture: the light is set, or what it waited for was looked at."""
        if self.run is None:
            return
        if self.run.stands.stage == "waits":
            self.run.go_on(monotonic())
        else:
            self.run.told()

    def _held(self) -> str:
        """How the meter is held, as the bar has it."""
        return typed_reading({ATTITUDE: self._context.bar.value(ATTITUDE)}).attitude

    def stop_run(self) -> None:
        """No more by itself; what was taken stays."""
        self.stop_trial()
        if self.run is not None:
            self.run = None
            if self._watch is not None:
                self._watch.read_by(self._reader)
            self.turned.emit()
            self.looked.emit()

    def _run_on(self) -> None:
        if self.run is None:
            return
        before = self.run.stands
        stands = self.run.tick(monotonic())
        if stands.taken != before.taken or (stands.stage == "waits" and before.stage != "waits"):
            self._context.instruments.hear(stands.stage != "waits")
