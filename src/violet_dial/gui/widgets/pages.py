"""Plain windows over the page: the opened sum, the key sheet, the rows of a file."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import labelled

Section = tuple[str, tuple[str, ...]]

KEYS: tuple[Section, ...] = (
    (
        "Everywhere in a job",
        (
            "Enter\tthe main act of the field or button you are on",
            "F8\tTake the reading (foot switches send this key)",
            "F9\tdo what Next says",
            "F10  F11\thands-free on or off; the last take of an instrument taken back",
            "F12  Ctrl+M\tinstruments; sounds on or off",
            "Ctrl+T\ton a simulated bench: put the probes to the spots of the next test, lift them",
            "F3\topen the sum behind the verdict and the reading",
            "Ctrl+Z  Ctrl+Shift+Z\tundo, redo",
            "Ctrl+G\tto the job log; Enter there: the job as it stood after that act",
            "Alt+1  to  Alt+5\tReceive, Open, Trace, Light, Return",
            "Ctrl+Tab\tthe next page of the station",
            "Esc\tback to the jobs (or close what is open)",
            "Ctrl+H\tput the job aside, or take it up again",
            "Ctrl+B\twrite the job as a bundle",
        ),
    ),
    (
        "Light",
        (
            "F6  F7\tto the reference, to the needle reading",
            "Left  Right  Home  End\tfrom reading to reading on the dial (F5 goes there)",
            "Del\tstrike out the reading under the cursor on the dial",
            "F4\tset-up: reference chain, tolerance, adjuster, range",
            "Ctrl+I  Ctrl+E\treadings in from CSV, out to CSV",
        ),
    ),
    (
        "Receive",
        (
            "Ctrl+O\tattach photos (or drop them on the page)",
            "Arrows  PageUp  PageDown\ton the drawing (F5): from place to place, to the next view",
            "Enter  Del\twrite what is there, strike it out; Enter in the list of findings says one better",
            "W  X  D  N  S\tin the walk: works, wrong, dead, not tried; next supply",
        ),
    ),
    (
        "Open",
        (
            "Tab  Down  Enter\tin a typed line: take the completion, mark the next, take the line",
            "Enter  Del  C  P\ton a step (F5): its form, strike out, the same again, take a planned one off",
            "Enter  R  L  U\ton the way back: back, replaced by, left out because, off again",
            "Ctrl+L\tbegin from an earlier strip-down of this model",
            "Ctrl+I  Ctrl+E  Ctrl+P\tCSV in, CSV or Markdown out, checklist as PDF",
        ),
    ),
    (
        "Trace",
        (
            "F4\tchoose or edit the circuit (Ctrl+I opens a .cir file or evidence as CSV, Ctrl+E writes one)",
            "F9\tto the figure of the next test; Enter takes it",
            "Ctrl+R\ttests chosen for least minutes, or for fewest tests",
            "F3\tthe evidence opened: what instruments gave, with the raw samples",
            "Up  Down  R\ton the suspects: choose one, it was put right",
            "Arrows  Shift+Arrows\ton the map (F5): from spot to spot, move and pin a spot",
            "Del\ton the evidence: strike out",
        ),
    ),
    ("Return", ("Ctrl+P\twrite the sheet as PDF or HTML",)),
    (
        "Jobs",
        (
            "/\tsearch; Enter opens the only job found",
            "Arrows, Enter\tchoose and open",
            "Ctrl+N  Ctrl+I  Ctrl+D\tnew job, import a bundle, demo workshop",
        ),
    ),
    ("The look", ("F2\tday or night", "Ctrl++  Ctrl+-\ttext larger, smaller", "F1\tthis sheet")),
)


class TextWindow(QDialog):
    """Sections of lines, read with the arrow keys, closed with Esc or Enter."""

    def __init__(self, parent: QWidget, look: Look, title: str, sections: tuple[Section, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.text = QTextBrowser()
        self.text.setHtml(sections_html(sections, look))
        self.text.setAccessibleName(title)
        close = QPushButton("Close  Esc")
        close.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(title, "title"))
        layout.addWidget(self.text, 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(860), room.width() - 80), min(look.px(640), room.height() - 60))
        self.text.setFocus(Qt.FocusReason.OtherFocusReason)


def sections_html(sections: tuple[Section, ...], look: Look) -> str:
    """Sections of lines as HTML, all text escaped; a tab in a line parts a bold key from its meaning."""
    quiet, size = look.colour("quiet").name(), look.px(14)
    parts = [f'<div style="font-size:{size}px">']
    for title, lines in sections:
        parts.append(
            f'<p style="margin:12px 0 3px 0"><b>{escape(title)}</b></p><table cellspacing="0" cellpadding="2">'
        )
        for line in lines:
            key, tab, meaning = line.partition("\t")
            if tab:
                cells = f'<td width="{look.px(190)}"><b>{escape(key)}</b></td><td style="color:{quiet}">{escape(meaning)}</td>'
            else:
                cells = f"<td>{escape(line)}</td>"
            parts.append(f"<tr>{cells}</tr>")
        parts.append("</table>")
    return "".join(parts) + "</div>"
