"""The map on its own: a zip with its photos out and into another job, the poster over several pages, bad zips refused."""

import io
import unittest
import zipfile
from typing import Any
from xml.etree import ElementTree

import pypdfium2

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, Ground, Pin
from violet_dial.core.mapping.drawing import drawn
from violet_dial.demo.pictures import board_picture
from violet_dial.demo.story import stories
from violet_dial.job.document import Device, Job
from violet_dial.job.map_file import read_map_zip, write_map_zip
from violet_dial.services.circuits import circuit_from
from violet_dial.services.photos import check_photo
from violet_dial.stations.trace.map_acts import lay_photo, pin_on_photo, say_line
from violet_dial.stations.trace.map_paper import circuit_svg, laid_picture, poster_pdf
from violet_dial.stations.trace.table import map_zip, photos_in, poster

LINES = ("battery 1.35 clip+ to chassis", "red wire clip+ to S1", "S1 off/on: common to -, run", "R4 2k2 from run to chassis")

BOARD = next(story.boards[0] for story in stories() if story.boards)
SVG = "{http://www.w3.org/2000/svg}"


def texts(pdf: bytes) -> list[str]:
    """What each page says."""
    document = pypdfium2.PdfDocument(pdf)
    return [document[n].get_textpage().get_text_range() for n in range(len(document))]


class MapFiles(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Phalarope compact", "needle dead")
        self.press(KEY.Key_3, ALT)
        self.press(KEY.Key_Tab, CTRL | SHIFT)

    @property
    def trace(self) -> Any:
        return self.page.at("Trace")

    @property
    def board(self) -> Board:
        assert self.page.view is not None
        found: Board = self.page.view.job.tracing.board
        return found

    def say_all(self) -> None:
        for line in LINES:
            self.trace.board.focus_first()
            self.type_in(line)
            self.press(KEY.Key_Return)
            self.until(lambda: self.trace.settled)

    def lay_a_photo(self) -> None:
        photo = self.folder / "front.png"
        photo.write_bytes(board_picture(BOARD.spots, BOARD.tracks))
        self.page.photos.attach([str(photo)])
        self.until(lambda: self.page.view is not None and len(self.page.view.job.photos) == 1, "the photo is kept")
        self.trace.board.lay_down()
        pin = Pin(self.board.grounds[0].photo, 0.2, 0.3)
        self.page.perform(lambda job, at: pin_on_photo(job, "clip+", pin, at))

    def test_a_zip_goes_out_and_into_another_job(self) -> None:
        self.say_all()
        self.lay_a_photo()
        before, path = self.board, self.folder / "board.zip"
        self.press(KEY.Key_E, CTRL)
        self.name_file(path)
        self.until(path.exists)
        with zipfile.ZipFile(path) as archive:
            names = set(archive.namelist())
            self.assertLessEqual({"map.json", "circuit.cir", "drawing.svg", "photo-1.svg", "poster.pdf"}, names)
            self.assertIn("R4 run 0 2200", archive.read("circuit.cir").decode())
            photo = ElementTree.fromstring(archive.read("photo-1.svg"))
            self.assertEqual([one.text for one in photo.iter(f"{SVG}text")], ["clip+"])
            self.assertIn("clip+", texts(archive.read("poster.pdf"))[0])
        self.new_job("Phalarope compact", "another of them")
        self.press(KEY.Key_3, ALT)
        self.assertTrue(self.board.is_empty)
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.until(lambda: self.board == before, "the same map")
        assert self.page.view is not None
        self.assertEqual([one.sha256 for one in self.page.view.job.photos], [before.grounds[0].photo])

    def test_ctrl_s_writes_the_poster(self) -> None:
        self.say_all()
        path = self.folder / "map.pdf"
        self.press(KEY.Key_S, CTRL)
        self.name_file(path)
        self.until(path.exists)
        self.assertIn("red wire", texts(path.read_bytes())[0])


class Alone(unittest.TestCase):
    """Without a window: what a worker makes of a job and its photos."""

    def setUp(self) -> None:
        picture = check_photo(board_picture(BOARD.spots, BOARD.tracks), "front.png")
        self.photos = {picture.record.sha256: picture.content}
        job = Job("j" * 32, 1, Device("Phalarope compact"), photos=(picture.record,))
        for line in LINES:
            job = say_line(job, line, "now").job
        job = lay_photo(job, Ground(picture.record.sha256, "front", mirrored=True, turned=90, aspect=1.5), "now").job
        for name, x in (("clip+", 0.2), ("S1", 0.7)):
            job = pin_on_photo(job, name, Pin(picture.record.sha256, x, 0.5), "now").job
        self.job = job

    def test_zip_and_back(self) -> None:
        data = map_zip(self.job, "x.zip", self.photos)
        board, photos = read_map_zip(data)
        self.assertEqual((board, photos), (self.job.tracing.board, self.photos))
        checked = photos_in("x.zip", data)
        self.assertEqual([one.record.caption for one in checked], ["front"])
        self.assertEqual(photos_in("x.json", b"{}"), ())
        hurt = zipfile.ZipFile(io.BytesIO(data))
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name in hurt.namelist():
                archive.writestr(name, b"other" if name.startswith("photos/") else hurt.read(name))
        self.assertRaisesRegex(InvalidInput, "matches its name", read_map_zip, out.getvalue())

    def test_poster(self) -> None:
        first, second = texts(poster(self.job, "x.pdf", self.photos))
        self.assertIn("S1", first)
        self.assertIn("Phalarope compact · job 0001 · front", first.replace("\xad", ""))
        self.assertIn("red wire", second)
        empty = texts(poster(Job("j" * 32, 1), "x.pdf", {}))
        self.assertIn("nothing is on the map yet", empty[0])
        # a photo whose content is gone is left out, the rest is printed
        self.assertEqual(len(texts(poster(self.job, "x.pdf", {}))), 1)

    def test_two_spots_give_the_scale_in_the_line(self) -> None:
        job = say_line(self.job, "scale clip+ to S1 40 mm", "now").job
        self.assertEqual(job.tracing.board.grounds[0].scale_mm, 40.0)
        self.assertRaises(InvalidInput, say_line, self.job, "scale clip+ to run 40 mm", "now")


class Paper(unittest.TestCase):
    def test_a_long_drawing_takes_several_pages_and_every_part_is_on_one(self) -> None:
        lines = [f"R{n} n{n} n{n + 1} 1k" for n in range(1, 40)]
        drawing = drawn(circuit_from("\n".join(["* chain", "V1 n1 0 3", *lines, "R40 n40 0 1k", ".end"])))
        pages = texts(poster_pdf("Chain", drawing, ()))
        self.assertGreater(len(pages), 3)
        said = "\n".join(pages)
        self.assertEqual([n for n in range(1, 41) if f"R{n}" not in said], [])
        self.assertIn(f"column {len(pages)} of {len(pages)}", pages[-1])
        svg = ElementTree.fromstring(circuit_svg(drawing))
        words = "".join("".join(one.itertext()) for one in svg.iter())
        self.assertIn("R40", words)

    def test_a_photo_is_laid_as_it_lies(self) -> None:
        from PIL import Image

        out = io.BytesIO()
        image = Image.new("RGB", (4, 2))
        image.putpixel((0, 0), (255, 0, 0))
        image.save(out, "PNG")
        turned = Image.open(io.BytesIO(laid_picture(out.getvalue(), 90, False)))
        self.assertEqual((turned.size, turned.getpixel((1, 0))), ((2, 4), (255, 0, 0)))
        mirrored = Image.open(io.BytesIO(laid_picture(out.getvalue(), 0, True)))
        self.assertEqual(mirrored.getpixel((3, 0)), (255, 0, 0))
        self.assertRaises(InvalidInput, laid_picture, b"no picture", 0, False)

    def test_bad_zips(self) -> None:
        whole = write_map_zip(Board(), {}, {})
        self.assertEqual(read_map_zip(whole), (Board(), {}))
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("../map.json", "{}")
        empty = io.BytesIO()
        with zipfile.ZipFile(empty, "w") as archive:
            archive.writestr("other.json", "{}")
        for data in (b"", b"PK", whole[:40], out.getvalue(), empty.getvalue()):
            with self.subTest(data[:20]):
                self.assertRaises(InvalidInput, read_map_zip, data)


if __name__ == "__main__":
    unittest.main()
