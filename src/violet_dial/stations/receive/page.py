"""Receive: describe it, look it over, try it; what is described are the device, its headline fault, photos, cautions."""

from typing import get_args

from PySide6.QtCore import QSize, Qt, Slot
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QIcon, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from violet_dial.core.receiving.places import DeviceKind
from violet_dial.job.document import CellKind, Device, Hazard, Intake, Job, Photo
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.form import add_row, combo
from violet_dial.kit.kept_fields import KeptFields
from violet_dial.kit.page import PagedStation, StationPage
from violet_dial.services.gate import HAZARDS
from violet_dial.stations.receive.acts import describe_device
from violet_dial.stations.receive.look_over import LookPage
from violet_dial.stations.receive.state import LOOK_OVER, describe_shown, page_names
from violet_dial.stations.receive.walk import WalkPage


class DescribePage(StationPage):
    """Typed fields are kept by themselves when a field is left, Enter is pressed or typing rests."""

    def __init__(self, context: PageContext, attach: QPushButton) -> None:
        super().__init__(context)
        self._attach = attach
        self._photos: tuple[tuple[Photo, bytes], ...] | None = None
        self.fields = KeptFields(self, self._keep)
        self.lines, self.texts = self.fields.lines, self.fields.texts
        self.boxes: dict[str, QComboBox] = {}
        self.hazards: dict[Hazard, QCheckBox] = {}
        self.photos = QListWidget()
        self.photos.setViewMode(QListWidget.ViewMode.IconMode)
        self.photos.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.photos.setAccessibleName("Photos")
        self.cautions = labelled("", "quiet", True)
        self._build()
        context.look.changed.connect(self._restyle)
        self._restyle()

    def _build(self) -> None:
        left, fields = card("What came in")
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self._field(grid, "headline_fault", "Headline fault")
        self.lines["headline_fault"].setProperty("role", "big")
        self.lines["headline_fault"].setPlaceholderText("In one line: what is wrong?")
        for key, name in (("name", "Device"), ("maker", "Maker"), ("serial", "Serial number")):
            self._field(grid, key, name)
        self._box(grid, "kind", "Kind", get_args(DeviceKind))
        self._box(grid, "cell", "Light cell", get_args(CellKind))
        self._field(grid, "family", "Family")
        self.lines["family"].setPlaceholderText("works or mount shared with others, if any")
        self._field(grid, "owner", "Owner")
        self._field(grid, "received_on", "Came in on")
        for key, name in (("came_with", "Came with"), ("noticed", "Noticed"), ("tried_already", "Tried already")):
            add_row(grid, name, self.fields.text(key, name))
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
        self.no_photos = labelled("None yet. Attach them or drop them here.", "quiet", True)
        inside.addWidget(self.no_photos)
        inside.addWidget(self.photos, 1)
        inside.addWidget(self._attach)
        column.addWidget(frame, 2)
        frame, inside = card("Cautions")
        for name in get_args(Hazard):
            box = QCheckBox(HAZARDS[name].title)
            box.toggled.connect(self.keep_all)
            self.hazards[name] = box
            inside.addWidget(box)
        self.cautions.setAlignment(Qt.AlignmentFlag.AlignTop)
        inside.addWidget(self.cautions, 1)
        column.addWidget(frame, 4)
        return holder

    def _field(self, grid: QGridLayout, key: str, name: str) -> None:
        add_row(grid, name, self.fields.line(key, name))

    def _box(self, grid: QGridLayout, key: str, name: str, choices: tuple[str, ...]) -> None:
        box = combo(name, choices)
        box.activated.connect(self.keep_all)
        self.boxes[key] = box
        add_row(grid, name, box)

    @Slot()
    def _restyle(self) -> None:
        self.photos.setIconSize(QSize(self._context.look.px(120), self._context.look.px(90)))
        for text in self.texts.values():
            text.setMinimumHeight(self._context.look.px(46))

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.fields.begin()

    def draw(self, job: Job) -> None:
        """Draw all of the page; a field being typed in keeps its text, and nothing is written back."""
        one = describe_shown(job)
        self.fields.fill({**one.lines, **one.texts})
        for key, box in self.boxes.items():
            box.setCurrentText(one.choices[key])
        for name, check in self.hazards.items():
            check.blockSignals(True)
            check.setChecked(name in one.hazards)
            check.blockSignals(False)
        self.cautions.setText(one.cautions)
        photos = tuple((photo, self._context.records.thumbnail(photo)) for photo in one.photos)
        if photos != self._photos:
            self._show_photos(photos)

    def _show_photos(self, photos: tuple[tuple[Photo, bytes], ...]) -> None:
        self._photos = photos
        self.photos.clear()
        self.no_photos.setVisible(not photos)
        self.photos.setVisible(bool(photos))
        for photo, small in photos:
            picture = QPixmap()
            picture.loadFromData(small)
            item = QListWidgetItem(QIcon(picture), photo.caption or photo.file_name)
            item.setToolTip(photo.file_name)
            self.photos.addItem(item)

    def _keep(self, values: dict[str, str]) -> bool:
        """Keep the page when it holds something new."""
        if self._job is None:
            return True
        kind, cell = self.boxes["kind"].currentText(), self.boxes["cell"].currentText()
        device = Device(
            values["name"], values["maker"], values["serial"], kind, cell, values["family"]  # type: ignore[arg-type]
        )  # fmt: skip
        intake = Intake(
            headline_fault=values["headline_fault"],
            owner=values["owner"],
            received_on=values["received_on"],
            hazards=tuple(name for name, box in self.hazards.items() if box.isChecked()),
            **{key: values[key] for key in self.texts},
        )
        if (device, intake) == (self._job.device, self._job.intake):
            return True
        return self._context.perform_coalesced(
            lambda job, at: describe_device(job, device, intake, at), "description", self.fields.burst
        )

    @Slot()
    def keep_all(self) -> None:
        """Keep the page after a choice or a tick: an act of its own."""
        self.fields.keep()
        self._keep(self.fields.values())
        self.fields.burst += 1

    def keep(self) -> bool:
        """Keep what was typed; False when it was refused."""
        return self.fields.keep()

    def focus_first(self) -> None:
        """To the first field that still wants words."""
        order = ("headline_fault", "name")
        empty = [self.lines[key] for key in order if not self.lines[key].text()]
        (empty or [self.lines["headline_fault"]])[0].setFocus(Qt.FocusReason.OtherFocusReason)


PICTURES = "Pictures (*.jpg *.jpeg *.png *.webp)"


class ReceivePage(PagedStation):
    """Describe, Look over, Try and make sure; photos are dropped on any of them."""

    def __init__(self, context: PageContext) -> None:
        attach = QPushButton("Attach photos  Ctrl+O")
        attach.clicked.connect(self.attach_photos)
        self.describe, self.look_over, self.walk = DescribePage(context, attach), LookPage(context), WalkPage(context)
        super().__init__(context, (("Describe", self.describe), ("Look over", self.look_over), ("Try, make sure", self.walk)))
        self.setAcceptDrops(True)

    def draw(self, job: Job) -> None:
        super().draw(job)
        for place, name in enumerate(page_names(job)):
            self.pages.rename(place, name)

    def to_picture(self) -> None:
        self.pages.turn_to(LOOK_OVER)

    @Slot()
    def attach_photos(self) -> None:
        """Photos chosen from files."""
        self._context.records.choose_many("Attach photos", PICTURES, self._context.records.attach_photos)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._context.records.attach_photos([url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()])
