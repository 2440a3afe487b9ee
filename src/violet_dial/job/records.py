"""The records a job is made of, found by walking the types from the job down; and the doors that read by them."""

import dataclasses
from collections.abc import Iterator
from functools import lru_cache
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from pydantic import ConfigDict, TypeAdapter, with_config

_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False)


def records_in(hint: Any, seen: set[type] | None = None) -> Iterator[type]:
    """Every record (dataclass) that a type is made of, itself first, each once."""
    seen = set() if seen is None else seen
    if isinstance(hint, type) and dataclasses.is_dataclass(hint):
        if hint not in seen:
            seen.add(hint)
            yield hint
            for inner in field_types(hint).values():
                yield from records_in(inner, seen)
        return
    for part in get_args(hint):
        yield from records_in(part, seen)


@lru_cache(maxsize=128)
def field_types(record: type) -> dict[str, Any]:
    """The types of a record's fields with their limits."""
    hints = get_type_hints(record, include_extras=True)
    return {item.name: hints[item.name] for item in dataclasses.fields(record)}


@lru_cache(maxsize=1)
def _made_strict() -> None:
    """Unknown fields and figures that are not finite are refused in every record of the job."""
    from violet_dial.job.document import Job

    for record in records_in(Job):
        with_config(_STRICT)(record)


@lru_cache(maxsize=256)
def validator(hint: Any) -> TypeAdapter[Any]:
    """What reads and writes a type by the limits at its fields."""
    _made_strict()
    return TypeAdapter(hint)


def plain(hint: Any) -> Any:
    """A type without its limits."""
    return get_args(hint)[0] if get_origin(hint) is Annotated else hint


def item_of(hint: Any) -> Any | None:
    """The type of the things in a list of any length; None when the type is none."""
    bare = plain(hint)
    inner = get_args(bare)
    return inner[0] if get_origin(bare) is tuple and len(inner) == 2 and inner[1] is Ellipsis else None
