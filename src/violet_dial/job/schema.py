"""The job document as JSON: read strictly, checked before it is kept, written compactly, described by a JSON Schema.

Older documents are brought up to date by one small function a format. Frozen documents of every format are in
``tests/job/formats``; they are real files and are never made again.
"""

import dataclasses
import json
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from pydantic import ValidationError
from pydantic_core import PydanticSerializationError

from violet_dial.core.errors import InvalidInput
from violet_dial.job import document
from violet_dial.job.contents import Contents, Fetch
from violet_dial.job.document import FORMAT_VERSION
from violet_dial.job.records import field_types, item_of, validator

Raw = dict[str, Any]


def from_1(raw: Raw) -> Raw:
    """Format 1 had no findings, walk, safety gate, strip-down and tracing: they begin empty."""
    return {**raw, "format_version": 2}


def from_2(raw: Raw) -> Raw:
    """Format 2 had no captures of instruments and no choice of what the next test is to save: they begin empty."""
    return {**raw, "format_version": 3}


def from_3(raw: Raw) -> Raw:
    """Format 3 grew under its one number: Expose, Power, Prove, Practise, colour and eye came to it field by field; what a
    document of its earlier days lacks begins empty. It kept a contact's readings as pairs, and no captures at map, contacts
    and cells."""
    proving = raw.get("proving")
    if not isinstance(proving, dict) or not isinstance(proving.get("rounds"), list):
        return {**raw, "format_version": 4}
    rounds = [_round_from_3(one) for one in proving["rounds"]]
    return {**raw, "proving": {**proving, "rounds": rounds}, "format_version": 4}


def _round_from_3(raw: Any) -> Any:
    if not isinstance(raw, dict) or not isinstance(raw.get("readings"), list):
        return raw
    pairs = (pair if isinstance(pair, list) and len(pair) == 2 else (pair, None) for pair in raw["readings"])
    return {**raw, "readings": [{"where": where, "ohm": ohm} for where, ohm in pairs]}


def from_4(raw: Raw) -> Raw:
    """Format 4 did not keep what said the light (a lux meter, as was taken), nor what a coach had told before."""
    return {**raw, "format_version": 5}


UPGRADES: dict[int, Callable[[Raw], Raw]] = {1: from_1, 2: from_2, 3: from_3, 4: from_4}


def upgraded(raw: Raw) -> Raw:
    """The raw document of an older format as one of this format; one of this or an unknown format as it is."""
    version = raw.get("format_version")
    if not isinstance(version, int) or version not in UPGRADES:
        return raw
    for step in range(version, FORMAT_VERSION):
        raw = UPGRADES[step](raw)
    return raw


MOST_JSON_BYTES = 20_000_000
Place = tuple[str | int, ...]


def job_to_json(job: document.Job) -> bytes:
    """The document as compact JSON, UTF-8, with its pictures and curves in it.

    Raises InvalidInput: a text has half of a letter in it (a lone surrogate), which no file can hold.
    """
    return _dumped(document.Job, job, None)


def job_to_kept(job: document.Job) -> tuple[bytes, Contents]:
    """The document as it is kept: compact JSON without its pictures and curves, and these by their hash. What did not change
    since it was written last is not written again. Raises InvalidInput: as `job_to_json`.
    """
    contents: Contents = {}
    return _written(document.Job, job, contents), contents


Written = tuple[object, bytes, Contents]  # a record (held, so that it stays itself), its JSON, its contents
LARGE_BYTES, MOST_LARGE, MOST_SMALL = 4_096, 64, 50_000  # JSON of a record, and how many of each size are remembered
_LARGE: dict[int, Written] = {}  # by identity
_SMALL: dict[int, Written] = {}


@lru_cache(maxsize=256)
def _fields(record: type) -> tuple[tuple[bytes, str, Any, bool], ...]:
    """A record's fields: as a key of JSON, their names, their types, or of a list of records that of one of them."""
    found = []
    for name, hint in field_types(record).items():
        item = item_of(hint)
        several = isinstance(item, type) and dataclasses.is_dataclass(item)
        found.append((b'"' + name.encode() + b'":', name, item if several else hint, several))
    return tuple(found)


def _written(hint: Any, value: Any, contents: Contents) -> bytes:
    """The JSON of a value, put together from that of the records in it."""
    if not (isinstance(hint, type) and dataclasses.is_dataclass(hint)):
        return _dumped(hint, value, contents)
    known = _SMALL.get(id(value)) or _LARGE.get(id(value))
    if known is not None and known[0] is value:
        contents.update(known[2])
        return known[1]
    own: Contents = {}
    parts = []
    for key, name, inner, several in _fields(hint):
        held = getattr(value, name)
        if several:
            parts.append(key + b"[" + b",".join([_written(inner, one, own) for one in held]) + b"]")
        else:
            parts.append(key + _written(inner, held, own))
    text = b"{" + b",".join(parts) + b"}"
    kept, most = (_LARGE, MOST_LARGE) if len(text) > LARGE_BYTES else (_SMALL, MOST_SMALL)
    if len(kept) >= most:
        kept.clear()
    kept[id(value)] = (value, text, own)
    contents.update(own)
    return text


def _dumped(hint: Any, value: Any, contents: Contents | None) -> bytes:
    try:
        return validator(hint).dump_json(value, context=contents)
    except PydanticSerializationError as error:
        raise InvalidInput("Text", "half of a letter (a lone surrogate)", "whole letters; type it anew") from error


def job_from_json(data: bytes, fetch: Fetch | None = None) -> document.Job:
    """The document from JSON of this or an older format; ``fetch`` gives contents that are kept beside it by their hash.

    Raises InvalidInput: not JSON, too large, a newer format, or a field with a wrong value; ``field`` is the path to it.
    """
    if len(data) > MOST_JSON_BYTES:
        raise InvalidInput("Job", f"{len(data)} bytes", f"at most {MOST_JSON_BYTES} bytes of JSON")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InvalidInput("Job", data[:40].decode("utf-8", "replace"), "a job document in JSON") from error
    if not isinstance(raw, dict):
        raise InvalidInput("Job", type(raw).__name__, "a JSON object")
    version = raw.get("format_version")
    if isinstance(version, int) and version > document.FORMAT_VERSION:
        expected = f"format {document.FORMAT_VERSION} or older; open it with a newer Violet Dial"
        raise InvalidInput("Job format", version, expected)
    old = version != document.FORMAT_VERSION
    try:
        text = json.dumps(upgraded(raw)) if old else data
        job: document.Job = validator(document.Job).validate_json(text, context=fetch)
    except ValidationError as error:
        raise _first_fault(error, ()) from error
    return job


def check_kept(before: document.Job | None, after: document.Job, size: int) -> None:
    """Make sure that the next version can be read again, by the rules that read it; only what is new is gone over.

    Raises InvalidInput: a field beyond its limit, named as at the bench; nothing may be kept then.

    Parameters
    ----------
    before : Job or None; a version that was checked already, whose parts need not be checked again
    size : int; its size in bytes of JSON
    """
    if size > MOST_JSON_BYTES:
        raise InvalidInput("This job", f"{size} bytes", f"at most {MOST_JSON_BYTES} bytes; begin a new job for the rest")
    _check(document.Job, before, after, ())


def _check(hint: Any, before: Any, after: Any, place: Place) -> None:
    if after is before and before is not None:
        return
    item = item_of(hint)
    if item is not None and isinstance(after, tuple):
        _check_list(hint, item, (before if isinstance(before, tuple) else (), after), place)
    elif isinstance(hint, type) and dataclasses.is_dataclass(hint) and isinstance(after, hint):
        for name, inner in field_types(hint).items():
            _check(inner, getattr(before, name, None), getattr(after, name), (*place, name))
    else:
        try:
            validator(hint).validate_json(validator(hint).dump_json(after, warnings=False))
        except ValidationError as error:
            raise _first_fault(error, place) from error


def _check_list(hint: Any, item: Any, both: tuple[tuple[Any, ...], tuple[Any, ...]], place: Place) -> None:
    """A list: how long it is, and every thing in it that was not in it before."""
    before, after = both
    for limit in getattr(hint, "__metadata__", ()):
        most = getattr(limit, "max_length", None)
        if most is not None and len(after) > most:
            raise InvalidInput(said_place(place), f"{len(after)} of them", f"at most {most}")
    known = {id(one): one for one in before}
    for at, one in enumerate(after):
        if id(one) not in known:
            was = before[at] if at < len(before) and type(before[at]) is type(one) else None
            _check(item, was, one, (*place, at))


def said_place(place: Place) -> str:
    """A place in the document as said at the bench: the field's name, and which of several."""
    names = [part for part in place if isinstance(part, str)]
    which = [part for part in place if isinstance(part, int)]
    said = (names[-1] if names else "job").replace("_", " ")
    owner = f" of number {which[-1] + 1}" if which else ""
    return f"{said[:1].upper()}{said[1:]}{owner}"


def _first_fault(error: ValidationError, kept_at: Place) -> InvalidInput:
    """The first thing wrong: while reading by its path, while keeping (``kept_at``) as said at the bench."""
    fault = error.errors(include_url=False)[0]
    limits, given, message = fault.get("ctx", {}), fault.get("input"), str(fault["msg"]).lower()
    if fault["type"] == "string_too_long" and isinstance(given, str):
        given, message = f"{len(given)} characters", f"at most {limits['max_length']} characters"
    elif fault["type"] == "too_long":
        given, message = f"{limits['actual_length']} of them", f"at most {limits['max_length']}"
    elif fault["type"] == "less_than_equal":
        message = f"at most {limits['le']:g}"
    elif fault["type"] == "greater_than_equal":
        message = f"{limits['ge']:g} or more"
    elif fault["type"] == "finite_number":
        message = "a finite number"
    if kept_at:
        return InvalidInput(said_place((*kept_at, *fault["loc"])), given, message)
    return InvalidInput(".".join(str(part) for part in fault["loc"]) or "job", given, message)


def job_schema() -> dict[str, Any]:
    """JSON Schema of the document (draft 2020-12)."""
    schema = validator(document.Job).json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    return schema


if __name__ == "__main__":
    import sys

    sys.stdout.write(json.dumps(job_schema(), indent=2) + "\n")
