"""Photos: checked, named by their content, and made small for the screen; all decoding in a process that can be ended."""

import hashlib
from dataclasses import dataclass, replace
from pathlib import PurePath

from violet_dial.core.errors import InvalidInput
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job, Photo
from violet_dial.services.decoder import DECODER, SMALL, CannotDecode

MOST_BYTES = 40_000_000
MEDIA_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
EXPECTED = f"a JPEG, PNG or WebP picture of at most {MOST_BYTES // 1_000_000} MB"


@dataclass(frozen=True)
class CheckedPhoto:
    """A photo's record and its content."""

    record: Photo
    content: bytes


def check_photo(content: bytes, file_name: str, caption: str = "") -> CheckedPhoto:
    """The record of a photo after its content was found to be one. It may take seconds; call it beside the window's work.

    Raises InvalidInput: too large, or not a JPEG, PNG or WebP picture that can be opened.
    """
    if len(content) > MOST_BYTES:
        raise InvalidInput("Photo", f"{file_name}, {len(content)} bytes", EXPECTED)
    try:
        kind, _ = DECODER.decode(content)
    except CannotDecode as error:
        raise InvalidInput("Photo", file_name, f"{EXPECTED} ({error})") from error
    digest = hashlib.sha256(content).hexdigest()
    return CheckedPhoto(Photo(digest, PurePath(file_name).name[:300], MEDIA_TYPES[kind], caption), content)


LARGE = 1600  # pixels either way of a photo that is worked on


def thumbnail(content: bytes, pixels: int = SMALL) -> bytes:
    """A small PNG of a photo, turned upright, of at most so many pixels either way. It may take seconds; call it beside the
    window's work. Raises InvalidInput: it cannot be opened.
    """
    try:
        return DECODER.decode(content, pixels)[1]
    except CannotDecode as error:
        raise InvalidInput("Photo", f"{len(content)} bytes", f"a picture that can be opened ({error})") from error


def add_photo(job: Job, photo: Photo, at: str) -> ActResult:
    """A photo whose content is already kept."""
    return ActResult(replace(job, photos=(*job.photos, photo)), "Receive", f"Photo {photo.file_name}")
