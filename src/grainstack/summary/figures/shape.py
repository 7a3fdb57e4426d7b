"""What a distribution looks like, as far as a mean would hide it."""

import numpy as np
from msgspec import Struct

from grainstack.summary.figures.quantiles import Counted, quantile
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.sums.values import Values

_FEW_VALUES = 12  # different values, as codes and scales have: each is a band of its own
_WIDE_GAP = 6.0  # usual gaps: values on both sides of a wider one are no steps of one scale
_SMOOTHING = (0.25, 0.5, 0.25)  # of a band and its neighbours
_CERTAIN = 4.0  # standard errors of a difference of counts, as many pairs of bands are looked at
_FEW = 8  # records below which nothing can be told of a shape
_FEW_FOR_FAR = 20  # records below which single values are no outliers


class Shape(Struct, frozen=True):
    """The distribution of one measure over all records of a table.

    Attributes:
        records: Records with an answer.
        zeros: How many of them are exactly 0.
        commonest: How often the most frequent value other than 0 occurs.
    """

    records: int
    zeros: int
    commonest: int


def shape_of(values: Values) -> Shape | None:
    """The shape of all values together, or None when they were too many to be kept."""
    if not values.complete:
        return None
    different, back = np.unique(values.values, return_inverse=True)
    times = np.bincount(back, values.records, len(different)).astype(np.int64)
    zeros = int(times[different == 0].sum())
    others = times[different != 0]
    return Shape(int(times.sum()), zeros, int(others.max(initial=0)))


class CellShape(Struct, frozen=True):
    """The distribution of a measure in one cell.

    Attributes:
        records: How many records it rests on.
        median: Half of them lie below it.
        mean: Their mean, each counted once.
        far: How many lie further from the quartiles than three quartile ranges.
        near_mean: The mean without those.
        near_deviation: The standard deviation without those.
        skewness: G₁, how much further values reach above the mean than below.
        valley: Between which two peaks it dips, if it has two that hold a fifth of the records each.
    """

    records: int
    median: float
    mean: float
    far: int
    near_mean: float
    near_deviation: float
    skewness: float
    valley: tuple[float, float] | None

    @property
    def pulled(self) -> bool:
        """Whether a few outliers move the mean by more than a fifth of the standard deviation of the others."""
        return bool(self.far) and abs(self.mean - self.near_mean) > 0.2 * self.near_deviation


def cell_shape_of(counted: Counted) -> CellShape | None:
    """The shape of one cell, records counted alike whatever their weight; None for fewer than 8 records."""
    values, records, _ = counted
    n = int(records.sum())
    if n < _FEW:
        return None
    lower, median, upper = (quantile(counted, part, weighted=False) for part in (0.25, 0.5, 0.75))
    reach = 3 * (upper - lower) if n >= _FEW_FOR_FAR else np.inf
    near = (values >= lower - reach) & (values <= upper + reach) if reach else np.ones(len(values), dtype=bool)
    (mean, _), (near_mean, near_deviation) = (_moments(values[part], records[part]) for part in (slice(None), near))
    far = n - int(records[near].sum())
    skewness = _skewness(values, records)
    return CellShape(n, median, mean, far, near_mean, near_deviation, skewness, _valley(values, records, n))


def _skewness(values: Floats, records: Integers) -> float:
    """G₁ = g₁ √(n(n − 1)) / (n − 2) (Joanes & Gill 1998); 0 where all values are equal."""
    n = int(records.sum())
    mean = (values * records).sum() / n
    second, third = ((records * (values - mean) ** power).sum() / n for power in (2, 3))
    return float(third / second**1.5 * (n * (n - 1)) ** 0.5 / (n - 2)) if second > 0 else 0.0


def _moments(values: Floats, records: Integers) -> tuple[float, float]:
    n = int(records.sum())
    mean = float((values * records).sum() / n)
    return mean, float(np.sqrt((records * (values - mean) ** 2).sum() / max(n - 1, 1)))


def _valley(values: Floats, records: Integers, n: int) -> tuple[float, float] | None:
    """The two highest peaks of a smoothed histogram with a dip to less than half of the lower one between them."""
    reach = np.cumsum(records) / n
    low, high = (float(values[np.searchsorted(reach, part)]) for part in (0.02, 0.98))
    if not high > low or n < 40:
        return None
    bands = int(min(max(np.sqrt(n), 8), 24))
    width, start = (high - low) / bands, low
    inside = values[(values >= low) & (values <= high)]
    gaps = np.diff(inside)
    step = float(gaps.min())
    if len(inside) <= _FEW_VALUES and gaps.max() <= _WIDE_GAP * np.median(gaps):
        place = np.clip(np.searchsorted(inside, values), 0, len(inside) - 1)  # each value of an uneven scale is a band
        bands, middles = len(inside), np.asarray(inside)
    else:
        if round((high - low) / step) < bands:  # a scale of few steps: finer bands would be empty between them
            bands, width, start = round((high - low) / step) + 1, step, low - step / 2
        place = np.clip(((values - start) / width).astype(np.int64), 0, bands - 1)
        middles = np.asarray(start + (np.arange(bands) + 0.5) * width)
    heights = np.bincount(place, records, bands).astype(np.float64)
    smooth = np.convolve(np.pad(heights, 1, mode="edge"), _SMOOTHING, mode="valid")
    first = int(np.argmax(smooth))
    best: tuple[float, int, int] | None = None
    for second in range(bands):
        left, right = sorted((first, second))
        dip = float(smooth[left : right + 1].min())
        noise = _CERTAIN * (sum(part**2 for part in _SMOOTHING) * (dip + float(smooth[second]))) ** 0.5
        clear = smooth[second] - dip > noise  # more than counts of records differ by chance
        if dip < 0.5 * smooth[second] and clear and (best is None or smooth[second] > best[0]):
            best = (float(smooth[second]), left, right)
    if best is None:
        return None
    _, left, right = best
    cut = left + int(np.argmin(smooth[left : right + 1]))
    sides = heights[:cut].sum() / n, heights[cut:].sum() / n
    return (float(middles[left]), float(middles[right])) if min(sides) >= 0.2 else None
