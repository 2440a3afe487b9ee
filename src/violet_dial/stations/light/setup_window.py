"""The set-up of the Light station: reference chain, tolerance, range, adjuster."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import (
    Adjuster,
    Chain,
    Correction,
    DensityStep,
    LampAtDistance,
    Link,
    LuminancePanel,
    LuxMeter,
    Source,
    Tolerance,
    TrustedMeter,
)
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.light import LightSetup
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.form import NumberField, add_row, combo, line_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.theme.look import Look
from violet_dial.stations.light.acts import change_setup

Fields = tuple[tuple[str, str, str], ...]  # attribute, label, unit
SOURCES: dict[str, tuple[type, Fields]] = {
    "trusted meter": (TrustedMeter, (("known_error_stops", "Its own error", "stop"), ("u_stops", "Uncertainty u", "stop"))),
    "lux meter": (LuxMeter, (("c_lx_s", "Constant C", "lx s"), ("u_relative", "Uncertainty u", "of 1"))),
    "luminance panel": (LuminancePanel, (("k_cd_s_m2", "Constant K", "cd s/m²"), ("u_relative", "Uncertainty u", "of 1"))),
    "lamp at a distance": (
        LampAtDistance,
        (
            ("strength", "Strength", "cd, or cd/m² for a disc"),
            ("radius_m", "Disc radius", "m|a point"),
            ("c_lx_s", "Constant C", "lx s"),
            ("u_relative", "Uncertainty u", "of 1"),
            ("u_distance_m", "Uncertainty of distance", "m"),
        ),
    ),
}
LINKS: dict[str, tuple[type, Fields]] = {
    "none": (type(None), ()),
    "density": (DensityStep, (("density", "Density", "D"), ("u_density", "Uncertainty u", "D"))),
    "correction": (Correction, (("stops", "Correction", "stop"), ("u_stops", "Uncertainty u", "stop"))),
}
TOLERANCE: Fields = (
    ("mid_stops", "Mid-range", "stop"),
    ("ends_stops", "At the ends", "stop"),
    ("end_width_ev", "Ends are this wide", "EV"),
)
RANGE: Fields = (
    ("range_from_ev100", "Range from", "EV100"),
    ("range_to_ev100", "Range to", "EV100"),
    ("film_speed", "Film speed", "ISO"),
    ("u_reading", "Reading uncertainty u", "stop"),
)
ADJUSTER: Fields = (
    ("notch_stops", "One drum notch", "stop|none"),
    ("step_stops", "Smallest step", "stop|free"),
    ("degrees_per_stop", "Drum turn per stop", "°|not known"),
    ("drum_diameter_mm", "Drum diameter", "mm|not known"),
    ("cord_left_mm", "Cord left at hard stop", "mm|not known"),
)


class _FieldGroup(QWidget):
    """Number fields for the attributes of one record."""

    changed = Signal()

    def __init__(self, record: object, fields: Fields) -> None:
        super().__init__()
        self.fields: dict[str, NumberField] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnStretch(1, 1)
        for attribute, label, unit in fields:
            field = NumberField(label, unit, float(getattr(record, attribute)))
            field.changed.connect(self.changed)
            self.fields[attribute] = field
            add_row(grid, label, field)

    def values(self) -> dict[str, float]:
        """All values; raises when one is not understood."""
        found: dict[str, float] = {}
        for attribute, field in self.fields.items():
            if field.value is None:
                raise InvalidInput(field.edit.accessibleName(), field.edit.text(), "a number")
            found[attribute] = field.value
        return found


class _Choice(QWidget):
    """A kind and the fields that belong to it."""

    changed = Signal()

    def __init__(self, name: str, kinds: dict[str, tuple[type, Fields]], record: object | None) -> None:
        super().__init__()
        self._kinds = kinds
        self.kind = combo(name, tuple(kinds))
        self._held = record
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.addWidget(self.kind)
        self._group = _FieldGroup(record, ())
        self._layout.addWidget(self._group)
        self.kind.setCurrentText(getattr(record, "kind", "none"))
        self.kind.currentTextChanged.connect(self._choose)
        self._choose(self.kind.currentText())

    @Slot(str)
    def _choose(self, name: str) -> None:
        made, fields = self._kinds[name]
        record = self._held if isinstance(self._held, made) else made()
        self._group.deleteLater()
        self._group = _FieldGroup(record, fields)
        self._group.changed.connect(self.changed)
        self._layout.addWidget(self._group)
        self._held = record
        self.changed.emit()

    def record(self) -> object | None:
        """The record as typed; None for the kind "none"."""
        values = self._group.values()
        return replace(self._held, **values) if values else None  # type: ignore[type-var]


class LightSetupWindow(FormWindow):
    """All of the set-up at once; Keep works only when every field is understood."""

    def __init__(self, parent: QWidget, look: Look, setup: LightSetup) -> None:
        super().__init__(parent)
        self.setWindowTitle("Set-up of the light check")
        self._setup = setup
        links = [*setup.chain.links[:2], None, None][:2]
        self.source = _Choice("Source of the reference", SOURCES, setup.chain.source)
        self.links = [_Choice(f"Link {n}", LINKS, link) for n, link in enumerate(links, start=1)]
        self.light = line_edit("Light", setup.light_source)
        self.range = _FieldGroup(setup, RANGE)
        self.tolerance = _FieldGroup(setup.tolerance, TOLERANCE)
        self.adjuster = _FieldGroup(setup.adjuster, ADJUSTER)
        self.fault = labelled("", "fault", True)
        self.keep = self.keep_button = QPushButton("Keep  Ctrl+⏎")
        self.keep.setProperty("role", "main")
        self._build()
        room = parent.window().size()
        self.resize(min(look.px(1180), room.width() - 40), min(look.px(620), room.height() - 40))

    def _build(self) -> None:
        columns = QHBoxLayout()
        chain: list[QWidget] = [labelled("From something trusted to the meter", "quiet"), self.source]
        for choice, name in zip(self.links, ("then", "and then"), strict=True):
            chain += [labelled(name, "quiet"), choice]
        chain += [labelled("Light, in words", "quiet"), self.light]
        judged: list[QWidget] = [self.range, labelled("Tolerance", "head"), self.tolerance]
        for title, widgets in (("Reference chain", chain), ("Range and reading", judged), ("Adjuster", [self.adjuster])):
            frame, inside = card(title)
            for widget in widgets:
                inside.addWidget(widget)
            inside.addStretch(1)
            columns.addWidget(frame, 1)
        holder = QWidget()
        holder.setLayout(columns)
        scroll = scrolled(holder)
        cancel = QPushButton("Leave as it was  Esc")
        cancel.clicked.connect(self.reject)
        self.keep.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.fault, 1)
        row.addWidget(cancel)
        row.addWidget(self.keep)
        layout = QVBoxLayout(self)
        layout.addWidget(scroll, 1)
        layout.addLayout(row)
        for choice in (self.source, *self.links):
            choice.changed.connect(self._check)
        for group in (self.range, self.tolerance, self.adjuster):
            group.changed.connect(self._check)
        self.source.kind.setFocus(Qt.FocusReason.OtherFocusReason)
        self._check()

    @Slot()
    def _check(self) -> None:
        try:
            self.setup()
        except InvalidInput as error:
            self.fault.setText(str(error))
            self.keep.setEnabled(False)
        else:
            self.fault.setText("")
            self.keep.setEnabled(True)

    def setup(self) -> LightSetup:
        """The set-up as typed. Raises InvalidInput: a field is not understood or out of its range."""
        source: Source = self.source.record()  # type: ignore[assignment]
        links: list[Link] = [link for link in (link.record() for link in self.links) if link is not None]  # type: ignore[misc]
        ranges = self.range.values()
        return replace(
            self._setup,
            chain=Chain(source, (*links, *self._setup.chain.links[2:])),
            tolerance=Tolerance(**self.tolerance.values()),
            adjuster=Adjuster(film_speed=ranges["film_speed"], **self.adjuster.values()),
            light_source=self.light.text().strip(),
            **ranges,
        )

    def act(self) -> Callable[[Job, str], ActResult]:
        """The act that keeps this set-up."""
        setup = self.setup()
        return lambda job, at: change_setup(job, setup, at)
