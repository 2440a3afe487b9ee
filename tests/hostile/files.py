"""150 bundles, 100 circuit texts, 60 tables and 30 pictures and recordings, hostile or broken, by seed."""

import hashlib
import io
import json
import random
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

from tests.core.circuit.test_budgets import FROZE, PYTHON
from tests.services.test_decoder import EPS, huge_png, picture
from violet_dial.job.bundle import Bundle, write_bundle
from violet_dial.job.document import Device, Job, Photo
from violet_dial.job.schema import job_to_json

BUNDLES, CIRCUITS, TABLES, MEDIA = 150, 100, 60, 30
Named = tuple[str, bytes]
WORDS = (
    "R1", "V1", "Q1", "X1", "B1", "D1", "E1", ".subckt", ".ends", ".param", ".model", ".control", ".endc", "*:", "+", "a",
    "b", "0", "gnd", "1k", "1e400", "-5", "{a}", "{{", "}}", "(", ")", "=", ";", "$", ",", "v(a)", "i(v1)", "sin(", "pulse(",
    "npn", "d", "kind=wire", "^", "**", "?", ":", "&&", "!", "\x00", "µ", "Ω", "九", "\ud83d",
)  # fmt: skip


def _job(number: int) -> Job:
    return Job(f"hostile{number}", number + 1, Device(f"Device {number}"))


def _zip(members: dict[str, bytes], compression: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", compression) as archive:
        for name, content in members.items():
            archive.writestr(name, content)
    return out.getvalue()


def _with(job: Job, change: Callable[[dict[str, Any]], object]) -> bytes:
    """The document of a job, changed as text allows and our own code never would."""
    data = json.loads(job_to_json(job))
    change(data)
    return json.dumps(data).encode()


def _pictured(content: bytes, number: int) -> bytes:
    """A right bundle whose photo is something else."""
    digest = hashlib.sha256(content).hexdigest()
    job = replace(_job(number), photos=(Photo(digest, "photo.png", "image/png"),))
    return write_bundle(Bundle(job, {digest: content}))


def _circuit_in(text: str, number: int) -> bytes:
    return _zip({"job.json": _with(_job(number), lambda data: data["tracing"].update(circuit_text=text, circuit_name="x"))})


def _flipped(data: bytes, draw: random.Random) -> bytes:
    changed = bytearray(data)
    for _ in range(draw.randrange(1, 40)):
        changed[draw.randrange(len(changed))] = draw.randrange(256)
    return bytes(changed)


def bundles() -> Iterator[Named]:
    """Bundles: some may be taken, most must be refused."""
    whole = _pictured(picture("PNG"), 0)
    texts = [*FROZE.values(), *PYTHON.values()]
    makers: list[Callable[[int, random.Random], bytes]] = [
        lambda n, draw: whole[: draw.randrange(len(whole))],
        lambda n, draw: _flipped(_pictured(picture("PNG"), n), draw),
        lambda n, draw: draw.randbytes(draw.randrange(1, 5_000)),
        lambda n, draw: _zip({"job.json": b"0" * 30_000_000}),
        lambda n, draw: _zip({f"{'../' * (n % 5 + 1)}evil-{n}": b"x", "job.json": job_to_json(_job(n))}),
        lambda n, draw: _zip({f"/tmp/evil-{n}": b"x", "job.json": job_to_json(_job(n))}),
        lambda n, draw: _pictured(EPS, n),
        lambda n, draw: _pictured(huge_png(30_000, 30_000), n),
        lambda n, draw: _pictured(_flipped(picture("JPEG", (300, 200)), draw), n),
        lambda n, draw: _circuit_in(texts[n % len(texts)], n),
        lambda n, draw: _zip({"job.json": _with(_job(n), lambda data: data.update(number=10 ** draw.randrange(5, 400)))}),
        lambda n, draw: _zip({"job.json": b"[" * 100_000 + b"]" * 100_000}),
        lambda n, draw: _zip({"job.json": _with(_job(n), lambda data: data["device"].update(name="\ud800"))}),
        lambda n, draw: _zip({"job.json": _with(_job(n), lambda data: data["device"].update(name="x" * 3_000_000))}),
        lambda n, draw: _zip({f"photos/{n}-{one}": b"" for one in range(900)}),
    ]
    for number in range(BUNDLES):
        yield f"{number:03d}.zip", makers[number % len(makers)](number, random.Random(number))


def circuits() -> Iterator[Named]:
    """Circuit texts: words of SPICE at random, and those that once froze the reading."""
    known = [*FROZE.values(), *PYTHON.values()]
    for number in range(CIRCUITS):
        draw = random.Random(number)
        if number < len(known):
            text = known[number]
        else:
            lines = (" ".join(draw.choices(WORDS, k=draw.randrange(1, 40))) for _ in range(draw.randrange(2, 400)))
            text = "\n".join(lines)
        yield f"{number:03d}.cir", text.encode("utf-8", "surrogatepass")


def tables() -> Iterator[Named]:
    """Tables of readings, evidence and jobs."""
    heads = ("reference_ev100,indicated_ev100", "test,plus,minus,value,unit,setting", "device;maker;notes", "", "a,a,a")
    cells = ("8", "8.5", "=cmd()", '"', '""', "x" * 2_000, "1e999", "nan", "-0", "1,5", "\u202e", "", " ", "volt", "clip+", "OL")
    for number in range(TABLES):
        draw = random.Random(number)
        rows = (",".join(draw.choices(cells, k=draw.randrange(1, 9))) for _ in range(draw.randrange(0, 3_000)))
        text = "\n".join((heads[number % len(heads)], *rows)).encode("utf-8", "replace")
        odd = (text, text.decode().encode("utf-16"), b"\xff\xfe" + text, text + b"\0", draw.randbytes(9_000), b'"' * 400_000)
        yield f"{number:03d}.csv", odd[number % len(odd)]


def media() -> Iterator[Named]:
    """Pictures and recordings."""
    riff = b"RIFF" + struct.pack("<I", 2**31) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 2, 48_000, 192_000, 4, 16)
    bomb = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 2**31 - 1) + b"IHDR" + bytes(100)
    for number in range(MEDIA):
        draw = random.Random(number)
        kinds = (
            _flipped(picture("JPEG", (400, 300)), draw), _flipped(picture("WEBP", (400, 300)), draw), EPS, bomb,
            riff + bytes(999), huge_png(draw.randrange(20_000, 60_000), 60_000),
            picture("GIF"), picture("TIFF"), b"GIF89a" + draw.randbytes(99),
            zlib.compress(bytes(10_000_000)),
        )  # fmt: skip
        yield f"{number:03d}.png", kinds[number % len(kinds)]
