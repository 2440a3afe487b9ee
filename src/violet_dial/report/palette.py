"""Colours and line widths on paper (day colours; shapes carry the meaning, colour only helps)."""

from violet_dial.report.dial import MarkState, Role

INK, QUIET, LINE = "#241B30", "#6F6579", "#DCD3DE"
VIOLET, SOFT_VIOLET = "#5A2D82", "#ECE2F4"
WITHIN, WATCH, OUT = "#0F766E", "#A8660B", "#C0391B"

ROLE_COLOURS: dict[Role, str] = {  # of the lines and areas of a dial
    "tolerance": "band", "zero": "violet", "limit": "line", "found": "ink", "after": "within", "tick": "quiet", "bar": "quiet",
    "needle": "violet",
}  # fmt: skip
ROLE_WIDTHS: dict[Role, float] = {
    "tolerance": 0, "zero": 1.6, "limit": 1, "found": 1.6, "after": 1.6, "tick": 1.2, "bar": 1.2, "needle": 3,
}  # fmt: skip
STATE_ROLES: dict[MarkState, str] = {"inside": "within", "high": "out", "low": "out", "undecided": "watch", "empty": "quiet"}
INKS = {
    "ink": INK, "quiet": QUIET, "line": LINE, "violet": VIOLET, "soft": SOFT_VIOLET, "within": WITHIN, "watch": WATCH, "out": OUT,
    "card": "#FFFDFA", "band": "#E4D9EE",
}  # fmt: skip
STATE_COLOURS: dict[MarkState, str] = {state: INKS[role] for state, role in STATE_ROLES.items()}
LEAD_COLOURS = {
    "red": "#C0392B", "black": "#4A4350", "blue": "#2E6FB7", "green": "#2E8B57", "orange": "#D9822B", "white": "#B8B2BE",
    "yellow": "#C9A227", "brown": "#7B4F2E", "grey": "#8A8590", "violet": "#7A4FA3",
}  # fmt: skip
