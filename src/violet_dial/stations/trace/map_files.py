"""The map on paper and in a zip of its own: drawing and photos with their spots, and everything that is read back."""

from collections.abc import Mapping

from violet_dial.core.mapping.board import Board, Ground, key_of
from violet_dial.job.document import Job
from violet_dial.job.map_file import read_map_zip, write_map_zip
from violet_dial.report.map_paper import PhotoPage, circuit_svg, laid_picture, photo_svg, poster_pdf
from violet_dial.services.circuits import circuit_text_of
from violet_dial.services.photos import LARGE, CheckedPhoto, check_photo, thumbnail
from violet_dial.stations.trace.drawing_of import drawing_of
from violet_dial.stations.trace.map_acts import board_of


def photo_page(board: Board, ground: Ground, content: bytes) -> PhotoPage:
    """A photo as it lies, with what is on it. Raises InvalidInput: it cannot be opened."""
    at = {key_of(spot.name): (pin.x, pin.y) for spot in board.spots for pin in spot.pins if pin.photo == ground.photo}
    spots = tuple((spot.name, *at[key_of(spot.name)]) for spot in board.spots if key_of(spot.name) in at)
    joins = []
    for item in board.items:
        here = [at[key_of(spot)] for spot in item.spots if key_of(spot) in at]
        if item.is_lead and len(here) == 2:
            joins.append((here[0], here[1], item.how == "measured"))
    picture = laid_picture(thumbnail(content, LARGE), ground.turned, ground.mirrored)
    return PhotoPage(ground.name, picture, spots, tuple(joins))


def _pages(job: Job, board: Board, photos: Mapping[str, bytes]) -> tuple[PhotoPage, ...]:
    return tuple(photo_page(board, ground, photos[ground.photo]) for ground in board.grounds if ground.photo in photos)


def poster(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:
    """The map as a poster: photos with their spots, the drawing over as many pages as it takes."""
    return poster_pdf(
        f"{job.device.name or 'Map'} · job {job.label}", drawing_of(job), _pages(job, board_of(job), photos)
    )


def map_zip(job: Job, name: str, photos: Mapping[str, bytes]) -> bytes:
    """The map as a zip: JSON and SPICE text to be read again, photos, SVG and PDF to be looked at."""
    board = board_of(job)
    pages = _pages(job, board, photos)
    members = {"circuit.cir": circuit_text_of(job).encode(), "drawing.svg": circuit_svg(drawing_of(job))}
    members |= {f"photo-{n}.svg": photo_svg(page) for n, page in enumerate(pages, start=1)}
    members["poster.pdf"] = poster_pdf(f"{job.device.name or 'Map'} · job {job.label}", drawing_of(job), pages)
    lying = {ground.photo for ground in board.grounds}
    return write_map_zip(board, members, {key: content for key, content in photos.items() if key in lying})


def photos_in(name: str, data: bytes) -> tuple[CheckedPhoto, ...]:
    """The photos of a map in a zip, checked; none of other files.

    Raises InvalidInput: the zip cannot be read, or one is no photo.
    """
    if not name.lower().endswith(".zip"):
        return ()
    board, photos = read_map_zip(data)
    names = {ground.photo: ground.name for ground in board.grounds}
    return tuple(check_photo(content, f"{names[key]}", names[key]) for key, content in photos.items())
