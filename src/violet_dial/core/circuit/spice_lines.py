"""Lines of SPICE text: continued lines joined, commands of analysis passed over, notes and name=value pairs read."""

import re
import shlex

from violet_dial.core.errors import InvalidInput

# What to work out and how to print it: of no account for the circuit.
QUIET_COMMANDS = (
    ".op", ".end", ".title", ".tran", ".dc", ".ac", ".tf", ".noise", ".four", ".sens", ".print", ".plot", ".probe", ".save",
    ".meas", ".measure", ".width",
)  # fmt: skip
LONGEST_LINE = 4_000
_NAME = re.compile(r"[\w.]+")
HINTS = (".temp", ".nodeset")  # read as figures
TEMPERATURES = ("temp", "tnom")  # read as figures
QUIET_OPTIONS = (
    "reltol", "abstol", "vntol", "chgtol", "itl1", "itl2", "itl4", "method", "maxord", "numdgt", "noacct", "nopage", "noprint",
)  # fmt: skip


def fault(number: int, text: str, expected: str) -> InvalidInput:
    """What came on a line and what was expected there. ``number``: line number, from 1."""
    return InvalidInput(f"Line {number}", text.strip(), expected)


def check_quiet(number: int, line: str) -> None:
    """A command that changes nothing in the circuit is passed over; any other is refused, not ignored.

    ``number``: line number, from 1.
    """
    command, *words = line.split()
    if command in HINTS:
        return
    if command in (".options", ".option", ".opt"):
        loud = [word for word in words if word.split("=")[0] not in (*QUIET_OPTIONS, *TEMPERATURES)]
        if loud:
            raise fault(number, line, f"options of accuracy and printing only; leave {loud[0]} out")
    elif command in (".include", ".inc", ".lib"):
        raise fault(
            number, line, "the lines themselves: files are taken in by --include on the command line alone; leave this one out"
        )
    elif command not in QUIET_COMMANDS:
        raise fault(number, line, "one of .model .param .subckt .ends or a command of analysis; leave this one out")


def tidied(text: str) -> str:
    """Spaces single, none around an equals sign; in time that grows with the length alone."""
    return " ".join(text.split()).replace(" = ", "=").replace(" =", "=").replace("= ", "=")


def words_of(text: str) -> list[str]:
    """The words of a tidy line; what stands in braces is one, spaces and all."""
    words: list[str] = []
    depth = 0
    for piece in text.split(" "):
        if depth and words:
            words[-1] += f" {piece}"
        else:
            words.append(piece)
        depth = max(depth + piece.count("{") - piece.count("}"), 0)
    return [word for word in words if word]


def joined(lines: list[str]) -> list[tuple[int, str]]:
    """Lines with continuations joined, spaces single; title, comments and empty lines left out, notes kept.

    Raises InvalidInput: a line longer than any part needs.
    """
    found: list[tuple[int, str]] = []
    for number, raw in _without_control(lines):
        line = raw.strip()
        if line.startswith("*:"):
            _check_length(number, line)
            found.append((number, line))
            continue
        line = line.split(";")[0].split(" $")[0].strip()
        if not line or line.startswith("*"):
            continue
        if line.startswith("+"):
            last = next((place for place in range(len(found) - 1, -1, -1) if not found[place][1].startswith("*:")), None)
            if last is None:
                raise fault(number, raw, "a line before it to go on from")
            found[last] = (found[last][0], f"{found[last][1]} {line[1:].strip()}")
            _check_length(number, found[last][1])
        else:
            _check_length(number, line)
            found.append((number, line))
    return [(number, line if line.startswith("*:") else tidied(line)) for number, line in found]


def _check_length(number: int, line: str) -> None:
    if len(line) > LONGEST_LINE:
        raise fault(number, f"{len(line)} characters", f"at most {LONGEST_LINE}")


def _without_control(lines: list[str]) -> list[tuple[int, str]]:
    """Numbered lines after the title up to .end, without the blocks of commands between .control and .endc.

    Raises InvalidInput: a part after .end, which nobody would read.
    """
    found, inside, ended = [], False, False
    for number, raw in enumerate(lines[1:], start=2):
        word = raw.strip().lower()
        if ended and word and not word.startswith("*"):
            raise fault(number, raw, "nothing after .end; put it above")
        ended = ended or (word == ".end" and not inside)
        if word == ".control":
            inside = True
        if not inside:
            found.append((number, raw))
        if word == ".endc":
            inside = False
    return found


def read_note(number: int, text: str, notes: dict[str, dict[str, str]]) -> None:
    """``*: NAME key=value key="two words"``. ``number``: line number, from 1."""
    try:
        words = shlex.split(text)
    except ValueError as error:
        raise fault(number, text, "a note with its quotes closed") from error
    if not words:
        return
    for word in words[1:]:
        key, sign, value = word.partition("=")
        if not sign:
            raise fault(number, text, 'key=value after the name, for instance kind=wire place="battery box"')
        key = {"tolerance": "tol"}.get(key.lower(), key.lower())
        notes.setdefault(words[0].lower(), {})[key] = value


def pairs(number: int, text: str) -> dict[str, str]:
    """name=value pairs; values may stand in braces. ``number``: line number, from 1."""
    found: dict[str, str] = {}
    for word in words_of(tidied(text)):
        name, sign, value = word.partition("=")
        if not sign or not value or not _NAME.fullmatch(name):
            raise fault(number, text, "name=value pairs")
        found[name.lower()] = value
    return found
