"""Drawn stand-ins for photos."""

import io

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
    for angle, distance, size in zip(
        rng.uniform(0, 6.3, 260), rng.gamma(2.0, 26, 260), rng.uniform(3, 11, 260), strict=True
    ):
        x, y = 510 + distance * np.cos(angle), 360 + distance * np.sin(angle)
        green = (int(60 + 40 * rng.random()), int(140 + 50 * rng.random()), int(110 + 40 * rng.random()))
        draw.ellipse((x - size, y - size, x + size, y + size), fill=green)
    out = io.BytesIO()
    picture.filter(ImageFilter.GaussianBlur(1.2)).save(out, "PNG")
    return out.getvalue()
