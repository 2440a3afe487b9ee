"""The bundle: a zip of job.json, what the stations hold in open formats, and photos. It opens anywhere and imports back
equal: job.json alone is read back."""

import hashlib
import io
import zipfile
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Job
from violet_dial.job.schema import MOST_JSON_BYTES, job_from_json, job_to_json

MOST_MEMBERS = 700
MOST_PHOTO_BYTES = 40_000_000
MOST_TOTAL_BYTES = 400_000_000
_FIXED_DATE = (1980, 1, 1, 0, 0, 0)  # so that the same job gives the same bytes
_CHUNK = 1 << 20
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
        _put(archive, "job.json", job_to_json(bundle.job))
        for name, content in members:
            _put(archive, name, content.encode())
        for photo in {photo.sha256: photo for photo in bundle.job.photos}.values():
            if photo.sha256 in bundle.photos:
                _put(archive, f"photos/{photo.sha256}", bundle.photos[photo.sha256])
    return out.getvalue()


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, _FIXED_DATE)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, data)


def read_bundle(data: bytes) -> Bundle:
    """A bundle from the bytes of a zip file; nothing is written anywhere.

    Raises
    ------
    InvalidInput
        Not a bundle, a member out of place, too many or too large members, a wrong document, or a photo whose
        content is not what its name says or that is missing.
    """
    if len(data) > MOST_TOTAL_BYTES:
        raise InvalidInput("Bundle", f"{len(data)} bytes", f"at most {MOST_TOTAL_BYTES} bytes")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _read(archive)
    except InvalidInput:
        raise
    except (zipfile.BadZipFile, EOFError, OSError, ValueError, RuntimeError, NotImplementedError) as error:
        raise InvalidInput("Bundle", str(error) or "damaged data", "a Violet Dial bundle (a zip file)") from error
    except Exception as error:  # zlib.error and struct.error are raised bare by zipfile on hostile data
        if type(error).__module__ not in ("zlib", "struct", "lzma", "builtins"):
            raise
        raise InvalidInput("Bundle", "damaged data", "a Violet Dial bundle (a zip file)") from error


def _read(archive: zipfile.ZipFile) -> Bundle:
    members = archive.infolist()
    if len(members) > MOST_MEMBERS:
        raise InvalidInput("Bundle", f"{len(members)} members", f"at most {MOST_MEMBERS}")
    for member in members:
        _check_name(member.filename)
    names = {member.filename for member in members}
    if len(names) != len(members):
        raise InvalidInput("Bundle", "two members of one name", "each member once")
    if "job.json" not in names:
        raise InvalidInput("Bundle", "a zip without job.json", "a Violet Dial bundle")
    job = job_from_json(_member(archive, "job.json", MOST_JSON_BYTES))
    photos: dict[str, bytes] = {}
    total = 0
    for photo in job.photos:
        name = f"photos/{photo.sha256}"
        if name not in names:
            raise InvalidInput("Bundle", f"no {name}", f"the photo {photo.file_name} inside the bundle")
        content = photos.get(photo.sha256) or _member(archive, name, MOST_PHOTO_BYTES)
        total += len(content)
        if hashlib.sha256(content).hexdigest() != photo.sha256 or total > MOST_TOTAL_BYTES:
            raise InvalidInput("Bundle", photo.file_name, "a photo whose content matches its name, in bounded size")
        photos[photo.sha256] = content
    return Bundle(job, photos)


def _check_name(name: str) -> None:
    stem = name.removeprefix("photos/")
    if name.startswith("/") or "\\" in name or ".." in name or "/" in stem.rstrip("/"):
        raise InvalidInput("Bundle", name, "members named job.json, NAME.csv, circuit.cir or photos/…")


def _member(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """Content of one member, read in pieces so that a lying size cannot fill the memory."""
    pieces: list[bytes] = []
    size = 0
    with archive.open(name) as stream:
        while piece := stream.read(_CHUNK):
            size += len(piece)
            if size > most:
                raise InvalidInput("Bundle", f"{name}: more than {most} bytes", f"at most {most} bytes")
            pieces.append(piece)
    return b"".join(pieces)
