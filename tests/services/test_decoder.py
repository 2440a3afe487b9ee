"""Pictures decoded in a process of its own: only three formats, no program started, bounded in time and size."""

import io
import os
import stat
import struct
import tempfile
import unittest
import zlib
from pathlib import Path
from unittest import mock

from PIL import Image

from violet_dial.core.errors import InvalidInput
from violet_dial.services.decoder import DECODER, CannotDecode, Decoder
from violet_dial.services.photos import check_photo, thumbnail

EPS = b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 100 100\n%%EndComments\n{} loop\n%%EOF\n"


def picture(kind: str, size: tuple[int, int] = (40, 30)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (90, 40, 120)).save(out, kind)
    return out.getvalue()


def huge_png(width: int, height: int) -> bytes:
    """A PNG that says it is huge and is a few thousand bytes."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(bytes(100_000))) + chunk(b"IEND", b"")


class Decoding(unittest.TestCase):
    def test_three_formats_and_no_other(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP"):
            self.assertEqual(check_photo(picture(kind), "x").record.media_type, f"image/{kind.lower()}")
            self.assertEqual(Image.open(io.BytesIO(thumbnail(picture(kind)))).size, (40, 30))
        for kind in ("GIF", "TIFF", "BMP", "PPM", "ICO"):
            with self.subTest(kind), self.assertRaises(InvalidInput):
                check_photo(picture(kind), "x.png")

    def test_no_program_is_started(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            told, gs = Path(folder) / "started", Path(folder) / "gs"
            gs.write_text(f"#!/bin/sh\ntouch {told}\nexec sleep 100\n")
            gs.chmod(gs.stat().st_mode | stat.S_IXUSR)
            with mock.patch.dict(os.environ, {"PATH": f"{folder}:{os.environ['PATH']}"}):
                fresh = Decoder()
                with self.assertRaises(CannotDecode):
                    fresh.decode(EPS)
                fresh.close()
            self.assertFalse(told.exists())

    def test_what_is_too_large_is_refused_unread(self) -> None:
        for size in ((20_000, 20_000), (2**31 - 1, 2**31 - 1)):
            with self.assertRaises(InvalidInput):
                check_photo(huge_png(*size), "x.png")
        self.assertEqual(check_photo(picture("PNG"), "x").record.media_type, "image/png")  # the child is well

    def test_a_child_that_does_not_answer_is_ended_and_begun_anew(self) -> None:
        decoder = Decoder(most_s=3.0)
        self.addCleanup(decoder.close)
        decoder.decode(picture("PNG"))
        first = decoder.child.process_id
        os.kill(first, 19)  # SIGSTOP: it is there and does nothing
        with self.assertRaisesRegex(CannotDecode, "not decoded within"):
            decoder.decode(picture("PNG"))
        self.assertEqual(decoder.decode(picture("JPEG"))[0], "JPEG")
        self.assertNotEqual(decoder.child.process_id, first)
        os.kill(decoder.child.process_id, 9)
        self.assertEqual(decoder.decode(picture("JPEG"))[0], "JPEG")

    @classmethod
    def tearDownClass(cls) -> None:
        DECODER.close()


if __name__ == "__main__":
    unittest.main()
