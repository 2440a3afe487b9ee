"""The list of kept instruments as JSON text, for wherever settings are kept."""

from pydantic import ConfigDict, TypeAdapter, ValidationError, with_config

from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.kept import Kept

with_config(ConfigDict(extra="forbid", allow_inf_nan=False))(Kept)
_LIST = TypeAdapter(tuple[Kept, ...])


def instruments_to_json(kept: tuple[Kept, ...]) -> str:
    """The list as one line of JSON."""
    return _LIST.dump_json(kept).decode()


def instruments_from_json(text: str) -> tuple[Kept, ...]:
    """The list from JSON; empty text is an empty list. Raises InvalidInput: not such a list."""
    if not text:
        return ()
    try:
        return _LIST.validate_json(text)
    except ValidationError as error:
        fault = error.errors(include_url=False)[0]
        raise InvalidInput("Kept instruments", text, f"a list as this application writes it ({fault['msg']})") from error
