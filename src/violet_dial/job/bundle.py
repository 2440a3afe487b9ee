"""The bundle: a zip of job.json, what the stations hold in open formats, and photos. It opens anywhere and imports back
equal: job.json alone is read back."""

import hashlib
import io
import zipfile
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.job.archive import MOST_TOTAL_BYTES, member, put, read_zip
from violet_dial.job.document import Job
from violet_dial.job.schema import MOST_JSON_BYTES, job_from_json, job_to_json

MOST_PHOTO_BYTES = 40_000_000
Member = tuple[str, str]  # its name in the bundle, and its text


@dataclass(frozen=True)
class Bundle:
    """A job and the content of its photos by SHA-256."""

    job: Job
    photos: dict[str, bytes]


def write_bundle(bundle: Bundle, members: tuple[Member, ...] = ()) -> bytes:
    """The bundle as the bytes of a zip file, with what the stations hold beside the document."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        put(archive, "job.json", job_to_json(bundle.job))
        for name, content in members:
            put(archive, name, content.encode())
        for photo in {photo.sha256: photo for photo in bundle.job.photos}.values():
            if photo.sha256 in bundle.photos:
                put(archive, f"photos/{photo.sha256}", bundle.photos[photo.sha256])
    return out.getvalue()


def read_bundle(data: bytes) -> Bundle:
    """A bundle from the bytes of a zip file; nothing is written anywhere.

    Raises InvalidInput: not a bundle, a member out of place, too many or too large members, a wrong document, or a photo whose
    content is not what its name says or that is missing.
    """
    return read_zip(data, "Bundle", "a Violet Dial bundle (a zip file)", _read)


def _read(archive: zipfile.ZipFile, names: set[str]) -> Bundle:
    if "job.json" not in names:
        raise InvalidInput("Bundle", "a zip without job.json", "a Violet Dial bundle")
    job = job_from_json(member(archive, "job.json", MOST_JSON_BYTES, "Bundle"))
    photos: dict[str, bytes] = {}
    total = 0
    for photo in job.photos:
        name = f"photos/{photo.sha256}"
        if name not in names:
            raise InvalidInput("Bundle", f"no {name}", f"the photo {photo.file_name} inside the bundle")
        content = photos.get(photo.sha256) or member(archive, name, MOST_PHOTO_BYTES, "Bundle")
        total += len(content)
        if hashlib.sha256(content).hexdigest() != photo.sha256 or total > MOST_TOTAL_BYTES:
            raise InvalidInput("Bundle", photo.file_name, "a photo whose content matches its name, in bounded size")
        photos[photo.sha256] = content
    return Bundle(job, photos)
