"""Receive, looked over: findings on the drawing, what each means, and the hunt for a missing screw."""

from dataclasses import replace

from PySide6.QtCore import Qt, Slot
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.receiving.findings import EXTENTS, FINDING_KINDS
from violet_dial.job.document import Job
from violet_dial.job.receiving import Finding, MissingScrew
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.form import line_edit
from violet_dial.kit.page import StationPage
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.gate import place_of
from violet_dial.stations.receive.acts import (
    FindingSeen,
    change_finding,
    finding_words,
    note_screw,
    place_finding,
    strike_finding,
    understand_finding,
)
from violet_dial.stations.receive.outline_view import OutlineView
from violet_dial.stations.receive.state import look_shown


class LookPage(StationPage):
    """The drawing on the left; the list of findings and what the chosen one means on the right."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self._changing = ""  # the finding whose words are in the line, to be kept in its place
        self.outline = OutlineView(look)
        self.typed = TypedLine("What is there", self._offers, self._understood, self._place)
        self.typed.edit.setPlaceholderText("green crust a patch: under the left screw")
        self.list = QListWidget()
        self.list.setAccessibleName("Findings")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.meaning = labelled("", "quiet", True)
        self.caution = labelled("", "fault", True)
        self.hunt = QListWidget()
        self.hunt.setAccessibleName("Where to look for the screw, cheapest first")
        self.siblings = line_edit("Siblings of the missing screw")
        self.siblings.setPlaceholderText("its siblings: cross, chrome, M1.4 x 3")
        self.found = QPushButton("Found at the marked place")
        self._build()

    def _build(self) -> None:
        left, inside = card()
        inside.addWidget(self.outline, 1)
        inside.addWidget(self.typed)
        column = QVBoxLayout()
        frame, found = card("Findings")
        found.addWidget(self.list, 1)
        found.addWidget(self.meaning)
        found.addWidget(self.caution)
        column.addWidget(frame, 3)
        self.hunt_card, hunting = card("Missing screw: where to look")
        hunting.addWidget(self.siblings)
        hunting.addWidget(self.hunt, 1)
        hunting.addWidget(self.found)
        column.addWidget(self.hunt_card, 3)
        holder = QWidget()
        holder.setLayout(column)
        column.setContentsMargins(0, 0, 0, 0)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(left, 3)
        layout.addWidget(scrolled(holder), 2)
        self.outline.place_asked.connect(self.typed.edit.setFocus)
        self.outline.strike_asked.connect(self._strike)
        self.outline.moved.connect(self._follow)
        self.list.currentRowChanged.connect(self._show_row)
        self.list.itemActivated.connect(self._change)
        self.typed.edit.textChanged.connect(self._emptied)
        self.hunt.itemActivated.connect(self._looked)
        self.found.clicked.connect(self._found)
        self.siblings.editingFinished.connect(self._note_siblings)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._changing = ""
        self.typed.clear()
        self.outline.begin(job.device.kind)
        self.list.blockSignals(True)
        self.list.clear()
        self.list.blockSignals(False)
        self.hunt.clear()

    def show_job(self, job: Job) -> None:
        """Draw the findings; the chosen one stays chosen, a new one is chosen."""
        before = len(self._job.receiving.findings) if self._job else 0
        self._job = job
        findings = job.receiving.findings
        self.outline.show_device(job.device.kind, findings)
        came, last = len(findings) > before, len(findings) - 1
        row = last if came else min(self.list.currentRow(), last)
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItems(look_shown(job, row).lines)
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        if came:
            self._show_row(last)
        self._show_meaning()

    @property
    def chosen(self) -> Finding | None:
        """The finding chosen in the list."""
        row = self.list.currentRow()
        findings = self._job.receiving.findings if self._job else ()
        return findings[row] if 0 <= row < len(findings) else None

    @Slot(int)
    def _show_row(self, row: int) -> None:
        one = self.chosen
        if one is not None:
            self.outline.go_to(one.view, one.x, one.y)
        self._show_meaning()

    @Slot()
    def _follow(self) -> None:
        """The list follows the cursor on the drawing."""
        one = self.outline.under_cursor
        if one is not None and self._job is not None and one != self.chosen:
            self.list.blockSignals(True)
            self.list.setCurrentRow(self._job.receiving.findings.index(one))
            self.list.blockSignals(False)
            self._show_meaning()

    def _show_meaning(self) -> None:
        """What the chosen finding means, and the hunt for its screw."""
        if self._job is None:
            return
        one = look_shown(self._job, self.list.currentRow())
        self.meaning.setText(one.meaning)
        self.caution.setText(one.caution)
        self.caution.setVisible(bool(one.caution))
        self.hunt_card.setVisible(one.screw is not None)
        if not self.siblings.hasFocus():
            self.siblings.setText(one.screw.siblings if one.screw else "")
        row = max(self.hunt.currentRow(), 0)
        self.hunt.clear()
        for place in one.hunt:
            item = QListWidgetItem(place.words)
            item.setToolTip(place.why)
            item.setData(Qt.ItemDataRole.UserRole, place.place)
            self.hunt.addItem(item)
        self.hunt.setCurrentRow(row)
        self.found.setText(one.found)
        self.found.setEnabled(one.screw is not None and not one.screw.found)

    @property
    def _screw(self) -> MissingScrew | None:
        return look_shown(self._job, self.list.currentRow()).screw if self._job else None

    def _offers(self, text: str) -> tuple[str, ...]:
        low = text.lower()
        kinds: list[str] = [kind for kind in FINDING_KINDS if low and kind.startswith(low) and kind != low]
        for kind in FINDING_KINDS:
            if low.startswith(kind + " "):
                rest = low[len(kind) + 1 :]
                kinds += [f"{kind} {extent}: " for extent in EXTENTS if extent.startswith(rest)]
        return tuple(kinds[:8])

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        one = understand_finding(self._job, text)
        photo = " · with photo" if one.photo else ""
        note = f": {one.note}" if one.note else ""
        changing = self._finding(self._changing)
        where = f"stays at the {place_of(self._job, changing)}" if changing else f"at the {self.outline.spot.name}"
        return f"{one.kind}, {one.extent}, {where}{note}{photo}"

    def _place(self, text: str) -> bool:
        if self._job is None:
            return False
        one, changing = understand_finding(self._job, text), self._changing
        if changing:
            kept = self._context.perform(lambda job, at: change_finding(job, changing, one, at))
        else:
            seen = FindingSeen(one.kind, self.outline.view, *self.outline.at, one.extent, one.note, one.photo)
            kept = self._context.perform(lambda job, at: place_finding(job, seen, at))
        if kept:
            (self.list if changing else self.outline).setFocus()
        return kept

    def _finding(self, finding_id: str) -> Finding | None:
        findings = self._job.receiving.findings if self._job else ()
        return next((finding for finding in findings if finding.finding_id == finding_id), None)

    @Slot()
    def _change(self) -> None:
        """Enter on a finding puts its words into the line, to be said better."""
        one = self.chosen
        if one is not None:
            self._changing = one.finding_id
            self.typed.edit.setText(finding_words(one))
            self.typed.edit.setFocus()

    @Slot(str)
    def _emptied(self, text: str) -> None:
        """An emptied line is free for a new finding again."""
        if not text:
            self._changing = ""

    @Slot(str)
    def _strike(self, finding_id: str) -> None:
        self._context.perform(lambda job, at: strike_finding(job, finding_id, at))

    @Slot(QListWidgetItem)
    def _looked(self, item: QListWidgetItem) -> None:
        screw = self._screw
        place = item.data(Qt.ItemDataRole.UserRole)
        if screw is not None and place not in screw.looked:
            noted = replace(screw, looked=(*screw.looked, place))
            self._context.perform(lambda job, at: note_screw(job, noted, at))

    @Slot()
    def _found(self) -> None:
        screw, item = self._screw, self.hunt.currentItem()
        if screw is not None and item is not None:
            noted = replace(screw, found=item.data(Qt.ItemDataRole.UserRole))
            self._context.perform(lambda job, at: note_screw(job, noted, at))

    @Slot()
    def _note_siblings(self) -> None:
        screw = self._screw
        text = self.siblings.text().strip()
        if screw is not None and text != screw.siblings:
            noted = replace(screw, siblings=text)
            self._context.perform(lambda job, at: note_screw(job, noted, at))

    def focus_first(self) -> None:
        self.outline.setFocus()
