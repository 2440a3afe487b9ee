"""Photos: checked, named by their content, and made small for the screen."""

import hashlib
import io
from dataclasses import dataclass, replace
from pathlib import PurePath

from violet_dial.core.errors import InvalidInput
from violet_dial.job.act import Done
from violet_dial.job.document import Job, Photo

MOST_BYTES = 40_000_000
MOST_PIXELS = 120_000_000
FORMATS = ("JPEG", "PNG", "WEBP")  # nothing else is even tried: some formats start other programs
MEDIA_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
THUMBNAIL_PIXELS = 320


@dataclass(frozen=True)
class CheckedPhoto:
    """A photo's record and its content."""

    record: Photo
    content: bytes


def check_photo(content: bytes, file_name: str, caption: str = "") -> CheckedPhoto:
    """The record of a photo after its content was found to be one.

    Raises
    ------
    InvalidInput
        Too large, or not a JPEG, PNG or WebP picture.
    """
    from PIL import Image

    expected = f"a JPEG, PNG or WebP picture of at most {MOST_BYTES // 1_000_000} MB"
    if len(content) > MOST_BYTES:
        raise InvalidInput("Photo", f"{file_name}, {len(content)} bytes", expected)
    try:
        with Image.open(io.BytesIO(content), formats=FORMATS) as picture:
            media_type = MEDIA_TYPES.get(picture.format or "", "")
            pixels = picture.width * picture.height
            if pixels <= MOST_PIXELS:
                picture.verify()
    except Exception as error:  # Pillow raises many kinds on damaged pictures
        raise InvalidInput("Photo", file_name, expected) from error
    if not media_type or pixels > MOST_PIXELS:
        raise InvalidInput("Photo", file_name, expected)
    digest = hashlib.sha256(content).hexdigest()
    record = Photo(digest, PurePath(file_name).name, media_type, caption)
    return CheckedPhoto(record, content)


def thumbnail(content: bytes, pixels: int = THUMBNAIL_PIXELS) -> bytes:
    """A small PNG of a photo, at most ``pixels`` on its longer side, turned upright."""
    from PIL import Image, ImageOps

    try:
        with Image.open(io.BytesIO(content), formats=FORMATS) as picture:
            picture.draft("RGB", (pixels * 2, pixels * 2))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
            upright.thumbnail((pixels, pixels))
    except Exception as error:
        raise InvalidInput("Photo", f"{len(content)} bytes", "a picture that can be opened") from error
    out = io.BytesIO()
    upright.save(out, "PNG")
    return out.getvalue()


def add_photo(job: Job, photo: Photo, at: str) -> Done:
    """A photo whose content is already kept."""
    return Done(replace(job, photos=(*job.photos, photo)), "Receive", f"Photo {photo.file_name}")
