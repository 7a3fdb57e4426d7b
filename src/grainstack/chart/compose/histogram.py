"""Histograms: one small chart per group, on the same bands and the same scale."""

import numpy as np

from grainstack.chart.arrange.distribution import Distribution, edges_of, heights_of
from grainstack.chart.compose.categories import Category
from grainstack.chart.compose.clear import cleared
from grainstack.chart.compose.inks import Inks
from grainstack.chart.compose.page import page_of
from grainstack.chart.compose.plots import PlotNeeds, grid_of_panels, panel_style, settled_plots
from grainstack.chart.compose.values import AxisNeeds
from grainstack.chart.numbers import NumberStyle, number_style
from grainstack.chart.palette import INK, MUTED, PAPER
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Anchor, Key, Line, Mark, Rect, Scene, Text
from grainstack.chart.style import Style, style_named
from grainstack.chart.text import width
from grainstack.chart.ticks import Ticks, ticks_within
from grainstack.chart.wording import words_for, words_of_distribution
from grainstack.records.variable import EVERYTHING

_PERCENT = NumberStyle(100.0)


def histogram_scene(distribution: Distribution, request: ChartRequest, bands: str | None) -> Scene:
    """Histograms as a scene: the share of each group's records in every band; areas where bands differ in width.

    Args:
        distribution: The values.
        request: Words, colours and size.
        bands: A width, edges, or None to choose.

    Raises:
        RequestError: Bands that cannot be used, or a colour for a level that is not shown.
    """
    cells = distribution.cells
    edges = edges_of(distribution, bands)
    widths = np.diff(edges)
    even = bool(np.allclose(widths, widths[0]))
    shown = [heights_of(one, edges) * (widths[0] if even else 1.0) for one in distribution.values]
    size = request.picture.points
    page_style = style_named(request.picture.style).for_size(*size)
    inks = Inks(cells, request.colors, page_style)
    notes = (
        ["Lines are means."] if even else ["Lines are means. Bands differ in width: areas, not heights, are shares."]
    )
    asked = words_of_distribution(cells.table, request.words, request.numbers)
    words = words_for(cells.table, asked, request.numbers, notes, request.small.min_base or 30)
    page = page_of(words, page_style, size)
    names = group_names(distribution)
    lonely = len(names) == 1 and cells.table.categories[0].variable.name == EVERYTHING
    per = "" if even else f" per {cells.column.unit or 'unit'}"
    highest = max(float(one.max(initial=0.0)) for one in shown)
    needs = PlotNeeds(
        categories=tuple(Category("") for _ in widths),
        places=tuple(float(place) for place in range(len(widths))),
        span=float(len(widths)),
        axis=AxisNeeds(0.0, highest, share=True, percent=True, whole=False, write=_PERCENT, wishes=request.axis),
        panels=("",) if lonely else tuple(names),
        panel_columns=request.bars.panel_columns,
        direction="vertical",
        upright=True,
        value_title=request.words.value_title or f"Share of {cells.column.noun} (%{per})",
        category_title=request.words.category_title or words.value_title,
    )
    plots = settled_plots(needs, page.body, page_style, page_style.margin)
    style = panel_style(page_style, *grid_of_panels(len(names), request.bars.panel_columns, page.body))
    marks: list[Mark] = [*plots.behind]
    columns = grid_of_panels(len(names), request.bars.panel_columns, page.body)[0]
    for place, (cell, heights, plane) in enumerate(zip(cells.cells, shown, plots.planes, strict=True)):
        ink = inks.of(cell)
        key = Key(category=names[place])
        left, each = plane.box.left, plane.box.width
        span = float(edges[-1] - edges[0])
        for band, height in enumerate(heights.tolist()):
            near = left + float(edges[band] - edges[0]) / span * each
            far = left + float(edges[band + 1] - edges[0]) / span * each
            top = plane.value(height)
            tip = f"{edges[band]:g} to {edges[band + 1]:g}: {_PERCENT(height * (1 if even else widths[band]))} %"
            marks.append(
                Rect(near, top, far - near, plane.box.bottom - top, ink.fill, "bar", key, tip, hatch=ink.hatch)
            )
            if far - near > style.part * 2.5 and height:
                marks.append(Line(far, top, far, plane.box.bottom, PAPER, style.part * 0.5, "part", key))
        if cell.known and edges[0] <= cell.estimate <= edges[-1]:
            at = left + float(cell.estimate - edges[0]) / span * each
            marks.append(Line(at, plane.box.top, at, plane.box.bottom, PAPER, style.line * 2.4, "halo", key))
            marks.append(Line(at, plane.box.top, at, plane.box.bottom, INK, style.line * 0.8, "mean", key))
        if place + columns >= len(names):
            marks += _edge_labels(edges.tolist(), (left, plane.box.right), plane.box.bottom, style)
    everything = cleared(size, [*page.marks, *marks, *plots.around])
    return Scene(*size, everything, histogram_alt(distribution, words.title, len(widths)), words.title)


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
        base = f" (n = {cell.base:,})"
        names.append(" · ".join(part for part in parts if part) + base)
    return names


def _too_tight(ticks: Ticks, size: float, per_unit: float) -> bool:
    """Whether neighbouring labels would touch."""
    write = NumberStyle(1.0, ticks.decimals, ticks.power)
    wide = max(width(write(value), size) for value in ticks.values) + size
    return (ticks.values[1] - ticks.values[0]) * per_unit < wide


def _edge_labels(edges: list[float], ends: tuple[float, float], bottom: float, style: Style) -> list[Mark]:
    """Round numbers under the bands, as many as have room."""
    size = style.tick
    left, right = ends
    span = edges[-1] - edges[0]
    ticks = ticks_within(edges[0], edges[-1], 10)
    while len(ticks.values) > 2 and _too_tight(ticks, size, (right - left) / span):
        ticks = ticks_within(edges[0], edges[-1], len(ticks.values) - 2)
    write = NumberStyle(1.0, ticks.decimals, ticks.power)
    marks: list[Mark] = []
    for edge in ticks.values:
        x = left + (edge - edges[0]) / span * (right - left)
        content = write(edge)
        marks.append(Line(x, bottom, x, bottom + style.gap * 0.6, MUTED, style.grid, "tick-mark"))
        marks.append(
            Text(x, bottom + style.gap + size, content, size, width(content, size), MUTED, "tick", anchor=Anchor.MIDDLE)
        )
    return marks
