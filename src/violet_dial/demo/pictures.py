"""Drawn stand-ins for photos."""

import io
from collections.abc import Mapping, Sequence

import numpy as np

SEED = 7


def crust_picture() -> bytes:
    """A drawn stand-in for a photo: a base plate with green crust at one screw."""
    from PIL import Image, ImageDraw, ImageFilter

    rng = np.random.default_rng(SEED)
    picture = Image.new("RGB", (640, 480), (58, 54, 60))
    draw = ImageDraw.Draw(picture)
    draw.rounded_rectangle((70, 60, 570, 420), 46, fill=(168, 164, 158), outline=(120, 116, 112), width=6)
    for x, y in ((130, 120), (510, 120), (130, 360), (510, 360)):
        draw.ellipse((x - 20, y - 20, x + 20, y + 20), fill=(142, 138, 132), outline=(96, 92, 88), width=3)
        draw.line((x - 13, y - 5, x + 13, y + 5), fill=(70, 66, 62), width=5)
    for angle, distance, size in zip(rng.uniform(0, 6.3, 260), rng.gamma(2.0, 26, 260), rng.uniform(3, 11, 260), strict=True):
        x, y = 510 + distance * np.cos(angle), 360 + distance * np.sin(angle)
        green = (int(60 + 40 * rng.random()), int(140 + 50 * rng.random()), int(110 + 40 * rng.random()))
        draw.ellipse((x - size, y - size, x + size, y + size), fill=green)
    out = io.BytesIO()
    picture.filter(ImageFilter.GaussianBlur(1.2)).save(out, "PNG")
    return out.getvalue()


def board_picture(spots: Mapping[str, tuple[float, float]], tracks: Sequence[tuple[str, str]], is_flex: bool = False) -> bytes:
    """A drawn stand-in for a photo of a board: green, or amber for a flex, with pads, tracks, a chip and a leak's crust.

    Parameters
    ----------
    spots : pads, as shares of width and height
    tracks : pairs of pads that a track runs between
    is_flex : a flex in place of a board
    """
    from PIL import Image, ImageDraw, ImageFilter

    rng = np.random.default_rng(SEED + is_flex)
    wide, tall = 1200, 800
    ground, copper = ((176, 120, 46), (206, 152, 74)) if is_flex else ((34, 74, 52), (58, 108, 78))
    picture = Image.new("RGB", (wide, tall), (64, 60, 66))
    draw = ImageDraw.Draw(picture)
    draw.rounded_rectangle((20, 30, wide - 20, tall - 30), 60 if is_flex else 18, fill=ground, outline=(20, 30, 24), width=4)
    at = {name: (x * wide, y * tall) for name, (x, y) in spots.items()}
    for one, other in tracks:
        if one in at and other in at:
            (ax, ay), (bx, by) = at[one], at[other]
            draw.line((ax, ay, bx, ay, bx, by), fill=copper, width=16, joint="curve")
    if not is_flex:
        draw.rectangle((wide * 0.58, tall * 0.44, wide * 0.74, tall * 0.54), fill=(28, 28, 30))
        for n in range(7):
            for y in (0.425, 0.545):
                left = wide * (0.59 + 0.021 * n)
                draw.rectangle((left, tall * y, left + wide * 0.01, tall * (y + 0.018)), fill=(190, 190, 186))
        for angle, distance in zip(rng.uniform(0, 6.3, 220), rng.gamma(2.0, 22, 220), strict=True):
            x, y = wide * 0.27 + distance * np.cos(angle), tall * 0.2 + distance * np.sin(angle)
            size = float(rng.uniform(3, 10))
            draw.ellipse((x - size, y - size, x + size, y + size), fill=(70, int(150 + 50 * rng.random()), 130))
    for x, y in at.values():
        draw.ellipse((x - 13, y - 13, x + 13, y + 13), fill=(196, 196, 190), outline=(120, 120, 116), width=3)
    out = io.BytesIO()
    picture.filter(ImageFilter.GaussianBlur(1.0)).save(out, "PNG")
    return out.getvalue()
