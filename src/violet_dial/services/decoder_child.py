"""The child of `decoder`: reads pictures, answers what they are and a small PNG. Some formats start other programs, so only
three are even tried, and what the process may use is bounded before the first picture is read."""

import io
import struct
import sys

from violet_dial.services.child import Reply, serve

PIXELS = ">H"  # how a request begins
FORMATS = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 40_000_000
MOST_PIXELS = {"JPEG": 120_000_000, "PNG": 60_000_000, "WEBP": 60_000_000}
MOST_MEMORY = 1_200_000_000


class TooManyPixels(Exception):
    """The picture is larger than may be."""


def small(content: bytes, pixels: int) -> tuple[str, bytes]:
    """The kind of a picture, and a PNG of it of so many pixels at most either way, turned upright."""
    from PIL import Image, ImageOps

    Image.MAX_IMAGE_PIXELS = None  # our own bound stands below
    with Image.open(io.BytesIO(content), formats=FORMATS) as picture:
        kind = picture.format or ""
        if picture.width * picture.height > MOST_PIXELS.get(kind, 0):
            raise TooManyPixels(f"{picture.width} x {picture.height} pixels; at most {MOST_PIXELS.get(kind, 0) // 10**6} million")
        picture.draft("RGB", (pixels * 2, pixels * 2))
        picture.thumbnail((pixels, pixels))
        upright = ImageOps.exif_transpose(picture).convert("RGB")
    out = io.BytesIO()
    upright.save(out, "PNG")
    return kind, out.getvalue()


def answer(request: bytes) -> Reply:
    """A request, two bytes of pixels and a picture, answered with the first letter of its kind and the small picture."""
    (pixels,) = struct.unpack_from(PIXELS, request)
    kind, content = small(request[struct.calcsize(PIXELS) :], pixels)
    return kind[:1].encode(), content


if __name__ == "__main__":  # the picture package has words of its own for damaged pictures: they are not said
    sys.exit(serve(answer, MOST_BYTES, MOST_MEMORY, (TooManyPixels,)))
