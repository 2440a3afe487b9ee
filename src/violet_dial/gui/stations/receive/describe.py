"""Receive, described: the device, its headline fault, what it came with, photos and cautions."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

from PySide6.QtCore import QSize, Qt, QTimer, Signal, Slot
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from violet_dial.core.receiving.places import DeviceKind
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.form import add_row, combo, fill_text, line_edit, text_edit
from violet_dial.job.document import CellKind, Device, Hazard, Intake, Job, Photo
from violet_dial.services.acts import Done, describe_device
from violet_dial.services.cautions import HAZARDS, LOCAL_RULES, cautions_for

KEEP_AFTER_MS = 1_200  # pause in typing after which the page is kept


@dataclass(frozen=True)
class Describe:
    """The act of describing: carries what the page holds."""

    device: Device
    intake: Intake

    def __call__(self, job: Job, at: str) -> Done:
        return describe_device(job, self.device, self.intake, at)


class DescribePage(QWidget):
    """Typed fields are kept by themselves when a field is left, Enter is pressed or typing rests."""

    act_asked = Signal(object)
    photos_asked = Signal()

    def __init__(self, look: Look, thumbnail: Callable[[Photo], bytes]) -> None:
        super().__init__()
        self._look = look
        self._thumbnail = thumbnail
        self._job: Job | None = None
        self._rest = QTimer(self, singleShot=True, interval=KEEP_AFTER_MS)
        self.lines: dict[str, QLineEdit] = {}
        self.texts: dict[str, QPlainTextEdit] = {}
        self.boxes: dict[str, QComboBox] = {}
        self.hazards: dict[Hazard, QCheckBox] = {}
        self.photos = QListWidget()
        self.photos.setViewMode(QListWidget.ViewMode.IconMode)
        self.photos.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.photos.setAccessibleName("Photos")
        self.cautions = labelled("", "quiet", True)
        self._build()
        self._rest.timeout.connect(self.keep)
        look.changed.connect(self._restyle)
        self._restyle()

    def _build(self) -> None:
        left, fields = card("What came in")
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self._line(grid, "headline_fault", "Headline fault")
        self.lines["headline_fault"].setProperty("role", "big")
        self.lines["headline_fault"].setPlaceholderText("In one line: what is wrong?")
        for key, name in (("name", "Device"), ("maker", "Maker"), ("serial", "Serial number")):
            self._line(grid, key, name)
        self._box(grid, "kind", "Kind", get_args(DeviceKind))
        self._box(grid, "cell", "Light cell", get_args(CellKind))
        self._line(grid, "family", "Family")
        self.lines["family"].setPlaceholderText("works or mount shared with others, if any")
        self._line(grid, "owner", "Owner")
        self._line(grid, "received_on", "Came in on")
        for key, name in (("came_with", "Came with"), ("noticed", "Noticed"), ("tried_already", "Tried already")):
            text = text_edit(name)
            text.textChanged.connect(self._rest.start)
            self.texts[key] = text
            add_row(grid, name, text)
        fields.addLayout(grid, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(left), 3)
        layout.addWidget(scrolled(self._right()), 2)

    def _right(self) -> QWidget:
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        frame, inside = card("Photos")
        attach = QPushButton("Attach photos  Ctrl+O")
        attach.clicked.connect(self.photos_asked)
        self.no_photos = labelled("None yet. Attach them or drop them here.", "quiet", True)
        inside.addWidget(self.no_photos)
        inside.addWidget(self.photos, 1)
        inside.addWidget(attach)
        column.addWidget(frame, 2)
        frame, inside = card("Cautions")
        for name in get_args(Hazard):
            box = QCheckBox(HAZARDS[name].title)
            box.toggled.connect(self.keep)
            self.hazards[name] = box
            inside.addWidget(box)
        self.cautions.setAlignment(Qt.AlignmentFlag.AlignTop)
        inside.addWidget(self.cautions, 1)
        column.addWidget(frame, 4)
        return holder

    def _line(self, grid: QGridLayout, key: str, name: str) -> None:
        edit = line_edit(name)
        edit.textEdited.connect(self._rest.start)
        edit.editingFinished.connect(self.keep)
        self.lines[key] = edit
        add_row(grid, name, edit)

    def _box(self, grid: QGridLayout, key: str, name: str, choices: tuple[str, ...]) -> None:
        box = combo(name, choices)
        box.activated.connect(self.keep)
        self.boxes[key] = box
        add_row(grid, name, box)

    @Slot()
    def _restyle(self) -> None:
        self.photos.setIconSize(QSize(self._look.px(120), self._look.px(90)))
        for text in self.texts.values():
            text.setMinimumHeight(self._look.px(46))

    def show_job(self, job: Job) -> None:
        """Fill the page; a field being typed in keeps its cursor, and nothing is written back."""
        photos_before = self._job.photos if self._job else None
        self._job = job
        for key, edit in self.lines.items():
            value = getattr(job.device, key, None)
            value = getattr(job.intake, key) if value is None else value
            if edit.text() != value and not (edit.hasFocus() and edit.isModified()):
                edit.setText(value)
        for key, text in self.texts.items():
            value = getattr(job.intake, key)
            if text.toPlainText() != value and not (text.hasFocus() and self._rest.isActive()):
                fill_text(text, value)
        for key, box in self.boxes.items():
            box.setCurrentText(getattr(job.device, key))
        for name, check in self.hazards.items():
            check.blockSignals(True)
            check.setChecked(name in job.intake.hazards)
            check.blockSignals(False)
        said = [f"{one.title}: {one.text}" for one in cautions_for(job)]
        self.cautions.setText("\n\n".join([*said, LOCAL_RULES]))
        if job.photos != photos_before:
            self._show_photos(job.photos)

    def _show_photos(self, photos: tuple[Photo, ...]) -> None:
        self.photos.clear()
        self.no_photos.setVisible(not photos)
        self.photos.setVisible(bool(photos))
        for photo in photos:
            picture = QPixmap()
            picture.loadFromData(self._thumbnail(photo))
            item = QListWidgetItem(QIcon(picture), photo.caption or photo.file_name)
            item.setToolTip(photo.file_name)
            self.photos.addItem(item)

    def _held(self) -> Describe | None:
        """What the page holds as an act; None before a job is shown."""
        if self._job is None:
            return None
        lines = {key: edit.text().strip() for key, edit in self.lines.items()}
        device = Device(
            name=lines["name"],
            maker=lines["maker"],
            serial=lines["serial"],
            kind=self.boxes["kind"].currentText(),  # type: ignore[arg-type]
            cell=self.boxes["cell"].currentText(),  # type: ignore[arg-type]
            family=lines["family"],
        )
        intake = Intake(
            headline_fault=lines["headline_fault"],
            owner=lines["owner"],
            received_on=lines["received_on"],
            hazards=tuple(name for name, box in self.hazards.items() if box.isChecked()),
            **{key: text.toPlainText() for key, text in self.texts.items()},
        )
        return Describe(device, intake)

    @Slot()
    def keep(self) -> None:
        """Keep the page when it holds something new."""
        self._rest.stop()
        held = self._held()
        if held and self._job and (held.device != self._job.device or held.intake != self._job.intake):
            for edit in self.lines.values():
                edit.setModified(False)
            self.act_asked.emit(held)

    def focus_first(self) -> None:
        """To the first field that still wants words."""
        order = ("headline_fault", "name")
        empty = [self.lines[key] for key in order if not self.lines[key].text()]
        (empty or [self.lines["headline_fault"]])[0].setFocus(Qt.FocusReason.OtherFocusReason)
