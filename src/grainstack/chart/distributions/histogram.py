"""Histograms: one small chart per group, on the same bands and the same scale."""

from collections.abc import Collection, Sequence
from itertools import pairwise
from math import ceil

from msgspec.structs import replace

from grainstack.chart.cells import Cell
from grainstack.chart.chart_requests import AxisRequest, AxisTitlesRequest, NumbersRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.distributions.bands import bands_of
from grainstack.chart.distributions.distribution_arrangement import Distribution
from grainstack.chart.distributions.distribution_notes import histogram_notes
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.frame.category_axis import Category
from grainstack.chart.frame.fallbacks import STEPS, Draft, FallbackStep, composed
from grainstack.chart.frame.frame import Frame, framed
from grainstack.chart.frame.plane import Plane
from grainstack.chart.frame.plot_needs import Overflow, PlotNeeds, Plots
from grainstack.chart.frame.plots import settled_plots
from grainstack.chart.frame.signs_drawn import explaining, explains
from grainstack.chart.frame.ticks import Ticks, ticks_within
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Key, Line, Mark, MarkRole, Rect, Text, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.numbers import NumberStyle, number_style
from grainstack.chart.writing.signs import signs_of
from grainstack.chart.writing.text import shortened, width
from grainstack.chart.writing.wording import words_for, words_of_distribution
from grainstack.language import phrase
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests
from grainstack.summary.figures.quantiles import quantile
from grainstack.summary.sums.exact import Floats

_PERCENT = NumberStyle(100.0)
_HALO = 2.4  # the white line behind the mean is this many times as thick, so that the mean stays visible on any bar
MARKED = (MarkRole.MEAN, MarkRole.MEDIAN)
_MEDIAN = 0.4  # the median is told from it by its weight
_LEAST_BAND = 2.0  # points, 4 pixels of the usual picture: thinner bands are lines
_BETWEEN_VALUES = 0.3  # of a band: values of a scale stand apart, ranges touch
_MEAN = 0.8  # the mean is thinner than a line that joins figures: it marks a place, it is no series
_LEAST_BAND = 2.5  # partings: thinner bands would be more gap than bar
_FIGURE_GAP = 0.6  # gaps: between a band and the figure over it
_REFERENCE = 1.1  # whiskers: a reference line is a little stronger
_NAME_GAP = 1.5  # gaps: between a line and its name
_TICKS = 10  # at the ends of bands, before those without room are left out
_NUMBER_GAP = 0.4  # type sizes: between the numbers of two ticks
_TICK = 0.6  # gaps: the length of a tick


def histogram_scene(distribution: Distribution, request: Requests) -> Scene:
    """Histograms as a scene: the share of each group's records in every band; areas where bands differ in width.

    Args:
        distribution: The values.
        request: Bands, words, numbers, colours and size.

    Raises:
        RequestError: Bands that cannot be used, or a colour for a level that is not shown.
    """
    return composed(lambda wanted: _Histogram(distribution, wanted), request)


class _Histogram:
    """One chart while it is being composed."""

    def __init__(self, distribution: Distribution, request: Requests) -> None:
        self._distribution = distribution
        self._cells = distribution.cells
        self._request = request
        self._figures = figures_of(self._cells.column, numbers=request[NumbersRequest])
        self._bands = bands_of(distribution, request)
        self._names = group_names(distribution)
        self._lines_named = True
        self._signs: Collection[str] | None = None  # that the note explains; None for all there may be
        self._frame = self._framed(STEPS[0])
        self._inks = Inks(self._cells, request, self._frame.style)

    def _framed(self, kept: FallbackStep) -> Frame:
        table, notes = self._cells.table, histogram_notes(self._bands, self._figures.style, lines=not self._lines_named)
        words = words_for(table, words_of_distribution(table, self._request), notes)
        return framed(words if self._signs is None else words.explaining(self._signs), self._request, kept)

    def draft(self, kept: FallbackStep) -> Draft:
        """The scene with as much around it as there is room for.

        How many bands can be seen is known only once the plots have a place, and so has the note on bands.
        """
        self._names, self._lines_named = group_names(self._distribution), True
        plots = self._plots(kept)
        self._bands = bands_of(self._distribution, self._request, int(plots.planes[0].box.width / _LEAST_BAND))
        style = plots.style
        if any(width(name, style.category, Weight.SEMIBOLD) > plots.planes[0].frame.width for name in self._names):
            self._names = group_names(self._distribution, bases=False)
        plots = self._plots(kept)
        self._lines_named = self._line_names(plots.planes[0], style) is not None
        if not self._lines_named:
            plots = self._plots(kept)
        marks: list[Mark] = [*plots.behind]
        written = 0
        for place, (cell, plane) in enumerate(zip(self._cells.cells, plots.planes, strict=True)):
            key = self._cells.key(cell)
            marks += self._bars(cell, self._bands.heights[place], plane, key)
            marks += self._lines(place, plane, key)
            if self._request[DistributionRequest].label == "value":
                labels = self._labels(self._bands.heights[place], plane, key)
                written += sum(map(bool, self._bands.heights[place]))
                marks += [*grounds(labels, style), *labels]
            if place == 0 and self._lines_named:
                marks += self._line_names(plane, style) or []
            marks += self._references(cell, plane, style)
            if place + plots.columns >= len(self._names):
                marks += self._edge_labels(plane, style)
        if not explains(self._frame.words, plots.around, (MarkRole.PANEL_TITLE,)):
            drawn = explaining(self._frame.words, plots.around, (MarkRole.PANEL_TITLE,)).meanings
            self._signs = [sign for sign, _ in drawn]
            return self.draft(kept)
        alt = histogram_alt(self._distribution, self._frame.words.title, len(self._bands.edges) - 1)
        wanted = {MarkRole.PANEL_TITLE: len(self._names) if len(plots.planes) > 1 else 0, MarkRole.VALUE: written}
        scene = self._frame.scene([*marks, *plots.around], alt, wanted)
        return Draft(lambda: scene, plots.share(self._frame.size[1]))

    def _plots(self, kept: FallbackStep) -> Plots:
        self._frame = self._framed(kept)
        cells, bands, titles = self._cells, self._bands, self._request[AxisTitlesRequest]
        lonely = len(self._names) == 1 and cells.table.categories[0].variable.name == EVERYTHING
        highest = max(float(one.max(initial=0.0)) for one in bands.heights)
        count = len(bands.edges) - 1
        shares = bands.stat != "count"
        write = _PERCENT if shares else number_style([highest])
        room = self._frame.style.value if self._request[DistributionRequest].label == "value" else 0.0
        needs = PlotNeeds(
            categories=tuple(Category("") for _ in range(count)),
            places=tuple(float(place) for place in range(count)),
            span=float(count),
            axis=AxisNeeds(0.0, highest, share=shares, percent=shares, whole=not shares, write=write),
            panels=("",) if lonely else tuple(self._names),
            panel_columns=self._request[DistributionRequest].panel_columns,
            overflows=(Overflow(highest, 0.0, room),) if room else (),
            direction="vertical",
            upright=True,
            value_title=(titles.value_title or self._value_title) if kept.axis_titles else "",
            category_title=titles.category_title or self._frame.words.value_title if kept.axis_titles else "",
        )
        return settled_plots(needs, self._frame.body, self._frame.style, self._frame.style.margin)

    @property
    def _value_title(self) -> str:
        """What heights are."""
        noun, unit = self._cells.column.noun, self._cells.column.unit or phrase("unit")
        if self._bands.stat == "count":
            return phrase("Number of {what}", what=noun)
        if self._bands.stat == "density":
            return phrase("Share of {what} (% per {unit})", what=noun, unit=unit)
        return phrase("Share of {what} (%)", what=noun)

    def _at(self, value: float, plane: Plane) -> float:
        """Where a value stands along the bands: an x in points."""
        return plane.box.left + (value - float(self._bands.edges[0])) / self._bands.span * plane.box.width

    def _bars(self, cell: Cell, heights: Floats, plane: Plane, key: Key) -> list[Mark]:
        bands, colors, ink = self._bands, self._request[ColorsRequest], self._inks.of(cell)
        marks: list[Mark] = []
        edges = bands.edges.tolist()
        for band, height in enumerate(heights.tolist()):
            near, far, top = self._at(edges[band], plane), self._at(edges[band + 1], plane), plane.value(height)
            rim = (far - near) * _BETWEEN_VALUES / 2 if bands.values else 0.0
            place = (near + rim, top, far - near - 2 * rim, plane.box.bottom - top)
            tip = f"{self._bands.name(band, self._figures.style)}: {self._height(height)}"
            marks.append(
                Rect(
                    *(*place, ink.fill, MarkRole.BAR, key, tip),
                    hatch=ink.hatch,
                    outline=INK if colors.outlined else "",
                    opacity=colors.opacity,
                )
            )
        return [*marks, *self._parting_lines(heights, plane, key)]

    def _parting_lines(self, heights: Floats, plane: Plane, key: Key) -> list[Mark]:
        """Hairlines where bars that have no outline meet, as far up as both reach."""
        part = self._frame.style.part
        if self._bands.values or self._request[ColorsRequest].outlined:
            return []
        lines: list[Mark] = []
        for (near, far), neighbours in zip(
            pairwise(self._bands.edges[:-1].tolist()), pairwise(heights.tolist()), strict=True
        ):
            x = self._at(far, plane)
            if min(neighbours) and x - self._at(near, plane) > part * _LEAST_BAND:
                top = plane.value(min(neighbours))
                lines.append(Line(x, top, x, plane.box.bottom, PAPER, part * 0.5, MarkRole.PART, key))
        return lines

    def _height(self, height: float) -> str:
        """A height as a text."""
        if self._bands.stat == "count":
            return number_style([height])(height)
        return f"{_PERCENT(height)} %"

    def _labels(self, heights: Floats, plane: Plane, key: Key) -> list[Mark]:
        """The figure over each band that is wide enough for it."""
        bands, style = self._bands, self._frame.style
        size = style.value
        marks: list[Mark] = []
        for band, height in enumerate(heights.tolist()):
            content = self._height(height).removesuffix(" %") if height else ""
            near, far = (self._at(edge, plane) for edge in bands.edges[band : band + 2].tolist())
            wide = width(content, size, Weight.SEMIBOLD)
            if not content or wide > far - near:
                continue
            place = Key(key.panel, (*key.category, f"band {band + 1}"), key.series)
            at = (near + far) / 2, plane.value(height) - style.gap * _FIGURE_GAP
            role, bold = MarkRole.VALUE, Weight.SEMIBOLD
            marks.append(Text(*at, content, size, wide, INK, role, bold, Anchor.MIDDLE, key=place))
        return marks

    def _marked(self, place: int) -> dict[MarkRole, float]:
        """The mean and the median of a plot, as far as they stand at their place."""
        cell, counted = self._cells.cells[place], self._distribution.values[place]
        low, high = self._bands.closed
        median = quantile(counted, 0.5, weighted=self._distribution.weighted)
        values = {MarkRole.MEAN: cell.estimate, MarkRole.MEDIAN: median}
        return {role: value for role, value in values.items() if low <= value <= high}

    def _lines(self, place: int, plane: Plane, key: Key) -> list[Mark]:
        """Lines at the mean and the median."""
        box, line = plane.box, self._frame.style.line
        marks: list[Mark] = []
        for role, value in self._marked(place).items():
            at, thick = self._at(value, plane), line * (_MEAN if role is MarkRole.MEAN else _MEDIAN)
            marks.append(Line(at, box.top, at, box.bottom, PAPER, thick * _HALO, MarkRole.HALO, key))
            marks.append(Line(at, box.top, at, box.bottom, INK, thick, role, key))
        return marks

    def _line_names(self, plane: Plane, style: Style) -> list[Mark] | None:
        """Which line of the first plot is which, at their tops on the sides away from each other; None without room."""
        box, size, shown = plane.box, style.tick, self._marked(0)
        marks: list[Mark] = []
        middle = sum(shown.values()) / max(len(shown), 1)
        for role, value in shown.items():
            at, name = self._at(value, plane), _line_name(role)
            wide = width(name, size)
            after = value > middle or (value == middle and role is MarkRole.MEAN)
            if wide + style.gap > (box.right - at if after else at - box.left):
                return None
            x, anchor = (at + style.gap, Anchor.START) if after else (at - style.gap, Anchor.END)
            text = Text(x, box.top + size, name, size, wide, INK, MarkRole.REFERENCE_LABEL)
            text = replace(text, anchor=anchor)
            marks += [*grounds([text], style), text]
        return marks if len(shown) == len(MARKED) else None

    def _references(self, cell: Cell, plane: Plane, style: Style) -> list[Mark]:
        """Lines at reference values of the measure, each with its label beside it."""
        marks: list[Mark] = []
        for value, label in self._request[AxisRequest].references:
            if not self._bands.closed[0] <= value <= self._bands.closed[1]:
                continue
            at, box = self._at(value, plane), plane.box
            marks.append(Line(at, box.top, at, box.bottom, MUTED, style.whisker * _REFERENCE, MarkRole.REFERENCE))
            if label:
                marks += self._beside(label, at, self._at(cell.estimate, plane), plane, style)
        return marks

    def _beside(self, label: str, at: float, mean: float, plane: Plane, style: Style) -> list[Mark]:
        """A label beside a line, on a plate over the bands: on the wider side, unless the mean's line runs there."""
        box, size, gap = plane.box, style.tick, style.gap
        wide = width(label, size)
        rooms = {1: box.right - at - gap * _NAME_GAP, -1: at - box.left - gap * _NAME_GAP}
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
        bands, wanted = self._bands, self._request[AxisRequest].tick_values
        (low, high), per_unit = bands.closed, plane.box.width / bands.span
        ticks = ticks_within(low, high, max(int(wanted[0]), 1) if len(wanted) == 1 else _TICKS)
        while len(ticks.values) > 2 and self._too_tight(ticks, size, per_unit):
            ticks = ticks_within(low, high, len(ticks.values) - 2)
        values = [value for value in wanted if low <= value <= high] if len(wanted) > 1 else list(ticks.values)
        if bands.values and not wanted:
            values = self._every(bands.values, size, per_unit)
        write = bands.written(self._figures.style) if bands.values else self._tick(ticks)
        texts = [(value, write(value)) for value in values]
        half = float(bands.edges[1] - bands.edges[0]) / 2
        first, last = bands.ends(self._figures.style)
        texts = [(low - half, first)] * bands.under + texts + [(high + half, last)] * bands.over
        marks: list[Mark] = []
        free = plane.box.right + size * 2
        for value, content in reversed(texts):  # the open band is named before the edge beside it
            x, wide = self._at(value, plane), width(content, size)
            if x + wide / 2 > free:
                continue
            free = x - wide / 2 - size * _NUMBER_GAP
            if low <= value <= high and not bands.values:
                marks.append(Line(x, bottom, x, bottom + style.gap * _TICK, MUTED, style.grid, MarkRole.TICK_MARK))
            marks.append(
                Text(x, bottom + style.gap + size, content, size, wide, MUTED, MarkRole.TICK, anchor=Anchor.MIDDLE)
            )
        return marks

    def _every(self, values: Sequence[float], size: float, per_unit: float) -> list[float]:
        """The values of a scale, every so manieth where all would touch."""
        wide = (
            max(width(self._bands.written(self._figures.style)(value), size) for value in values) + size * _NUMBER_GAP
        )
        step = ceil(wide / ((values[1] - values[0]) * per_unit)) if len(values) > 1 else 1
        return list(values[:: max(step, 1)])  # 0 where the plot is wider than numbers can say

    def _tick(self, ticks: Ticks) -> NumberStyle:
        """How numbers under the bands are written: in the language asked for, else with the decimals they need."""
        style = self._figures.style
        return NumberStyle(style.scale, ticks.decimals, ticks.power, style.pattern, style.locale)

    def _too_tight(self, ticks: Ticks, size: float, per_unit: float) -> bool:
        """Whether neighbouring labels would touch."""
        write = self._tick(ticks)
        wide = max(width(write(value), size) for value in ticks.values) + size
        return (ticks.values[1] - ticks.values[0]) * per_unit < wide


def _line_name(role: MarkRole) -> str:
    """What a line at a value is called."""
    return phrase("mean") if role is MarkRole.MEAN else phrase("median")


def histogram_alt(distribution: Distribution, title: str, bands: int) -> str:
    """What histograms show, in words."""
    low, high = distribution.extent
    groups = len(distribution.cells.cells)
    write = number_style([low, high])
    return phrase(
        "Histogram. {title}. {groups} groups in {bands} bands; values from {low} to {high}.",
        title=title,
        groups=groups,
        bands=bands,
        low=write(low),
        high=write(high),
    )


def group_names(distribution: Distribution, *, bases: bool = True) -> list[str]:
    """The name of every group: its panel, its category and its series, with its base where that is wanted."""
    cells = distribution.cells
    names = []
    for cell in cells.cells:
        series = cells.series[cell.series] if cells.series else ""
        parts = (cells.panels[cell.panel], cells.slots[cell.slot].name, series)
        marks = signs_of(cell.flags)
        base = f" ({phrase('n = {base}', base=cell.base_in_words)}{marks})" if bases else marks
        names.append(" · ".join(part for part in parts if part) + base)
    return names
