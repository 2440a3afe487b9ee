"""Pictures and curves of a document: in the record as they are, on the disk by the hash of their content beside the document, so
that no version carries them again. Without a place for contents (a bundle) they stand in the document itself."""

import base64
import binascii
import hashlib
import json
from collections.abc import Callable
from typing import Annotated, Any

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.errors import VioletDialError

MARK = "sha256:"  # no picture and no curve begins so
Contents = dict[str, tuple[str, bytes]]  # media type and content by hash
Fetch = Callable[[str], bytes]  # content by hash


class Beside:
    """Marks a field whose value is kept beside the document; ``nothing`` stands for content that is lost: the job is read all the
    same."""

    def __init__(self, media_type: str, pack: Callable[[Any], bytes], unpack: Callable[[bytes], Any], nothing: Any) -> None:
        self._media_type, self._pack, self._unpack, self._nothing = media_type, pack, unpack, nothing

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> Any:
        from pydantic_core import core_schema

        writes = core_schema.plain_serializer_function_ser_schema(self._write, info_arg=True, when_used="json")
        return core_schema.with_info_before_validator_function(self._read, handler(source), serialization=writes)

    def _write(self, value: Any, info: Any) -> Any:
        if info.context is None or not value:
            return value
        try:
            content = self._pack(value)
        except (ValueError, binascii.Error):
            return value  # nothing that could be packed: what it is is said where it is read
        digest = hashlib.sha256(content).hexdigest()
        info.context[digest] = (self._media_type, content)
        return f"{MARK}{digest}"

    def _read(self, value: Any, info: Any) -> Any:
        if not isinstance(value, str) or not value.startswith(MARK):
            return value
        if info.context is None:
            return self._nothing
        try:
            return self._unpack(info.context(value.removeprefix(MARK)))
        except (VioletDialError, ValueError):
            return self._nothing


def _numbers(content: bytes) -> tuple[float, ...]:
    return tuple(json.loads(content))


def _text(content: bytes) -> str:
    return base64.b64encode(content).decode()


CURVE = Beside("application/json", lambda value: json.dumps(value, separators=(",", ":")).encode(), _numbers, ())
WEBP = Beside("image/webp", lambda value: base64.b64decode(value, validate=True), _text, "")

Curve = Annotated[tuple[float, ...], MaxLen(600), CURVE]
SpectrumNm = Annotated[tuple[Annotated[float, Ge(200), Le(2500)], ...], MaxLen(2000), CURVE]
SpectrumValues = Annotated[tuple[Annotated[float, Ge(0), Le(1e12)], ...], MaxLen(2000), CURVE]
SmallPicture = Annotated[str, MaxLen(6_000), WEBP]  # WebP in base64
DialPicture = Annotated[str, MaxLen(1_000_000), WEBP]
