"""Pies for a terminal: one bar over the whole width, and a row per slice."""

from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.style_file import look_of
from grainstack.chart.marks import Anchor, MarkRole
from grainstack.chart.pies.pie_arrangement import NOTHING, Pies
from grainstack.chart.pies.pie_picture import slice_figure
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.terminal.screen import Bar, Screen
from grainstack.chart.terminal.terminal_rows import Rows
from grainstack.chart.treemaps.inks import top_inks
from grainstack.chart.treemaps.tile_tree import Node, Tree
from grainstack.chart.treemaps.treemap_picture import shades_of
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.chart.writing.character_columns import columns_wide, fitted
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.chart.writing.wording import Place, default_title, words_for, words_of_parts
from grainstack.language import phrase
from grainstack.requests import Requests

_FIGURE_ROOM = 9  # columns kept for the figure at the right end, `100 %` with its marks and a gap


def pie_rows(pies: Pies, request: Requests, columns: int) -> Screen:
    """Each pie as one bar over the whole width, and under it a row per slice with its colour, name and figure.

    Args:
        pies: The slices.
        request: Labels, words and colours.
        columns: The width of the terminal.
    """
    cells = pies.cells
    figures = FiguresAt(cells, request, request[PieRequest].labels)
    inks = Inks(cells, request, look_of(request))
    notes = [note for note in (figures.note(),) if note]
    words = words_for(cells.table, words_of_parts(cells.table, request, figures.kinds), notes, Place.SUBTITLE)
    rows = Rows(words, columns)
    rows.head()
    for title, slices in zip(cells.panels, pies.slices, strict=True):
        rows.panel_title(title)
        if not slices:
            rows.text(0, phrase(NOTHING), MarkRole.BASE)
            rows.skip(2)
            continue
        x = 0.0
        for one in slices:
            wide = one.share * (columns - 1)
            fill = inks.of(one.cell).fill
            rows.add(Bar(x, wide, rows.row, fill, MarkRole.SLICE, one.cell.series, cells.key(one.cell)))
            x += wide
        rows.skip(2)
        room = max((columns_wide(cells.series[one.cell.series]) for one in slices), default=0)
        for one in slices:
            place = one.cell.series
            rows.add(Bar(0, 2, rows.row, inks.of(one.cell).fill, MarkRole.LEGEND_SWATCH, place))
            rows.text(3, fitted(cells.series[place], columns - _FIGURE_ROOM - 3), MarkRole.SLICE_LABEL)
            rows.text(min(room + 5, columns - _FIGURE_ROOM), slice_figure(figures, one.cell), MarkRole.VALUE)
            rows.skip()
        rows.skip()
    return rows.finished(phrase("Pie chart. {title}.", title=rows.words.title or default_title(cells.table)))


_PERCENT = NumberStyle(100.0)
_SHARE_ROOM = 7  # columns of `  100 %`


def tree_rows(tree: Tree, request: Requests, columns: int) -> Screen:
    """Every tile on a row of its own, indented under its parent, with a bar in proportion to the whole.

    Args:
        tree: The tiles.
        request: Labels, words and colours.
        columns: The width of the terminal.
    """
    wanted, colors = request[TreemapRequest], request[ColorsRequest]
    figures = FiguresAt(tree.cells, request, wanted.labels)
    rows = Rows(words_for(tree.cells.table, request, figures_at=Place.SUBTITLE), columns)
    tops = top_inks(tree, colors, look_of(request))
    shades = shades_of(tree, wanted, colors.palette, look_of(request))
    rows.head()
    room = min(max(_label_room(tree.root), 8), columns * 2 // 5)
    total = tree.root.size
    figure_room = max(columns_wide(_figure(figures, node)) for node in _nodes(tree.root)) + _SHARE_ROOM
    wide = max(columns - room - figure_room - 3, 4)
    largest = max(child.size for child in tree.root.children)

    def write(node: Node, depth: int) -> None:
        rows.text(0, fitted("  " * depth + node.label, room), MarkRole.TILE, bold=bool(node.children))
        fill = tops[node.top].fill if shades is None else shades.of(node.shade)
        rows.add(Bar(room + 1, node.size / largest * wide, rows.row, fill, MarkRole.BAR, node.top, node.key))
        share = f"{_PERCENT(node.size / total)} %"
        rows.text(columns, f"{_figure(figures, node)}  {share:>5}".strip(), MarkRole.VALUE, anchor=Anchor.END)
        rows.skip()
        for child in node.children:
            write(child, depth + 1)

    if wanted.root_label:
        rows.text(0, wanted.root_label, MarkRole.TILE, bold=True)
        rows.text(columns, figures.first.number(total), MarkRole.VALUE, anchor=Anchor.END)
        rows.skip()
    for child in tree.root.children:
        write(child, 0)
    rows.skip()
    return rows.finished(phrase("Treemap. {title}.", title=rows.words.title or default_title(tree.cells.table)))


def _figure(figures: FiguresAt, node: Node) -> str:
    """What is written at a tile; a parent has the sum of its children alone."""
    if not figures.kinds:
        return ""
    return figures.first.number(node.size) if node.cell is None else figures.label(node.cell)


def _nodes(node: Node) -> list[Node]:
    return [node, *(one for child in node.children for one in _nodes(child))]


def _label_room(node: Node, depth: int = -1) -> int:
    needed = columns_wide(node.label) + 2 * max(depth, 0)
    return max([needed, *(_label_room(child, depth + 1) for child in node.children)])
