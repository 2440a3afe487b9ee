"""Pictures that a package ships, made brighter or darker, turned, moved, with noise and a quarter cut off: the difference
found."""

from pathlib import Path

import numpy as np
import numpy.typing as npt
import skimage
from PIL import Image
from scipy import ndimage

from bench.measure import row
from violet_dial.core.pictures.compare import compare, linear

Array = npt.NDArray[np.float64]
NAMES = (
    "astronaut", "brick", "camera", "chelsea", "coffee", "coins", "grass", "gravel", "hubble_deep_field", "ihc", "moon",
    "motorcycle_left", "retina", "rocket", "page", "text", "cell", "microaneurysms", "motorcycle_right", "immunohistochemistry",
)  # fmt: skip
TURN_DEG, NOISE, SEED = 3.0, 0.02, 11


def code(light: Array) -> Array:
    """sRGB code values of linear light."""
    light = np.clip(light, 0.0, 1.0)
    found: Array = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return found


def shipped() -> list[tuple[str, Array]]:
    """The pictures with their names, code values 0 to 1, shape (h, w, 3)."""
    folder = Path(skimage.__file__).parent / "data"
    found = []
    for path in sorted(folder.glob("*.png")) + sorted(folder.glob("*.jpg")):
        if path.stem in NAMES:
            with Image.open(path) as picture:
                picture.thumbnail((420, 420))
                found.append((path.stem, np.asarray(picture.convert("RGB"), dtype=float) / 255.0))
    return found


def changed(picture: Array, stops: float, rng: np.random.Generator) -> tuple[Array, Array]:
    """Two takes of a scene: the first as it is at a middle exposure, the second so many stops brighter, turned, moved, with
    noise, a quarter of it cut off."""
    light = 0.05 + 0.5 * linear(picture)
    light = light * 0.18 / np.median(light)
    first = light * 2.0 ** (-stops / 2)
    second = light * 2.0 ** (stops / 2)
    second = ndimage.rotate(second, TURN_DEG, reshape=False, order=1, mode="nearest")
    second = ndimage.shift(second, (*rng.uniform(-8, 8, 2), 0.0), order=1, mode="nearest")
    side = picture.shape[1] // 4
    second[:, :side] = 4.0 if stops >= 0 else 0.0
    noisy = [code(one) + rng.normal(0.0, NOISE, one.shape) for one in (first, second)]
    return np.clip(noisy[0], 0, 1), np.clip(noisy[1], 0, 1)


def judged(every: tuple[float, ...] = (-3.0, -2.0, -1.0, -0.3, 0.0, 0.5, 1.0, 2.0, 3.0)) -> dict[str, float]:
    """Shares of differences within a tenth of a stop and within two standard deviations; the worst."""
    rng = np.random.default_rng(SEED)
    off, inside, refused = [], [], 0
    for _, picture in shipped():
        for stops in every:
            try:
                found = compare(*changed(picture, stops, rng))
            except ValueError:
                refused += 1
                continue
            off.append(abs(found.stops - stops))
            inside.append(off[-1] <= 2 * found.u_stops)
    return {
        "within": float(np.mean(np.array(off) <= 0.1)), "inside": float(np.mean(inside)), "worst": float(np.max(off)),
        "median": float(np.median(off)), "refused": refused, "count": len(off),
    }  # fmt: skip


def report() -> None:
    """All of it."""
    got = judged()
    row(
        f"{got['count']} pairs: difference within a tenth of a stop",
        f"{got['within']:.1%}, median {got['median']:.3f}",
        "goal: 100 %",
    )
    row("the worst; pairs refused", f"{got['worst']:.2f} stop; {got['refused']:.0f}", "")
    row("within the stated band of 95 %", f"{got['inside']:.1%}", "said: 95 %")


if __name__ == "__main__":
    report()
