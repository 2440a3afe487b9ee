"""Letters on paper: each in a family that has it, those written from the right in their order, and those no family has
marked, never dropped.

The order follows the Unicode bidirectional algorithm (Unicode Standard Annex 9) and Arabic letters are joined, both by
well-kept packages. The application's own family has the letters of western Europe; DejaVu Sans, shipped beside it, those of
the rest of Europe, Greek, Cyrillic, Vietnamese, Hebrew and Arabic.
"""

import re
import unicodedata
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

FONTS = Path(__file__).parent.parent / "assets" / "fonts"
PLAIN, BOLD = ("B612", "DejaVu"), ("B612-Bold", "DejaVu-Bold")  # each in the order in which it is asked for a letter
FILES = {
    "B612": "B612-Regular.ttf", "B612-Bold": "B612-Bold.ttf", "DejaVu": "DejaVuSans.ttf", "DejaVu-Bold": "DejaVuSans-Bold.ttf",
}  # fmt: skip
MISSING = "\u25a1"  # an empty square stands for a letter that no family has
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
_UNSEEN = frozenset("\u200b\u200c\u200d\u200e\u200f\u2060\ufe0e\ufe0f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")


@lru_cache(maxsize=1)
def register() -> None:
    """The families, known to the package that draws the paper."""
    for name, file in FILES.items():
        pdfmetrics.registerFont(TTFont(name, str(FONTS / file)))


@lru_cache(maxsize=4)
def _has(name: str) -> frozenset[int]:
    register()
    return frozenset(pdfmetrics.getFont(name).face.charToGlyph)


def _family(letter: str, families: tuple[str, ...]) -> str | None:
    code = ord(letter)
    return next((name for name in families if code in _has(name)), None)


def unprintable(texts: Iterable[str]) -> str:
    """Letters in these texts that no family has, each once, in the order in which they come."""
    found: dict[str, None] = {}
    for text in texts:
        for letter in unicodedata.normalize("NFC", _CONTROL.sub("", text)):
            if letter not in "\n\t" and letter not in _UNSEEN and _family(letter, PLAIN) is None:
                found[letter] = None
    return "".join(found)


def plain(text: str) -> str:
    """Text as it can be drawn: no control characters, letters composed, what no family has as an empty square."""
    composed = unicodedata.normalize("NFC", _CONTROL.sub("", text))
    return "".join(
        letter if letter in "\n\t" or _family(letter, PLAIN) else MISSING for letter in composed if letter not in _UNSEEN
    )


def runs(text: str, families: tuple[str, ...] = PLAIN) -> Iterator[tuple[str, str]]:
    """Stretches of text with the family that has their letters."""
    current, piece = families[0], ""
    for letter in text:
        family = families[0] if letter in " \n\t" and not piece else _family(letter, families) or families[-1]
        if letter == " ":
            family = current
        if family != current and piece:
            yield current, piece
            piece = ""
        current = family
        piece += letter
    if piece:
        yield current, piece


def marked_up(text: str, families: tuple[str, ...] = PLAIN) -> str:
    """Plain text as the paragraphs of the paper take it, families named where they change."""
    pieces = []
    for family, piece in runs(text, families):
        safe = escape(piece).replace("\n", "<br/>")
        pieces.append(safe if family == families[0] else f'<font name="{family}">{safe}</font>')
    return "".join(pieces)


def from_the_right(text: str) -> bool:
    """Whether a text begins with letters that are written from the right."""
    strong = next((kind for kind in map(unicodedata.bidirectional, text) if kind in ("L", "R", "AL")), "L")
    return strong != "L"


def ordered(text: str, width: float, size: float, families: tuple[str, ...] = PLAIN) -> str:
    """Text that has letters from the right, broken into lines of a width in points, each line in the order of the paper."""
    import arabic_reshaper
    from bidi.algorithm import get_display

    joined = arabic_reshaper.reshape(text)
    lines: list[str] = []
    for paragraph in joined.split("\n"):
        line = ""
        for word in paragraph.split(" "):
            longer = f"{line} {word}" if line else word
            if line and _width(longer, size, families) > width:
                lines.append(line)
                line = word
            else:
                line = longer
        lines.append(line)
    return "\n".join(str(get_display(line)) for line in lines)


def has_right(text: str) -> bool:
    """Whether a text has letters that are written from the right anywhere."""
    return any(unicodedata.bidirectional(letter) in ("R", "AL") for letter in text)


def _width(text: str, size: float, families: tuple[str, ...]) -> float:
    return sum(float(pdfmetrics.stringWidth(piece, family, size)) for family, piece in runs(text, families))
