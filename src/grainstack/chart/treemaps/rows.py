"""Treemaps for a terminal: an indented list with bars."""

from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.frame.rows import Rows
from grainstack.chart.look.house import look_of
from grainstack.chart.scene import Anchor, MarkRole
from grainstack.chart.screen import Bar, Screen
from grainstack.chart.treemaps.arrangement import Node, Tree
from grainstack.chart.treemaps.inks import top_inks
from grainstack.chart.treemaps.picture import shades_of
from grainstack.chart.treemaps.request import TreemapRequest
from grainstack.chart.writing.columns import columns_wide, fitted
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.chart.writing.wording import Place, words_for
from grainstack.language import phrase
from grainstack.requests import Requests

_PERCENT = NumberStyle(100.0)
_SHARE_ROOM = 7  # columns of `  100 %`


def tree_rows(tree: Tree, request: Requests, columns: int) -> Screen:
    """Every tile on a row of its own, indented under its parent, with a bar in proportion to the whole.

    Args:
        tree: The tiles.
        request: Labels, words and colours.
        columns: The width of the terminal.
    """
    asked, colors = request[TreemapRequest], request[ColorsRequest]
    figures = FiguresAt(tree.cells, request, asked.labels)
    rows = Rows(words_for(tree.cells.table, request, figures_at=Place.SUBTITLE), columns)
    tops = top_inks(tree, colors, look_of(request))
    shades = shades_of(tree, asked, colors.palette, look_of(request))
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

    if asked.root_label:
        rows.text(0, asked.root_label, MarkRole.TILE, bold=True)
        rows.text(columns, figures.first.number(total), MarkRole.VALUE, anchor=Anchor.END)
        rows.skip()
    for child in tree.root.children:
        write(child, 0)
    rows.skip()
    return rows.finished(phrase("Treemap. {title}.", title=rows.words.title))


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
