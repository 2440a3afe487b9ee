"""Pages of a few sentences and lists with one line to type."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from violet_dial.job.document import Job
from violet_dial.kit.cards import card, fill, labelled, say, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.rows import Rows
from violet_dial.kit.typed_line import TypedLine
from violet_dial.report.blocks import RowsShown


class SaidPage(StationPage):
    """A headline, its reason, lists, and one line to type with ``hint`` in it and ``under`` above it."""

    def __init__(self, context: PageContext, hint: str, typed: TypedLine, under: str) -> None:
        super().__init__(context)
        self.headline = labelled("", "verdict", True)
        self.reason = labelled("", "quiet", True)
        self.typed = typed
        typed.edit.setPlaceholderText(hint)
        frame, self.inside = card()
        for item in (self.headline, self.reason):
            self.inside.addWidget(item)
        self.body, self.right = QVBoxLayout(), QVBoxLayout()
        self.columns = QHBoxLayout()
        self.columns.setSpacing(24)
        for column, share in ((self.body, 1), (self.right, 0)):
            column.setSpacing(8)
            self.columns.addLayout(column, share)
        self.inside.addLayout(self.columns)
        self.inside.addStretch(1)
        self.inside.addWidget(labelled(under, "small", True))
        self.inside.addWidget(typed)
        fill(self, scrolled(frame))

    def add(self, head: str, widget: QWidget, right: bool = False) -> QLabel:
        """A part of the page under its head, in the left column or the right one."""
        label = labelled(head, "head", True)
        column = self.right if right else self.body
        if right:
            self.columns.setStretch(1, 1)
        column.addWidget(label)
        column.addWidget(widget)
        return label

    def close_columns(self) -> None:
        """Nothing more comes: what is there stays at the top."""
        self.body.addStretch(1)
        self.right.addStretch(1)


class RowsPage(SaidPage):
    """A headline, what to do, one table, a word of care: what ``shows`` gives for the job."""

    def __init__(
        self, context: PageContext, hint: str, typed: TypedLine, words: tuple[str, str], shows: Callable[[Job], RowsShown]
    ) -> None:
        name, under = words
        super().__init__(context, hint, typed, under)
        self._shows = shows
        self.table = Rows(context.look, name)
        self.under = labelled("", "fault", True)
        self.body.addWidget(self.table)
        self.body.addWidget(self.under)

    def draw(self, job: Job) -> None:
        one = self._shows(job)
        say((self.headline, one.headline), (self.reason, one.reason), (self.under, one.under))
        self.table.show_rows(one.rows, one.heads, one.marks)
