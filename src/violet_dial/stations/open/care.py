"""Open, care: the school of sealing, what attacks what, and what stays out of the bath."""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QRadioButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.core.opening.care import CLEANING, SCHOOLS, bath_advice
from violet_dial.core.opening.steps import KINDS
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled
from violet_dial.kit.page import House
from violet_dial.kit.text_window import sections_html
from violet_dial.stations.open.acts import choose_sealant

_SIGNS = {"good": "● good", "with care": "◐ with care", "never": "▼ never"}


class CarePage(QWidget):
    """The school chosen here is what the way back says where a step says nothing."""

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house, self._look = house, house.look
        self.group = QButtonGroup(self)
        frame, inside = card("Sealing: schools differ")
        for place, school in enumerate(SCHOOLS):
            button = QRadioButton(school.title)
            self.group.addButton(button, place)
            row = QHBoxLayout()
            row.addWidget(button, 1)
            row.addWidget(labelled(school.why, "quiet", True), 3)
            inside.addLayout(row)
        self.group.idClicked.connect(self._choose)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Cleaning by material, and the bath")
        cleaning, told = card("Cleaning, and the bath")
        told.addWidget(self.text, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        layout.addWidget(cleaning, 1)
        self._look.changed.connect(self._write)
        self._write()

    @Slot()
    def _write(self) -> None:
        sections = [
            (material, tuple(f"{agent}\t{_SIGNS[one.verdict]}. {one.reason}" for agent, one in rows.items()))
            for material, rows in CLEANING.items()
        ]
        bath = tuple(f"{kind}\t{bath_advice(kind, False)}" for kind in KINDS if bath_advice(kind, False))
        self.text.setHtml(sections_html((*sections, ("the cleaning bath", bath)), self._look))

    def show_job(self, job: Job) -> None:
        for place, school in enumerate(SCHOOLS):
            self.group.button(place).setChecked(school.sealant == job.opening.sealant)

    @Slot(int)
    def _choose(self, place: int) -> None:
        sealant = SCHOOLS[place].sealant
        self._house.perform(lambda job, at: choose_sealant(job, sealant, at))

    def focus_first(self) -> None:
        checked = self.group.checkedButton()
        if checked is not None:
            checked.setFocus()
