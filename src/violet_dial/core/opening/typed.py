"""A strip-down step as typed in one line, and how the line is completed.

``screw x3 top cover M1.4x3 cross chrome lh? -> tray B2; under rewind knob; seal soft``
"""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import FINISHES, KIND_WORDS, KINDS, SEALANTS, THREADED, Hand, Step, StepKind
from violet_dial.core.quantities import parse_number

HEAD_WORDS = {"slotted": "slotted", "slot": "slotted", "cross": "cross", "jis": "JIS cross", "hex": "hex",
              "two-pin": "two-pin", "pin": "two-pin", "knurled": "knurled"}  # fmt: skip
HAND_WORDS: dict[str, Hand] = {
    "rh": "right", "right-hand": "right", "lh": "left", "left-hand": "left", "lh?": "unknown", "rh?": "unknown",
    "hand?": "unknown",
}  # fmt: skip
CLAUSES = ("under", "hides", "preset", "marks", "wire", "no bath", "no fingers", "seal", "tool", "note", "back", "after", "test")
_COUNT = re.compile(r"^(?:[x×](\d+)|(\d+)[x×])$", re.IGNORECASE)
_SIZE = re.compile(r"^(?:M\d+(?:[.,]\d+)?(?:[x×]\d+(?:[.,]\d+)?)?|\d+(?:[.,]\d+)?(?:[x×]\d+(?:[.,]\d+)?)*mm)$", re.IGNORECASE)
_MINUTES = re.compile(r"^(\S+)\s*min(?:utes?)?$", re.IGNORECASE)
_EXPECTED = "a kind first, for instance: screw x3 top cover M1.4x3 cross chrome -> B2"


def understand_step(text: str, step_id: str) -> Step:
    """A step from one typed line.

    Raises InvalidInput: the line does not begin with a kind, has no home, or a clause cannot be understood.
    """
    parts = [part.strip() for part in text.split(";") if part.strip()]
    if not parts:
        raise InvalidInput("Step", text, _EXPECTED)
    fields: dict[str, Any] = {}
    head, arrow, tray = parts[0].partition("->")
    if arrow:
        fields["tray"] = _compartment(tray)
    kind = _read_head(head.split(), fields)
    for clause in parts[1:]:
        _read_clause(clause, fields)
    if kind in THREADED - {"screw"} and not fields.get("hand"):
        fields["hand"] = "unknown"
    return Step(step_id=step_id, kind=kind, **fields)


def _compartment(text: str) -> str:
    return re.sub(r"^(tray|compartment)\s+", "", text.strip(), flags=re.IGNORECASE).upper()


def _read_head(words: list[str], fields: dict[str, Any]) -> StepKind:
    if words and words[0].isdecimal():
        fields["count"] = int(words.pop(0))
    lowered = [word.lower() for word in words]
    for length in (2, 1):
        phrase = " ".join(lowered[:length])
        if len(words) >= length and phrase in KIND_WORDS:
            fields["home"] = _read_words(words[length:], fields)
            return KIND_WORDS[phrase]
    last = lowered[-1] if lowered else ""
    if last in KIND_WORDS and len(words) > 1:  # "top cover" said the natural way round
        fields["home"] = _read_words(words, fields)
        return KIND_WORDS[last]
    raise InvalidInput("Step", " ".join(words), _EXPECTED)


def _read_words(words: list[str], fields: dict[str, Any]) -> str:
    """Take count, size, head, finish and hand out of the words; what is left is the home."""
    home = []
    for word in words:
        low = word.lower()
        count = _COUNT.match(low)
        if count:
            fields["count"] = int(count.group(1) or count.group(2))
        elif _SIZE.match(word):
            fields["size"] = word.replace(",", ".").replace("×", "x")
        elif low in HEAD_WORDS:
            jis = low == "cross" and fields.get("head") == "JIS cross"  # "JIS cross" is one head said in two words
            fields["head"] = "JIS cross" if jis else HEAD_WORDS[low]
        elif low in FINISHES and low:
            fields["finish"] = low
        elif low in HAND_WORDS:
            fields["hand"] = HAND_WORDS[low]
        else:
            home.append(word)
    return " ".join(home)


def _names(text: str) -> tuple[str, ...]:
    return tuple(name.strip() for name in re.split(r"\s*(?:\+|&|\band\b)\s*", text) if name.strip())


def _read_clause(clause: str, fields: dict[str, Any]) -> None:
    low = clause.lower()
    minutes = _MINUTES.match(clause)
    if minutes:
        fields["minutes"] = parse_number(minutes.group(1), "Minutes")
        return
    if low in ("no bath", "no fingers"):
        fields[low.replace(" ", "_")] = True
        return
    key, _, rest = clause.partition(" ")
    reader = _READERS.get(key.lower())
    if reader is None or not rest.strip():
        raise InvalidInput("Step", clause, f"a clause such as {', '.join(CLAUSES)}, or 5 min")
    reader(rest.strip(), fields)


def _text_into(name: str) -> Callable[[str, dict[str, Any]], None]:
    def read(text: str, fields: dict[str, Any]) -> None:
        fields[name] = text

    return read


def _names_into(name: str) -> Callable[[str, dict[str, Any]], None]:
    def read(text: str, fields: dict[str, Any]) -> None:
        fields[name] = (*fields.get(name, ()), *_names(text))

    return read


def _read_wire(text: str, fields: dict[str, Any]) -> None:
    ends = re.match(r"^(\S+)\s+(?:from\s+)?(.+?)\s+to\s+(.+)$", text)
    if ends is None:
        raise InvalidInput("Wire", text, "colour and both ends, for instance: wire red clip+ to switch 1")
    fields["wire_colour"], fields["wire_from"], fields["wire_to"] = ends.groups()


def _read_seal(text: str, fields: dict[str, Any]) -> None:
    if text.lower() not in SEALANTS:
        raise InvalidInput("Sealant", text, "soft, hard or none")
    fields["sealant"] = text.lower()


_READERS: dict[str, Callable[[str, dict[str, Any]], None]] = {
    "under": _names_into("under"), "hides": _names_into("hides"), "after": _names_into("back_after"),
    "preset": _text_into("preset"), "marks": _text_into("marks"), "tool": _text_into("tool"), "note": _text_into("note"),
    "back": _text_into("orientation"), "test": _text_into("test_before"), "wire": _read_wire, "seal": _read_seal,
}  # fmt: skip


def typed_form(step: Step) -> str:
    """The line that gives this step again when typed."""
    words = [step.kind, f"x{step.count}" if step.count > 1 else "", step.home, step.size]
    words += [step.head.removesuffix(" cross") if step.head == "JIS cross" else step.head, step.finish]
    words.append({"right": "rh", "left": "lh", "unknown": "hand?", "": ""}[step.hand])
    line = " ".join(word for word in words if word)
    clauses = [
        *(f"{key} {' + '.join(names)}" for key, names in _listed(step) if names),
        *(f"{key} {text}" for key, text in _texts(step) if text),
    ]
    if step.wire_colour:
        clauses.append(f"wire {step.wire_colour} {step.wire_from} to {step.wire_to}")
    clauses += [name for name, said in (("no bath", step.no_bath), ("no fingers", step.no_fingers)) if said]
    if step.minutes:
        clauses.append(f"{step.minutes:g} min")
    tray = f" -> {step.tray}" if step.tray else ""
    return "; ".join([line + tray, *clauses])


def _listed(step: Step) -> tuple[tuple[str, tuple[str, ...]], ...]:
    return ("under", step.under), ("hides", step.hides), ("after", step.back_after)


def _texts(step: Step) -> tuple[tuple[str, str], ...]:
    return (
        ("preset", step.preset), ("marks", step.marks), ("tool", step.tool), ("seal", step.sealant),
        ("back", step.orientation), ("test", step.test_before), ("note", step.note),
    )  # fmt: skip


@dataclass(frozen=True)
class Vocabulary:
    """Words a line may be completed with: homes and part names met so far, and tray compartments in order of use."""

    homes: tuple[str, ...] = ()
    trays: tuple[str, ...] = ()


MOST_OFFERED = 8
_FIRST = tuple(dict.fromkeys((*KINDS, *KIND_WORDS)))
_WORDS = tuple(word for word in (*HEAD_WORDS, *FINISHES, *HAND_WORDS) if word)


def complete_line(text: str, vocabulary: Vocabulary) -> tuple[str, ...]:
    """Whole lines that ``text`` may become, best first. ``vocabulary``: places, kinds and sizes known on this device."""
    before, arrow, after = text.rpartition("->")
    if arrow and ";" not in after:
        wanted = after.strip().upper()
        offers = [tray for tray in _compartments(vocabulary.trays) if tray.startswith(wanted) and tray != wanted]
        return tuple(f"{before}-> {tray}" for tray in offers[:MOST_OFFERED])
    clause = text.rpartition(";")[2]
    if clause is not text:
        begun = _completed(text, clause.strip(), CLAUSES)
        if begun or " " not in clause.strip():
            return tuple(begun)
    words = clause.split()
    if len(words) <= 1 and clause is text and not text.endswith(" "):
        return tuple(_completed(text, text.strip(), _FIRST))
    for length in (3, 2, 1):
        tail = " ".join(words[-length:])
        if len(words) > length or (clause is not text and len(words) == length):
            found = list(_completed(text, tail, (*vocabulary.homes, *_WORDS)))
            if found:
                return tuple(found)
    return ()


def _completed(text: str, tail: str, choices: Iterable[str]) -> list[str]:
    wanted = tail.lower()
    if not wanted:
        return []
    stem = text[: len(text) - len(tail)] if text.endswith(tail) else text
    found = (choice for choice in choices if choice.lower().startswith(wanted) and choice.lower() != wanted)
    return [stem + choice for choice in list(dict.fromkeys(found))[:MOST_OFFERED]]


def _compartments(used: tuple[str, ...]) -> tuple[str, ...]:
    """The next free compartment first, then the one used last, then the others."""
    if not used:
        return ("A1",)
    return tuple(dict.fromkeys((next_compartment(used[-1]), *reversed(used))))


def next_compartment(tray: str) -> str:
    """The compartment after this one: A1, A2 … A9, B1."""
    place = re.match(r"^([A-Z]+)(\d+)$", tray)
    if place is None:
        return "A1"
    row, number = place.group(1), int(place.group(2)) + 1
    return f"{row}{number}" if number <= 9 else f"{chr(ord(row[-1]) + 1) if row < 'Z' else 'A'}1"
