"""Firings of a shutter in a recording of light behind it: when it opened and closed, to half of its amplitude, and how surely.

Steps are looked for by the difference of means before and after, at several lengths; what is found is then fitted whole: two
ramps through an input that may be coupled by a capacitor, on a ground that drifts and hums, under a lamp that may flicker.

Source: Effective time between the half-amplitude points: ISO 516 [memory]. A ramp through a first-order high-pass: any textbook
of circuits. Separable least squares: Golub and Pereyra 1973 [memory].
"""

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.scipy_rooms import optimize, signal

Array = npt.NDArray[np.float64]
LENGTHS_S = (0.0003, 0.001, 0.004)  # of the means that are compared
SIGMAS = 4.6  # of a difference, from which it is a step
OF_LARGEST, MOST_STEPS = 0.3, 400  # and its share of the largest one: what is smaller is a bounce or hum
NEAR_S = 0.0004  # extremes nearer to each other than this are one
WINDOW_S, MOST_POINTS = 0.02, 1400  # about each edge, and samples fitted
LEAST_GAIN = 60.0  # by how much the fit must be better than hum alone, in units of its noise
FIRM = 30.0  # times as firmly at first
OF_RAMP = 0.03  # of each ramp, by which its middle is in doubt: no shutter moves in straight lines
DECAYS = (math.log(2.0), math.log(80.0))  # of the coupling, 1/s: where a fit begins
FINE_S, COARSE_S = 0.003, 0.0004  # about an edge, where every sample counts; of the means elsewhere
BOUNCED_S = 0.007  # and behind the closing, where it may bounce
PLAIN = 1.1  # times the noise of the samples that may be left before a bounce is looked for
BOUNCES_S = (0.0012, 0.0026)  # behind the closing, likewise
LEAST_BOUNCE = 12.0  # by how much a bounce must mend the fit, in units of its noise
USUAL = 0.08  # of the height: flicker and hum, one standard deviation
HUMS_HZ = (50.0, 60.0, 100.0, 120.0)
APART_S = 0.05  # of two firings at least
SLOW_S = 0.012  # no shutter takes so long to open or close: a cloud, or a hand; common practice, no source
OF_SLOW = 0.2  # of what the light does over such times, the least that a firing is
LEVEL_S, HIGHER = 0.002, 1.3  # over which a height is measured; times the one before that a later one must be higher
LEAST_SAMPLES, MOST_SAMPLES = 64, 2_000_000  # the most: 40 s at 48 kHz
OUTLIER = 4.5  # standard deviations from the fit, from which a sample is a bounce's or a spike's


@dataclass(frozen=True)
class RecordedFiring:
    """One firing: half-amplitude times from the beginning of the recording, the effective time with one standard deviation, how
    long opening and closing take, s; ``amplitude`` in the unit of the samples."""

    open_s: float
    close_s: float
    u_s: float
    amplitude: float
    rise_s: float = 0.0
    fall_s: float = 0.0

    @property
    def time_s(self) -> float:
        """Effective time."""
        return self.close_s - self.open_s

    @property
    def full_s(self) -> float:
        """How long it stood fully open; below nothing where it never did."""
        return self.time_s - (self.rise_s + self.fall_s) / 2

    @property
    def efficiency(self) -> float:
        """Effective time over the time from the first light to the last."""
        return self.time_s / (self.time_s + (self.rise_s + self.fall_s) / 2)


def find_firings(samples: Array, rate_hz: float) -> tuple[RecordedFiring, ...]:
    """Every firing in a recording, in order.

    Raises InvalidInput: samples or rate that are no figures; more than two million samples; NotEnoughData: fewer than 64
    samples.

    Parameters
    ----------
    samples : of one sensor, shape (n,), any unit and polarity
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    if y.ndim != 1 or not np.isfinite(y).all() or not (math.isfinite(rate_hz) and rate_hz > 0):
        raise InvalidInput("Recording", "not all figures", "finite samples, one after the other, and their rate")
    if len(y) > MOST_SAMPLES:
        raise InvalidInput("Recording", f"{len(y)} samples", f"at most {MOST_SAMPLES}: cut it into pieces")
    if len(y) < LEAST_SAMPLES:
        raise NotEnoughData("Samples", len(y), LEAST_SAMPLES)
    found: list[RecordedFiring] = []
    many = min(max(round(SLOW_S * rate_hz), 1), len(y))
    summed = np.concatenate([[0.0], np.cumsum(y - y.mean())])
    slow = float(np.ptp(summed[many:] - summed[:-many])) / many  # of the moving mean
    for first, last in _paired(_steps(y, rate_hz)):
        one = _fitted(y, rate_hz, first, last)
        if one is None or one.amplitude < OF_SLOW * slow:  # a ripple on what comes and goes slowly
            continue
        near = bool(found) and one.open_s - found[-1].close_s < APART_S
        if not near:
            found.append(one)
        elif _height(y, rate_hz, one) > HIGHER * _height(y, rate_hz, found[-1]):  # no shutter is wound as fast as that: the one
            found[-1] = one  # before was hum; where they are alike the later is a bounce, whatever height fits it best
    return tuple(found)


def _height(y: Array, rate_hz: float, firing: RecordedFiring) -> float:
    """By how much the light rose as it opened, as it was measured: a fit of what is narrow may have any height."""
    open_, close = firing.open_s + firing.rise_s / 2, firing.close_s - firing.fall_s / 2
    first, last = round(open_ * rate_hz), round(min(close, open_ + LEVEL_S) * rate_hz)
    begin = round((firing.open_s - firing.rise_s / 2) * rate_hz)
    inside = y[max(first, 0) : max(last, first + 1)] if last > first else y[begin : begin + 1 + max(first - begin, 0)]
    before = y[max(begin - round(LEVEL_S * rate_hz), 0) : max(begin, 1)]
    if not len(inside) or not len(before):
        return firing.amplitude
    return abs(float(np.median(inside) - np.median(before)))


def firing_at(samples: Array, rate_hz: float, opened: int, closed: int) -> RecordedFiring | None:
    """One firing whose edges are known to a millisecond or so; None where hum explains as much.

    Parameters
    ----------
    samples : of one sensor, shape (n,), finite
    rate_hz : samples a second
    """
    y = np.asarray(samples, dtype=float)
    if len(y) < LEAST_SAMPLES or not 0 <= opened < closed < len(y):
        raise NotEnoughData("Samples", len(y), LEAST_SAMPLES)
    return _fitted(y, rate_hz, opened, closed)


def _steps(y: Array, rate_hz: float) -> list[tuple[int, float]]:
    """Places of steps in order, with their height in standard deviations of what is no step."""
    t = np.arange(len(y)) / rate_hz
    ground = _ground(t)
    summed = np.concatenate([[0.0], np.cumsum(_without(y, ground))])
    found: list[tuple[int, float, float]] = []
    for length_s in LENGTHS_S:
        w = max(round(length_s * rate_hz), 2)
        if 2 * w >= len(y):
            continue
        height = (summed[2 * w :] - 2 * summed[w:-w] + summed[: -2 * w]) / w
        spread = _spread(height - np.median(height))
        sizes = np.abs(height)
        places, _ = signal.find_peaks(np.pad(sizes, 1), height=SIGMAS * spread, distance=max(w // 2, 1))
        found += [(int(at) - 1 + w, float(height[at - 1]), float(height[at - 1] / spread)) for at in places]
    largest = max((abs(size) for _, size, _ in found), default=0.0)
    kept: list[tuple[int, float]] = []
    near = max(round(NEAR_S * rate_hz), 2)
    for at, _, score in sorted((one for one in found if abs(one[1]) >= OF_LARGEST * largest), key=lambda one: -abs(one[2]))[
        : 4 * MOST_STEPS
    ]:
        if all(abs(at - other) > near or (score > 0) != (more > 0) for other, more in kept):
            kept.append((at, score))
    return sorted(kept[:MOST_STEPS])


def _spread(off: Array) -> float:
    """Standard deviation of what lies about nothing, by its median: outliers do not count."""
    return 1.4826 * float(np.median(np.abs(off))) + 1e-15


def _without(y: Array, ground: Array) -> Array:
    """Samples without the ground that fits them best."""
    return y - ground @ np.linalg.lstsq(ground, y, rcond=None)[0]


def _paired(steps: list[tuple[int, float]]) -> list[tuple[int, int]]:
    """Each opening with its closing: of all pairs that follow each other, of either polarity, those that weigh most."""
    return max((_weighed(steps, sign) for sign in (1.0, -1.0)), key=lambda one: one[0])[1]


def _weighed(steps: list[tuple[int, float]], sign: float) -> tuple[float, list[tuple[int, int]]]:
    """Weight and pairs of one polarity; a pair weighs the square of its smaller step."""
    best: list[tuple[float, tuple[int, int] | None, int]] = [(0.0, None, 0)]  # up to each step: weight, pair, what was before
    for last, (at, score) in enumerate(steps):
        most: tuple[float, tuple[int, int] | None, int] = (best[last][0], None, last)
        for first in range(last) if score * sign < 0 else ():
            begun, other = steps[first]
            if other * sign > 0 and (weight := best[first][0] + min(abs(other), abs(score)) ** 2) > most[0]:
                most = (weight, (begun, at), first)
        best.append(most)
    pairs, at = [], len(steps)
    while at > 0:
        _, pair, before = best[at]
        pairs += [pair] if pair is not None else []
        at = before
    return best[-1][0], pairs[::-1]


def _ramp(t: Array, rise: float, decay: float) -> Array:
    """A ramp that begins at nothing and takes ``rise`` s, through a coupling that forgets at ``decay`` 1/s."""
    inside = np.clip(t, 0.0, rise)
    after = np.maximum(t - rise, 0.0)
    if decay * (rise + 1e-12) < 1e-6:
        return inside / rise * np.exp(-decay * after)
    shown = -np.expm1(-decay * inside) / (decay * rise)
    return shown * np.exp(-decay * after)


@dataclass(frozen=True)
class _Window:
    """What is fitted: times and samples about both edges, what the ground may be, both times the root of how many samples each
    stands for; how firmly flicker and hum are held at nothing; noise of one sample, from one to the next."""

    t: Array
    y: Array
    ground: Array
    root: Array
    held: float
    noise: float

    def without(self, kept: npt.NDArray[np.bool_]) -> "_Window":
        """Only the samples kept."""
        return replace(self, t=self.t[kept], y=self.y[kept], ground=self.ground[kept], root=self.root[kept])

    @cached_property
    def own(self) -> tuple[Array, Array]:
        """What the ground explains of itself and of the samples."""
        return self.ground.T @ self.ground, self.ground.T @ self.y


def _window(y: Array, rate_hz: float, first: int, last: int) -> _Window:
    at = _points(len(y), rate_hz, first, last)
    part = y[at]
    noise = _spread(np.diff(part)) / math.sqrt(2)
    smooth = np.convolve(part, np.full(5, 0.2), "valid")
    t, shown, count = _coarsened(at, part, rate_hz, (first, last))
    root = np.sqrt(count)
    held = noise / (USUAL * float(np.ptp(smooth)) + 1e-15)
    return _Window(t, shown * root, _ground(t) * root[:, None], root, held, noise)


def _coarsened(at: npt.NDArray[np.intp], part: Array, rate_hz: float, edges: tuple[int, int]) -> tuple[Array, Array, Array]:
    """Times, samples, and how many each stands for: fine about the edges, means of several further off, where only levels are
    told."""
    fine = np.zeros(len(at), dtype=bool)
    for edge, behind in zip(edges, (FINE_S, BOUNCED_S), strict=True):
        fine |= (at > edge - FINE_S * rate_hz) & (at < edge + behind * rate_hz)
    most = max(int(COARSE_S * rate_hz), 1)
    begins = np.concatenate([[True], fine[1:] | fine[:-1] | (np.diff(at) > 1)])
    run = np.cumsum(begins) - 1
    since = np.arange(len(at)) - np.flatnonzero(begins)[run]
    group = np.cumsum(begins | (since % most == 0)) - 1
    count = np.bincount(group).astype(float)
    return np.bincount(group, at) / count / rate_hz, np.bincount(group, part) / count, count


@dataclass(frozen=True)
class _Fit:
    """Least squares of one firing: free values (opened, log rise, closed, log fall, log decay; with a bounce its begin and log
    length), what it explains, amplitude, noise left (what hangs together in it counted)."""

    values: Array
    jacobian: Array
    explained: Array
    amplitude: float
    cost: float
    noise: float


def _fitted(y: Array, rate_hz: float, first: int, last: int) -> RecordedFiring | None:
    """One firing fitted whole, with a bounce after it where there is one; None where hum explains as much."""
    window = _window(y, rate_hz, first, last)
    low, high = _limits(first / rate_hz, last / rate_hz, rate_hz)
    plain = [first / rate_hz, math.log(2e-4), last / rate_hz, math.log(2e-4)]
    firm = _best(replace(window, held=FIRM * window.held), [[*plain, decay] for decay in DECAYS], (low[:5], high[:5]))
    best = _best(window, [list(firm.values)], (low[:5], high[:5]))
    if 2 * best.cost > PLAIN * window.noise**2 * len(window.y):  # something is left that is no noise
        bounced = _best(
            window, [[*plain, best.values[4], last / rate_hz + one, math.log(1e-3)] for one in BOUNCES_S], (low, high)
        )
        if best.cost - bounced.cost > LEAST_BOUNCE * bounced.noise:
            best = bounced
    off = window.y - best.explained
    kept = np.abs(off) < OUTLIER * _spread(off)  # spikes are left out, and all fitted once more
    if 0.6 < kept.mean() < 1.0:
        count = len(best.values)
        window = window.without(kept)
        best = _best(window, [list(best.values)], (low[:count], high[:count]))
    alone = _without(window.y, window.ground)
    if 0.5 * float(alone @ alone) - best.cost < LEAST_GAIN * best.noise:
        return None
    doubt = _doubt(best, rate_hz)
    rise, fall = math.exp(best.values[1]), math.exp(best.values[3])
    is_bell = min(rise, fall) > SLOW_S / 2 and rise + fall > (best.values[2] - best.values[0]) / 2
    if max(rise, fall) > SLOW_S or is_bell:
        return None
    return RecordedFiring(float(best.values[0]), float(best.values[2]), doubt, abs(best.amplitude), rise, fall)


def _limits(opened: float, closed: float, rate_hz: float) -> tuple[Array, Array]:
    """Least and largest of the free values, s and logs."""
    length = max(closed - opened, 1 / rate_hz)
    slack = min(max(0.4 * length, 2 / rate_hz), 0.004)
    least, most = math.log(0.2 / rate_hz), math.log(min(max(1.2 * length, 2 / rate_hz), 0.02))
    low = [opened - slack, least, closed - slack, least, math.log(1e-3), closed, math.log(3e-4)]
    high = [opened + slack, most, closed + slack, most, math.log(600.0), closed + 0.006, math.log(3e-3)]
    return np.array(low), np.array(high)


def _best(window: _Window, starts: list[list[float]], limits: tuple[Array, Array]) -> _Fit:
    """The best of the fits begun at the starts."""
    low, high = limits

    def left(values: Array) -> Array:
        explained, _, price = _explained(values, window)
        return np.concatenate([window.y - explained, price])

    scale = np.array([1e-4, 1.0, 1e-4, 1.0, 1.0, 1e-4, 1.0])[: len(low)]
    tried = []
    for start in starts:
        begun = np.clip(start, low + 1e-9, high - 1e-9)
        tried.append(optimize.least_squares(left, begun, bounds=limits, x_scale=scale, max_nfev=40, ftol=1e-6, xtol=1e-7))
        if 2 * tried[-1].cost < PLAIN * window.noise**2 * len(window.y):
            break  # nothing is left but noise
    found = min(tried, key=lambda one: float(one.cost))
    explained, amplitude, _ = _explained(found.x, window)
    rest = window.y - explained
    noise = max(2 * float(found.cost) / max(len(rest) - 16, 1), 1e-24)
    rest = rest - rest.mean()
    along = min(max(float(rest[1:] @ rest[:-1]) / max(float(rest @ rest), 1e-30), 0.0), 0.98)
    return _Fit(found.x, found.jac, explained, amplitude, float(found.cost), noise * (1 + along) / (1 - along))


def _light(t: Array, values: Array) -> tuple[Array, Array | None]:
    """Light of the firing, and of its bounce, at amplitude 1."""
    rise, fall, decay = np.exp(values[1]), np.exp(values[3]), np.exp(values[4])
    light = _ramp(t - values[0] + rise / 2, rise, decay) - _ramp(t - values[2] + fall / 2, fall, decay)
    if len(values) == 5:
        return light, None
    edge, begin = 0.5 * (t[1] - t[0]), t - values[5]
    return light, _ramp(begin, edge, decay) - _ramp(begin - np.exp(values[6]), edge, decay)


def _points(count: int, rate_hz: float, first: int, last: int) -> npt.NDArray[np.intp]:
    """Samples about both edges, thinned where there are too many."""
    w = max(round(WINDOW_S * rate_hz), 24)
    before, after = (np.arange(max(one - w, 0), min(one + w, count)) for one in (first, last))
    at = np.unique(np.concatenate([before, after]))
    if len(at) <= 2 * MOST_POINTS:
        return at
    close = np.minimum(np.abs(at - first), np.abs(at - last))
    near = at[close <= max(MOST_POINTS // 4, 8)]
    return np.unique(np.concatenate([near, at[:: max(len(at) // MOST_POINTS, 1)]]))


def _ground(t: Array) -> Array:
    """Level, drift and hum."""
    middle = t - t.mean()
    return np.stack(
        [np.ones(len(t)), middle, *(wave(2 * math.pi * one * t) for one in HUMS_HZ for wave in (np.sin, np.cos))], axis=1
    )


def _explained(values: Array, window: _Window) -> tuple[Array, float, Array]:
    """Samples by the light on the ground, the lamp flickering at twice the mains; the amplitude; and what flicker and hum cost by
    being there: without it they would bend the plateau of a short firing to anything."""
    light, bounce = _light(window.t, values)
    flicker = window.ground[:, -2 * len(HUMS_HZ[2:]) :] * light[:, None]
    shown = np.column_stack([flicker, light * window.root, *([bounce * window.root] if bounce is not None else [])])
    n, of_ground, of_samples = shown.shape[1], *window.own
    normal = np.empty((n + len(of_ground), n + len(of_ground)))
    normal[n:, n:], normal[:n, :n] = of_ground, shown.T @ shown
    normal[:n, n:] = shown.T @ window.ground
    normal[n:, :n] = normal[:n, n:].T
    held = np.zeros(len(normal))
    held[: flicker.shape[1]] = held[-2 * len(HUMS_HZ) :] = window.held
    normal[np.diag_indices(len(normal))] += held**2 + 1e-12
    found = np.linalg.solve(normal, np.concatenate([shown.T @ window.y, of_samples]))
    return shown @ found[:n] + window.ground @ found[n:], float(found[flicker.shape[1]]), held * found


def _doubt(fit: _Fit, rate_hz: float) -> float:
    """One standard deviation of the time between the edges, s; never below a tenth of a sample."""
    pull = np.zeros(fit.jacobian.shape[1])
    pull[[0, 2]] = -1.0, 1.0
    variance = float(pull @ (np.linalg.pinv(fit.jacobian.T @ fit.jacobian) * fit.noise) @ pull)
    ramps = OF_RAMP * math.hypot(math.exp(fit.values[1]), math.exp(fit.values[3]))
    return math.hypot(math.sqrt(max(variance, 0.0)), 0.1 / rate_hz, ramps)
