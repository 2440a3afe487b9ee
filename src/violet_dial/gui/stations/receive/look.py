"""Receive, looked over: findings on the drawing, what each means, and the hunt for a missing screw."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.receiving.findings import EXTENTS, FINDING_KINDS
from violet_dial.core.receiving.hunting import hunting_list
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.form import line_edit
from violet_dial.gui.widgets.outline_view import OutlineView
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.job.document import Finding, Job, MissingScrew
from violet_dial.services.receiving import (
    Seen,
    change_finding,
    finding_words,
    meaning_of,
    note_screw,
    place_finding,
    place_of,
    strike_finding,
    understand_finding,
)


class LookPage(QWidget):
    """The drawing on the left; the list of findings and what the chosen one means on the right."""

    act_asked = Signal(object)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._job: Job | None = None
        self._changing = ""  # the finding whose words are in the line, to be kept in its place
        self.outline = OutlineView(look)
        self.typed = TypedLine("What is there", self._offers, self._understood)
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
        self.typed.taken.connect(self._place)
        self.list.currentRowChanged.connect(self._show_row)
        self.list.itemActivated.connect(self._change)
        self.typed.edit.textChanged.connect(self._emptied)
        self.hunt.itemActivated.connect(self._looked)
        self.found.clicked.connect(self._found)
        self.siblings.editingFinished.connect(self._note_siblings)

    def show_job(self, job: Job) -> None:
        """Show the findings; the chosen one stays chosen, a new one is chosen."""
        before = len(self._job.receiving.findings) if self._job else 0
        if self._job is not None and self._job.job_id != job.job_id:
            self._changing = ""  # it was a finding of the other job
        self._job = job
        self.outline.show_device(job.device.kind, job.receiving.findings)
        row = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        for one in job.receiving.findings:
            note = f": {one.note}" if one.note else ""
            self.list.addItem(QListWidgetItem(f"{one.kind}, {place_of(job, one)} ({one.view}), {one.extent}{note}"))
        came = len(job.receiving.findings) > before
        last = len(job.receiving.findings) - 1
        self.list.setCurrentRow(last if came else min(row, last))
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
        one = self.chosen
        nothing = (
            "Nothing noted yet. Arrows go from place to place, Enter writes what is there, PageDown turns the device."
        )
        self.meaning.setText(meaning_of(one).tracing if one else nothing)
        self.caution.setText(meaning_of(one).caution if one else "")
        self.caution.setVisible(bool(self.caution.text()))
        self._show_hunt()

    @property
    def _screw(self) -> MissingScrew | None:
        one = self.chosen
        if one is None or self._job is None:
            return None
        return next((screw for screw in self._job.receiving.missing if screw.screw_id == one.finding_id), None)

    def _show_hunt(self) -> None:
        screw = self._screw
        self.hunt_card.setVisible(screw is not None)
        if screw is None or self._job is None:
            return
        if not self.siblings.hasFocus():
            self.siblings.setText(screw.siblings)
        row = max(self.hunt.currentRow(), 0)
        self.hunt.clear()
        for one in hunting_list(self._job.device.kind, screw.view):
            looked = "●" if one.place in screw.looked else "○"
            item = QListWidgetItem(f"{looked}  {one.minutes:g} min  {one.place}")
            item.setToolTip(one.why)
            item.setData(Qt.ItemDataRole.UserRole, one.place)
            self.hunt.addItem(item)
        self.hunt.setCurrentRow(row)
        self.found.setText(f"Found: {screw.found}" if screw.found else "Found at the marked place")
        self.found.setEnabled(not screw.found)

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

    @Slot(str)
    def _place(self, text: str) -> None:
        if self._job is None:
            return
        try:
            one = understand_finding(self._job, text)
        except InvalidInput:
            return
        changing = self._changing
        seen = Seen(one.kind, self.outline.view, *self.outline.at, one.extent, one.note, one.photo)
        self.typed.clear()
        if changing:
            self.act_asked.emit(lambda job, at: change_finding(job, changing, one, at))
            self.list.setFocus()
        else:
            self.act_asked.emit(lambda job, at: place_finding(job, seen, at))
            self.outline.setFocus()

    def _finding(self, finding_id: str) -> Finding | None:
        findings = self._job.receiving.findings if self._job else ()
        return next((one for one in findings if one.finding_id == finding_id), None)

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
        self.act_asked.emit(lambda job, at: strike_finding(job, finding_id, at))

    @Slot(QListWidgetItem)
    def _looked(self, item: QListWidgetItem) -> None:
        screw = self._screw
        place = item.data(Qt.ItemDataRole.UserRole)
        if screw is not None and place not in screw.looked:
            noted = replace(screw, looked=(*screw.looked, place))
            self.act_asked.emit(lambda job, at: note_screw(job, noted, at))

    @Slot()
    def _found(self) -> None:
        screw, item = self._screw, self.hunt.currentItem()
        if screw is not None and item is not None:
            noted = replace(screw, found=item.data(Qt.ItemDataRole.UserRole))
            self.act_asked.emit(lambda job, at: note_screw(job, noted, at))

    @Slot()
    def _note_siblings(self) -> None:
        screw = self._screw
        text = self.siblings.text().strip()
        if screw is not None and text != screw.siblings:
            noted = replace(screw, siblings=text)
            self.act_asked.emit(lambda job, at: note_screw(job, noted, at))

    def focus_first(self) -> None:
        self.outline.setFocus()
