"""The child of `decoder`: reads pictures, answers what they are and a small PNG. Some formats start other programs, so only
three are even tried, and what the process may use is bounded before the first picture is read."""

import io
import resource
import struct
import sys

FORMATS = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 40_000_000
MOST_PIXELS = {"JPEG": 120_000_000, "PNG": 60_000_000, "WEBP": 60_000_000}
MOST_MEMORY = 1_200_000_000


def small(content: bytes, pixels: int) -> tuple[str, bytes]:
    """The kind of a picture, and a PNG of it of so many pixels at most either way, turned upright."""
    from PIL import Image, ImageOps

    Image.MAX_IMAGE_PIXELS = None  # our own bound stands below
    with Image.open(io.BytesIO(content), formats=FORMATS) as picture:
        kind = picture.format or ""
        if picture.width * picture.height > MOST_PIXELS.get(kind, 0):
            raise ValueError(
                f"{picture.width} x {picture.height} pixels; at most {MOST_PIXELS.get(kind, 0) // 10**6} million"
            )
        picture.draft("RGB", (pixels * 2, pixels * 2))
        picture.thumbnail((pixels, pixels))
        upright = ImageOps.exif_transpose(picture).convert("RGB")
    out = io.BytesIO()
    upright.save(out, "PNG")
    return kind, out.getvalue()


def main() -> int:
    """Answer until the parent goes away."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    while head := sys.stdin.buffer.read(6):
        length, pixels = struct.unpack(">IH", head)
        content = sys.stdin.buffer.read(min(length, MOST_BYTES))
        try:
            kind, answer = small(content, pixels)
            said = kind[:1].encode()
        except MemoryError:
            said, answer = b"E", b"too large to be decoded"
        except Exception as error:  # noqa: BLE001 - the picture package raises many kinds on damaged pictures
            words = (
                str(error)
                if isinstance(error, ValueError) and "pixels;" in str(error)
                else "damaged, or another format"
            )
            said, answer = b"E", words.encode()
        sys.stdout.buffer.write(struct.pack(">cI", said, len(answer)) + answer)
        sys.stdout.buffer.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main())
