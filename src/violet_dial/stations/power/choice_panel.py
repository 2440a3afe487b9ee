"""What stands below Next at the choices: the one under the cursor in full, its caution, what the drawer gives."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.kit.cards import card, labelled, scrolled


class ChoicePanel(QWidget):
    """Words alone: the choice is taken on the lanes."""

    def __init__(self) -> None:
        super().__init__()
        frame, inside = card()
        self.title = labelled("", "head", True)
        self.reason, self.caution, self.design = (
            labelled("", "", True),
            labelled("", "fault", True),
            labelled("", "", True),
        )
        self.keys = labelled(
            "Up and down: choice. Left and right: light. Page up, page down: temperature. Enter takes it, Del leaves it out. "
            "Ctrl+R tries every part of the drawer with its cell. F3 opens the arithmetic.", "small", True,
        )  # fmt: skip
        for item in (self.title, self.reason, self.caution, self.design, self.keys):
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))
        self.begin()

    def begin(self) -> None:
        """Another job: nothing said."""
        self.show_choice("", "", "")
        self.show_design("")

    def show_choice(self, title: str, reason: str, caution: str) -> None:
        """A choice in full."""
        self.title.setText(title)
        self.reason.setText(reason)
        self.caution.setText(caution)
        self.caution.setVisible(bool(caution))

    def show_design(self, said: str) -> None:
        """What the drawer gives."""
        self.design.setText(said)
        self.design.setVisible(bool(said))
