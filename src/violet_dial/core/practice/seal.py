"""A text closed so that nobody reads it by looking: what an exercise hides, in the job, the bundle, the log or a file.

It keeps out eyes, not burglars: the bench of the trainee must open it to answer, so whoever takes the program apart can do so
too. Nothing here protects a secret that matters; no key is kept, none could be.
"""

import base64
import binascii
import hashlib
import zlib

from violet_dial.core.errors import InvalidInput

HEAD = "VD1:"
_PERSON = b"violet-dial seal"  # BLAKE2: what it is for
_SALT, _MARK = 12, 8  # bytes
MOST_TEXT = 400_000
EXPECTED = "a sealed text as this application writes it, whole"


def sealed(text: str, salt: str) -> str:
    """The text closed; the same text and salt give the same. ASCII, one line.

    ``text``: at most `MOST_TEXT` characters. Raises InvalidInput: too long.
    """
    if len(text) > MOST_TEXT:
        raise InvalidInput("What is sealed", f"{len(text)} characters", f"at most {MOST_TEXT}")
    data = zlib.compress(text.encode("utf-8"), 9)
    grain = hashlib.blake2b(salt.encode("utf-8") + data, digest_size=_SALT, person=_PERSON).digest()
    mark = hashlib.blake2b(grain + data, digest_size=_MARK, person=_PERSON).digest()
    return HEAD + base64.urlsafe_b64encode(grain + mark + _mixed(data, grain)).decode("ascii")


def unsealed(text: str) -> str:
    """What was closed. Raises InvalidInput: not a sealed text, or one that was changed."""
    if not text.startswith(HEAD) or len(text) > 2 * MOST_TEXT:
        raise InvalidInput("Sealed", text[:20] or "nothing", EXPECTED)
    try:
        raw = base64.b64decode(text[len(HEAD) :], altchars=b"-_", validate=True)
    except (binascii.Error, ValueError) as error:
        raise InvalidInput("Sealed", text[:20], EXPECTED) from error
    grain, mark, data = raw[:_SALT], raw[_SALT : _SALT + _MARK], raw[_SALT + _MARK :]
    data = _mixed(data, grain)
    if hashlib.blake2b(grain + data, digest_size=_MARK, person=_PERSON).digest() != mark:
        raise InvalidInput("Sealed", "a text that was changed", EXPECTED)
    reader = zlib.decompressobj()
    plain = reader.decompress(data, 4 * MOST_TEXT)
    if reader.unconsumed_tail:
        raise InvalidInput("Sealed", "more than an exercise can hold", EXPECTED)
    return plain.decode("utf-8")


def _mixed(data: bytes, grain: bytes) -> bytes:
    """The data laid over a stream that follows from the grain; twice is the data again."""
    stream = hashlib.shake_256(_PERSON + grain).digest(len(data))
    return bytes(datum ^ other for datum, other in zip(data, stream, strict=True))
