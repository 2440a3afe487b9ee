"""A simulated dial before a simulated camera: scale, needle, mirror, glare, slant, defocus, noise, shake, changing light."""

import math
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from violet_dial.core.eye.face import ScaleMark

Law = Literal["linear", "log", "curved"]
Frame = npt.NDArray[np.uint8]
FONT = Path(__file__).parent.parent.parent / "assets" / "fonts" / "B612-Regular.ttf"
FINE = 2  # drawn so much larger, then made smaller: smooth edges
FAR = 7.0  # of the camera, in radii of the scale
MIRROR = (0.70, 0.78)
LAMP_PX, OFF, LIT = 7.0, 0.3, 0.97  # radius of a lamp; its brightness


@dataclass(frozen=True)
class DialLook:
    """How a dial looks and stands: picture in px; scale; colours as shares of white; needle's width as a share of the radius;
    ``slant_deg`` round two axes; ``turn_deg`` of the whole."""

    wide: int = 1280
    tall: int = 720
    law: Law = "linear"
    first: float = 0.0
    last: float = 17.0
    marks: int = 9
    span_deg: float = 95.0
    turn_deg: float = 0.0
    radius: float = 0.62  # of the picture's height
    ground: float = 0.86
    ink: float = 0.12
    needle: float = 0.1
    needle_wide: float = 0.012
    is_blade: bool = False
    has_mirror: bool = False
    slant_deg: tuple[float, float] = (0.0, 0.0)
    height: float = 0.02  # of the needle over the dial, in radii
    pointer_wide: float = 0.035
    has_finder: bool = False  # seen through an eyepiece, with its frame
    lamps: tuple[tuple[float, float], ...] = ()  # px


@dataclass(frozen=True)
class DialShot:
    """How one picture is taken: light (1 is as set up), its fall over the picture, blur and shake in px, noise as a share of
    white, glare's middle and size as shares of the picture (None: none)."""

    light: float = 1.0
    falls: tuple[float, float] = (0.0, 0.0)
    blur_px: float = 0.6
    shake_px: float = 0.0
    noise: float = 0.01
    glare: tuple[float, float, float] | None = None
    moved_px: tuple[float, float] = (0.0, 0.0)
    lit: tuple[bool, ...] = ()  # lamps
    pointer: float | None = None  # of a ring, over the needle


class SimulatedDial:
    """Draws its frames; ``marks`` are where its marks stand."""

    def __init__(self, look: DialLook, seed: int = 3) -> None:
        self.look = look
        self._rng = np.random.default_rng(seed)
        self._drawn: dict[tuple[float, float], Image.Image] = {}

    @property
    def values(self) -> tuple[float, ...]:
        """Values of the marks."""
        one = self.look
        return tuple(self.value(place / (one.marks - 1)) for place in range(one.marks))

    @property
    def marks(self) -> tuple[ScaleMark, ...]:
        """The marks where the camera sees them, px."""
        found = []
        for value in self.values:
            x, y = self._seen(self._at(self.angle(value), 1.0))
            found.append(ScaleMark(x, y, round(value, 6)))
        return tuple(found)

    def value(self, share: float) -> float:
        """The value at a share of the scale's arc."""
        one = self.look
        if one.law == "log":
            return float(one.first * (one.last / one.first) ** share)
        bent = share**1.35 if one.law == "curved" else share
        return one.first + bent * (one.last - one.first)

    def angle(self, value: float) -> float:
        """Where a value stands, radians: the scale runs over the top from left to right."""
        one = self.look
        if one.law == "log":
            share = math.log(value / one.first) / math.log(one.last / one.first)
        else:
            share = (value - one.first) / (one.last - one.first)
            share = math.copysign(abs(share) ** (1 / 1.35), share) if one.law == "curved" else share
        begin = -90.0 - one.span_deg / 2 + one.turn_deg
        return math.radians(begin + share * one.span_deg)

    @staticmethod
    def _at(angle: float, radius: float) -> tuple[float, float]:
        return radius * math.cos(angle), radius * math.sin(angle)

    def _seen(self, at: tuple[float, float], moved: tuple[float, float] = (0.0, 0.0), height: float = 0.0) -> tuple[float, float]:
        """A point of the dial's plane, or over it, in the picture: a camera straight before it, the dial slanted."""
        one = self.look
        a, b = (math.radians(angle) for angle in one.slant_deg)
        x, y = at
        depth = FAR + x * math.sin(a) + y * math.sin(b) - height
        x, y = x * math.cos(a) + height * math.sin(a), y * math.cos(b) + height * math.sin(b)
        x, y = x * FAR / depth, y * FAR / depth
        size = one.radius * one.tall
        return one.wide / 2 + size * x + moved[0], one.tall * 0.86 + size * y + moved[1]

    def _polygon(
        self, points: tuple[tuple[float, float], ...], moved: tuple[float, float], height: float = 0.0
    ) -> list[tuple[float, float]]:
        return [(FINE * x, FINE * y) for x, y in (self._seen(point, moved, height) for point in points)]

    def _ray(self, angle: float, radii: tuple[float, float], wide: tuple[float, float]) -> tuple[tuple[float, float], ...]:
        """A bar along a ray, its half widths at both ends."""
        c, s = math.cos(angle), math.sin(angle)
        (r0, r1), (w0, w1) = radii, wide
        return (
            (r0 * c - w0 * s, r0 * s + w0 * c), (r1 * c - w1 * s, r1 * s + w1 * c), (r1 * c + w1 * s, r1 * s - w1 * c),
            (r0 * c + w0 * s, r0 * s - w0 * c),
        )  # fmt: skip

    def _empty(self, moved: tuple[float, float]) -> Image.Image:
        """The dial without its needle, fine."""
        if moved in self._drawn:
            return self._drawn[moved]
        one = self.look
        picture = Image.new("F", (one.wide * FINE, one.tall * FINE), one.ground)
        pen = ImageDraw.Draw(picture)
        if one.has_mirror:
            angles = np.linspace(self.angle(one.first), self.angle(one.last), 40).tolist()
            band = [self._at(angle, MIRROR[0]) for angle in angles] + [self._at(angle, MIRROR[1]) for angle in angles[::-1]]
            pen.polygon(self._polygon(tuple(band), moved), fill=min(one.ground + 0.08, 0.95))
        for place in range(4 * (one.marks - 1) + 1):
            is_long = place % 4 == 0
            at = self.angle(self.value(place / (4 * (one.marks - 1))))
            bar = self._ray(at, (0.98 if is_long else 0.995, 1.05 if is_long else 1.03), (0.006 if is_long else 0.003,) * 2)
            pen.polygon(self._polygon(bar, moved), fill=one.ink)
        font = ImageFont.truetype(str(FONT), int(0.085 * one.radius * one.tall * FINE))
        for value in self.values:
            x, y = self._seen(self._at(self.angle(value), 1.13), moved)
            pen.text((FINE * x, FINE * y), f"{value:.3g}", fill=one.ink, font=font, anchor="mm")
        if one.has_finder:
            self._finder(pen)
        self._drawn = {moved: picture}
        return picture

    def _finder(self, pen: "ImageDraw.ImageDraw") -> None:
        """The dark round an eyepiece, and bright corners of the frame; it stays where the camera is."""
        wide, tall = self.look.wide * FINE, self.look.tall * FINE
        edge = int(0.045 * tall)
        for box in ((0, 0, wide, edge), (0, tall - edge, wide, tall), (0, 0, edge, tall), (wide - edge, 0, wide, tall)):
            pen.rectangle(box, fill=0.03)
        left, top, arm, thick = int(0.08 * wide), int(0.08 * tall), int(0.09 * wide), max(int(0.006 * tall), 2)
        for x, way_x in ((left, 1), (wide - left, -1)):
            for y, way_y in ((top, 1), (tall - top, -1)):
                pen.line((x, y, x + way_x * arm, y), fill=0.97, width=thick)
                pen.line((x, y, x, y + way_y * arm), fill=0.97, width=thick)

    def frame(self, values: tuple[float, ...], shot: DialShot, covered: tuple[float, float, float] | None = None) -> Frame:
        """One picture, shape (tall, wide), 0 to 255, with a needle at each of ``values`` (none: the empty dial); ``covered``
        something before the lens: its middle and radius as shares of the picture."""
        one = self.look
        picture = self._empty(shot.moved_px).copy()
        pen = ImageDraw.Draw(picture)
        for value in values:
            self._needle(pen, self.angle(value), shot.moved_px)
        if shot.pointer is not None:
            self._pointer(pen, self.angle(shot.pointer), shot.moved_px)
        for place, (x, y) in enumerate(one.lamps):
            is_lit = place < len(shot.lit) and shot.lit[place]
            at = (FINE * (x + shot.moved_px[0]), FINE * (y + shot.moved_px[1]))
            r = FINE * LAMP_PX
            pen.ellipse((at[0] - r, at[1] - r, at[0] + r, at[1] + r), fill=LIT if is_lit else OFF)
        if covered is not None:
            x, y, r = (FINE * share * size for share, size in zip(covered, (one.wide, one.tall, one.tall), strict=True))
            pen.ellipse((x - r, y - r, x + r, y + r), fill=0.45)
        return self._taken(np.asarray(picture.reduce(FINE), dtype=np.float32), shot)

    def _pointer(self, pen: "ImageDraw.ImageDraw", angle: float, moved: tuple[float, float]) -> None:
        """The wide pointer of a ring."""
        wide = self.look.pointer_wide / 2
        pen.polygon(
            self._polygon(self._ray(angle, (0.3, 0.95), (wide, wide)), moved, 1.5 * self.look.height), fill=self.look.needle
        )

    def _needle(self, pen: "ImageDraw.ImageDraw", angle: float, moved: tuple[float, float]) -> None:
        one = self.look
        wide = one.needle_wide / 2
        ends = (2.6 * wide, 0.6 * wide) if one.is_blade else (wide, wide)
        if one.has_mirror and one.slant_deg[0]:
            off = angle + 0.006 * one.slant_deg[0]
            faint = one.ground - 0.3 * (one.ground - one.needle)
            pen.polygon(self._polygon(self._ray(off, MIRROR, (wide, wide)), moved), fill=faint)
        pen.polygon(self._polygon(self._ray(angle, (-0.08, 0.96), ends), moved, one.height), fill=one.needle)
        pivot = [self._at(turn, 0.07) for turn in np.linspace(0, 2 * math.pi, 24).tolist()]
        pen.polygon(self._polygon(tuple(pivot), moved, one.height), fill=one.ink)

    def _taken(self, picture: npt.NDArray[np.float32], shot: DialShot) -> Frame:
        """Light, glare, blur, shake, noise."""
        tall, wide = picture.shape
        y, x = np.arange(tall, dtype=np.float32)[:, None], np.arange(wide, dtype=np.float32)
        lit = shot.light * (1 + shot.falls[0] * (x / wide - 0.5) + shot.falls[1] * (y / tall - 0.5))
        seen = picture * lit
        if shot.glare is not None:
            gx, gy, size = shot.glare
            away = np.hypot(x - gx * wide, (y - gy * tall) * 1.6) / (size * tall)
            seen = seen + 1.6 * np.clip(1.15 - away, 0, 1) ** 1.5
        held = Image.fromarray(np.clip(seen, 0, 4).astype(np.float32))
        if shot.blur_px > 0.05:
            held = held.filter(ImageFilter.GaussianBlur(shot.blur_px)) if held.mode != "F" else _blurred(held, shot.blur_px)
        values = np.asarray(held, dtype=np.float32)
        if shot.shake_px >= 1:
            values = _shaken(values, shot.shake_px, float(self._rng.uniform(0, math.pi)))
        values = values + np.float32(shot.noise) * self._rng.standard_normal(values.shape, np.float32)
        return np.asarray(np.clip(np.rint(255 * values), 0, 255).astype(np.uint8))


def _blurred(picture: Image.Image, sigma: float) -> Image.Image:
    from scipy.ndimage import gaussian_filter

    return Image.fromarray(gaussian_filter(np.asarray(picture), sigma))


def _shaken(values: npt.NDArray[np.float32], length: float, direction: float) -> npt.NDArray[np.float32]:
    """A straight shake while the picture was taken."""
    from scipy.ndimage import shift

    steps = max(int(length), 2)
    total = np.zeros_like(values)
    for part in np.linspace(-0.5, 0.5, steps):
        total += shift(
            values, (part * length * math.sin(direction), part * length * math.cos(direction)), order=1, mode="nearest"
        )
    return np.asarray(total / steps, dtype=np.float32)


def dial_like(look: DialLook, **changes: object) -> DialLook:
    """A look with some of it changed."""
    return replace(look, **changes)  # type: ignore[arg-type]
