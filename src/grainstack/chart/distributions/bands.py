"""The bands of histograms, the same for all groups: as asked for, one for each value of a scale, or round ones."""

from math import ceil, floor, log10

import numpy as np
from msgspec import Struct

from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.distributions.distribution_arrangement import Distribution
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.look.measures import ROUNDING
from grainstack.chart.writing.numbers import NumberStyle, number_style
from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.records.readers.widths import auto_width
from grainstack.requests import Requests
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.sums.exact import Floats

MOST_BANDS = 200  # thinner bands than this are lines
_MOST_VALUES = 15  # of a scale: up to one from 0 to 10, and a little
_FAR = 3.0  # quartile ranges beyond a quartile: values further out are far off (Tukey 1977, chapter 2: outer fences)
_STRETCH = 1.25  # of the range of the bulk: where far values stretch it by more, they stand in an open band


class Bands(Struct, frozen=True):
    """The bands of a histogram, the same for all groups, as far as the axis shows them.

    Attributes:
        edges: Their edges, rising, shape (bands + 1,).
        heights: For each group the height of each band, shape (bands,).
        stat: What heights are: `count`, `share` or `density`, a share per unit.
        even: Whether all bands are equally wide.
        outside: The share of all values that lie beyond the part shown.
        under: Whether the first band holds all values below its upper edge.
        over: Whether the last band holds all values from its lower edge on.
        values: The values of a scale with a band each; empty where bands hold ranges.
    """

    edges: Floats
    heights: tuple[Floats, ...]
    stat: str
    even: bool
    outside: float = 0.0
    under: bool = False
    over: bool = False
    values: tuple[float, ...] = ()

    @property
    def span(self) -> float:
        """From the first edge to the last."""
        return float(self.edges[-1] - self.edges[0])

    @property
    def closed(self) -> tuple[float, float]:
        """From where to where values stand at their place: without open bands."""
        return float(self.edges[1 if self.under else 0]), float(self.edges[-2 if self.over else -1])

    def written(self, style: NumberStyle) -> NumberStyle:
        """How edges and values are written: with the decimals they need.

        Args:
            style: How the measure is written, in which pattern and language.
        """
        plain = number_style(list(self.values or self.closed))
        return NumberStyle(style.scale, plain.decimals, plain.power, style.pattern, style.locale)

    def name(self, band: int, style: NumberStyle) -> str:
        """What a band holds, in words.

        Args:
            band: Its place.
            style: As `written`.
        """
        write = self.written(style)
        if self.values:
            return write(self.values[band])
        low, high = (write(edge) for edge in self.edges[band : band + 2].tolist())
        if self.under and band == 0:
            return phrase("below {edge}", edge=high)
        if self.over and band == len(self.edges) - 2:
            return phrase("{edge} and over", edge=low)
        return phrase("{low} to {high}", low=low, high=high)

    def ends(self, style: NumberStyle) -> tuple[str, str]:
        """What is written under the first and the last band."""
        write = self.written(style)
        low, high = (self.values[0], self.values[-1]) if self.values else self.closed
        return f"{'<' * self.under}{write(low)}", f"{write(high)}{'+' * self.over}"


def bands_of(distribution: Distribution, request: Requests, most: int = MOST_BANDS) -> Bands:
    """The bands a request asks for, cut down to the range of the value axis.

    Args:
        distribution: The values.
        request: Bands, what heights are, the range of the axis.
        most: How many bands there is room for.

    Raises:
        RequestError: Bands that cannot be used, or heights that would mislead.
    """
    wanted = request[DistributionRequest]
    chosen = not wanted.bands or wanted.bands == "auto"
    values = _scale(distribution) if not wanted.bands else ()
    under = over = False
    if values:
        step = values[1] - values[0] if len(values) > 1 else 1.0
        edges = np.array([value - step / 2 for value in (*values, values[-1] + step)])
    elif chosen and wanted.heights != "density" and request[AxisRequest].limits is None:
        edges, under, over = _bulk(distribution, most)
    else:
        edges = edges_of(distribution, wanted.bands, most)
    widths = np.diff(edges)
    even = bool(np.allclose(widths, widths[0]))
    stat = wanted.heights or ("share" if even else "density")
    if not even and stat != "density":
        raise RequestError(
            f"{option('stat')} {stat} of bands that differ in width is not what their areas say.",
            f"Use {option('stat', 'density')}, or bands of one width.",
        )
    heights = tuple(heights_of(one, edges, stat) for one in distribution.values)
    limits = request[AxisRequest].limits
    if limits is None:
        return Bands(edges, heights, stat, even, 0.0, under, over, values)
    first = max(int(np.searchsorted(edges, limits[0], "right")) - 1, 0)
    last = max(min(int(np.searchsorted(edges, limits[1], "left")), len(edges) - 1), first + 1)
    records = sum(int(counts.sum()) for _, counts, _ in distribution.values)
    outside = sum(
        int(counts[(values < edges[first]) | (values >= edges[last])].sum())
        for values, counts, _ in distribution.values
    )
    kept = tuple(one[first:last] for one in heights)
    share = outside / records if last < len(widths) or first else 0.0
    return Bands(edges[first : last + 1], kept, stat, even, share, values=values[first:last])


def edges_of(distribution: Distribution, wanted: str | None, most: int = MOST_BANDS) -> Floats:
    """The edges of the bands of a histogram, the same for all cells.

    Args:
        distribution: The values.
        wanted: A width, a list of edges, or None to choose a round width by the rule of Freedman and Diaconis.
        most: How many bands there may be.

    Raises:
        RequestError: The bands cannot be read, are too many, or leave values out.
    """
    low, high = distribution.extent
    numbers = []
    if wanted and wanted != "auto":
        try:
            numbers = [float(part) for part in wanted.split(",")]
        except ValueError:
            raise RequestError(
                f"{option('band')} {wanted} cannot be read.", "Give a width, or rising edges: 0,10,20."
            ) from None
    if len(numbers) > 1:
        edges = np.array(numbers)
        if (np.diff(edges) <= 0).any():
            raise RequestError(f"The edges of {option('band')} {wanted} overlap.", "Give rising edges, each once.")
        if low < edges[0] or high > edges[-1]:
            outside = low if low < edges[0] else high
            raise RequestError(
                f"{option('band')} {wanted} leaves values out, such as {outside:g}.", "Widen the outer edges."
            )
        return edges
    width = numbers[0] if numbers else _chosen_width(distribution, low, high, most)
    if width <= 0:
        raise RequestError(f"The width of {option('band')} {wanted} must be above 0.", "Give a positive number.")
    first = np.floor(low / width + ROUNDING)
    last = max(np.floor(high / width + ROUNDING) + 1, first + 1)
    if last - first > most:
        raise RequestError(
            f"{option('band')} {width:g} makes {int(last - first):,} bands, and {most} can be seen.",
            f"Choose a width of {_round_up((high - low) / max(most - 1, 1)):g} or more, or a larger {option('size')}.",
        )
    return np.asarray(np.arange(first, last + 1) * width, dtype=np.float64)


def heights_of(counted: Counted, edges: Floats, stat: str) -> Floats:
    """The height of each band of a cell, shape (bands,); values beyond the outer edges stand in the outer bands.

    Args:
        counted: Values, rising, with their records and weights, shape (values,) each.
        edges: The edges of the bands, rising, shape (bands + 1,).
        stat: `count` for the weight in each band, `share` for its part of the whole, `density` for that per unit of
            its width, so that areas add to 1.
    """
    values, _, weights = counted
    if not len(values):
        return np.zeros(len(edges) - 1)
    place = np.clip(np.searchsorted(edges, values, side="right") - 1, 0, len(edges) - 2)
    sums = np.bincount(place, weights, len(edges) - 1)
    if stat == "count":
        return np.asarray(sums)
    return np.asarray(sums / sums.sum() / (np.diff(edges) if stat == "density" else 1.0))


def _pooled(distribution: Distribution) -> tuple[Floats, Floats]:
    """The different values of all cells together, rising, and how often each occurs."""
    values = np.concatenate([values for values, _, _ in distribution.values])
    counts = np.concatenate([records for _, records, _ in distribution.values])
    different, back = np.unique(values, return_inverse=True)
    return different, np.bincount(back, counts).astype(np.float64)


def _scale(distribution: Distribution) -> tuple[float, ...]:
    """The steps of a short scale on which all values lie, such as scores from 1 to 5; empty where there is none."""
    different, _ = _pooled(distribution)
    if not 1 < len(different) <= _MOST_VALUES:
        return ()
    step = float(np.diff(different).min())
    if float(different[-1]) - float(different[0]) >= step * _MOST_VALUES:
        return ()
    places = (different - different[0]) / step
    if not np.allclose(places, np.round(places), atol=ROUNDING):
        return ()
    return tuple(float(different[0] + step * place) for place in range(round(places[-1]) + 1))


def _bulk(distribution: Distribution, most: int) -> tuple[Floats, bool, bool]:
    """Round bands over the bulk of the values, and whether the first and the last hold all that lie further out."""
    different, counts = _pooled(distribution)
    low, high = float(different[0]), float(different[-1])
    reach = np.cumsum(counts) / counts.sum()
    lower, upper = (float(different[np.searchsorted(reach, part)]) for part in (0.25, 0.75))
    fences = lower - _FAR * (upper - lower), upper + _FAR * (upper - lower)
    inner = different[(different >= fences[0]) & (different <= fences[1])]
    first, last = float(inner[0]), float(inner[-1])
    step = _round_up((last - first) / 8) if last > first else 0.0
    under = bool(step) and last - low > _STRETCH * (last - first)
    over = bool(step) and high - first > _STRETCH * (last - first)
    first = floor(first / step) * step if under else low
    last = ceil(last / step) * step if over else high
    width = _chosen_width(distribution, first, last, most - under - over)
    start, end = floor(first / width + ROUNDING), floor(last / width + ROUNDING) + 1
    if over:
        end = ceil(last / width - ROUNDING) + 1
    if under:
        start -= 1
    return np.asarray(np.arange(start, max(end, start + 1) + 1) * width, dtype=np.float64), under, over


def _chosen_width(distribution: Distribution, low: float, high: float, most: int) -> float:
    """One round width for all cells, from the values of all together in a range: never more bands than allowed."""
    different, counts = _pooled(distribution)
    inside = (different >= low) & (different <= high)
    width = auto_width(different[inside], counts[inside])
    while (high - low) / width > max(most - 2, 1):
        width = _round_up(width * 1.01)
    return width


def _round_up(value: float) -> float:
    """The next number of 1, 2, 2.5 or 5 times a power of ten."""
    power = 10.0 ** floor(log10(value))
    return next(factor * power for factor in (1.0, 2.0, 2.5, 5.0, 10.0) if factor * power >= value * (1 - ROUNDING))
