"""What a bench line says of a part beside its spots: name, kind, colour and figures, before the first and behind the last.

What the board has wins: where the words that are left are one of its spots, they are that.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Figure
from violet_dial.core.mapping.figures import CODED, MOST_WORDS, cells_v, figure_words, told
from violet_dial.core.mapping.kinds import BY_NAME, BY_WORD, COLOURS, DESIGNATOR, PartKind, kind_of_designator

WITH_CELL = ("cds", "selenium", "silicon cell")  # kinds behind whose word "cell" may stand


@dataclass
class Head:
    """What was said of a part so far; ``words`` that were not understood, ``spot`` its first."""

    name: str = ""
    colour: str = ""
    kind: PartKind | None = None
    sub: str = ""
    words: list[str] = field(default_factory=list)
    figures: list[Figure] = field(default_factory=list)
    notes: dict[str, str] = field(default_factory=dict)
    spot: str = ""

    @property
    def so_far(self) -> str:
        """What was understood, for whoever wrote something else behind it."""
        what = " ".join(word for word in (self.colour, self.sub, self.kind.name if self.kind else "") if word)
        figures = ", ".join(figure_words(figure) for figure in self.figures)
        return ", ".join(word for word in (self.name, what, figures) if word)

    @property
    def is_unclear(self) -> bool:
        """Whether something that was not understood may be a figure or a code."""
        return any(character.isdigit() for word in self.words for character in word)

    @property
    def all_notes(self) -> tuple[tuple[str, str], ...]:
        """What is noted of it."""
        is_junction = self.kind is not None and self.kind.name in ("diode", "transistor")
        return tuple((self.notes | ({"sub": self.sub} if self.sub and is_junction else {})).items())

    def took(self, words: Sequence[str]) -> bool:
        """Whether words are a figure of it, or something that is noted: then it has it."""
        found = told(words, self.kind, [one.key for one in self.figures]) if self.kind and words else None
        if found is None:
            return False
        self.figures += [found.figure] if found.figure else []
        self.notes.update(found.notes)
        return True

    def take_front(self, words: list[str], most: int) -> bool:
        """Take a figure off the front, of ``most`` words."""
        count = next((n for n in range(min(most, MOST_WORDS), 0, -1) if self.took(words[:n])), 0)
        del words[:count]
        return bool(count)

    def take_back(self, words: list[str]) -> bool:
        """Take a figure off the end, where a word is left."""
        count = next((n for n in (2, 1) if len(words) > n and self.took(words[-n:])), 0)
        del words[len(words) - count :]
        return bool(count)


def read_head(board: Board, words: list[str]) -> Head:
    """What stands before the two spots, and the first of these. Raises InvalidInput: a figure that such a part has not."""
    head, left = Head(), list(words)
    at = next((n for n, word in enumerate(left) if word.lower() == "from"), None)
    before, spot = (left[:at], left[at + 1 :]) if at is not None else (left, [])
    low = [word.lower() for word in before[:2]]
    if low[:1] == ["cell"] and len(before) > 1:
        before = before[1:]
    if low in (["cell", "silicon"], ["silicon", "cell"]):
        before[0] = "photodiode"
    elif low[1:] == ["diode"] and low[0] in BY_NAME["diode"].subs:
        before[:2] = before[1::-1]
    while before and not (head.kind and at is None and board.spot(" ".join(before))):
        if not _took(head, before, at is not None):
            break
    if at is None:
        spot = before
    else:
        head.words += before
    head.spot = " ".join(spot)
    return head


def _took(head: Head, words: list[str], is_whole: bool) -> bool:
    """Take some words off the front, where they say what it is; ``is_whole``: the spot is not among them."""
    word = words[0].lower()
    if not head.name and DESIGNATOR.match(words[0]) and (len(words) > 1 or is_whole):
        kind = kind_of_designator(words[0])
        if head.kind in (None, kind):
            head.name, head.kind = words.pop(0), kind
            return True
    if head.kind is None and _kind_by_its_code(head, words):
        return True
    most = len(words) if is_whole else len(words) - 1
    if head.kind is not None and word in COLOURS and head.take_front(words, most):  # the bands of a resistor
        return True
    if word in COLOURS and not head.colour:
        head.colour = words.pop(0).lower()
        return True
    if word in BY_WORD and (head.kind is None or head.kind.name == "resistor" or BY_WORD[word].name == head.kind.name):
        head.kind = BY_WORD[word]
        words.pop(0)
        return True
    if head.kind is None:
        return False
    if word == "cell" and head.kind.name in WITH_CELL and most:
        words.pop(0)
        return True
    if word in head.kind.subs and not head.sub:
        head.sub = words.pop(0).lower()
        return True
    return head.take_front(words, most)


def _kind_by_its_code(head: Head, words: list[str]) -> bool:
    """What is said by a code alone: ``2xAA`` is a battery, ``1N4148`` a diode. It stays as its figure or note."""
    if any(cells_v(" ".join(words[:n])) is not None for n in (3, 2, 1)):
        head.kind = BY_NAME["battery"]
    elif CODED.match(words[0]) and words[0].upper().startswith(("1N", "OA")):
        head.kind = BY_NAME["diode"]
    return head.kind is not None


def read_tail(head: Head, words: list[str]) -> str:
    """A spot that stands last, without the figures said behind it. Raises InvalidInput: a figure that such a part has not."""
    left = [word for word in words if word.lower() != "full" or word is words[0]]
    while len(left) > 1 and head.take_back(left):
        pass
    return " ".join(left)


def check_whole(head: Head, line: str) -> None:
    """Refuse what was said twice, or not understood. Raises InvalidInput."""
    keys = [figure.key for figure in head.figures]
    if len(set(keys)) != len(keys):
        raise InvalidInput("Line", line, f"each figure once; understood {', '.join(map(figure_words, head.figures))}")
    if head.name and head.is_unclear:
        raise InvalidInput("Line", line, f"understood {head.so_far}; then what {' '.join(head.words)} is, or nothing")
