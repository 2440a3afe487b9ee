"""Rows of the strip-down as its table shows them."""

from violet_dial.core.opening.steps import Step
from violet_dial.gui.widgets.fastener import HANDS
from violet_dial.gui.widgets.rows_table import Row


def off_row(place: int, step: Step) -> Row:
    """A step as the strip-down shows it."""
    detail = " ".join(part for part in (step.size, step.head, step.finish) if part)
    met = f"met {step.confirmed}×" if step.planned and step.confirmed else ""
    more = ", ".join(part for part in (detail, met) if part)
    return (str(place + 1), step.name, more, HANDS[step.hand], step.tray)
