"""Histograms: one small chart per group, on the same bands and the same scale."""

from dataclasses import replace

import numpy as np

from grainstack.chart.cells import Cell
from grainstack.chart.distributions.arrangement import Distribution, edges_of, heights_of
from grainstack.chart.distributions.notes import histogram_notes
from grainstack.chart.distributions.request import DistributionRequest
from grainstack.chart.frame.category_axis import Category
from grainstack.chart.frame.frame import Frame, framed
from grainstack.chart.frame.giving_way import STEPS, Draft, Kept, composed
from grainstack.chart.frame.grounds import grounds
from grainstack.chart.frame.plane import Plane
from grainstack.chart.frame.plots import PlotNeeds, Plots, settled_plots
from grainstack.chart.frame.ticks import Ticks, ticks_within
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.request import AxisRequest, AxisTitlesRequest, ColorsRequest, NumbersRequest
from grainstack.chart.scene import Anchor, Key, Line, Mark, MarkRole, Rect, Scene, Text
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.numbers import NumberStyle, number_style
from grainstack.chart.writing.text import shortened, width
from grainstack.chart.writing.wording import marks_of, words_for, words_of_distribution
from grainstack.quick import dataclass
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests
from grainstack.summary.sums.exact import Floats

_PERCENT = NumberStyle(100.0)
_HALO = 2.4  # the white line behind the mean is this many times as thick, so that the mean stays visible on any bar
_MEAN = 0.8  # the mean is thinner than a line that joins figures: it marks a place, it is no series


@dataclass(frozen=True, slots=True)
class Bands:
    """The bands of a histogram, the same for all groups, as far as the axis shows them.

    Attributes:
        edges: Their edges, rising, shape (bands + 1,).
        heights: For each group the height of each band: its share of the group, or its share per unit where bands
            differ in width.
        even: Whether all bands are equally wide.
        beyond: The share of all values that lie beyond the part shown.
    """

    edges: Floats
    heights: tuple[Floats, ...]
    even: bool
    beyond: float

    @property
    def span(self) -> float:
        """From the first edge to the last."""
        return float(self.edges[-1] - self.edges[0])


def bands_of(distribution: Distribution, request: Requests) -> Bands:
    """The bands a request asks for, cut down to the range of the value axis.

    Raises:
        RequestError: Bands that cannot be used.
    """
    edges = edges_of(distribution, request[DistributionRequest].bands)
    widths = np.diff(edges)
    even = bool(np.allclose(widths, widths[0]))
    heights = [heights_of(one, edges) * (widths[0] if even else 1.0) for one in distribution.values]
    limits = request[AxisRequest].limits
    if limits is None:
        return Bands(edges, tuple(heights), even, 0.0)
    first = max(int(np.searchsorted(edges, limits[0], "right")) - 1, 0)
    last = max(min(int(np.searchsorted(edges, limits[1], "left")), len(edges) - 1), first + 1)
    records = sum(int(counts.sum()) for _, counts, _ in distribution.values)
    beyond = sum(
        int(counts[(values < edges[first]) | (values >= edges[last])].sum())
        for values, counts, _ in distribution.values
    )
    kept = tuple(one[first:last] for one in heights)
    return Bands(edges[first : last + 1], kept, even, beyond / records if last < len(widths) or first else 0.0)


def histogram_scene(distribution: Distribution, request: Requests) -> Scene:
    """Histograms as a scene: the share of each group's records in every band; areas where bands differ in width.

    Args:
        distribution: The values.
        request: Bands, words, numbers, colours and size.

    Raises:
        RequestError: Bands that cannot be used, or a colour for a level that is not shown.
    """
    return composed(lambda asked: _Histogram(distribution, asked), request)


class _Histogram:
    """One chart while it is being composed."""

    def __init__(self, distribution: Distribution, request: Requests) -> None:
        self._distribution = distribution
        self._cells = distribution.cells
        self._request = request
        self._bands = bands_of(distribution, request)
        self._frame = self._framed(STEPS[0])
        self._inks = Inks(self._cells, request[ColorsRequest], self._frame.style)
        self._figures = figures_of(self._cells.column, numbers=request[NumbersRequest])
        self._names = group_names(distribution)

    def _framed(self, kept: Kept) -> Frame:
        table, notes = self._cells.table, histogram_notes(self._bands, self._request)
        return framed(words_for(table, words_of_distribution(table, self._request), notes), self._request, kept)

    def draft(self, kept: Kept) -> Draft:
        """The scene with as much around it as there is room for."""
        self._frame = self._framed(kept)
        plots = self._plots()
        marks: list[Mark] = [*plots.behind]
        for place, (cell, plane) in enumerate(zip(self._cells.cells, plots.planes, strict=True)):
            key = self._cells.key(cell)
            marks += self._bars(cell, self._bands.heights[place], plane, key)
            marks += self._mean(cell, plane, key)
            marks += self._references(cell, plane, plots.style)
            if place + plots.columns >= len(self._names):
                marks += self._edge_labels(plane, plots.style)
        alt = histogram_alt(self._distribution, self._frame.words.title, len(self._bands.edges) - 1)
        wanted = {MarkRole.PANEL_TITLE: len(self._names) if len(plots.planes) > 1 else 0}
        scene = self._frame.scene([*marks, *plots.around], alt, wanted)
        return Draft(scene, plots.share(self._frame.size[1]))

    def _plots(self) -> Plots:
        cells, bands, titles = self._cells, self._bands, self._request[AxisTitlesRequest]
        kept = self._frame.kept
        lonely = len(self._names) == 1 and cells.table.categories[0].variable.name == EVERYTHING
        per = "" if bands.even else f" per {cells.column.unit or 'unit'}"
        highest = max(float(one.max(initial=0.0)) for one in bands.heights)
        count = len(bands.edges) - 1
        needs = PlotNeeds(
            categories=tuple(Category("") for _ in range(count)),
            places=tuple(float(place) for place in range(count)),
            span=float(count),
            axis=AxisNeeds(0.0, highest, share=True, percent=True, whole=False, write=_PERCENT),
            panels=("",) if lonely else tuple(self._names),
            panel_columns=self._request[DistributionRequest].panel_columns,
            direction="vertical",
            upright=True,
            value_title=(titles.value_title or f"Share of {cells.column.noun} (%{per})") if kept.axis_titles else "",
            category_title=titles.category_title or self._frame.words.value_title if kept.axis_titles else "",
        )
        return settled_plots(needs, self._frame.body, self._frame.style, self._frame.style.margin)

    def _at(self, value: float, plane: Plane) -> float:
        """Where a value stands along the bands: an x in points."""
        return plane.box.left + (value - float(self._bands.edges[0])) / self._bands.span * plane.box.width

    def _bars(self, cell: Cell, heights: Floats, plane: Plane, key: Key) -> list[Mark]:
        bands, colors, ink = self._bands, self._request[ColorsRequest], self._inks.of(cell)
        part = self._frame.style.part
        marks: list[Mark] = []
        edges = bands.edges.tolist()
        for band, height in enumerate(heights.tolist()):
            near, far, top = self._at(edges[band], plane), self._at(edges[band + 1], plane), plane.value(height)
            share = height * (1 if bands.even else edges[band + 1] - edges[band])
            low, high = (self._figures.number(edge) for edge in edges[band : band + 2])
            place = (near, top, far - near, plane.box.bottom - top)
            marks.append(
                Rect(
                    *(*place, ink.fill, MarkRole.BAR, key, f"{low} to {high}: {_PERCENT(share)} %"),
                    hatch=ink.hatch,
                    outline=INK if colors.outlined else "",
                    opacity=colors.opacity,
                )
            )
            if far - near > part * 2.5 and height:  # thinner bands would be more gap than bar
                marks.append(Line(far, top, far, plane.box.bottom, PAPER, part * 0.5, MarkRole.PART, key))
        return marks

    def _mean(self, cell: Cell, plane: Plane, key: Key) -> list[Mark]:
        bands, style = self._bands, self._frame.style
        if not cell.known or not bands.edges[0] <= cell.estimate <= bands.edges[-1]:
            return []
        at, box = self._at(cell.estimate, plane), plane.box
        strokes = ((PAPER, style.line * _HALO, MarkRole.HALO), (INK, style.line * _MEAN, MarkRole.MEAN))
        return [Line(at, box.top, at, box.bottom, stroke, thick, role, key) for stroke, thick, role in strokes]

    def _references(self, cell: Cell, plane: Plane, style: Style) -> list[Mark]:
        """Lines at reference values of the measure, each with its label beside it."""
        marks: list[Mark] = []
        for value, label in self._request[AxisRequest].references:
            if not self._bands.edges[0] <= value <= self._bands.edges[-1]:
                continue
            at, box = self._at(value, plane), plane.box
            marks.append(Line(at, box.top, at, box.bottom, MUTED, style.whisker * 1.1, MarkRole.REFERENCE))
            if label:
                marks += self._beside(label, at, self._at(cell.estimate, plane), plane, style)
        return marks

    def _beside(self, label: str, at: float, mean: float, plane: Plane, style: Style) -> list[Mark]:
        """A label beside a line, on a plate over the bands: on the wider side, unless the mean's line runs there."""
        box, size, gap = plane.box, style.tick, style.gap
        wide = width(label, size)
        rooms = {1: box.right - at - gap * 1.5, -1: at - box.left - gap * 1.5}
        sides = sorted(rooms, key=lambda side: (0 <= (mean - at) * side <= wide + gap * 2, -rooms[side]))
        side = next((side for side in sides if wide <= rooms[side]), max(rooms, key=lambda one: rooms[one]))
        content = shortened(label, size, rooms[side])
        if not content:
            return []
        anchor = Anchor.START if side > 0 else Anchor.END
        wide, tip = width(content, size), "" if content == label else label
        text = Text(at + gap * side, box.top + size, content, size, wide, MUTED, MarkRole.REFERENCE_LABEL, tip=tip)
        text = replace(text, anchor=anchor)
        return [*grounds([text], style), text]

    def _edge_labels(self, plane: Plane, style: Style) -> list[Mark]:
        """Round numbers under the bands, as many as have room, or those asked for."""
        size, bottom = style.tick, plane.box.bottom
        edges, wanted = self._bands.edges, self._request[AxisRequest].tick_values
        low, high, per_unit = float(edges[0]), float(edges[-1]), plane.box.width / self._bands.span
        ticks = ticks_within(low, high, max(int(wanted[0]), 1) if len(wanted) == 1 else 10)
        while len(ticks.values) > 2 and self._too_tight(ticks, size, per_unit):
            ticks = ticks_within(low, high, len(ticks.values) - 2)
        values = [value for value in wanted if low <= value <= high] if len(wanted) > 1 else list(ticks.values)
        marks: list[Mark] = []
        for value in values:
            x, content = self._at(value, plane), self._tick(ticks)(value)
            marks.append(Line(x, bottom, x, bottom + style.gap * 0.6, MUTED, style.grid, MarkRole.TICK_MARK))
            wide = width(content, size)
            marks.append(
                Text(x, bottom + style.gap + size, content, size, wide, MUTED, MarkRole.TICK, anchor=Anchor.MIDDLE)
            )
        return marks

    def _tick(self, ticks: Ticks) -> NumberStyle:
        """How numbers under the bands are written: in the language asked for, else with the decimals they need."""
        style = self._figures.style
        return NumberStyle(style.scale, ticks.decimals, ticks.power, style.pattern, style.locale)

    def _too_tight(self, ticks: Ticks, size: float, per_unit: float) -> bool:
        """Whether neighbouring labels would touch."""
        write = self._tick(ticks)
        wide = max(width(write(value), size) for value in ticks.values) + size
        return (ticks.values[1] - ticks.values[0]) * per_unit < wide


def histogram_alt(distribution: Distribution, title: str, bands: int) -> str:
    """What histograms show, in words."""
    low, high = distribution.extent
    groups = len(distribution.cells.cells)
    write = number_style([low, high])
    return f"Histogram. {title}. {groups} groups in {bands} bands; values from {write(low)} to {write(high)}."


def group_names(distribution: Distribution) -> list[str]:
    """The name of every group: its panel, its category and its series."""
    cells = distribution.cells
    names = []
    for cell in cells.cells:
        series = cells.series[cell.series] if cells.series else ""
        parts = (cells.panels[cell.panel], cells.slots[cell.slot].name, series)
        base = f" (n = {cell.base_in_words}{marks_of(cell.flags)})"
        names.append(" · ".join(part for part in parts if part) + base)
    return names
