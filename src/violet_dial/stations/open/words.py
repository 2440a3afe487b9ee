"""A step in bench words: for the list, the checklist and the way back."""

from violet_dial.core.opening.care import bath_advice
from violet_dial.core.opening.steps import Hand, Step
from violet_dial.core.opening.tally import TallyState
from violet_dial.report.dial import MarkState

HAND_SIGNS: dict[Hand, str] = {"": "", "right": "↻", "left": "↺ LEFT", "unknown": "↻? hand"}
STATE_MARKS: dict[TallyState, MarkState] = {
    "planned": "empty", "open": "empty", "short": "low", "over": "high", "whole": "inside",
}  # fmt: skip


def said(step: Step) -> str:
    """A step in bench words: count, name, size, head, finish."""
    detail = " ".join(part for part in (step.size, step.head, step.finish) if part)
    return f"{step.name}, {detail}" if detail else step.name


def mind(step: Step) -> str:
    """What to mind while it comes off."""
    hands = {"left": "LEFT-HAND thread", "unknown": "THREAD HAND NOT KNOWN", "right": "right-hand thread", "": ""}
    parts = [
        hands[step.hand], f"first set {step.preset}" if step.preset else "", f"marks: {step.marks}" if step.marks else "",
        f"hides {', '.join(step.hides)}" if step.hides else "",
        f"{step.wire_colour} wire, {step.wire_from} to {step.wire_to}" if step.wire_colour else "",
        "no fingers" if step.no_fingers else "", bath_advice(step.kind, step.no_bath), step.note,
    ]  # fmt: skip
    return " · ".join(part for part in parts if part)
