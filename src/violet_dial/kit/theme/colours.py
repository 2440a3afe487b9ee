"""The colours by role, for day and night."""

from typing import Literal

Theme = Literal["day", "night"]
Role = Literal[
    "ground", "card", "ink", "quiet", "line", "violet", "soft", "within", "watch", "out",
    "bar", "figures", "bar_quiet", "bar_accent", "on_violet", "band", "bar_field", "bar_warn",
]  # fmt: skip

COLOURS: dict[Theme, dict[Role, str]] = {
    "day": {
        "ground": "#F4F0EA", "card": "#FFFDFA", "ink": "#241B30", "quiet": "#6F6579", "line": "#DCD3DE",
        "violet": "#5A2D82", "soft": "#ECE2F4", "within": "#0F766E", "watch": "#A8660B", "out": "#C0391B",
        "bar": "#2A1E3A", "figures": "#F6F0FF", "bar_quiet": "#B9ABCB", "bar_accent": "#B58AE6",
        "on_violet": "#FFFDFA", "band": "#E4D9EE", "bar_field": "#3A2B4F", "bar_warn": "#FF8A5C",
    },
    "night": {
        "ground": "#17131F", "card": "#201A2B", "ink": "#EFEAF6", "quiet": "#A79DB8", "line": "#3A3148",
        "violet": "#B58AE6", "soft": "#33264A", "within": "#4FC3AE", "watch": "#E7B04B", "out": "#FF8A5C",
        "bar": "#2A1E3A", "figures": "#F6F0FF", "bar_quiet": "#B9ABCB", "bar_accent": "#B58AE6",
        "on_violet": "#17131F", "band": "#372B4D", "bar_field": "#3A2B4F", "bar_warn": "#FF8A5C",
    },
}  # fmt: skip
