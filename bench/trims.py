"""Invented cameras trimmed by test shots: how many frames until the setting is right, beside halving the wheel."""

import numpy as np

from bench.measure import row
from violet_dial.core.exposure.trim import EYE_U, HALF, RIGHT, SURE, Marks, TestShot, TrimPosterior

CAMERAS, SEED, MOST = 1000, 3, 10


class Camera:
    """Known truth: offset of the middle setting, steps of wheel and slider; steps are not quite even."""

    def __init__(self, rng: np.random.Generator, marks: Marks) -> None:
        self.marks, self._rng = marks, rng
        self.offset = float(np.clip(rng.normal(0.0, 1.5), -2.5, 2.5))
        step, slide = rng.uniform(0.15, 0.5), rng.uniform(0.15, 0.5)
        self.wheel = dict(zip(marks.wheel, np.cumsum(step * rng.uniform(0.85, 1.15, len(marks.wheel))), strict=True))
        self.slider = dict(zip(marks.slider, np.cumsum(slide * rng.uniform(0.9, 1.1, len(marks.slider))), strict=True))
        self._zero = np.mean(list(self.wheel.values())) + np.mean(list(self.slider.values()))

    def error(self, wheel: float, slider: float) -> float:
        """True error, stops."""
        return float(self.offset + self.wheel[wheel] + self.slider[slider] - self._zero)

    @property
    def can_be_right(self) -> bool:
        """Whether any setting is within reach of right."""
        return min(abs(self.error(float(w), float(s))) for w, s in self.marks.settings) <= RIGHT

    def shot(self, wheel: float, slider: float) -> TestShot:
        """As an eye judges it, to half a stop."""
        seen = self.error(wheel, slider) + self._rng.normal(0.0, EYE_U)
        return TestShot(wheel, slider, round(seen / HALF) * HALF)


def by_thought(camera: Camera) -> tuple[int, float, bool, int]:
    """Shots until the best setting is right for the first time; chance said of it where it is said to be done, whether it was
    right then, and after how many shots."""
    belief = TrimPosterior(camera.marks)
    first, done = MOST + 1, (0.0, False, MOST)
    for count in range(1, MOST + 1):
        ask = belief.next_shot()
        belief.take(camera.shot(ask.wheel, ask.slider))
        best = belief.settings()[0]
        is_right = abs(camera.error(best.wheel, best.slider)) <= RIGHT
        first = min(first, count) if is_right else first
        if not done[0] and (best.chance >= SURE or count == MOST):
            done = (best.chance, is_right, count)
        if done[0] and first <= MOST:
            break
    return first, *done


def by_halving(camera: Camera) -> int:
    """Shots until the setting is right where the wheel is halved, the slider in the middle."""
    marks = sorted(camera.marks.wheel)
    low, high, middle = 0, len(marks) - 1, sorted(camera.marks.slider)[len(camera.marks.slider) // 2]
    for count in range(1, MOST + 1):
        at = (low + high) // 2
        shot = camera.shot(marks[at], middle)
        if abs(camera.error(marks[at], middle)) <= RIGHT:
            return count
        low, high = (low, max(at - 1, low)) if shot.stops > 0 else (min(at + 1, high), high)
        if low >= high and shot.stops == 0:
            return MOST + 1
    return MOST + 1


def trimmed(count: int, seed: int = SEED) -> dict[str, float]:
    """Frames until right by thought and by halving; what was said of the setting at the end, and how often that was so."""
    rng = np.random.default_rng(seed)
    marks = Marks()
    cameras: list[Camera] = []
    while len(cameras) < count:
        camera = Camera(rng, marks)
        if camera.can_be_right:
            cameras.append(camera)
    first, said, right, done = (np.array(one, dtype=float) for one in zip(*map(by_thought, cameras), strict=True))
    halved = np.array([by_halving(one) for one in cameras])
    return {
        "median": float(np.median(first)), "within_five": float((first <= 5).mean()), "said": float(said.mean()),
        "right_when_done": float(right.mean()), "done": float(done.mean()), "halving_median": float(np.median(halved)),
        "halving_within_five": float((halved <= 5).mean()),
    }  # fmt: skip


def report() -> None:
    """All of it."""
    found = trimmed(CAMERAS)
    row(
        f"{CAMERAS} cameras: frames until right, median",
        f"{found['median']:.0f}, halving {found['halving_median']:.0f}",
        "goal: 3",
    )
    row("right within five frames", f"{found['within_five']:.1%}, halving {found['halving_within_five']:.1%}", "goal: 95 %")
    row("said to be done: right, after so many frames", f"{found['right_when_done']:.1%}, {found['done']:.1f}", "said: 80 %")


if __name__ == "__main__":
    report()
