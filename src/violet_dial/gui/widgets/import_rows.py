"""The rows of a CSV before they are taken: what is offered, what was rejected and why."""

from dataclasses import dataclass

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import labelled
from violet_dial.gui.widgets.pages import Section, sections_html
from violet_dial.job.csv_text import RejectedRow
from violet_dial.job.evidence_csv import EvidenceResult
from violet_dial.job.readings_csv import ReadResult
from violet_dial.job.strip_csv import StripResult
from violet_dial.report.checklist import said

MOST_SHOWN = 300


@dataclass(frozen=True)
class Listing:
    """What a file holds, said: title, one-line summary, sections, and how many of what are offered."""

    title: str
    summary: str
    sections: tuple[Section, ...]
    offered: int
    noun: str


def _count_said(rejected: int) -> str:
    return f"{rejected} rejected" if rejected else "none rejected"


def _rejected(rows: tuple[RejectedRow, ...]) -> Section:
    return "Rejected rows", tuple(f"line {row.line}\t{row.reason}" for row in rows) or ("none",)


def _unused(columns: tuple[str, ...]) -> tuple[Section, ...]:
    return (("Columns not used", columns),) if columns else ()


def readings_listing(name: str, read: ReadResult) -> Listing:
    """A file of readings, said."""
    separator = {"\t": "tab", ";": "semicolon", ",": "comma"}[read.separator]
    comma = ", decimal comma" if read.decimal_comma else ""
    rejected = _count_said(read.rejected_count)
    summary = f"{len(read.readings)} readings offered, {rejected} ({separator} separated{comma})"
    offered = tuple(
        f"Ev {one.reference_ev100:.2f} read {one.indicated_ev100:.2f} {one.direction} {one.attitude}".rstrip()
        for one in read.readings[:MOST_SHOWN]
    )
    sections = (_rejected(read.rejected), ("Offered", offered), *_unused(read.ignored_columns))
    return Listing(f"Readings from {name}", summary, sections, len(read.readings), "readings")


def steps_listing(name: str, read: StripResult) -> Listing:
    """A file of a strip-down, said."""
    rejected = _count_said(read.rejected_count)
    offered = tuple(said(step) for step in read.steps[:MOST_SHOWN])
    sections = (_rejected(read.rejected), ("Offered as a plan", offered), *_unused(read.ignored_columns))
    return Listing(
        f"Strip-down from {name}", f"{len(read.steps)} steps offered, {rejected}", sections, len(read.steps), "steps"
    )


def evidence_listing(name: str, read: EvidenceResult) -> Listing:
    """A file of evidence, said."""
    rejected = _count_said(read.rejected_count)
    offered = tuple(evidence_words(one) for one in read.evidence[:MOST_SHOWN])
    summary = f"{len(read.evidence)} pieces of evidence offered, {rejected}"
    sections = (_rejected(read.rejected), ("Offered", offered))
    return Listing(f"Evidence from {name}", summary, sections, len(read.evidence), "pieces")


class ImportDialog(QDialog):
    """Nothing is taken until Take is pressed."""

    def __init__(self, parent: QWidget, look: Look, listing: Listing) -> None:
        super().__init__(parent)
        self.setWindowTitle(listing.title)
        text = QTextBrowser()
        text.setHtml(sections_html(listing.sections, look))
        self.take = QPushButton(f"Take {listing.offered} {listing.noun}  ⏎")
        self.take.setProperty("role", "main")
        self.take.setDefault(True)
        self.take.setEnabled(listing.offered > 0)
        self.take.clicked.connect(self.accept)
        leave = QPushButton("Take none  Esc")
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(listing.summary, "head", True))
        layout.addWidget(text, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(760), room.width() - 80), min(look.px(560), room.height() - 60))
        self.take.setFocus()
