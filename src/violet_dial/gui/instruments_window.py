"""The instruments there are, live, and adding one: pick or type the address, see figures, name it, done."""

from PySide6.QtCore import Qt, QTimer, Slot
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.gui.live_control import LiveControl, live_state
from violet_dial.instruments.dialects import DIALECTS
from violet_dial.instruments.kept import Kept, understood_accuracy, understood_address
from violet_dial.instruments.pattern import USUAL_PATTERN
from violet_dial.kit.cards import labelled
from violet_dial.kit.form import add_row, combo, line_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.services.camera import CameraProcess, FramePoller, found_cameras
from violet_dial.services.live import InstrumentShown, LiveBench

CAMERA = "camera: pictures of a dial"
HEADS = ("name", "speaks", "shows", "state", "address")
CAMERA_NAME, PICTURES = "Camera", "pictures"
INSTRUMENT_PLACE, CAMERA_PLACE = "192.168.1.20:5025   or   /dev/ttyUSB0", "/dev/video0, a film or a folder"
REFRESH_MS = 300
TRIAL = "on trial"


class InstrumentsWindow(FormWindow):
    """Enter in the address tries it; Enter in the name keeps it; Del on a row lets an instrument go."""

    def __init__(self, parent: QWidget, look: Look, live: LiveControl) -> None:
        super().__init__(parent)
        self.setWindowTitle("Instruments")
        self._look, self._live = look, live
        self._trial = LiveBench()
        self._watch: FramePoller | None = None  # a camera on trial
        self._tried = ""
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "Instruments; Del lets one go", 4)
        self.table.setModel(self.model)
        self.table.set_widths(270, 130, 120, 150, 100)
        self.address = combo("Address")
        self.address.setEditable(True)
        self.typed_address = line_edit("Address")
        self.address.setLineEdit(self.typed_address)
        self.speaks = combo("Speaks", (*DIALECTS, CAMERA))
        self.pattern = line_edit("Pattern of a line", USUAL_PATTERN)
        self.baud = line_edit("Baud", "9600")
        self.accuracy = line_edit("Stated accuracy")
        self.accuracy.setPlaceholderText("as its sheet says: volt 0.5 % + 2m; ohm 1 % + 0.3")
        self.lamp = combo("Its lamp", ("cannot be set from here", "can be set (SOUR:ILL)"))
        self.curve = line_edit("Its light by volts")
        self.curve.setPlaceholderText("as measured at the meter: 3 V 40 lx; 4.5 V 160 lx; 6 V 420 lx")
        self.name = line_edit("Name")
        self.name.setPlaceholderText("a name to know it by")
        self.shows = labelled("", "head")
        self.said = labelled("", "understood", True)
        self.try_it = QPushButton("Try the address")
        self.keep = self.keep_button = QPushButton("Keep it")
        self.keep.setProperty("role", "main")
        self.simulated = QPushButton()
        self._rows: dict[QWidget, QWidget] = {}
        self._build()
        self._finder = Runner(self)
        self._finder.succeeded.connect(self._found)
        self._timer = QTimer(self, interval=REFRESH_MS)
        self._timer.timeout.connect(self.refresh)
        self._timer.start()
        self._fit()
        self.refresh()
        self._find()

    def _build(self) -> None:
        form = QGridLayout()
        form.setColumnStretch(1, 1)
        for text, field in (
            ("Address", self.address), ("Speaks", self.speaks), ("Pattern", self.pattern), ("Baud", self.baud),
            ("Its lamp", self.lamp), ("Its light by volts", self.curve), ("Stated accuracy", self.accuracy),
            ("Name", self.name),
        ):  # fmt: skip
            self._rows[field] = add_row(form, text, field)
        acts = QHBoxLayout()
        acts.addWidget(self.simulated)
        acts.addStretch(1)
        acts.addWidget(self.shows)
        acts.addWidget(self.try_it)
        acts.addWidget(self.keep)
        leave = QPushButton("Done  Esc")
        leave.clicked.connect(self.reject)
        acts.addWidget(leave)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled("On this bench", "head"))
        layout.addWidget(self.table, 1)
        layout.addWidget(labelled("Add one", "head"))
        caution = "Mains-fed gear: only with isolation meant for it. Nothing is sent anywhere before you try an address."
        layout.addWidget(labelled(caution, "small", True))
        layout.addLayout(form)
        layout.addWidget(self.said)
        layout.addLayout(acts)
        for button in (self.simulated, self.try_it, self.keep, leave):
            button.setAutoDefault(False)
        self.own_enter = (self.address, self.typed_address, self.name)
        self.typed_address.returnPressed.connect(self.try_address)
        self.name.returnPressed.connect(self.keep_it)
        self.try_it.clicked.connect(self.try_address)
        self.keep.clicked.connect(self.keep_it)
        self.simulated.clicked.connect(self._turn_simulated)
        self.table.struck_row.connect(self._remove)
        self.speaks.currentIndexChanged.connect(self._fit)
        self.resize(min(self._look.px(980), 1240), min(self._look.px(600), 760))
        self.address.setFocus(Qt.FocusReason.OtherFocusReason)

    @Slot()
    def _fit(self) -> None:
        """Only what belongs to the way it speaks."""
        plain = ("accuracy", "name")
        wanted = () if self._is_camera else (*plain, *DIALECTS[self.speaks.currentText()].fields)
        for name, field in (
            ("pattern", self.pattern), ("baud", self.baud), ("lamp", self.lamp), ("curve", self.curve),
            ("accuracy", self.accuracy), ("name", self.name),
        ):  # fmt: skip
            field.setVisible(name in wanted)
            self._rows[field].setVisible(name in wanted)
        self.typed_address.setPlaceholderText(CAMERA_PLACE if self._is_camera else INSTRUMENT_PLACE)

    @property
    def _is_camera(self) -> bool:
        """Whether what is described is one."""
        return self.speaks.currentText() == CAMERA

    def _find(self) -> None:
        """Look for serial ports and USB instruments, beside: some buses are slow to answer."""

        def work(task: object) -> tuple[str, ...]:
            from violet_dial.instruments.channel import found_addresses

            return (*found_addresses(), *found_cameras())

        self._finder.start(work)

    @Slot(object)
    def _found(self, addresses: object) -> None:
        typed = self.address.currentText()
        if isinstance(addresses, tuple):
            self.address.addItems(list(addresses))
        self.address.setEditText(typed)

    # what is shown

    @Slot()
    def refresh(self) -> None:
        """Live figures of what is here and what is on trial."""
        rows = []
        for kept in self._live.bench.instruments:
            shown = self._live.bench.shown(kept.name)
            rows.append((kept.name, kept.speaks, shown.figure, self._words(shown), kept.address))
        if self._live.camera_address:
            rows.append((CAMERA_NAME, PICTURES, "", "looks at Light's page Eye", self._live.camera_address))
        self.model.show(tuple(rows))
        self._refresh_camera()
        self.simulated.setText("Let the simulated bench go" if self._live.simulated else "Start a simulated bench")
        self._trial.poll()
        if self._trial.instruments:
            shown = self._trial.shown(TRIAL)
            self.shows.setText(shown.figure)
            self._say(
                shown.status.words if shown.status.state == "lost" else f"{shown.status.words}: {self._words(shown)}", False
            )

    def _refresh_camera(self) -> None:
        """What the camera on trial gives."""
        watch = self._watch
        if watch is None:
            return
        frame = watch.frame
        self.shows.setText(f"{frame.shape[1]} x {frame.shape[0]}" if frame is not None else "")
        good = "Pictures come: Enter again keeps it." if watch.count else "Looking for pictures…"
        self._say(watch.fault or good, bool(watch.fault))

    @staticmethod
    def _words(shown: InstrumentShown) -> str:
        return live_state(shown, None, False).state

    def _say(self, text: str, wrong: bool) -> None:
        self.said.setText(text)
        role = "fault" if wrong else "understood"
        if self.said.property("role") != role:
            self.said.setProperty("role", role)
            self.said.style().unpolish(self.said)
            self.said.style().polish(self.said)

    # acts

    def _described(self, name: str) -> Kept:
        fields = DIALECTS[self.speaks.currentText()].fields
        return Kept(
            name,
            understood_address(self.address.currentText()),
            self.speaks.currentText(),
            self.pattern.text() or USUAL_PATTERN,
            baud=round(parse_number(self.baud.text(), "Baud")),
            settable="curve" in fields or ("lamp" in fields and self.lamp.currentIndex() == 1),
            curve=self.curve.text() if "curve" in fields else "",
            stated=understood_accuracy(self.accuracy.text()),
        )

    @Slot()
    def try_address(self) -> None:
        """Connect on trial and show what comes."""
        if self._is_camera:
            self._try_camera()
            return
        try:
            kept = self._described(TRIAL)
        except InvalidInput as error:
            self._say(str(error), True)
            return
        self._end_trial()
        self._trial.connect(kept)
        self._say("Looking for it…", False)
        self.name.setFocus()

    def _try_camera(self) -> None:
        """Look through it; the second time, when pictures have come, it is kept."""
        address = self.address.currentText().strip()
        if self._watch is not None and self._tried == address and self._watch.count:
            self.keep_it()
            return
        self._end_trial()
        try:
            self._watch, self._tried = FramePoller(CameraProcess(address)), address
        except InvalidInput as error:
            self._say(str(error), True)
            return
        self._watch.start()
        self._say("Looking for pictures…", False)

    def _keep_camera(self) -> None:
        address = self.address.currentText().strip()
        try:
            self._live.use_camera(address)
        except InvalidInput as error:
            self._say(str(error), True)
            return
        self._end_trial()
        self.shows.setText("")
        self._say("The camera is kept: Light's page Eye looks through it.", False)
        self.refresh()
        self.note_kept()
        self.table.setFocus()

    @Slot()
    def keep_it(self) -> None:
        """The instrument as described is kept under its name."""
        if self._is_camera:
            self._keep_camera()
            return
        try:
            kept = self._described(self.name.text().strip())
            self._end_trial()  # one thread owns an instrument
            self._live.add(kept)
        except InvalidInput as error:
            self._say(str(error), True)
            return
        self.name.clear()
        self.shows.setText("")
        self._say(f"{kept.name} is kept.", False)
        self.refresh()
        self.note_kept()
        self.table.setFocus()

    def _typed(self) -> tuple[object, ...]:
        return self.typed_address.text(), self.accuracy.text(), self.curve.text(), self.name.text()

    @Slot(int)
    def _remove(self, row: int) -> None:
        name, speaks = self.model.rows[row][:2]
        if speaks == PICTURES:
            self._live.use_camera("")
        else:
            self._live.remove(name)
        self.refresh()

    @Slot()
    def _turn_simulated(self) -> None:
        if self._live.simulated is None:
            self._live.start_simulated()
        else:
            self._live.stop_simulated()
        self.refresh()

    def _end_trial(self) -> None:
        self._trial.close()
        self._trial = LiveBench()
        watch, self._watch = self._watch, None
        if watch is not None:
            watch.stop()

    def done(self, result: int) -> None:
        self._timer.stop()
        self._finder.close()
        self._end_trial()
        super().done(result)
