"""Pies and treemaps for a terminal: a labelled share bar, and an indented list with bars."""

from dataclasses import replace

from grainstack.chart.arrange.pie import Pies
from grainstack.chart.arrange.treemap import Node, Tree
from grainstack.chart.cells import cells_wide, fitted
from grainstack.chart.compose.figures_at import FiguresAt
from grainstack.chart.compose.inks import Inks
from grainstack.chart.compose.rows import Rows
from grainstack.chart.numbers import NumberStyle
from grainstack.chart.palette import FIELDS
from grainstack.chart.request import BarRequest, ChartRequest
from grainstack.chart.scene import Anchor, Key, Rect, Scene, Weight
from grainstack.chart.style import style_named
from grainstack.chart.tiles import PieRequest, TreemapRequest
from grainstack.chart.wording import words_for

_HATCHES = ("", "light", "dense", "medium")
_PERCENT = NumberStyle(100.0)


def pie_rows(pies: Pies, request: ChartRequest, wishes: PieRequest, columns: int) -> Scene:
    """Each pie as one bar over the whole width, and under it a row per slice with its colour, name and figure."""
    cells = pies.cells
    request = replace(request, bars=BarRequest(label=wishes.label))
    figures = FiguresAt(cells, request)
    words = words_for(cells.table, request.words, request.numbers, (), request.small.min_base or 30)
    inks = Inks(cells, request.colors, style_named(request.picture.style))
    rows = Rows(columns)
    rows.lines(words.title, "title")
    rows.lines(words.subtitle or words.value_title, "subtitle")
    rows.skip()
    for title, slices in zip(cells.panels, pies.slices, strict=True):
        if title:
            rows.text(0, title, "panel-title", weight=Weight.SEMIBOLD)
            rows.skip()
        x = 0.0
        for one in slices:
            wide = one.share * (columns - 1)
            place = one.cell.series
            key = Key(title, cells.series[place])
            hatch = _HATCHES[place % len(_HATCHES)]
            rows.add(Rect(x, rows.row, wide, 1, inks.of(one.cell).fill, "slice", key, hatch=hatch))
            x += wide
        rows.row += 2
        room = max((cells_wide(cells.series[one.cell.series]) for one in slices), default=0)
        for one in slices:
            place = one.cell.series
            hatch = _HATCHES[place % len(_HATCHES)]
            rows.add(Rect(0, rows.row, 2, 1, inks.of(one.cell).fill, "legend-swatch", hatch=hatch))
            rows.text(3, fitted(cells.series[place], columns - 12), "slice-label")
            kinds = () if wishes.label == "none" else figures.kinds
            text = figures.label(one.cell, kinds)
            percent = " %" if kinds and kinds[0] == "share" and "%" not in text else ""
            rows.text(min(room + 5, columns - 9), f"{text}{percent}", "value")
            rows.skip()
        rows.skip()
    rows.lines(words.footnote, "footnote")
    rows.lines(words.source, "source")
    return rows.scene(f"Pie chart. {words.title}.", words.title)


def tree_rows(tree: Tree, request: ChartRequest, wishes: TreemapRequest, columns: int) -> Scene:
    """Every tile on a row of its own, indented under its parent, with a bar in proportion to the whole."""
    request = replace(request, bars=BarRequest(label=wishes.label))
    figures = FiguresAt(tree.cells, request)
    words = words_for(tree.cells.table, request.words, request.numbers, (), request.small.min_base or 30)
    rows = Rows(columns)
    rows.lines(words.title, "title")
    rows.lines(words.subtitle or words.value_title, "subtitle")
    rows.skip()
    room = min(max(_label_room(tree.root), 8), columns * 2 // 5)
    total = tree.root.size
    figure_room = cells_wide(figures.first.number(total)) + 7
    wide = max(columns - room - figure_room - 3, 4)
    largest = max(child.size for child in tree.root.children)

    def write(node: Node, depth: int) -> None:
        weight = Weight.SEMIBOLD if node.children else Weight.REGULAR
        rows.text(0, fitted("  " * depth + node.label, room), "tile", weight=weight)
        key = Key(category=" · ".join(node.path))
        fill = FIELDS[node.top % len(FIELDS)]
        rows.add(Rect(room + 1, rows.row, node.size / largest * wide, 1, fill, "bar", key))
        share = f"{_PERCENT(node.size / total)} %"
        rows.text(columns, f"{figures.first.number(node.size)}  {share:>5}", "value", anchor=Anchor.END)
        rows.skip()
        for child in node.children:
            write(child, depth + 1)

    if wishes.root_label:
        rows.text(0, wishes.root_label, "tile", weight=Weight.SEMIBOLD)
        rows.text(columns, figures.first.number(total), "value", anchor=Anchor.END)
        rows.skip()
    for child in tree.root.children:
        write(child, 0)
    rows.skip()
    rows.lines(words.footnote, "footnote")
    rows.lines(words.source, "source")
    return rows.scene(f"Treemap. {words.title}.", words.title)


def _label_room(node: Node, depth: int = -1) -> int:
    own = cells_wide(node.label) + 2 * max(depth, 0)
    return max([own, *(_label_room(child, depth + 1) for child in node.children)])
