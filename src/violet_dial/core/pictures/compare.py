"""Two pictures of the same scene: by how many stops one is brighter, what is lost at both ends, colour, tilt, shake.

Both are turned into linear luminance, the second is laid over the first (turn, size and shift, found coarsely by phase
correlation and then by least squares on the logarithm, whose level does not matter), and patches are compared one by one.
What is cut off in either is left out. What a print's own curve does is not known: the difference in exposure is given as
a band unless its slope is.

Source: Linear luminance from code values: IEC 61966-2-1 (sRGB) [memory]. Phase correlation: Kuglin and Hines 1975 [memory].
Blur along a line as a dip of the cepstrum, a second image as a peak: Rom 1975 [memory]. How steep prints are, and from which
height a peak is one: common practice, no source.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import ndimage, optimize

Array = npt.NDArray[np.float64]
WEIGHTS = np.array([0.2126, 0.7152, 0.0722])
CUT_LOW, CUT_HIGH = 0.02, 0.98  # of the code value, beyond which a part is cut off
COARSE, FINE, LEAST_SIDE = 128, 320, 48  # pixels of the longer side
TURNS = np.arange(-8.0, 8.01, 1.0)  # degrees tried
PATCH, LEAST_PATCHES = 10, 12
LEAST_OVER = 0.08  # of the picture, that must lie over the other uncut
LEAST_ALIKE = 0.25  # of correlation after laying over, below which it is not the same scene
LEAST_OF_CARD = 0.8  # of a card, that must not be cut off
SLOPE_LIMITS = (0.3, 4.0)
SLOPES = (0.8, 1.9)  # stops of a print for a stop of light
LEAST_U = 0.03  # stops
PEAK_SIGMAS, LEAST_PX, MOST_PX = 8.0, 4, 48  # of a peak of the cepstrum, and where it is looked for


@dataclass(frozen=True)
class Laid:
    """How the second lies over the first: degrees, size, shift in pixels of the finer picture; how alike they are then."""

    turn_deg: float
    size: float
    down_px: float
    right_px: float
    alike: float


@dataclass(frozen=True)
class Compared:
    """The second against the first: stops brighter as pictures, one standard deviation, and the band of exposure that means.

    Shares lost in shadows and highlights of each; colour cast in stops (red and blue against green); how it lies; shake and
    double image of the second as (length in pixels, direction in degrees), None where there is none to be seen.
    """

    stops: float
    u_stops: float
    exposure_stops: tuple[float, float]
    shadows_lost: tuple[float, float]
    highlights_lost: tuple[float, float]
    red_stops: float
    blue_stops: float
    laid: Laid
    shake: tuple[float, float] | None
    double: tuple[float, float] | None
    patches: int
    width_px: int  # in which lengths are


def linear(codes: Array) -> Array:
    """Linear light of sRGB code values, both 0 to 1, any shape. ``codes``: sRGB code values, 0 to 1."""
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def compare(first: Array, second: Array, slope: float | None = None) -> Compared:
    """The second picture against the first.

    Raises InvalidInput: not such pictures, too small, or not the same scene; NotEnoughData: too little is left that is not cut
    off in either.

    Parameters
    ----------
    first, second : sRGB code values 0 to 1, shape (h, w, 3)
    slope : stops of the print for a stop of light, where it is known
    """
    a, b = (_checked(one) for one in (first, second))
    if slope is not None and not SLOPE_LIMITS[0] <= slope <= SLOPE_LIMITS[1]:
        raise InvalidInput("Slope", f"{slope:g}", "0.3 to 4 stops of the print for a stop of light")
    scale = min(FINE / max(a.shape[:2]), 1.0)
    shape = (max(round(a.shape[0] * scale), 8), max(round(a.shape[1] * scale), 8))
    light = [resized(linear(one), shape) for one in (a, b)]
    valid = [resized(_valid(one).astype(float)[..., None], shape)[..., 0] for one in (a, b)]
    laid = _laid([one @ WEIGHTS for one in light], valid)
    if laid.alike < LEAST_ALIKE:
        raise InvalidInput(
            "Pictures", f"{laid.alike:.0%} alike", "two pictures of the same scene, not turned by more than some degrees"
        )
    over = np.stack([_warped(light[1][..., n], laid, 0.0) for n in range(3)], axis=-1)
    both = (valid[0] > 0.98) & (_warped(valid[1], laid, 0.0) > 0.98)
    stops, u, count = _difference(light[0] @ WEIGHTS, over @ WEIGHTS, both)
    red, blue = _cast(light[0], over, both)
    band = (stops / slope,) * 2 if slope else tuple(sorted(stops / one for one in SLOPES))
    shake, double = _smeared(light[0] @ WEIGHTS, over @ WEIGHTS)
    return Compared(
        stops, u, (band[0], band[1]), (_lost(a, low=True), _lost(b, low=True)), (_lost(a, low=False), _lost(b, low=False)),
        red, blue, laid, shake, double, count, shape[1],
    )  # fmt: skip


def grey_stops(picture: Array, part: tuple[float, float, float, float], reflectance: float = 0.18) -> float:
    """By how many stops a card of known reflectance comes out too bright (negative: dark).

    Raises InvalidInput: a part outside the picture, or a card that is cut off.

    Parameters
    ----------
    picture : sRGB code values 0 to 1, shape (h, w, 3)
    part : left, top, width and height of the card as shares of the picture
    reflectance : of the card, 0 to 1

    Source: A card of 18 % in the middle of the scale: common practice, no source.
    """
    one = _checked(picture)
    left, top, wide, tall = part
    if min(left, top) < 0 or min(wide, tall) <= 0 or left + wide > 1 or top + tall > 1 or not 0.01 <= reflectance <= 1:
        raise InvalidInput("Card", list(part), "left, top, width and height as shares of the picture, within it")
    rows, columns = one.shape[:2]
    cut = one[int(top * rows) : max(int((top + tall) * rows), int(top * rows) + 1),
              int(left * columns) : max(int((left + wide) * columns), int(left * columns) + 1)]  # fmt: skip
    if not _valid(cut).mean() > LEAST_OF_CARD:
        raise InvalidInput(
            "Card", f"{_valid(cut).mean():.0%} of it uncut", "a card that is neither white nor black in the picture"
        )
    return float(np.log2(np.median(linear(cut) @ WEIGHTS) / reflectance))


def slope_of(darker: Array, brighter: Array, stops: float) -> float:
    """How steep a print is: stops of it for a stop of light, from two takes whose exposures differ by so many stops.

    ``darker``, ``brighter``: sRGB code values 0 to 1, shape (h, w, 3). Raises InvalidInput, NotEnoughData: as `compare`; no
    difference to speak of.
    """
    if not 0.25 <= abs(stops) <= 6:
        raise InvalidInput("Bracket", f"{stops:g} stop", "a difference of 0.25 to 6 stops")
    found = compare(darker, brighter).stops / stops
    if not SLOPE_LIMITS[0] <= found <= SLOPE_LIMITS[1]:
        raise InvalidInput(
            "Bracket", f"a slope of {found:.2f}", "two takes of one scene, the second with more light by the stops said"
        )
    return found


def _checked(picture: Array) -> Array:
    one = np.asarray(picture, dtype=float)
    if one.ndim != 3 or one.shape[2] != 3 or not np.isfinite(one).all():
        raise InvalidInput("Picture", str(one.shape), "rows, columns and three colours")
    if min(one.shape[:2]) < LEAST_SIDE:
        raise InvalidInput("Picture", f"{one.shape[1]} x {one.shape[0]} pixels", f"{LEAST_SIDE} either way at least")
    held: Array = np.clip(one, 0.0, 1.0)
    return held


def _valid(picture: Array) -> npt.NDArray[np.bool_]:
    """Where no colour is cut off."""
    found: npt.NDArray[np.bool_] = (picture.max(axis=2) < CUT_HIGH) & (picture.max(axis=2) > CUT_LOW)
    return found


def _lost(picture: Array, low: bool) -> float:
    """Share that is cut off at one end."""
    top = picture.max(axis=2)
    return float((top <= CUT_LOW).mean() if low else (top >= CUT_HIGH).mean())


def resized(picture: Array, shape: tuple[int, int]) -> Array:
    """A picture of another size, each new pixel the mean of those it covers.

    Parameters
    ----------
    picture : shape (h, w, c)
    shape : of the new one, rows and columns
    """
    for axis, count in enumerate(shape):
        edges = np.linspace(0, picture.shape[axis], count + 1)
        summed = np.concatenate([np.zeros_like(np.take(picture, [0], axis)), np.cumsum(picture, axis=axis)], axis=axis)
        whole = np.floor(edges).astype(int)
        part = np.expand_dims(edges - whole, tuple(n for n in range(picture.ndim) if n != axis))
        upper = np.take(summed, np.minimum(whole + 1, picture.shape[axis]), axis)
        at = np.take(summed, whole, axis) * (1 - part) + upper * part
        picture = np.diff(at, axis=axis) * count / picture.shape[axis]
    return picture


# laying one over the other


def _shown(light: Array, valid: Array) -> Array:
    """What is laid over: the logarithm without its slow part and its level; nothing where it is cut off."""
    log = np.log2(light + 0.004)
    sigma = max(light.shape) / 14
    weight = ndimage.gaussian_filter(valid, sigma) + 1e-6
    slow = ndimage.gaussian_filter(log * valid, sigma) / weight
    found: Array = np.clip((log - slow) * valid, -2.0, 2.0)
    return found


def _laid(light: list[Array], valid: list[Array]) -> Laid:
    scale = COARSE / max(light[0].shape)
    small = tuple(max(round(side * scale), 8) for side in light[0].shape)
    a, b = (
        _shown(resized(one[..., None], small)[..., 0], resized(ok[..., None], small)[..., 0])
        for one, ok in zip(light, valid, strict=True)
    )
    window = np.outer(np.hanning(small[0]), np.hanning(small[1]))
    best = max(((*_shifted(a * window, _turned(b, turn) * window), turn) for turn in TURNS), key=lambda one: one[0])
    start = np.array([best[3], 0.0, best[1] / scale, best[2] / scale])
    return _refined([_shown(*one) for one in zip(light, valid, strict=True)], valid, start)


def _turned(picture: Array, degrees: float) -> Array:
    found: Array = ndimage.rotate(picture, degrees, reshape=False, order=1)
    return found


def _shifted(a: Array, b: Array) -> tuple[float, float, float]:
    """Height of the peak of the phase correlation, and the shift it stands for: b moved by it lies on a."""
    cross = np.fft.fft2(a) * np.conj(np.fft.fft2(b))
    around = np.fft.ifft2(cross / (np.abs(cross) + 1e-3 * np.abs(cross).max() + 1e-12)).real
    at = np.unravel_index(int(np.argmax(around)), around.shape)
    moved = [int(place) if place <= side // 2 else int(place) - side for place, side in zip(at, around.shape, strict=True)]
    return float(around[at]), float(moved[0]), float(moved[1])


def _places(shape: tuple[int, ...], laid: Laid, rows: Array, columns: Array) -> tuple[Array, Array]:
    """Where in the second picture a place of the first is."""
    angle = math.radians(laid.turn_deg)
    y, x = rows - (shape[0] - 1) / 2 - laid.down_px, columns - (shape[1] - 1) / 2 - laid.right_px
    c, s = math.cos(angle) / laid.size, math.sin(angle) / laid.size
    return c * y + s * x + (shape[0] - 1) / 2, -s * y + c * x + (shape[1] - 1) / 2


def _warped(picture: Array, laid: Laid, outside: float) -> Array:
    rows, columns = np.meshgrid(*(np.arange(side, dtype=float) for side in picture.shape), indexing="ij")
    at = _places(picture.shape, laid, rows, columns)
    found: Array = ndimage.map_coordinates(picture, at, order=1, cval=outside)
    return found


def _refined(shown: list[Array], valid: list[Array], start: Array) -> Laid:
    """Turn, size and shift by least squares, first on blurred pictures; where either is cut off does not count."""
    (a, b), values = shown, start
    step = max(round(math.sqrt(a.size / 12_000)), 1)
    rows, columns = (
        one.ravel() for one in np.meshgrid(*(np.arange(4, side - 4, step, dtype=float) for side in a.shape), indexing="ij")
    )
    whole = valid[0][rows.astype(int), columns.astype(int)]
    for sigma in (4.0, 1.5):
        smooth_a, smooth_b = ndimage.gaussian_filter(a, sigma), ndimage.gaussian_filter(b, sigma)
        wanted = smooth_a[rows.astype(int), columns.astype(int)]
        size = float(wanted.std()) + 1e-9

        def left(tried: Array, b: Array = smooth_b, wanted: Array = wanted, size: float = size) -> Array:
            at = _places(b.shape, Laid(tried[0], math.exp(tried[1]), tried[2], tried[3], 0.0), rows, columns)
            there = ndimage.map_coordinates(valid[1], at, order=1, cval=0.0) * whole
            found: Array = (ndimage.map_coordinates(b, at, order=1, cval=0.0) - wanted) / size * there
            return found

        found = optimize.least_squares(left, values, loss="soft_l1", x_scale=[1.0, 0.02, 2.0, 2.0], max_nfev=40)
        values = found.x
    laid = Laid(float(values[0]), float(math.exp(values[1])), float(values[2]), float(values[3]), 0.0)
    over = _warped(ndimage.gaussian_filter(b, 1.5), laid, np.nan)
    inside = np.isfinite(over) & (valid[0] > 0.9) & (_warped(valid[1], laid, 0.0) > 0.9)
    a1, b1 = ndimage.gaussian_filter(a, 1.5)[inside], over[inside]
    alike = float(np.corrcoef(a1, b1)[0, 1]) if inside.sum() > LEAST_OVER * a.size and a1.std() > 0 and b1.std() > 0 else 0.0
    return Laid(laid.turn_deg, laid.size, laid.down_px, laid.right_px, alike)


# what differs


def _patches(picture: Array, both: npt.NDArray[np.bool_]) -> tuple[Array, npt.NDArray[np.bool_]]:
    """Mean of each patch, and which patches are whole."""
    rows, columns = (side // PATCH * PATCH for side in picture.shape[:2])
    cut = picture[:rows, :columns].reshape(rows // PATCH, PATCH, columns // PATCH, PATCH)
    whole = both[:rows, :columns].reshape(rows // PATCH, PATCH, columns // PATCH, PATCH).all(axis=(1, 3))
    return cut.mean(axis=(1, 3)), np.asarray(whole, dtype=bool)


def _difference(a: Array, b: Array, both: npt.NDArray[np.bool_]) -> tuple[float, float, int]:
    """Median of the patches' differences in stops, its uncertainty, how many there were."""
    mean_a, whole = _patches(a, both)
    mean_b, _ = _patches(b, both)
    count = int(whole.sum())
    if count < LEAST_PATCHES:
        raise NotEnoughData("Patches that are cut off in neither picture", count, LEAST_PATCHES)
    stops = np.log2(np.maximum(mean_b[whole], 1e-6) / np.maximum(mean_a[whole], 1e-6))
    middle = float(np.median(stops))
    spread = 1.4826 * float(np.median(np.abs(stops - middle)))
    return middle, math.hypot(LEAST_U, 1.25 * spread / math.sqrt(count)), count


def _cast(a: Array, b: Array, both: npt.NDArray[np.bool_]) -> tuple[float, float]:
    """By how many stops red and blue have changed more than green."""
    ratio = np.log2((b[both] + 1e-4) / (a[both] + 1e-4))
    red, green, blue = np.median(ratio, axis=0)
    return float(red - green), float(blue - green)


def _smeared(a: Array, b: Array) -> tuple[tuple[float, float] | None, tuple[float, float] | None]:
    """A dip of the cepstrum of the second over the first (shake) and a peak (double image): pixels and degrees."""
    window = np.outer(np.hanning(a.shape[0]), np.hanning(a.shape[1]))
    spectra = [np.log(np.abs(np.fft.fft2((one - one.mean()) * window)) + 1e-4 * np.abs(one).sum()) for one in (a, b)]
    around = np.fft.fftshift(np.fft.ifft2(spectra[1] - spectra[0]).real)
    rows, columns = np.indices(around.shape)
    away = np.hypot(rows - a.shape[0] // 2, columns - a.shape[1] // 2)
    inside = (away >= LEAST_PX) & (away <= MOST_PX) & (rows >= a.shape[0] // 2)
    spread = 1.4826 * float(np.median(np.abs(around[inside]))) + 1e-12
    found: list[tuple[float, float] | None] = []
    for sign in (-1.0, 1.0):
        strength = np.where(inside, sign * around, -np.inf)
        at = np.unravel_index(int(np.argmax(strength)), around.shape)
        if strength[at] < PEAK_SIGMAS * spread:
            found.append(None)
            continue
        down, right = float(at[0] - a.shape[0] // 2), float(at[1] - a.shape[1] // 2)
        found.append((math.hypot(down, right), math.degrees(math.atan2(-down, right)) % 180.0))
    return found[0], found[1]
