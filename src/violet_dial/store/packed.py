"""Versions of a document packed small: some whole, the others as what changed since the last whole one.

A change is made again exactly from its whole version, so nothing is thinned out that could not be. Whole versions come
often enough that a version is never more than one step from one: damage to a row costs at most the versions that lean
on it.
"""

import struct
import zlib

WORTH = 0.25  # a change larger than this share of the whole, packed, makes the version a whole one
MOST_LEANING = 50  # versions that may lean on one whole version
LEVEL = 1  # of zlib: an act is to be kept at once
_HEAD = struct.Struct(">II")  # characters the same at the beginning and at the end


def packed(document: bytes) -> bytes:
    """A document by itself."""
    return zlib.compress(document, LEVEL)


def unpacked(data: bytes, base: bytes | None = None, most: int = 50_000_000) -> bytes:
    """The document again; ``base`` is the whole version of one that is kept as a change.

    Raises zlib.error, struct.error: the data are damaged.
    """
    unpacker = zlib.decompressobj()
    found = unpacker.decompress(data, most)
    if not unpacker.eof:
        raise zlib.error("incomplete, or larger than any document may be")
    if base is None:
        return found
    head, tail = _HEAD.unpack_from(found)
    if head + tail > len(base):
        raise zlib.error("a change that does not fit its whole version")
    return base[:head] + found[_HEAD.size :] + base[len(base) - tail :]


def change(document: bytes, base: bytes) -> bytes:
    """What changed since ``base``, packed: everything between what both begin and end with."""
    head = _same(document, base)
    room = min(len(document), len(base)) - head
    tail = min(_same(document[::-1], base[::-1]), room)
    return zlib.compress(_HEAD.pack(head, tail) + document[head : len(document) - tail], LEVEL)


def _same(one: bytes, other: bytes) -> int:
    """How many bytes two texts have in common at the beginning: halving, each half compared at once."""
    most = min(len(one), len(other))
    if one[:most] == other[:most]:
        return most
    low, high = 0, most
    while high - low > 1:
        middle = (low + high) // 2
        if one[low:middle] == other[low:middle]:
            low = middle
        else:
            high = middle
    return low
